"""The techniques of an academy, and what is asked of each student."""
