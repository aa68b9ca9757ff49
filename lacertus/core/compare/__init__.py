"""Reps beside one another: a checkpoint's quantity over time, reps aligned in time and in the picture, and what differs."""
