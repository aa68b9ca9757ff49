"""`path`: the way that a point takes from one event to another."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from pydantic import Field

from lacertus.core.errors import NotSeen
from lacertus.core.measuring import geometry
from lacertus.core.measuring.measures.base import EventKey, Kind, Measure, Point, PointRef, Reading
from lacertus.core.measuring.measures.motion import LEFT, motion_in_space, read_motion
from lacertus.core.measuring.measures.scalar import Array, area, in_space, in_units
from lacertus.core.measuring.scene import Scene

NO_CHORD = 0.05
"""A chord shorter than this share of the way is none. A convention."""
REVERSAL_DEG = 120.0
"""Turned by more from one step to the next, a way has gone back upon itself. A convention."""
STILL_SHARE = 0.05
"""Steps shorter than this share of the longest one have no direction of their own."""


class PathMeasure(Measure):
    """How far the way of a point is from the straight line between its ends, by the length of that line."""

    point: Point
    start: EventKey = Field(alias="from")
    end: EventKey = Field(alias="to")
    pick: Literal["straightness", "bulge", "turn", "length", "chord", "travel"]
    relative_to: Point | None = None
    unit: str = "height"

    @property
    def events_used(self) -> tuple[str, ...]:
        return (self.start.event, self.end.event)

    @property
    def points_used(self) -> tuple[PointRef, ...]:
        return (self.point,) if self.relative_to is None else (self.point, self.relative_to)

    @property
    def natural_bounds(self) -> tuple[float, float]:
        return {"straightness": (0.0, 1.0), "turn": (-math.inf, math.inf)}.get(self.pick, (0.0, math.inf))

    @property
    def unit_shown(self) -> str:
        return {"straightness": "share", "turn": "deg"}.get(self.pick, self.unit)


def read(measure: PathMeasure, scene: Scene, checkpoint_id: str) -> Reading:
    """The picked value of the smoothed path, the camera's own motion taken out.

    Raises:
        NotSeen: the point is missing in a frame, the camera's motion is not known, or the point does not move.
    """
    frames = scene.stretch(measure.start, measure.end)
    sense = turning_sense(scene) if measure.pick == "turn" else 1.0

    def curves(places: Array) -> Array:
        way = places[:, 0] if measure.relative_to is None else places[:, 0] - places[:, 1]
        return across_picture(way, scene) if measure.pick == "turn" and way.shape[1] == 3 else way

    def pick(times: Array, found: Array) -> Array:
        _check(measure.pick, found[:1])
        return PICKS[measure.pick](found) * sense

    shown = (int(frames[0]), int(frames[-1]))
    unit = None if measure.pick in ("straightness", "turn") else measure.unit
    spatial = motion_in_space(scene, measure.points_used, frames, curves, pick, unit, LEFT)
    if spatial is not None:
        return in_space(spatial.draws, measure.unit_shown, shown, spatial.notes)
    moved = read_motion(scene, measure.points_used, frames, curves, pick)
    value, parts = moved.value, moved.parts
    if unit is not None:
        value, parts = in_units(value, parts, unit, measure.point, scene)
    return Reading(
        value=value,
        unit=measure.unit_shown,
        u=geometry.uncertainty_of(parts),
        frames=shown,
        notes=moved.notes,
        parts=parts,
        hides={"straightness": "less", "bulge": "more"}.get(measure.pick),  # type: ignore[arg-type]
    )


def across_picture(way: Array, scene: Scene) -> Array:
    """The part of a way (m × 3 × n) that runs across the picture as it is filmed: turning is told there."""
    heading = -1.0 if scene.rep.heading == "left" else 1.0
    if scene.rep.view not in ("front", "behind"):
        return way[:, :2]
    sign = -heading if scene.rep.view == "front" else heading
    return np.stack((sign * way[:, 2], way[:, 1]), axis=1)


def _check(pick: str, path: Array) -> None:
    """Raise NotSeen where the way has no such value."""
    length = float(_length(path)[0])
    if pick == "bulge" and float(_chord(path)[0]) < NO_CHORD * length:
        raise NotSeen("the way comes back to where it began, so it has no straight line to be held against; choose other events")
    if pick == "turn":
        turns = np.abs(_turns(path))
        if turns.size and float(turns.max()) > REVERSAL_DEG:
            raise NotSeen("the way turns back upon itself, so whither it turned there cannot be told; choose other events")


def turning_sense(scene: Scene) -> float:
    """+1 where turning against the clock in the picture is turning to the working side: seen from behind or the side. No unit."""
    clockwise = 1.0 if scene.rep.side == "right" else -1.0
    return clockwise if scene.rep.view == "front" else -clockwise


def _steps(path: Array) -> Array:
    return np.asarray(np.diff(path, axis=-1))


def _norm(vectors: Array) -> Array:
    """Lengths of vectors, whose components lie along axis 1."""
    return np.asarray(np.sqrt((vectors * vectors).sum(axis=1)))


def _length(path: Array) -> Array:
    return np.asarray(_norm(_steps(path)).sum(axis=-1))


def _chord(path: Array) -> Array:
    return _norm((path[..., -1] - path[..., 0])[..., None])[:, 0]


def _straightness(path: Array) -> Array:
    return np.asarray(_chord(path) / np.maximum(_length(path), 1e-9))


def _bulge(path: Array) -> Array:
    off = path - path[..., :1]
    chord = np.broadcast_to((path[..., -1] - path[..., 0])[..., None], off.shape)
    across = area(np.moveaxis(chord, 1, 0), np.moveaxis(off, 1, 0))
    return np.asarray(across.max(axis=-1) / np.maximum(_chord(path), 1e-9))


def _turn(path: Array) -> Array:
    """Degrees turned in all, against the clock positive."""
    return np.asarray(_turns(path).sum(axis=-1))


def _turns(path: Array) -> Array:
    """Degrees turned from step to step."""
    steps = _steps(path)
    lengths = np.hypot(steps[:, 0], steps[:, 1])
    angles = np.arctan2(steps[:, 1], steps[:, 0])
    # Which steps count is decided once, on the path itself, so that small shifts change no more than they should.
    counts = lengths[0] > STILL_SHARE * lengths[0].max()
    turns = np.diff(angles[:, counts], axis=-1)
    return np.asarray(np.degrees((turns + np.pi) % (2 * np.pi) - np.pi))


def _travel(path: Array) -> Array:
    off = path - path.mean(axis=-1, keepdims=True)
    return np.asarray(_norm(off).max(axis=-1))


PICKS = {"straightness": _straightness, "bulge": _bulge, "turn": _turn, "length": _length, "chord": _chord, "travel": _travel}

KIND = Kind(name="path", measure_model=PathMeasure, read=read)
