"""Tracking points and bodies through a stretch of a clip."""
