"""What leaves whole and comes back: students with all that is theirs."""
