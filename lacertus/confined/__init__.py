"""Work on what strangers send, in a process that may do nothing but that."""
