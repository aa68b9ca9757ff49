"""A whole body in the picture, still or moving, for tests of kinds that read much of it."""

from __future__ import annotations

import cmath
import math
from collections.abc import Callable
from typing import Any

from lacertus.library.sample import STANDING

Move = Callable[[int, str], tuple[float, float]]


def body(
    frames: range | list[int],
    foot: tuple[float, float] = (600.0, 600.0),
    move: Move = lambda frame, name: (0.0, 0.0),
    sigma: float = 1.0,
    **changes: tuple[float, float],
) -> dict[str, Any]:
    """Landmarks on the frames; `move` adds pixels (x right, y up) by frame and landmark."""
    found: dict[str, Any] = {}
    for name, (x, y) in (STANDING | changes).items():
        found[name] = []
        for frame in frames:
            dx, dy = move(frame, name)
            found[name].append({"frame": frame, "x": foot[0] + x + dx, "y": foot[1] - y - dy, "sigma": sigma})
    return {"height_px": 400.0, "landmarks": found}


HIPS = ("left_hip", "right_hip")
TRUNK = ("left_shoulder", "right_shoulder", "neck", "chin", "nose", "head_top", "left_ear", "right_ear")
LEG = (("thigh", "hip", ("knee",)), ("shank", "knee", ("ankle",)), ("foot", "ankle", ("heel", "toe")))
ARM = (("upper_arm", "shoulder", ("elbow",)), ("forearm", "elbow", ("wrist", "hand")))


def swung(
    frames: range | list[int],
    turn: Callable[[int, str], float],
    foot: tuple[float, float] = (600.0, 600.0),
    travel: Callable[[int], tuple[float, float]] = lambda frame: (0.0, 0.0),
    sigma: float = 1.0,
) -> dict[str, Any]:
    """A body whose limbs keep their lengths in the picture: each part turns by `turn` degrees (frame, its name)."""
    found: dict[str, Any] = {name: [] for name in STANDING}
    for frame in frames:
        for name, place in _places(lambda part, frame=frame: turn(frame, part), travel(frame)).items():  # type: ignore[misc]
            x, y = foot[0] + place.real, foot[1] - place.imag
            found[name].append({"frame": frame, "x": x, "y": y, "sigma": sigma})
    return {"height_px": 400.0, "landmarks": found}


def _places(turn: Callable[[str], float], travel: tuple[float, float]) -> dict[str, complex]:
    """Where each landmark lies, x right and y up, as complex numbers: a turn is a product."""
    stood = {name: complex(*place) for name, place in STANDING.items()}
    moved = complex(*travel)
    found = {name: stood[name] + moved for name in HIPS}
    root = (stood["left_hip"] + stood["right_hip"]) / 2
    upright = cmath.exp(1j * math.radians(turn("trunk")))
    for name in TRUNK:
        found[name] = root + moved + upright * (stood[name] - root)
    for side in ("left", "right"):
        for chain, turned in ((LEG, 1 + 0j), (ARM, upright)):
            whole = turned
            for part, joint, ends in chain:
                whole *= cmath.exp(1j * math.radians(turn(f"{side}_{part}")))
                start = f"{side}_{joint}"
                for end in ends:
                    found[f"{side}_{end}"] = found[start] + whole * (stood[f"{side}_{end}"] - stood[start])
    return found
