"""Every way in which the studio's moves can be done."""

from __future__ import annotations

from lacertus.studio.moves import MOVES

WAYS: tuple[tuple[str, dict[str, str]], ...] = (
    *((name, {}) for name in MOVES),
    *((name, {group: choice}) for name, move in MOVES.items() for group, choices in move.options.items() for choice in choices[1:]),
)
"""A technique and the options of a rep: the usual ones, and every other choice with the rest as usual."""
