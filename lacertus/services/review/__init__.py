"""The work on the bench: cutting, marking, measuring, judging."""
