"""Small three-dimensional vector helpers. World: x to the right, y away from the camera, z up, metres."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

Vector = NDArray[np.float64]

UP: Vector = np.array([0.0, 0.0, 1.0])
MOST_BEND_DEG = 152.0
"""How far a knee or an elbow folds: calf against thigh, forearm against upper arm."""


def unit(v: Vector) -> Vector:
    return v / max(math.sqrt(float(v[0] * v[0] + v[1] * v[1] + v[2] * v[2])), 1e-9)


def cross(a: Vector, b: Vector) -> Vector:
    """The cross product; for single vectors far quicker than NumPy's."""
    ax, ay, az = a.tolist()
    bx, by, bz = b.tolist()
    return np.array([ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx])


def turn(v: Vector, axis: Vector, deg: float) -> Vector:
    """Rotate v about a unit axis by degrees, right-handed (Rodrigues); in plain numbers, which are quicker for one vector."""
    if deg == 0.0:
        return v
    c, s = math.cos(math.radians(deg)), math.sin(math.radians(deg))
    x, y, z = v.tolist()
    ax, ay, az = axis.tolist()
    along = (ax * x + ay * y + az * z) * (1 - c)
    return np.array(
        [
            x * c + (ay * z - az * y) * s + ax * along,
            y * c + (az * x - ax * z) * s + ay * along,
            z * c + (ax * y - ay * x) * s + az * along,
        ]
    )


def two_bone(root: Vector, end: Vector, upper: float, lower: float, pole: Vector) -> tuple[Vector, Vector]:
    """Middle joint and reachable end of a two-segment limb whose middle bends towards `pole`.

    The lengths are kept: an end out of reach is drawn in along the line to it, and one too near is
    pushed out until the middle joint is bent no further than a knee or an elbow goes.
    """
    along = end - root
    reach = float(np.linalg.norm(along))
    direction = unit(along)
    least = math.sqrt(upper**2 + lower**2 - 2 * upper * lower * math.cos(math.radians(180 - MOST_BEND_DEG)))
    reach = min(max(reach, least), (upper + lower) * 0.9995)
    share = (upper**2 - lower**2 + reach**2) / (2 * reach)
    height = math.sqrt(max(upper**2 - share**2, 0.0))
    side = pole - direction * float(np.dot(pole, direction))
    return root + direction * share + unit(side) * height, root + direction * reach
