"""Where the camera may stand: as far away and as high as phones are held, or where four points of the mat put it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lacertus.core.measuring.space.draws import normal, uniform

Array = NDArray[np.float64]

AWAY_M = (2.8, 6.2)
HIGH_M = (0.9, 1.9)
TALL_M = (1.5, 1.9)
"""How far from the pair and how high over the mat a phone is held, and how tall people are. Conventions: even between them."""
AIM_M = 0.85
"""Over the mat, where a camera is aimed that shows no mat. A convention."""
AIM_U_RAD = math.radians(1.0)
"""How well the lowest landmark of a body tells where the mat is, as an angle at the camera. A convention."""


@dataclass(frozen=True, kw_only=True)
class Eye:
    """The camera, drawn many times over: arrays of DRAWS.

    `focal_px` is the focal length; `pitch_rad` how far it looks down; `roll_rad` how far the vertical is turned clockwise in
    the picture; `turn_rad` how far the line to the target is turned out of the picture's plane, away from the camera positive.
    """

    focal_px: Array
    pitch_rad: Array
    roll_rad: Array
    turn_rad: Array

    def level(self, places: Array) -> Array:
        """Places (3 × … × DRAWS: right, up, towards the camera) in level axes: right, true up, level towards the camera."""
        c, s = np.cos(self.roll_rad), np.sin(self.roll_rad)
        x, up = c * places[0] - s * places[1], s * places[0] + c * places[1]
        c, s = np.cos(self.pitch_rad), np.sin(self.pitch_rad)
        return np.stack((x, c * up + s * places[2], c * places[2] - s * up))


TURN_U_RAD = math.radians(20.0)
"""A camera that films from the side, the front or behind is turned by so much: as a spread that is even up to 35°."""


def phone(
    tall_px: float, low_px: float | None, roll_rad: tuple[float, float], view: str | None, told: tuple[float, float] | None = None
) -> Eye:
    """A phone as it may be held.

    Args:
        tall_px: standing height of the body in the picture, pixels.
        low_px: how far above the middle of the picture the mat lies under the body, pixels; None where it is not known.
        roll_rad: turn of the vertical clockwise in the picture, and its u.
        view: where it films from.
        told: turn of the line to the target as somebody told it, and its u, radians.
    """
    per_m = tall_px / _even("stature", TALL_M)
    away, high = _even("away", AWAY_M), _even("high", HIGH_M)
    focal = away * per_m
    sight = np.arctan2(high, away)
    # The mat lies under the line of sight by the camera's height; where that is in the picture tells whither it looks.
    pitch = sight + (np.arctan2(low_px, focal) if low_px is not None else -np.arctan2(AIM_M, away))
    pitch = np.clip(pitch, math.radians(-12.0), math.radians(35.0)) + AIM_U_RAD * normal("aim")
    if told is not None:
        turn = told[0] + told[1] * normal("turn")
    elif view in ("side", "front", "behind", None):
        turn = TURN_U_RAD * normal("turn")
    else:
        turn = _even("turn", (-1.2, 1.2))
    roll = roll_rad[0] + roll_rad[1] * normal("roll")
    return Eye(focal_px=focal, pitch_rad=pitch, roll_rad=roll, turn_rad=turn)


def _even(name: str, ends: tuple[float, float]) -> Array:
    return np.asarray(ends[0] + (ends[1] - ends[0]) * uniform(name))
