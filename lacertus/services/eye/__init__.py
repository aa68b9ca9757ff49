"""Training the eye: the pool of films, what is due, sets and their answers, and what they say of one's own eye."""
