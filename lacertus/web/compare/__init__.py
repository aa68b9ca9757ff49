"""Reps beside one another."""
