"""What many students and several coaches tell together."""
