"""What is shown of a missed checkpoint."""
