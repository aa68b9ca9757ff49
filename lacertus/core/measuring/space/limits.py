"""What hips, knees, shoulders and elbows can do: how well a limb that leans this or that way would fit a body."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

SOFT = 0.18
"""How softly a limit binds, as the sine of an angle: beyond it by so much costs half a unit of log odds. A convention."""
THIGH_BACK, THIGH_IN, THIGH_OUT = (math.sin(math.radians(deg)) for deg in (25.0, 25.0, 60.0))
ARM_BACK, ARM_IN = (math.sin(math.radians(deg)) for deg in (55.0, 45.0))
MOST_FOLDED = math.cos(math.radians(145.0))
SIDEWAYS = 1.2
"""A knee bends backwards of the thigh, up to fifty degrees to either side of it as the thigh rolls: tan 50°."""
ELBOW_BACK = 0.3
"""An elbow bends forwards of the upper arm, or, as that rolls, a little backwards: share of the bend."""


@dataclass(frozen=True, kw_only=True)
class Torso:
    """Left, up and ahead of the trunk at hips or shoulders: unit vectors (3 × frames × DRAWS)."""

    left: Array
    up: Array
    ahead: Array

    @classmethod
    def of(cls, at: Mapping[str, Array], joint: str) -> Torso | None:
        """From hips or shoulders and the trunk; None where one of them is missing."""
        if not {f"left_{joint}", f"right_{joint}", "mid_hip", "mid_shoulder"} <= at.keys():
            return None
        left, up = _unit(at[f"left_{joint}"] - at[f"right_{joint}"]), _unit(at["mid_shoulder"] - at["mid_hip"])
        ahead = _unit(_cross(left, up))
        return cls(left=left, up=_cross(ahead, left), ahead=ahead)


def leg_fits(torso: Torso, side: str, hip: Array, knee: Array, ankle: Array) -> Array:
    """Log odds, up to a constant (frames × DRAWS), of a leg: the knee folds backwards, the thigh swings as far as a hip lets it."""
    thigh, shank = _unit(knee - hip), _unit(ankle - knee)
    ahead, up = _dot(thigh, torso.ahead), _dot(thigh, torso.up)
    out = _dot(thigh, torso.left) * (1.0 if side == "left" else -1.0)
    front = torso.ahead * -up + torso.up * ahead
    along = _dot(thigh, shank)
    across = shank - thigh * along
    forwards, aside = _dot(across, front), np.abs(_dot(across, torso.left))
    over = _beyond(forwards + 0.02) + _beyond(aside - SIDEWAYS * np.maximum(-forwards, 0.0) - 0.15) + _beyond(MOST_FOLDED - along)
    return -0.5 * (over + _beyond(-ahead - THIGH_BACK) + _beyond(-out - THIGH_IN) + _beyond(out - THIGH_OUT))


def arm_fits(torso: Torso, side: str, shoulder: Array, elbow: Array, wrist: Array) -> Array:
    """The same of an arm: the elbow folds forwards, more or less as the upper arm rolls."""
    upper, fore = _unit(elbow - shoulder), _unit(wrist - elbow)
    ahead, up = _dot(upper, torso.ahead), _dot(upper, torso.up)
    out = _dot(upper, torso.left) * (1.0 if side == "left" else -1.0)
    front = torso.ahead * -up + torso.up * ahead
    along = _dot(upper, fore)
    backwards = -_dot(fore - upper * along, front)
    over = _beyond(backwards - ELBOW_BACK) + _beyond(MOST_FOLDED - along)
    return -0.5 * (over + _beyond(-ahead - ARM_BACK) + _beyond(-out - ARM_IN))


def _beyond(excess: Array) -> Array:
    return np.asarray((np.maximum(excess, 0.0) / SOFT) ** 2)


def _dot(a: Array, b: Array) -> Array:
    return np.asarray(a[0] * b[0] + a[1] * b[1] + a[2] * b[2])


def _cross(a: Array, b: Array) -> Array:
    return np.stack((a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]))


def _unit(v: Array) -> Array:
    return np.asarray(v / np.maximum(np.sqrt(_dot(v, v)), 1e-9))
