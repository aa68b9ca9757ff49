"""`inclination`: how a line leans against the vertical, the mat or another line."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from lacertus.core.measuring.measures.angle import of_unknown_lean
from lacertus.core.measuring.measures.base import AtEvent, Kind, Point, PointRef, Reading, at_event
from lacertus.core.measuring.measures.scalar import Array, Shape, between_deg, curve_of, dot, drawn_curve, read_shape
from lacertus.core.measuring.scene import Scene


class InclinationMeasure(AtEvent):
    """How far a segment leans from the upright, or from level: degrees."""

    from_point: Point
    to_point: Point
    against: Literal["up", "mat"] | tuple[Point, Point] = "up"
    signed: bool = False
    unit: Literal["deg"] = "deg"

    @property
    def points_used(self) -> tuple[PointRef, ...]:
        other = self.against if isinstance(self.against, tuple) else ()
        return (self.from_point, self.to_point, *other)

    @property
    def natural_bounds(self) -> tuple[float, float]:
        return (-180.0, 180.0) if self.signed else (0.0, 180.0)

    @property
    def unit_shown(self) -> str:
        return self.unit


def shape_of(measure: InclinationMeasure, scene: Scene) -> Shape:
    """The angle between the line and what it is held against, in degrees."""
    needs_target = measure.signed or measure.against == "mat"
    target = scene.towards_x() if needs_target else 1.0

    def formula(p: Array) -> Array:
        line = p[1] - p[0]
        if isinstance(measure.against, tuple):
            base = p[3] - p[2]
            value = between_deg(base, line)
            if measure.signed:
                off = line - base * (dot(line, base) / dot(base, base))
                value = np.where(off[0] * target >= 0, value, -value)
        elif measure.against == "mat":
            # In space a line lies as level whichever way it points; in the picture it may have turned over.
            ahead = target * line[0] if measure.signed or len(line) == 2 else _level(line)
            value = np.degrees(np.arctan2(line[1], ahead))
        else:
            aside = target * line[0] if measure.signed else _level(line)
            value = np.degrees(np.arctan2(aside, line[1]))
        return np.asarray(value if measure.signed else np.abs(value))

    return Shape(points=measure.points_used, formula=formula, unit="deg", cyclic=measure.signed)


def _level(line: Array) -> Array:
    """How far a line reaches along the mat, whichever way."""
    return np.asarray(np.abs(line[0]) if len(line) == 2 else np.hypot(line[0], line[2]))


def read_at(measure: InclinationMeasure, scene: Scene, frame: int) -> Reading:
    """Degrees, in space where the line's length is known; else as it is seen, of unknown lean.

    Signed, it is how far the line leans along the way to the target.

    Raises:
        NotSeen: a point is missing.
    """
    reading = read_shape(shape_of(measure, scene), scene, (frame,))
    if reading.draws is not None:
        return reading
    pairs = [(measure.from_point, measure.to_point), *([measure.against] if isinstance(measure.against, tuple) else [])]
    ends = [scene.points(pair, frame) for pair in pairs]
    return of_unknown_lean(reading, [(a, b) for a, b in ends], scene)


def curve(measure: InclinationMeasure, scene: Scene, frames: NDArray[np.int64]) -> Array:
    """The inclination on each frame (n frames → n degrees, NaN where it is not seen)."""
    return curve_of(shape_of(measure, scene), scene, frames)


def drawn(measure: InclinationMeasure, scene: Scene, frames: NDArray[np.int64]) -> Array | None:
    """The same in all ways that the rep may be in space (frames × draws)."""
    return drawn_curve(shape_of(measure, scene), scene, frames)


KIND = Kind(
    name="inclination", measure_model=InclinationMeasure, read=at_event(read_at), frame_rule=read_at, curve=curve, drawn=drawn
)
