"""Reps beside one another: which can be compared, model reps, and what a comparison shows."""
