"""What reps tell over months: the ledger, what to fix first, rungs."""
