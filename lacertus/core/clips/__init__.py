"""What a clip tells before anybody has looked at it: cuts, capture rate, sounds, and how it is named in a line."""
