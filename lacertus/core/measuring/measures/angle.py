"""`angle`: the angle at a vertex between two other points."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from lacertus.core.errors import NotSeen
from lacertus.core.measuring import geometry
from lacertus.core.measuring.measures.base import AtEvent, Kind, Point, PointRef, Reading, at_event
from lacertus.core.measuring.scene import Scene
from lacertus.core.measuring.tracks import Position
from lacertus.core.measuring.uncertainty import LEAN_FLAG_DEG, LEAN_LIMIT_DEG, Leaning, angle_with_lean

GUESSED = "read from a hidden joint that was guessed"
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


def read_at(measure: AngleMeasure, scene: Scene, frame: int) -> Reading:
    """Angle in degrees, 0–180, with first-order u and the lean of both arms.

    Signed: positive when the last point turns towards the target.

    Raises:
        NotSeen: a point is missing, points coincide, or an arm leans over 30° out of the picture.
    """
    first, vertex, last = scene.points(measure.points, frame)
    seen = geometry.angle(first, vertex, last)
    parts = geometry.parts_of(seen.gradients)
    value, lean_u, notes = with_lean(seen.value, (first, vertex), (last, vertex), scene)
    if any(point.hidden for point in (first, vertex, last)):
        notes += (GUESSED,)
    if measure.signed and not geometry.bends_towards(first, vertex, last, scene.towards_x()):
        value, parts = -value, geometry.combined((-1.0, parts))
    u = math.hypot(geometry.uncertainty_of(parts), lean_u)
    return Reading(value=value, unit="deg", u=u, frames=(frame,), notes=notes, lean_u=lean_u, cyclic=measure.signed, parts=parts)


def curve(measure: AngleMeasure, scene: Scene, frames: NDArray[np.int64]) -> NDArray[np.float64]:
    """The angle as it is seen, degrees, in many frames; signed as in `read_at`."""
    first, vertex, last = scene.places(measure.points, frames)
    (ax, ay), (bx, by) = first - vertex, last - vertex
    seen = np.degrees(np.abs(np.arctan2(ax * by - ay * bx, ax * bx + ay * by)))
    if not measure.signed:
        return np.asarray(seen)
    along = -(ax * bx + ay * by) / (ax * ax + ay * ay)
    return np.asarray(np.where((bx + along * ax) * scene.towards_x() >= 0, seen, -seen))


def with_lean(
    seen_deg: float, first: tuple[Position, Position], second: tuple[Position, Position], scene: Scene
) -> tuple[float, float, tuple[str, ...]]:
    """The angle with what the lean of its two segments out of the picture leaves open, in degrees, and the notes for it.

    The formula: docs/measurement.md, “Lean out of the picture”.
    """
    leans = [scene.lean(*first), scene.lean(*second)]
    unknown = [label(*ends) for ends, lean in zip((first, second), leans, strict=True) if lean is None]
    notes: tuple[str, ...] = (LEAN_UNKNOWN.format(" and ".join(unknown)),) if unknown else ()
    known = [lean for lean in leans if lean is not None]
    for lean in known:
        notes += flag_lean(lean)
    if len(known) < 2:
        return seen_deg, 0.0, notes
    value, half = angle_with_lean(seen_deg, known[0].shown, known[1].shown)
    return value, half, notes


def flag_lean(lean: Leaning) -> tuple[str, ...]:
    """A note where a segment leans over 15°; over 30° the angle cannot be told."""
    name = lean.segment.replace("_", " ")
    if lean.lean_deg > LEAN_LIMIT_DEG:
        raise NotSeen(f"not seen from this view: {name} leans {lean.lean_deg:.0f}° out of the picture; film square to it")
    return (f"{name} leans {lean.lean_deg:.0f}° out of the picture",) if lean.lean_deg > LEAN_FLAG_DEG else ()


def label(a: Position, b: Position) -> str:
    """How a segment is called in a note: by its two landmarks."""
    return f"{a.name} to {b.name}"


KIND = Kind(name="angle", measure_model=AngleMeasure, read=at_event(read_at), frame_rule=read_at, curve=curve)
