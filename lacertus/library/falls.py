"""Falls first: which falls fit which throw. Any one of them will do; which suits a body is for the coach to say."""

from __future__ import annotations

from lacertus.core.techniques.definition import Technique

FALLS: tuple[str, ...] = ("back-fall", "side-fall", "rolling-fall", "front-fall", "moving-backward-fall")
FALL_LADDER: tuple[str, ...] = ("kneeling", "wide_stance", "narrow", "standing", "moving", "thrown")
_FITS: dict[str, tuple[str, ...]] = {
    "outer-reap": ("back-fall", "side-fall"),
    "inner-reap": ("back-fall", "moving-backward-fall"),
    "small-inner-reap": ("back-fall", "moving-backward-fall"),
    "hip-throw": ("side-fall", "rolling-fall"),
    "advancing-foot-sweep": ("side-fall", "back-fall"),
}
"""By where the partner lands: on the back, on the side, or over the shoulder. Conventions of teaching."""


def falls_for(technique: Technique) -> tuple[str, ...]:
    """The falls that fit a technique, any of which will do; none where the partner is not thrown."""
    if technique.family == "fall":
        return ()
    thrown = technique.family == "throw" or ("falls_first" in technique.cautions and technique.family == "takedown entry")
    return _FITS.get(technique.id, FALLS) if thrown else ()
