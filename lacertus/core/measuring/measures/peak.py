"""`peak`: the highest or lowest value on the way: its size, its time, or the height zone that it reaches."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Any, Literal, Self, cast

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from lacertus.core.errors import NotSeen
from lacertus.core.measuring import geometry
from lacertus.core.measuring.body import BodyName
from lacertus.core.measuring.measures.base import KINDS, EventKey, Kind, Measure, Point, PointRef, Reading
from lacertus.core.measuring.measures.mat import mat_level
from lacertus.core.measuring.measures.nested import Nested, Scalar
from lacertus.core.measuring.measures.scalar import Array, in_space, level
from lacertus.core.measuring.scene import Scene
from lacertus.core.measuring.space.draws import normal

AROUND_S = 0.1
"""A parabola is laid through the values so far on both sides of the extreme, seconds (docs/measurement.md)."""

ZONES: tuple[tuple[str, tuple[tuple[str, float], ...]], ...] = (
    ("knee", (("left_knee", 0.5), ("right_knee", 0.5))),
    ("belt", (("mid_hip", 1.0),)),
    ("ribs", (("mid_hip", 0.5), ("mid_shoulder", 0.5))),
    ("shoulder", (("mid_shoulder", 1.0),)),
    ("head", (("nose", 1.0),)),
    ("crown", (("head_top", 1.0),)),
)
"""Height zones above the mat (0), counted from 1: knee 1, belt 2, ribs 3, shoulder 4, head 5, crown 6."""


class PeakMeasure(Measure):
    """The largest or smallest value of a measure over a stretch of time."""

    of: Scalar | None = None
    point: Point | None = None
    above: Literal["mat"] | Point = "mat"
    pick: Literal["highest", "lowest"] = "highest"
    start: EventKey = Field(alias="from")
    end: EventKey = Field(alias="to")
    than: EventKey | None = None
    zone: BodyName | None = None
    unit: str | None = None

    @model_validator(mode="after")
    def _one_way(self) -> Self:
        if (self.of is None) == (self.point is None):
            raise ValueError("give either `of: {a measure}`, or `point` with `above: a landmark / mat`")
        if self.than is not None and self.zone is not None:
            raise ValueError("give `than` for its time or `zone` for its zone, not both")
        if self.zone is not None and self.point is None:
            raise ValueError("a zone is that of a `point`")
        return self

    @property
    def scalar(self) -> Nested:
        """What has the extreme: the measure, or the height of the point."""
        if self.of is not None:
            return self.of
        keys: dict[str, Any] = {"point": self.point, "above": self.above, "unit": self._length_unit}
        return Nested(kind="relation", measure=KINDS["relation"].measure_model.model_validate(keys))

    @property
    def _length_unit(self) -> str:
        return self.unit if self.unit not in (None, "ms", "s", "frames") else "height"

    @property
    def events_used(self) -> tuple[str, ...]:
        own = (self.start, self.end, self.than)
        return tuple(dict.fromkeys(ref.event for ref in own if ref is not None))

    @property
    def points_used(self) -> tuple[PointRef, ...]:
        return self.scalar.points_used

    @property
    def unit_shown(self) -> str | None:
        if self.than is not None:
            return self.unit if self.unit in ("s", "frames") else "ms"
        return "zone" if self.zone is not None else self.scalar.measure.unit_shown


@dataclass(frozen=True, kw_only=True)
class _Vertex:
    """The extreme: frame, time (seconds) and value, each with u from the fit; `inner` if it lies between the ends."""

    frame: int
    time_s: float
    u_s: float
    value: float
    u: float
    inner: bool


def read(measure: PeakMeasure, scene: Scene, checkpoint_id: str) -> Reading:
    """Size in the unit of what is measured; its time after (+) an event; or its height zone.

    Raises:
        NotSeen: it cannot be read in every frame, the camera's own motion is not known, or the extreme lies at an
            end of the stretch and its time is asked.
    """
    scene.steady.check()
    frames = scene.stretch(measure.start, measure.end)
    values = measure.scalar.curve(scene, frames)
    sign = 1.0 if measure.pick == "highest" else -1.0
    vertex = _vertex(sign * values, scene.times[frames], frames)
    at = measure.scalar.at(scene, vertex.frame)
    drawn = measure.scalar.drawn(scene, frames)
    fitted = None if drawn is None else _fitted(sign * drawn, vertex, scene.times[frames])
    if measure.than is not None:
        return _time(measure, vertex, scene, fitted)
    if measure.zone is not None:
        return _zone(measure, vertex, at, scene)
    if at.draws is not None:
        return _size(measure, vertex, at, fitted)
    parts = at.parts if not vertex.inner else _common(at.parts) | {("fit", str(vertex.frame)): vertex.u}
    notes = at.notes if vertex.inner else (*at.notes, f"{measure.pick} at an end of the stretch")
    u = geometry.uncertainty_of(parts)
    value = sign * vertex.value if vertex.inner else at.value
    return Reading(value=value, unit=at.unit, u=u, frames=(vertex.frame,), notes=notes, parts=parts, hides=at.hides)


def _size(measure: PeakMeasure, vertex: _Vertex, at: Reading, fitted: tuple[Array, Array] | None) -> Reading:
    """The extreme in space: where it lies between the ends, what the parabolas through all draws have there."""
    assert at.draws is not None
    if fitted is None:
        return replace(at, notes=(*at.notes, f"{measure.pick} at an end of the stretch"))
    heights = fitted[0] if measure.pick == "highest" else -fitted[0]
    return in_space(heights + vertex.u * normal("fit"), at.unit, (vertex.frame,), at.notes)


def _fitted(drawn: Array, vertex: _Vertex, times: Array) -> tuple[Array, Array] | None:
    """Parabolas through all draws (frames × DRAWS) about the extreme: their values at its time, and when each has its own top."""
    if not vertex.inner:
        return None
    near = np.abs(times - times[int(np.argmin(np.abs(times - vertex.time_s)))]) <= AROUND_S + 1e-9
    near &= ~np.isnan(drawn).any(axis=1)
    t = times[near] - vertex.time_s
    a, b, c = np.linalg.lstsq(np.stack((t**2, t, np.ones_like(t)), axis=1), drawn[near], rcond=None)[0]
    top = np.where(a < 0, -b / (2 * np.minimum(a, -1e-9)), 0.0)
    return c, np.clip(top, -AROUND_S, AROUND_S)


def _common(parts: geometry.Parts) -> geometry.Parts:
    """What is the same in every frame; the rest shows in the scatter around the parabola."""
    return {name: part for name, part in parts.items() if "own" not in name and "bridge" not in name}


def _vertex(values: NDArray[np.float64], times: NDArray[np.float64], frames: NDArray[np.int64]) -> _Vertex:
    """The top of a parabola through the values around the highest one, by least squares."""
    top = int(np.argmax(values))
    near = np.abs(times - times[top]) <= AROUND_S + 1e-9
    inner = 0 < top < len(values) - 1 and int(near.sum()) >= 4
    plain = _Vertex(
        frame=int(frames[top]), time_s=float(times[top]), u_s=AROUND_S / math.sqrt(3), value=float(values[top]), u=0.0, inner=False
    )
    if not inner:
        return plain
    t = times[near] - times[top]
    design = np.stack((t**2, t, np.ones_like(t)), axis=1)
    (a, b, c), *_ = np.linalg.lstsq(design, values[near], rcond=None)
    if a >= 0 or abs(b / (2 * a)) > AROUND_S:
        return plain
    scatter = float(((design @ (a, b, c) - values[near]) ** 2).sum()) / max(len(t) - 3, 1)
    covariance = scatter * np.linalg.inv(design.T @ design)
    by_time = np.array([b / (2 * a * a), -1 / (2 * a), 0.0])
    by_value = np.array([b * b / (4 * a * a), -b / (2 * a), 1.0])
    return _Vertex(
        frame=int(frames[top]),
        time_s=float(times[top] - b / (2 * a)),
        u_s=float(np.sqrt(by_time @ covariance @ by_time)),
        value=float(c - b * b / (4 * a)),
        u=float(np.sqrt(by_value @ covariance @ by_value)),
        inner=True,
    )


def _time(measure: PeakMeasure, vertex: _Vertex, scene: Scene, fitted: tuple[Array, Array] | None) -> Reading:
    if not vertex.inner:
        raise NotSeen(f"the {measure.pick} value lies at an end of the stretch, so when it comes cannot be told; widen the stretch")
    assert measure.than is not None
    event = scene.instant(measure.than)
    unit = measure.unit_shown
    scale = {"ms": 1000.0, "s": 1.0}.get(unit or "ms", 1 / event.gap_s)
    return Reading(
        value=(vertex.time_s - event.time_s) * scale,
        unit=unit,
        u=math.hypot(vertex.u_s, event.u_s, 0.0 if fitted is None else float(fitted[1].std())) * scale,
        frames=(vertex.frame, event.frame),
    )


def _zone(measure: PeakMeasure, vertex: _Vertex, at: Reading, scene: Scene) -> Reading:
    """Where the extreme lies among a body's height zones, straight in between."""
    body = cast(BodyName, measure.zone)
    assert measure.point is not None
    if at.draws is not None and (drawn := _zone_in_space(measure, body, vertex.frame, scene)) is not None:
        return in_space(drawn, "zone", (vertex.frame,), at.notes)
    height = _height(scene, measure.point, vertex.frame)
    steps = [(0.0, mat_level(scene, body, vertex.frame))]
    for number, (_, parts) in enumerate(ZONES, start=1):
        names = [PointRef(name=f"{body}.{name}") for name, _ in parts]
        try:
            steps.append(
                (float(number), sum(w * _height(scene, ref, vertex.frame) for ref, (_, w) in zip(names, parts, strict=True)))
            )
        except NotSeen:
            continue
    if len(steps) < 3:
        raise NotSeen(f"the {body}’s zones need knees, hips and shoulders at frame {vertex.frame}; place them")
    numbers, heights = np.array(steps).T
    order = np.maximum.accumulate(heights)
    value = float(np.interp(height, order, numbers))
    above = int(np.clip(np.searchsorted(order, height), 1, len(order) - 1))
    per_zone = max(float(order[above] - order[above - 1]) / (numbers[above] - numbers[above - 1]), 1e-6)
    unit_px = scene.pixels_per(measure._length_unit, measure.point.name or (measure.point.on or ("",))[0])[0]
    return Reading(value=value, unit="zone", u=at.u * unit_px / per_zone, frames=(vertex.frame,), notes=at.notes)


