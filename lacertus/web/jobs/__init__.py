"""The academy’s jobs."""
