"""Reading a clip that was uploaded: one pass over it, in a process of its own."""
