"""What a student takes home."""
