"""What a whole academy shares, and second opinions."""