def _zone_in_space(measure: PeakMeasure, body: BodyName, frame: int, scene: Scene) -> Array | None:
    """The zone in all ways that the rep may be; None where knees, hips or shoulders are not in space there."""
    assert scene.space is not None and measure.point is not None
    refs = [measure.point]
    numbers = []
    for number, (_, parts) in enumerate(ZONES, start=1):
        names = [PointRef(name=f"{body}.{name}") for name, _ in parts]
        if scene.space.can_read(names, (frame,)):
            refs += names
            numbers += [(number, weight) for _, weight in parts]
    if len({number for number, _ in numbers}) < 2:
        return None
    heights = scene.space.places(refs, (frame,))[:, 1]
    mat = scene.space.mat_level(body)
    known = sorted({number for number, _ in numbers})
    by_number = [mat, *(sum(w * h for (n, w), h in zip(numbers, heights[1:], strict=True) if n == one) for one in known)]
    ordered = np.maximum.accumulate(np.stack([np.asarray(step) for step in by_number]), axis=0)
    places = np.array([0.0, *map(float, known)])
    return np.array([np.interp(height, steps, places) for height, steps in zip(heights[0], ordered.T, strict=True)])


def _height(scene: Scene, ref: PointRef, frame: int) -> float:
    point = scene.point(ref, frame)
    return float(level(np.array([[point.x], [point.y]]), scene)[1, 0])


KIND = Kind(name="peak", measure_model=PeakMeasure, read=read)
