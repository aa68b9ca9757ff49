"""Training the eye: questions on film whose truth is known, how answers are scored, and what they say of whoever answers."""
