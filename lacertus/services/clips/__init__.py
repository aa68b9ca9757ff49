"""Clips on their way in, and who and what they show."""
