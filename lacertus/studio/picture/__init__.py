"""How a studio camera sees the figures, and how they are drawn."""
