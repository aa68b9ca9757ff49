"""What kinds share whose value at a frame is one formula on some points: value, ingredients of u, and a curve.

A kind gives the formula once, on arrays; gradients are differences over a hundredth of a pixel.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal, cast

import numpy as np
from numpy.typing import NDArray

from lacertus.core.measuring import geometry
from lacertus.core.measuring.body import BodyName
from lacertus.core.measuring.geometry import Parts
from lacertus.core.measuring.measures.base import PointRef, Reading
from lacertus.core.measuring.measures.mat import mat_places
from lacertus.core.measuring.scene import Scene
from lacertus.core.measuring.space.draws import normal
from lacertus.core.measuring.tracks import Position

Array = NDArray[np.float64]
Formula = Callable[[Array], Array]
"""Places (points × 2 × n in the picture's plane, or points × 3 × n in space; pixels, x to the right and y **up**, level, z towards
the camera) → n values."""

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
    """Value and u of a shape at one frame, or with a frame for each point (the camera's motion taken out then).

    In space, where lengths of limbs are known; else as it lies in the picture.
    """
    drawn = drawn_shape(shape, scene, tuple(dict.fromkeys(frames)) if len(set(frames)) == 1 else tuple(frames))
    if drawn is not None:
        return in_space(drawn, shape.unit, tuple(dict.fromkeys(frames)), hidden_note(shape, scene, frames), cyclic=shape.cyclic)
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


def in_space(
    drawn: Array, unit: str | None, frames: tuple[int, ...], notes: tuple[str, ...] = (), *, cyclic: bool = False
) -> Reading:
    """A reading from the values in all ways that the rep may be in space: their mean, and their scatter as u."""
    if cyclic:
        drawn = unwound(drawn)
    return Reading(
        value=float(drawn.mean()),
        unit=unit,
        u=float(drawn.std()),
        frames=frames,
        notes=notes,
        cyclic=cyclic,
        draws=drawn,
        in_space=True,
    )


def unwound(degrees: Array) -> Array:
    """Angles (… × draws, degrees) on that turn round the circle that lies nearest to their middle, which lies within ±180."""
    turned = np.radians(degrees)
    middle = np.degrees(np.arctan2(np.sin(turned).mean(axis=-1), np.cos(turned).mean(axis=-1)))[..., None]
    return np.asarray(middle + (degrees - middle + 180.0) % 360.0 - 180.0)


def hidden_note(shape: Shape, scene: Scene, frames: Sequence[int]) -> tuple[str, ...]:
    """A note where a point is one that was guessed."""
    each = frames if len(frames) == len(shape.points) else [frames[0]] * len(shape.points)
    hidden = any(scene.is_hidden(ref, frame) for ref, frame in zip(shape.points, each, strict=True))
    return (GUESSED,) if hidden else ()


def drawn_shape(shape: Shape, scene: Scene, frames: Sequence[int]) -> Array | None:
    """Values (DRAWS, in the shape's unit) at one frame, or with a frame for each point; None where it cannot be put in space.

    Raises:
        NotSeen: a point is missing, or over several frames the camera's motion is not known.
    """
    space = scene.space
    if space is None or not space.can_read(shape.points, frames):
        return None
    if len(set(frames)) > 1:
        scene.steady.check()
    places = space.places(shape.points, frames)
    if shape.mat is not None:
        places = np.concatenate((places, _mat_place(shape, scene)[None]))
    values = shape.formula(places)
    if np.isnan(values).any():
        return None
    if shape.length_unit is None:
        return values
    return np.asarray(values / unit_draws(shape.length_unit, owner_of(shape.points[0]), scene, frames))


def drawn_curve(shape: Shape, scene: Scene, frames: NDArray[np.int64]) -> Array | None:
    """The same in many frames (frames × DRAWS); not a number where a point cannot be read."""
    space = scene.space
    if space is None or not space.can_read_on(shape.points, frames):
        return None
    places = space.paths(shape.points, frames)
    if shape.mat is not None:
        places = np.concatenate((places, np.broadcast_to(_mat_place(shape, scene)[None, :, None], (1, *places.shape[1:]))))
    values = shape.formula(places.reshape(*places.shape[:2], -1)).reshape(places.shape[2:])
    if shape.length_unit is None:
        return values
    return np.asarray(values / unit_draws(shape.length_unit, owner_of(shape.points[0]), scene, frames.tolist()))


def _mat_place(shape: Shape, scene: Scene) -> Array:
    """The mat as a point (3 × DRAWS), of which only the height counts."""
    assert scene.space is not None
    height = scene.space.mat_level(scene.resolve(owner_of(shape.points[0]))[0])
    return np.stack((np.zeros_like(height), height, np.zeros_like(height)))


def unit_draws(unit: str, owner: str, scene: Scene, frames: Sequence[int]) -> Array:
    """Pixels in a unit of length in all ways that the rep may be (DRAWS); raises as `Scene.pixels_per`."""
    named, _, bare = unit.rpartition(".")
    owned, landmark = scene.resolve(owner)
    side = next((side for side in ("left", "right") if landmark.startswith(f"{side}_")), scene.rep.side)
    if scene.space is not None and unit not in ("px", "cm"):
        px = scene.space.unit_px(bare, cast(BodyName, named or owned), side, frames)
        if px is not None:
            return px
    length, u, name = scene.pixels_per(unit, owner)
    return np.asarray(length + u * normal(" ".join(name)))


def curve_of(shape: Shape, scene: Scene, frames: NDArray[np.int64]) -> Array:
    """Values of a shape in many frames; not a number where a point cannot be read."""
    drawn = drawn_curve(shape, scene, frames)
    if drawn is not None:
        return np.asarray((unwound(drawn) if shape.cyclic else drawn).mean(axis=-1))
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
    """Distances between places (2 or 3 × n, pixels → n, pixels)."""
    away = a - b
    return np.asarray(np.sqrt((away * away).sum(axis=0)))


def dot(a: Array, b: Array) -> Array:
    """Inner product of vectors (2 or 3 × n, pixels → n, square pixels)."""
    return np.asarray((a * b).sum(axis=0))


def area(a: Array, b: Array) -> Array:
    """Area of the parallelogram that two vectors span (2 or 3 × n, pixels → n, square pixels)."""
    if len(a) == 2:
        return np.asarray(np.abs(a[0] * b[1] - a[1] * b[0]))
    return np.asarray(np.sqrt(np.maximum(dot(a, a) * dot(b, b) - dot(a, b) ** 2, 0.0)))


def between_deg(a: Array, b: Array) -> Array:
    """The angle between vectors (2 or 3 × n → n, degrees, 0–180)."""
    return np.asarray(np.degrees(np.arctan2(area(a, b), dot(a, b))))
