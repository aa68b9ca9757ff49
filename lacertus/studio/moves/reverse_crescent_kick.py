"""The reverse crescent kick: from inside out."""

from __future__ import annotations

from lacertus.studio.moves.crescents import crescent

MOVE = crescent("reverse-crescent-kick", inward=False)
