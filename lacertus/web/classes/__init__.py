"""Classes, notes from the floor, rounds, and calendars."""
