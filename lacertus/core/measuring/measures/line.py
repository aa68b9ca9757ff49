"""`line`: how far points in between lie off the straight line from the first to the last."""

from __future__ import annotations

from typing import Annotated, Literal, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from lacertus.core.measuring.measures.base import AtEvent, Kind, Point, PointRef, Reading, at_event
from lacertus.core.measuring.measures.scalar import Array, Shape, area, between_deg, curve_of, dot, drawn_curve, read_shape
from lacertus.core.measuring.scene import Scene


class LineMeasure(AtEvent):
    """How far the middle of three points lies off the line through the others, by the length of that line."""

    points: Annotated[tuple[Point, ...], Field(min_length=3, max_length=8)]
    unit: Literal["share", "deg"] = "share"
    signed: bool = False

    @model_validator(mode="after")
    def _three_in_degrees(self) -> Self:
        if self.unit == "deg" and len(self.points) != 3:
            raise ValueError("in degrees a line has three points")
        return self

    @property
    def points_used(self) -> tuple[PointRef, ...]:
        return self.points

    @property
    def natural_bounds(self) -> tuple[float, float]:
        most = 180.0 if self.unit == "deg" else np.inf
        return (-most if self.signed else 0.0, most)

    @property
    def unit_shown(self) -> str:
        return self.unit


def shape_of(measure: LineMeasure, scene: Scene) -> Shape:
    """Largest distance of an inner point from the line ÷ its length; of three points in degrees 180 − angle."""
    target = scene.towards_x() if measure.signed else 1.0

    def formula(p: Array) -> Array:
        chord = p[-1] - p[0]
        if measure.unit == "deg":
            off = between_deg(p[1] - p[0], p[2] - p[1])[None]
        else:
            off = np.stack([area(chord, inner - p[0]) for inner in p[1:-1]]) / dot(chord, chord)
        widest = off.argmax(axis=0)
        value = np.take_along_axis(off, widest[None], axis=0)[0]
        if not measure.signed:
            return np.asarray(value)
        # The side to which the widest point lies, level with the target.
        inner = np.stack([q - p[0] - chord * (dot(q - p[0], chord) / dot(chord, chord)) for q in p[1:-1]])
        side = np.take_along_axis(inner[:, 0], widest[None], axis=0)[0]
        return np.asarray(np.where(side * target >= 0, value, -value))

    return Shape(points=measure.points, formula=formula, unit=measure.unit, hides="more")


def read_at(measure: LineMeasure, scene: Scene, frame: int) -> Reading:
    """Share of the line's length, or degrees; positive towards the target where signed.

    Raises:
        NotSeen: a point is missing.
    """
    return read_shape(shape_of(measure, scene), scene, (frame,))


def curve(measure: LineMeasure, scene: Scene, frames: NDArray[np.int64]) -> Array:
    """The deviation on each frame (n frames → n values, NaN where it is not seen)."""
    return curve_of(shape_of(measure, scene), scene, frames)


def drawn(measure: LineMeasure, scene: Scene, frames: NDArray[np.int64]) -> Array | None:
    """The same in all ways that the rep may be in space (frames × draws)."""
    return drawn_curve(shape_of(measure, scene), scene, frames)


KIND = Kind(name="line", measure_model=LineMeasure, read=at_event(read_at), frame_rule=read_at, curve=curve, drawn=drawn)
