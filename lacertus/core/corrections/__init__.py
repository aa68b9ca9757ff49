"""Marks that hang on landmarks, and what is drawn of them."""
