"""`speed`: how fast a point moves or an angle opens."""

from __future__ import annotations

import math
from typing import Literal, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from lacertus.core.errors import NotSeen
from lacertus.core.measuring import geometry
from lacertus.core.measuring.measures.base import EventKey, Kind, Measure, Point, PointRef, Reading
from lacertus.core.measuring.measures.motion import LEFT, LEFT_OF_ANGLE, motion_in_space, read_motion
from lacertus.core.measuring.measures.scalar import Array, between_deg, in_space, in_units
from lacertus.core.measuring.scene import Scene
from lacertus.core.measuring.smoothing import LEAST_FRAMES

AROUND_S = 0.3
"""Speed at an event is read off the curve so far on both sides of it, seconds."""


class SpeedMeasure(Measure):
    """How fast a point moves, in heights of its body a second."""

    point: Point | None = None
    angle: tuple[Point, Point, Point] | None = None
    at: EventKey | None = None
    start: EventKey | None = Field(default=None, alias="from")
    end: EventKey | None = Field(default=None, alias="to")
    pick: Literal["highest", "mean"] = "highest"

    @model_validator(mode="after")
    def _one_of_each(self) -> Self:
        if (self.point is None) == (self.angle is None):
            raise ValueError("give either `point` or `angle: [a, vertex, b]`")
        if (self.at is None) == (self.start is None) or (self.start is None) != (self.end is None):
            raise ValueError("give either `at`, or `from` and `to`")
        return self

    @property
    def events_used(self) -> tuple[str, ...]:
        return tuple(ref.event for ref in (self.at, self.start, self.end) if ref is not None)

    @property
    def points_used(self) -> tuple[PointRef, ...]:
        return (self.point,) if self.point is not None else self.angle or ()

    @property
    def natural_bounds(self) -> tuple[float, float]:
        return 0.0, math.inf

    @property
    def unit_shown(self) -> str:
        return "height/s" if self.point is not None else "deg/s"


def read(measure: SpeedMeasure, scene: Scene, checkpoint_id: str) -> Reading:
    """Heights a second, or degrees a second, off the smoothed curve.

    Raises:
        NotSeen: fewer than ten frames, a point is missing, or the camera's motion is not known.
    """
    event = None if measure.at is None else scene.frame_of(measure.at)
    frames = scene.stretch(measure.start, measure.end) if event is None else _around(measure, scene, event)
    if len(frames) < LEAST_FRAMES:
        raise NotSeen(
            f"a speed needs {LEAST_FRAMES} frames in the movement and this one has {len(frames)}; needs more frames a second"
        )
    at_s = None if event is None else scene.times[event]

    def pick(times: Array, found: Array) -> Array:
        rates = np.gradient(found, times, axis=-1)
        speed = np.sqrt((rates**2).sum(axis=1))
        if at_s is not None:
            return np.asarray(speed[:, int(np.argmin(np.abs(times - at_s)))])
        # The fastest instant is chosen once: a shifted curve is read at the same one.
        return np.asarray(speed[:, int(np.argmax(speed[0]))] if measure.pick == "highest" else speed.mean(axis=1))

    def pick_each(times: Array, found: Array) -> Array:
        if at_s is not None or measure.pick == "mean":
            return pick(times, found)
        # Each way that the rep may be has its own fastest instant: what scatter makes of that is told by them.
        return np.asarray(np.sqrt((np.gradient(found, times, axis=-1) ** 2).sum(axis=1)).max(axis=1))

    curves = _point if measure.angle is None else _angle
    shown = (int(frames[0]), int(frames[-1])) if event is None else (event,)
    unit = "height" if measure.point is not None else None
    spatial = motion_in_space(scene, measure.points_used, frames, curves, pick_each, unit, LEFT_OF_ANGLE if unit is None else LEFT)
    if spatial is not None:
        return in_space(np.maximum(spatial.draws, 0.0), measure.unit_shown, shown, spatial.notes)
    moved = read_motion(scene, measure.points_used, frames, curves, pick)
    value, parts, notes = moved.value, moved.parts, moved.notes
    if measure.point is not None:
        value, parts = in_units(value, parts, "height", measure.point, scene)
    return Reading(value=value, unit=measure.unit_shown, u=geometry.uncertainty_of(parts), frames=shown, notes=notes, parts=parts)


def _around(measure: SpeedMeasure, scene: Scene, event: int) -> NDArray[np.int64]:
    """The frames around an event in which the points are tracked without a break."""
    first, last = scene.rep.range
    near = np.arange(first, last + 1)
    near = near[np.abs(scene.times[near] - scene.times[event]) <= AROUND_S]
    scene.points(measure.points_used, event)
    seen = ~np.isnan(scene.places(measure.points_used, near)).any(axis=(0, 1))
    return np.asarray(near[seen])


def _point(places: Array) -> Array:
    return places[:, 0]


def _angle(places: Array) -> Array:
    """The angle in degrees; in the picture's plane unwound so that it never jumps."""
    first, last = places[:, 0] - places[:, 1], places[:, 2] - places[:, 1]
    if first.shape[1] == 3:
        return between_deg(np.moveaxis(first, 1, 0), np.moveaxis(last, 1, 0))[:, None]
    turned = np.arctan2(first[:, 0] * last[:, 1] - first[:, 1] * last[:, 0], first[:, 0] * last[:, 0] + first[:, 1] * last[:, 1])
    return np.asarray(np.degrees(np.unwrap(turned, axis=-1))[:, None])


KIND = Kind(name="speed", measure_model=SpeedMeasure, read=read)
