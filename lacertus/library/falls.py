"""Falls first: which falls fit which throw. Any one of them will do; which suits a body is for the coach to say."""

from __future__ import annotations

from functools import cache

from lacertus.core.techniques.definition import Technique
from lacertus.library.loader import shipped

FORMER_LADDER: tuple[str, ...] = ("kneeling", "wide_stance", "narrow", "standing", "moving", "thrown")
"""The one ladder that all falls shared before each had its own: what was passed on it stays passed."""


@cache
def falls() -> tuple[str, ...]:
    """The shipped falls, the commonest first to learn first."""
    order = {"back-fall": 0, "side-fall": 1, "rolling-fall": 2}
    found = [technique.id for technique in shipped() if technique.family == "fall"]
    return tuple(sorted(found, key=lambda fall: (order.get(fall, len(order)), fall)))


@cache
def _fits() -> dict[str, tuple[str, ...]]:
    """By throw, the falls whose files say that they fit it."""
    fits = {technique.id: technique.fits for technique in shipped() if technique.family == "fall"}
    thrown = {throw for own in fits.values() for throw in own}
    return {throw: tuple(fall for fall in falls() if throw in fits[fall]) for throw in thrown}


def falls_for(technique: Technique) -> tuple[str, ...]:
    """The falls that fit a technique, any of which will do: by the falls' own files, else all; none where nobody is thrown."""
    if technique.family == "fall":
        return ()
    thrown = technique.family == "throw" or ("falls_first" in technique.cautions and technique.family == "takedown entry")
    return _fits().get(technique.id, falls()) if thrown else ()
