"""Small three-dimensional vector helpers. World: x to the right, y away from the camera, z up, metres.

A vector has its x, y and z along the last axis, so that one call turns the vectors of all frames of a rep at once;
numbers that go with vectors have the same shape without that axis.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import ArrayLike, NDArray

Vector = NDArray[np.float64]
"""One vector (3,), or one for each time (times, 3)."""
Number = float | NDArray[np.float64]
"""One number, or one for each time (times,)."""

UP: Vector = np.array([0.0, 0.0, 1.0])
AHEAD: Vector = np.array([1.0, 0.0, 0.0])
MOST_BEND_DEG = 152.0
"""How far a knee or an elbow folds: calf against thigh, forearm against upper arm."""


def each(number: Number) -> Vector:
    """A number for each time, with an axis more, so that it scales the vectors of those times."""
    return np.asarray(number, dtype=np.float64)[..., None]


def vector(x: ArrayLike, y: ArrayLike, z: ArrayLike) -> Vector:
    """The vectors with these places along the axes."""
    made: Vector = np.empty((*np.broadcast_shapes(np.shape(x), np.shape(y), np.shape(z)), 3))
    made[..., 0], made[..., 1], made[..., 2] = x, y, z
    return made


def dot(a: Vector, b: Vector) -> Vector:
    """The dot products, with their last axis kept (1) so that they scale vectors."""
    product: Vector = a * b
    # Written out: to sum over an axis of three takes several times as long, and gives the same.
    return (product[..., 0] + product[..., 1] + product[..., 2])[..., None]


def unit(v: Vector) -> Vector:
    length: Vector = v / np.maximum(np.sqrt(dot(v, v)), 1e-9)
    return length


def cross(a: Vector, b: Vector) -> Vector:
    """The cross product; quicker than NumPy's."""
    ax, ay, az = a[..., 0], a[..., 1], a[..., 2]
    bx, by, bz = b[..., 0], b[..., 1], b[..., 2]
    # Filled in place: stacking the three took half as long again.
    product: Vector = np.empty(a.shape if a.shape == b.shape else np.broadcast_shapes(a.shape, b.shape))
    product[..., 0] = ay * bz - az * by
    product[..., 1] = az * bx - ax * bz
    product[..., 2] = ax * by - ay * bx
    return product


def turn(v: Vector, axis: Vector, deg: Number) -> Vector:
    """Rotate v about a unit axis by degrees, right-handed (Rodrigues)."""
    angle = np.radians(each(deg))
    c, s = np.cos(angle), np.sin(angle)
    turned: Vector = v * c + cross(axis, v) * s + axis * dot(axis, v) * (1 - c)
    return turned


def two_bone(root: Vector, end: Vector, upper: float, lower: float, pole: Vector) -> tuple[Vector, Vector]:
    """Middle joint and reachable end of a two-segment limb whose middle bends towards `pole`.

    The lengths are kept: an end out of reach is drawn in along the line to it, and one too near is
    pushed out until the middle joint is bent no further than a knee or an elbow goes.
    """
    along = end - root
    direction = unit(along)
    least = math.sqrt(upper**2 + lower**2 - 2 * upper * lower * math.cos(math.radians(180 - MOST_BEND_DEG)))
    reach = np.clip(np.sqrt(dot(along, along)), least, (upper + lower) * 0.9995)
    share = (upper**2 - lower**2 + reach**2) / (2 * reach)
    height = np.sqrt(np.maximum(upper**2 - share**2, 0.0))
    side = pole - direction * dot(pole, direction)
    return root + direction * share + unit(side) * height, root + direction * reach
