"""Commands of the command line that have a module of their own."""
