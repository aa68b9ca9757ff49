"""What a coach does, one module a step of the work."""
