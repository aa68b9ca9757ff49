"""The crescent kick: from outside in."""

from __future__ import annotations

from lacertus.studio.moves.crescents import crescent

MOVE = crescent("crescent-kick", inward=True)
