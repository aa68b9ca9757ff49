"""`gap`: the distance between two points, or of a point from a segment."""

from __future__ import annotations

import math
from typing import Self

import numpy as np
from numpy.typing import NDArray
from pydantic import model_validator

from lacertus.core.measuring.measures.base import EventKey, Kind, Measure, Point, PointRef, Reading
from lacertus.core.measuring.measures.scalar import Array, Shape, curve_of, distance, dot, drawn_curve, read_shape
from lacertus.core.measuring.scene import Scene


class GapMeasure(Measure):
    """The distance between two points, in lengths of a segment, heights or centimetres."""

    between: tuple[Point, Point] | None = None
    point: Point | None = None
    segment: tuple[Point, Point] | None = None
    at: EventKey | tuple[EventKey, ...] | None = None
    unit: str = "height"

    @model_validator(mode="after")
    def _two_ways(self) -> Self:
        if (self.between is None) == (self.point is None) or (self.point is None) != (self.segment is None):
            raise ValueError("give either `between: [p, q]`, or `point` with `segment: [a, b]`")
        if isinstance(self.at, tuple) and len(self.at) != len(self.points_used):
            raise ValueError(f"give one event, or one for each of the {len(self.points_used)} points")
        return self

    @property
    def events_used(self) -> tuple[str, ...]:
        refs = self.at if isinstance(self.at, tuple) else (self.at,)
        return tuple(dict.fromkeys(ref.event for ref in refs if ref is not None))

    @property
    def points_used(self) -> tuple[PointRef, ...]:
        if self.between is not None:
            return self.between
        assert self.point is not None and self.segment is not None
        return (self.point, *self.segment)

    @property
    def natural_bounds(self) -> tuple[float, float]:
        return 0.0, math.inf

    @property
    def unit_shown(self) -> str:
        return self.unit


def _apart(p: Array) -> Array:
    """Distance of the first point from the second, or from the nearest place of the segment."""
    if len(p) == 2:
        return distance(p[0], p[1])
    axis = p[2] - p[1]
    share = np.clip(dot(p[0] - p[1], axis) / np.maximum(dot(axis, axis), 1e-12), 0.0, 1.0)
    return distance(p[0], p[1] + share * axis)


def shape_of(measure: GapMeasure, scene: Scene) -> Shape:
    """The gap with its points and unit, as it is drawn."""
    return Shape(points=measure.points_used, formula=_apart, unit=measure.unit, length_unit=measure.unit, hides="more")


def read_at(measure: GapMeasure, scene: Scene, frame: int) -> Reading:
    """Distance in the unit of the body that the first point lies on; the true one may be larger, as depth does not show.

    Raises:
        NotSeen: a point or the unit is not known.
    """
    return read_shape(shape_of(measure, scene), scene, (frame,))


def read(measure: GapMeasure, scene: Scene, checkpoint_id: str) -> Reading:
    """As `read_at`, at the event or with one for each point."""
    refs = measure.at if isinstance(measure.at, tuple) else (measure.at,) * len(measure.points_used)
    return read_shape(shape_of(measure, scene), scene, tuple(scene.frame_of(ref) for ref in refs if ref is not None))


def curve(measure: GapMeasure, scene: Scene, frames: NDArray[np.int64]) -> Array:
    """The gap on each frame (n frames → n values, NaN where it is not seen)."""
    return curve_of(shape_of(measure, scene), scene, frames)


def drawn(measure: GapMeasure, scene: Scene, frames: NDArray[np.int64]) -> Array | None:
    """The same in all ways that the rep may be in space (frames × draws)."""
    return drawn_curve(shape_of(measure, scene), scene, frames)


KIND = Kind(name="gap", measure_model=GapMeasure, read=read, frame_rule=read_at, curve=curve, drawn=drawn)
