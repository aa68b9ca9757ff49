"""What to do after the verdict: the coach's queue, and who trains with whom."""
