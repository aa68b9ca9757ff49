"""Background work: the queue, its tasks and their progress."""
