"""Landmarks, segments, sides and mirroring of one body.

Directions: pictures have x to the right and y **down**; `side` is the performer's own left
or right, `heading` is where the target lies in the picture.
"""

from __future__ import annotations

from typing import Literal, get_args

Side = Literal["left", "right"]
BodyName = Literal["performer", "partner"]
BODIES: tuple[BodyName, ...] = get_args(BodyName)

_PAIRED = ("ear", "shoulder", "elbow", "wrist", "hand", "hip", "knee", "ankle", "heel", "toe")
_SINGLE = ("head_top", "nose", "chin", "neck")
LANDMARKS: frozenset[str] = frozenset(_SINGLE) | {f"{side}_{joint}" for joint in _PAIRED for side in ("left", "right")}

DERIVED: dict[str, tuple[tuple[str, float], ...]] = {
    "mid_shoulder": (("left_shoulder", 0.5), ("right_shoulder", 0.5)),
    "mid_hip": (("left_hip", 0.5), ("right_hip", 0.5)),
    "mid_foot": (
        ("left_heel", 0.25),
        ("left_toe", 0.25),
        ("right_heel", 0.25),
        ("right_toe", 0.25),
    ),
}
"""Points made of landmarks, as (landmark, weight)."""

_HANGING = ("hip", "shoulder", "knee", "ankle", "elbow", "wrist", "hand", "heel", "toe")
LEANING: tuple[str, ...] = ("mid_shoulder", *(f"{side}_{joint}" for joint in _HANGING for side in ("left", "right")))
"""Joints of which one may say that they are nearer to the camera than what they hang on."""

CENTRE_OF_MASS = "centre_of_mass"
"""Derived from the whole body (`mass`)."""

SIGMA_SHARE: dict[str, float] = {
    "head_top": 0.006,
    "nose": 0.006,
    "ear": 0.006,
    "chin": 0.006,
    "neck": 0.013,
    "shoulder": 0.013,
    "elbow": 0.010,
    "wrist": 0.008,
    "hand": 0.008,
    "hip": 0.018,
    "knee": 0.010,
    "ankle": 0.008,
    "heel": 0.006,
    "toe": 0.006,
}
"""Default standard deviation of a placed point as a share of standing height. A convention (domain
section 4.3); the neck is taken like the shoulder and the hand like the wrist."""

CLOTH_FACTOR = 1.5
HIDDEN_FACTOR = 2.0
"""A guessed (hidden) joint is taken to scatter twice as much as a seen one. A convention."""
SHARED_SHARE = 0.5

_SEGMENT_ENDS: dict[str, tuple[str, str]] = {
    "upper_arm": ("shoulder", "elbow"),
    "forearm": ("elbow", "wrist"),
    "thigh": ("hip", "knee"),
    "shank": ("knee", "ankle"),
    "foot": ("heel", "toe"),
    "trunk": ("shoulder", "hip"),
}

SEGMENTS: dict[str, tuple[str, str]] = {
    f"{side}_{name}": (f"{side}_{a}", f"{side}_{b}") for name, (a, b) in _SEGMENT_ENDS.items() for side in ("left", "right")
} | {
    "shoulder_width": ("left_shoulder", "right_shoulder"),
    "hip_width": ("left_hip", "right_hip"),
    "trunk": ("mid_shoulder", "mid_hip"),
}
"""Named segments and the two points that they run between."""

PROPORTIONS: dict[str, float] = {
    "foot": 0.152,
    "shank": 0.246,
    "thigh": 0.245,
    "forearm": 0.146,
    "upper_arm": 0.186,
    "shoulder_width": 0.259,
    "hip_width": 0.191,
    "trunk": 0.288,
}
"""Segment lengths as a share of standing height: Drillis and Contini (1966), as tabulated in
Winter, Biomechanics and Motor Control of Human Movement."""

FLESH_SHARE: dict[str, float] = {
    "hip": 0.055,
    "shoulder": 0.055,
    "neck": 0.04,
    "ear": 0.04,
    "knee": 0.03,
    "ankle": 0.03,
    "elbow": 0.025,
    "wrist": 0.015,
    "hand": 0.01,
}
"""How far a joint's middle lies over the mat that the body rests on there, as a share of standing height: half the
depth of the body at it. Soles, crown and face lie on the skin. A convention, held against the studio's figures."""

PROPORTION_U = 0.05
HEIGHT_U = 0.01
"""u of a marked standing height as a share of it: crown and sole, each placed to 0.6 %. A convention."""

_BY_ENDS = {frozenset(ends): name for name, ends in SEGMENTS.items()}


def segment_between(a: str, b: str) -> str | None:
    """Name the segment that runs between two points, or None where it has no name."""
    return _BY_ENDS.get(frozenset((a, b)))


def joint_of(landmark: str) -> str:
    """Strip the side: `right_knee` → `knee`."""
    return landmark.removeprefix("left_").removeprefix("right_")


def mirrored(name: str) -> str:
    """Swap left and right in a landmark, segment or side name."""
    if name == "left" or name.startswith("left_"):
        return "right" + name.removeprefix("left")
    if name == "right" or name.startswith("right_"):
        return "left" + name.removeprefix("right")
    return name


def other_side(side: Side) -> Side:
    """Left for right, and right for left."""
    return "left" if side == "right" else "right"


def is_point(name: str) -> bool:
    """True for a landmark or a derived point."""
    return name in LANDMARKS or name in DERIVED or name == CENTRE_OF_MASS
