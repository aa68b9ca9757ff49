"""The studio: synthetic clips with known truth, the stand-in for a camera."""
