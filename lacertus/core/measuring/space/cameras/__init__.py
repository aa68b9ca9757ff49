"""Where the camera stands: as a phone is held, as four mat points tell, as two views tell."""
