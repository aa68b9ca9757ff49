"""Standing heights that need no standing: what a body's limbs, or the scale of the mat, say of how tall it is in the picture."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from statistics import median

from lacertus.core.measuring.body import PROPORTIONS, SEGMENTS, BodyName
from lacertus.core.measuring.repfile import PointEntry, RepFile

LIMBS = ("left_thigh", "left_shank", "right_thigh", "right_shank")
"""The limbs that are long enough to tell; a forearm of 30 pixels is placed too coarsely."""


@dataclass(frozen=True, kw_only=True)
class OfferedHeight:
    """A standing height in pixels that can be taken over, and what it rests on in words."""

    body: BodyName
    px: float
    words: str


def from_limbs(reps: Sequence[RepFile], body: BodyName) -> float | None:
    """A body's standing height in pixels by its limbs: each as long as it is seen at its longest, as no picture makes it longer.

    The limbs' shares of standing height are those of `PROPORTIONS`; the median over the limbs is taken. None where no limb
    is placed.
    """
    seen = [_longest(reps, body, limb) / PROPORTIONS[limb.split("_")[1]] for limb in LIMBS]
    told = [px for px in seen if px > 0]
    return median(told) if told else None


def _longest(reps: Sequence[RepFile], body: BodyName, limb: str) -> float:
    first, second = SEGMENTS[limb]
    longest = 0.0
    for rep in reps:
        marks = rep.bodies[body].landmarks if body in rep.bodies else {}
        ends = _by_frame(marks, second)
        for frame, one in _by_frame(marks, first).items():
            other = ends.get(frame)
            if other is not None:
                longest = max(longest, math.hypot(one.x - other.x, one.y - other.y))
    return longest


def _by_frame(marks: Mapping[str, Sequence[PointEntry]], landmark: str) -> dict[int, PointEntry]:
    """What was placed by hand: tracked points stray, and one that strays makes the limb longer."""
    return {entry.frame: entry for entry in marks.get(landmark, ()) if entry.by == "placed" and not entry.hidden}


def from_scale(height_cm: float, centimetres_per_pixel: float) -> float:
    """The standing height in pixels of somebody whose height is known, by the scale of the picture."""
    return height_cm / centimetres_per_pixel
