"""A rep by all the views that there are of it: tied views judged together, and the bodies as they are believed to be in space."""
