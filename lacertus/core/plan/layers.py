"""What a class is taught next: the next layer of a technique, or the same again from other starts."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction

HOLD_SHARE = Fraction(70, 100)
"""So many of those who come hold a layer before the next is proposed. A convention."""


@dataclass(frozen=True, kw_only=True)
class Next:
    """What to teach: a layer (None: the technique has none), the same as before or a new one, from which start, and why.

    `holding` of `coming` hold the layer that was taught last.
    """

    layer: str | None
    is_new: bool
    start: str | None
    holding: int
    coming: int


def what_next(
    layers: Sequence[str],
    starts: Sequence[str],
    taught: str | None,
    used_starts: Sequence[str],
    holds: Mapping[str, Collection[str]],
    coming: Collection[str],
) -> Next:
    """The next layer when 70 % of those coming hold the one that was taught last, else that one again from another start.

    Args:
        layers: of the technique, in the order in which they are taught.
        starts: of the technique.
        taught: the layer that was taught last; None where none was, or one that the technique has not any more: the first is next.
        used_starts: from which starts it was taught, the latest last.
        holds: by student, the layers that they hold.
        coming: who comes.
    """
    if taught not in layers:
        return Next(layer=layers[0] if layers else None, is_new=True, start=None, holding=0, coming=len(coming))
    assert taught is not None
    holding = sum(taught in holds.get(one, ()) for one in coming)
    at = layers.index(taught)
    enough = bool(coming) and Fraction(holding, len(coming)) >= HOLD_SHARE
    if enough and at + 1 < len(layers):
        return Next(layer=layers[at + 1], is_new=True, start=None, holding=holding, coming=len(coming))
    return Next(layer=taught, is_new=False, start=_other(starts, used_starts), holding=holding, coming=len(coming))


def _other(starts: Sequence[str], used: Sequence[str]) -> str | None:
    """The start that was used least lately, in the technique's own order; None where there is none."""
    last = {start: place for place, start in enumerate(used)}
    return min(starts, key=lambda start: (last.get(start, -1), starts.index(start)), default=None)
