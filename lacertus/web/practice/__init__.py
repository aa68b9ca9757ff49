"""The coach's day, and practice."""
