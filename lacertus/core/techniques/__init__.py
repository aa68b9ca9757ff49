"""What a technique asks for, and how it is adapted to a student."""
