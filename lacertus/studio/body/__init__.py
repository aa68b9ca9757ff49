"""The figures: how they are built, how they move."""
