"""What goes out."""
