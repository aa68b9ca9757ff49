"""The rules and the arithmetic: pure functions and frozen data, no I/O, no clock, no framework."""
