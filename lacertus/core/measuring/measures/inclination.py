"""`inclination`: how a line leans against the vertical, the mat or another line."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from lacertus.core.measuring import geometry
from lacertus.core.measuring.measures.angle import flag_lean, label
from lacertus.core.measuring.measures.base import AtEvent, Kind, Point, PointRef, Reading, at_event
from lacertus.core.measuring.measures.scalar import Array, Shape, cross, curve_of, dot, read_shape
from lacertus.core.measuring.scene import Scene
from lacertus.core.measuring.uncertainty import angle_with_lean


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
        if measure.against == "up":
            value = np.arctan2(target * line[0], line[1])
        elif measure.against == "mat":
            value = np.arctan2(line[1], target * line[0])
        else:
            base = p[3] - p[2]
            off = line - base * (dot(line, base) / dot(base, base))
            sign = np.where(off[0] * target >= 0, 1.0, -1.0)
            value = sign * np.abs(np.arctan2(cross(base, line), dot(base, line)))
        return np.asarray(np.degrees(value if measure.signed else np.abs(value)))

    return Shape(points=measure.points_used, formula=formula, unit="deg", cyclic=measure.signed)


def read_at(measure: InclinationMeasure, scene: Scene, frame: int) -> Reading:
    """Degrees; with the lean of the line out of the picture where its length is known.

    Unsigned and against the vertical, the line may lie in the picture or lean by what its seen length leaves
    open: the middle of both, and half their distance added to u, as for `angle`.

    Raises:
        NotSeen: a point is missing, or the line leans over 30° out of the picture.
    """
    reading = read_shape(shape_of(measure, scene), scene, (frame,))
    ends = [(measure.from_point, measure.to_point), *([measure.against] if isinstance(measure.against, tuple) else [])]
    leans, notes = [], reading.notes
    for pair in ends:
        a, b = scene.points(pair, frame)
        lean = scene.lean(a, b)
        notes += (f"lean unknown: no reference length for {label(a, b)}",) if lean is None else flag_lean(lean)
        leans.append(lean)
    known = [lean.shown for lean in leans if lean is not None]
    if measure.signed or measure.against == "mat" or len(known) < len(ends):
        return replace(reading, notes=notes)
    first, second = (known[0], 1.0) if measure.against == "up" else (known[0], known[-1])
    value, half = angle_with_lean(reading.value, first, second)
    if measure.against == "up":
        value, half = (reading.value + value) / 2, abs(value - reading.value) / 2
    u = math.hypot(geometry.uncertainty_of(reading.parts), half)
    return replace(reading, value=value, u=u, lean_u=half, notes=notes)


def curve(measure: InclinationMeasure, scene: Scene, frames: NDArray[np.int64]) -> Array:
    """The inclination on each frame (n frames → n degrees, NaN where it is not seen)."""
    return curve_of(shape_of(measure, scene), scene, frames)


KIND = Kind(name="inclination", measure_model=InclinationMeasure, read=at_event(read_at), frame_rule=read_at, curve=curve)
