"""What kinds share whose value at a frame is one formula on some points: value, ingredients of u, and a curve.

A kind gives the formula once, on arrays; gradients are differences over a hundredth of a pixel.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from lacertus.core.measuring import geometry
from lacertus.core.measuring.geometry import Parts
from lacertus.core.measuring.measures.base import PointRef, Reading
from lacertus.core.measuring.measures.mat import mat_places
from lacertus.core.measuring.scene import Scene
from lacertus.core.measuring.tracks import Position

Array = NDArray[np.float64]
Formula = Callable[[Array], Array]
"""Places (points × 2 × n, pixels, x to the right and y **up**, level) → n values."""

STEP_PX = 0.01
STEP_RAD = 1e-4
GUESSED = "read from a hidden joint that was guessed"


@dataclass(frozen=True, kw_only=True)
class Shape:
    """A scalar as a formula on points.

    `length_unit` is given where the formula's value is a length in pixels; it is measured on the body of the first
    point. `mat` is a spot of the mat, the formula's last point where it is given. `hides` tells which way the true
    value may lie beyond the seen one.
    """

    points: tuple[PointRef, ...]
    formula: Formula
    unit: str
    length_unit: str | None = None
    hides: Literal["more", "less"] | None = None
    cyclic: bool = False
    mat: Position | None = None


def read_shape(shape: Shape, scene: Scene, frames: Sequence[int]) -> Reading:
    """Value and u of a shape at one frame, or with a frame for each point (the camera's motion taken out then)."""
    if len(set(frames)) == 1:
        positions = scene.points(shape.points, frames[0])
        places = np.array([(p.x, p.y) for p in positions])
        if shape.mat is not None:
            positions = (*positions, shape.mat)
            places = np.vstack((places, mat_places(scene, shape.mat, np.array(frames)).T))
    else:
        positions = tuple(scene.point(ref, frame) for ref, frame in zip(shape.points, frames, strict=True))
        scene.steady.check()
        places = np.array([scene.steady.place(p.frame, p.x, p.y) for p in positions])
    value, parts = evaluate(shape.formula, positions, places, scene)
    if shape.length_unit is not None:
        value, parts = in_units(value, parts, shape.length_unit, shape.points[0], scene)
    return Reading(
        value=value,
        unit=shape.unit,
        u=geometry.uncertainty_of(parts),
        frames=tuple(dict.fromkeys(frames)),
        notes=(GUESSED,) if any(p.hidden for p in positions) else (),
        cyclic=shape.cyclic,
        parts=parts,
        hides=shape.hides,
    )


def curve_of(shape: Shape, scene: Scene, frames: NDArray[np.int64]) -> Array:
    """Values of a shape in many frames; not a number where a point cannot be read."""
    places = scene.places(shape.points, frames)
    if shape.mat is not None:
        places = np.concatenate((places, mat_places(scene, shape.mat, frames)[None]))
    values = shape.formula(level(places, scene))
    if shape.length_unit is None:
        return values
    return values / scene.pixels_per(shape.length_unit, owner_of(shape.points[0]))[0]


def level(places: Array, scene: Scene, turned_rad: Array | None = None) -> Array:
    """Pixels of the picture (… × 2 × n) in level axes: x to the right, y up; each column turned further, if asked."""
    tilt = math.radians(scene.rep.upright.deg)
    found = np.empty_like(places)
    x, y = places[..., 0, :], places[..., 1, :]
    if tilt == 0.0 and turned_rad is None:
        found[..., 0, :], found[..., 1, :] = x, -y
        return found
    turned = tilt if turned_rad is None else tilt + turned_rad
    c, s = np.cos(turned), np.sin(turned)
    found[..., 0, :], found[..., 1, :] = c * x + s * y, s * x - c * y
    return found


def evaluate(formula: Formula, positions: Sequence[Position], places: Array, scene: Scene) -> tuple[float, Parts]:
    """A formula's value in its unit, and what each ingredient of the positions (pixels) and the vertical (degrees) adds to u."""
    count = len(positions)
    steps, turned = _steps(count)
    found = formula(level(places[:, :, None] + steps, scene, turned)).tolist()
    slopes = [_steepest(found[0], found[at], found[at + 1]) for at in range(1, 1 + 4 * count, 2)]
    gradients = [(p, slopes[2 * i] / STEP_PX, slopes[2 * i + 1] / STEP_PX) for i, p in enumerate(positions)]
    parts = geometry.parts_of(gradients)
    tilt = _steepest(found[0], found[-2], found[-1]) / STEP_RAD * math.radians(scene.rep.upright.u)
    if abs(tilt) > 1e-9:
        parts[("upright",)] = tilt
    return found[0], parts


@lru_cache(maxsize=64)
def _steps(count: int) -> tuple[Array, Array]:
    """By how much each of `count` points is moved (count × 2 × n, pixels) and all turned (n, radians) in n trials.

    In the first trial nothing is moved; then each x and y goes up and down, then the whole is turned both ways.
    """
    steps = np.zeros((count, 2, 3 + 4 * count))
    for i in range(count):
        for axis in (0, 1):
            at = 1 + 4 * i + 2 * axis
            steps[i, axis, at], steps[i, axis, at + 1] = STEP_PX, -STEP_PX
    turned = np.zeros(3 + 4 * count)
    turned[-2:] = STEP_RAD, -STEP_RAD
    return steps, turned


def _steepest(middle: float, after: float, before: float) -> float:
    """The change over one step, by the steeper side: a distance of nothing has a slope too."""
    up, down = _nearest(after - middle), _nearest(middle - before)
    return up if abs(up) >= abs(down) else down


def _nearest(change: float) -> float:
    """A change of a signed angle over the seam at ±180° is a small one."""
    return change - 360.0 if change > 180.0 else change + 360.0 if change < -180.0 else change


def in_units(value: float, parts: Parts, unit: str, first: PointRef, scene: Scene) -> tuple[float, Parts]:
    """A length in pixels in a unit of length of the body that the first point lies on."""
    px, u, name = scene.pixels_per(unit, owner_of(first))
    scaled = geometry.combined((1 / px, parts))
    if u > 0:
        scaled[name] = scaled.get(name, 0.0) - value / px * u / px
    return value / px, scaled


def owner_of(ref: PointRef) -> str:
    """The body that a point belongs to, as it is written in a definition."""
    return ref.name if ref.name is not None else (ref.on or ("",))[0]


def distance(a: Array, b: Array) -> Array:
    """Distances between places (2 × n, pixels → n, pixels)."""
    return np.asarray(np.hypot(a[0] - b[0], a[1] - b[1]))


def cross(a: Array, b: Array) -> Array:
    """The cross product of vectors in the plane (2 × n and 2 × n, pixels → n, square pixels)."""
    return np.asarray(a[0] * b[1] - a[1] * b[0])


def dot(a: Array, b: Array) -> Array:
    """Inner product of vectors (2 × n and 2 × n, pixels → n, square pixels)."""
    return np.asarray(a[0] * b[0] + a[1] * b[1])
