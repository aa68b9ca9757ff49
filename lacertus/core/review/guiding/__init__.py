"""What leads a coach through a review: what is left, and what can be taken over in place of marking it."""
