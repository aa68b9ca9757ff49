"""The centre of mass of a body, from the masses of its segments.

Masses and places: de Leva (1996), Adjustments to Zatsiorsky-Seluyanov's segment inertia parameters,
Journal of Biomechanics 29, 1223–1230, table 4: shares of body mass, and distances of a segment's centre
of mass from its first end as shares of its length.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import cache
from typing import Literal

from lacertus.core.errors import NotSeen

Table = Literal["mean", "female", "male"]

_SEGMENTS: tuple[tuple[str, str, str, tuple[float, float], tuple[float, float]], ...] = (
    ("head", "head_top", "neck", (0.0668, 0.0694), (0.4841, 0.5002)),
    ("trunk", "mid_shoulder", "mid_hip", (0.4257, 0.4346), (0.3782, 0.4310)),
    ("upper_arm", "shoulder", "elbow", (0.0255, 0.0271), (0.5754, 0.5772)),
    ("forearm", "elbow", "wrist", (0.0138, 0.0162), (0.4559, 0.4574)),
    ("hand", "wrist", "hand", (0.0056, 0.0061), (0.7474, 0.7900)),
    ("thigh", "hip", "knee", (0.1478, 0.1416), (0.3612, 0.4095)),
    ("shank", "knee", "ankle", (0.0481, 0.0433), (0.4352, 0.4395)),
    ("foot", "heel", "toe", (0.0129, 0.0137), (0.4014, 0.4415)),
)
"""Segment, its two ends, mass share and place share, each (female, male). Arms and legs count twice. The
trunk runs between the middles of shoulders and hips, the head from crown to the seventh neck vertebra."""

STAND_IN = {
    "head_top": ("nose", "neck", "mid_shoulder"),
    "neck": ("mid_shoulder",),
    "hand": ("wrist",),
    "heel": ("ankle",),
    "toe": ("heel", "ankle"),
}
"""What stands in for an end that has no point: small masses near a joint that has one. A missing joint of
an arm or a leg is not replaced: the centre of mass is not seen then."""

MASS_U_SHARE = 0.01
"""u of the centre of mass from the table itself, as a share of standing height (docs/measurement.md)."""

_PAIRED = ("upper_arm", "forearm", "hand", "thigh", "shank", "foot")


@cache
def segments(table: Table = "mean") -> tuple[tuple[str, str, float, float], ...]:
    """(first end, other end, mass share, place share) of every segment of both sides; masses add up to 1."""
    female, male = {"mean": (0.5, 0.5), "female": (1.0, 0.0), "male": (0.0, 1.0)}[table]
    found: list[tuple[str, str, float, float]] = []
    for name, first, last, masses, places in _SEGMENTS:
        mass, place = (female * f + male * m for f, m in (masses, places))
        sides = ("left_", "right_") if name in _PAIRED else ("",)
        found += [(side + first, side + last, mass, place) for side in sides]
    total = sum(mass for _, _, mass, _ in found)
    return tuple((first, last, mass / total, place) for first, last, mass, place in found)


def mass_weights(has: Callable[[str], bool], table: Table = "mean") -> Mapping[str, float]:
    """Share of the body's mass (they sum to 1) of each landmark, given which have a point; docs/measurement.md, “Centre of mass”.

    Raises:
        NotSeen: a joint of an arm or leg, a shoulder or a hip is missing.
    """
    weights: dict[str, float] = {}
    missing: list[str] = []
    for first, last, mass, place in segments(table):
        for end, share in ((first, 1 - place), (last, place)):
            for landmark in _stand_in(end, has, missing):
                weights[landmark] = weights.get(landmark, 0.0) + mass * share / (2 if end.startswith("mid_") else 1)
    if missing:
        names = ", ".join(dict.fromkeys(name.replace("_", " ") for name in missing))
        raise NotSeen(f"the centre of mass needs points for {names}; place them")
    # Stand-ins may have split a weight: a middle counts half on each side.
    total = sum(weights.values())
    return {landmark: weight / total for landmark, weight in weights.items()}


def _stand_in(end: str, has: Callable[[str], bool], missing: list[str]) -> tuple[str, ...]:
    """The landmarks that an end is read from: itself, the nearest that has a point, or both sides' for a middle."""
    side = end[: end.index("_") + 1] if end.startswith(("left_", "right_")) else ""
    for name in (end, *(side + other for other in STAND_IN.get(end.removeprefix(side), ()))):
        parts = tuple(f"{one}_{name.removeprefix('mid_')}" for one in ("left", "right")) if name.startswith("mid_") else (name,)
        if all(has(part) for part in parts):
            return parts
    missing += [end] if not end.startswith("mid_") else [f"left_{end[4:]}", f"right_{end[4:]}"]
    return ()
