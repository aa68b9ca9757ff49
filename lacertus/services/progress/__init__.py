"""A student over months: ledger, fix first, rungs, grades."""
