"""`angle`: the angle at a vertex between two other points."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from lacertus.core.measuring import geometry
from lacertus.core.measuring.measures.base import AtEvent, Kind, Point, PointRef, Reading, at_event
from lacertus.core.measuring.measures.scalar import (
    GUESSED,
    Array,
    Shape,
    between_deg,
    curve_of,
    dot,
    drawn_curve,
    drawn_shape,
    hidden_note,
    in_space,
)  # fmt: skip
from lacertus.core.measuring.scene import Scene
from lacertus.core.measuring.tracks import Position

LEAN_UNKNOWN = "lean unknown: no reference length for {}"
"""Said once for all segments without one."""


class AngleMeasure(AtEvent):
    """The angle at the middle one of three points, degrees in [0, 180]."""

    points: tuple[Point, Point, Point]
    signed: bool = False
    unit: Literal["deg"] = "deg"

    @property
    def points_used(self) -> tuple[PointRef, ...]:
        return self.points

    @property
    def natural_bounds(self) -> tuple[float, float]:
        return (-180.0, 180.0) if self.signed else (0.0, 180.0)

    @property
    def unit_shown(self) -> str:
        return self.unit


def shape_of(measure: AngleMeasure, scene: Scene) -> Shape:
    """The angle in degrees, 0–180; signed: positive when the last point turns towards the target."""
    target = scene.towards_x() if measure.signed else 1.0

    def formula(p: Array) -> Array:
        first, last = p[0] - p[1], p[2] - p[1]
        seen = between_deg(first, last)
        if not measure.signed:
            return seen
        along = -dot(first, last) / dot(first, first)
        return np.asarray(np.where((last[0] + along * first[0]) * target >= 0, seen, -seen))

    return Shape(points=measure.points, formula=formula, unit="deg", cyclic=measure.signed)


def read_at(measure: AngleMeasure, scene: Scene, frame: int) -> Reading:
    """Angle in degrees, 0–180, in space where the lengths of its arms are known; else as it is seen, of unknown lean.

    Raises:
        NotSeen: a point is missing, or points coincide.
    """
    shape = shape_of(measure, scene)
    drawn = drawn_shape(shape, scene, (frame,))
    if drawn is not None:
        return in_space(drawn, "deg", (frame,), hidden_note(shape, scene, (frame,)), cyclic=measure.signed)
    first, vertex, last = scene.points(measure.points, frame)
    seen = geometry.angle(first, vertex, last)
    value, parts = seen.value, geometry.parts_of(seen.gradients)
    if measure.signed and not geometry.bends_towards(first, vertex, last, scene.towards_x()):
        value, parts = -value, geometry.combined((-1.0, parts))
    u = geometry.uncertainty_of(parts)
    notes = (GUESSED,) if any(point.hidden for point in (first, vertex, last)) else ()
    reading = Reading(value=value, unit="deg", u=u, frames=(frame,), notes=notes, cyclic=measure.signed, parts=parts)
    return of_unknown_lean(reading, ((first, vertex), (last, vertex)), scene)


def of_unknown_lean(reading: Reading, segments: Sequence[tuple[Position, Position]], scene: Scene) -> Reading:
    """A reading of the picture, with the segments that may lean out of it; a drawing has none that do."""
    if scene.flat:
        return reading
    names = " and ".join(f"{a.name} to {b.name}" for a, b in segments)
    return replace(reading, notes=(LEAN_UNKNOWN.format(names), *reading.notes), lean_unknown=True)


def curve(measure: AngleMeasure, scene: Scene, frames: NDArray[np.int64]) -> NDArray[np.float64]:
    """The angle in many frames, degrees; signed as in `read_at`."""
    return curve_of(shape_of(measure, scene), scene, frames)


def drawn(measure: AngleMeasure, scene: Scene, frames: NDArray[np.int64]) -> NDArray[np.float64] | None:
    """The angle in many frames in all ways that the rep may be (frames × draws)."""
    return drawn_curve(shape_of(measure, scene), scene, frames)


KIND = Kind(name="angle", measure_model=AngleMeasure, read=at_event(read_at), frame_rule=read_at, curve=curve, drawn=drawn)
