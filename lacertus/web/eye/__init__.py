"""Training the eye, over HTTP."""
