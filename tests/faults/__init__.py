"""Faults on purpose: processes killed, database and disk away, uploads cut, and whether all that was acknowledged is there."""
