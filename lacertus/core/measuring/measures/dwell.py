"""`dwell`: how long a state lasts between two events."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from lacertus.core.errors import NotSeen
from lacertus.core.measuring.measures.base import EventKey, EventRef, Kind, Measure, PointRef, Reading
from lacertus.core.measuring.measures.nested import Nested, Scalar
from lacertus.core.measuring.scene import Scene

MOST_UNSEEN = 0.5
"""A stretch of which a larger share cannot be read has no dwell. A convention."""
ENDS_AFTER_S = 0.05
"""A held state ends when it is outside by more than u for so long (docs/measurement.md)."""

Flags = NDArray[np.bool_]


class DwellMeasure(Measure):
    """How long a measure stays within limits, milliseconds."""

    while_: Scalar | None = Field(default=None, alias="while")
    all_: tuple[Scalar, ...] = Field(default=(), alias="all")
    any_: tuple[Scalar, ...] = Field(default=(), alias="any")
    start: EventKey | None = Field(default=None, alias="from")
    end: EventKey | None = Field(default=None, alias="to")
    unit: Literal["ms", "s", "frames", "share"] = "ms"
    pick: Literal["longest", "total", "share"] = "longest"

    @model_validator(mode="after")
    def _one_way(self) -> Self:
        if sum(map(bool, (self.while_, self.all_, self.any_))) != 1:
            raise ValueError("give one of `while`, `all` and `any`")
        if any(state.within is None for state in self.states):
            raise ValueError("each state needs `within`: [lowest, highest]")
        return self

    @property
    def states(self) -> tuple[Nested, ...]:
        return (self.while_,) if self.while_ is not None else self.all_ or self.any_

    @property
    def events_used(self) -> tuple[str, ...]:
        return tuple(ref.event for ref in (self.start, self.end) if ref is not None)

    @property
    def points_used(self) -> tuple[PointRef, ...]:
        return tuple(dict.fromkeys(ref for state in self.states for ref in state.points_used))

    @property
    def natural_bounds(self) -> tuple[float, float]:
        return 0.0, 1.0 if self.pick == "share" else math.inf

    @property
    def unit_shown(self) -> str:
        return "share" if self.pick == "share" else self.unit


@dataclass(frozen=True, kw_only=True)
class _Edge:
    time_s: float
    u_s: float


def read(measure: DwellMeasure, scene: Scene, checkpoint_id: str) -> Reading:
    """Longest or whole time in the state, or the share of the stretch.

    The state begins and ends in the middle of the gap between two frames. u: that gap, the marking of an end
    of the stretch, and half of what the time would change if the limits lay 2u further in. A frame in which the
    state cannot be read may be either: it counts as in it, and half of it as u.

    Raises:
        NotSeen: a state cannot be read in most frames of the stretch, or an event is not marked.
    """
    frames = scene.stretch(measure.start, measure.end)
    flags = [_flags(state, scene, frames) for state in measure.states]
    join = np.logical_or if measure.any_ else np.logical_and
    wide, narrow = (join.reduce([pair[i] for pair in flags]) for i in (0, 1))
    begin, finish = _edge(measure.start, scene, int(frames[0]), -1), _edge(measure.end, scene, int(frames[-1]), 1)
    value, u = _time(measure, wide, scene, frames, (begin, finish))
    less, _ = _time(measure, narrow, scene, frames, (begin, finish))
    return Reading(
        value=value,
        unit=measure.unit_shown,
        u=math.hypot(u, (value - less) / 2),
        frames=(int(frames[0]), int(frames[-1])),
    )


def _flags(state: Nested, scene: Scene, frames: NDArray[np.int64]) -> tuple[Flags, Flags]:
    """For every frame, whether the state may hold (to within u, or not seen), and whether it holds by more than u."""
    values = state.curve(scene, frames)
    unseen = np.isnan(values)
    if unseen.mean() > MOST_UNSEEN:
        raise NotSeen("it can be read in fewer than half of the frames of that stretch; film it from another side")
    lo, hi = state.within or (None, None)
    low, high = -np.inf if lo is None else lo, np.inf if hi is None else hi
    u = state.at(scene, int(frames[len(frames) // 2])).u
    return unseen | ((values >= low - u) & (values <= high + u)), (values >= low + u) & (values <= high - u)


def _edge(ref: EventRef | None, scene: Scene, frame: int, side: int) -> _Edge:
    """When the stretch begins or ends: the event's instant, or the frame itself."""
    if ref is None:
        return _Edge(time_s=float(scene.times[frame]), u_s=0.0)
    instant = scene.instant(ref)
    return _Edge(time_s=instant.time_s, u_s=instant.u_s)


def _time(
    measure: DwellMeasure, held: Flags, scene: Scene, frames: NDArray[np.int64], ends: tuple[_Edge, _Edge]
) -> tuple[float, float]:
    """Time in the state in the unit, and its u from frames and marking alone."""
    runs = [_run(first, last, scene, frames, ends) for first, last in _runs(held, scene.times[frames])]
    if not runs:
        gap = float(np.diff(scene.times[frames]).mean())
        return 0.0, _scaled(measure, gap / math.sqrt(12), scene, frames, ends)
    longest = max(runs)
    time_s = longest[0] if measure.pick == "longest" else sum(run[0] for run in runs)
    u_s = longest[1] if measure.pick == "longest" else math.sqrt(sum(run[1] ** 2 for run in runs))
    return _scaled(measure, time_s, scene, frames, ends), _scaled(measure, u_s, scene, frames, ends)


def _runs(held: Flags, times: NDArray[np.float64]) -> list[tuple[int, int]]:
    """First and last index of every run in the state; being outside for less than ENDS_AFTER_S does not end one."""
    changes = np.flatnonzero(np.diff(np.concatenate(([False], held, [False])).astype(np.int8)))
    found: list[tuple[int, int]] = []
    for first, after in changes.reshape(-1, 2):
        if found and times[first] - times[found[-1][1]] - _gap(times) < ENDS_AFTER_S:
            found[-1] = (found[-1][0], int(after) - 1)
        else:
            found.append((int(first), int(after) - 1))
    return found


def _gap(times: NDArray[np.float64]) -> float:
    return float(np.diff(times).mean())


def _run(first: int, last: int, scene: Scene, frames: NDArray[np.int64], ends: tuple[_Edge, _Edge]) -> tuple[float, float]:
    times = scene.times[frames]
    begin, finish = ends
    if first > 0:
        gap = times[first] - times[first - 1]
        begin = _Edge(time_s=float(times[first] - gap / 2), u_s=float(gap / math.sqrt(12)))
    if last < len(times) - 1:
        gap = times[last + 1] - times[last]
        finish = _Edge(time_s=float(times[last] + gap / 2), u_s=float(gap / math.sqrt(12)))
    return max(finish.time_s - begin.time_s, 0.0), math.hypot(begin.u_s, finish.u_s)


def _scaled(measure: DwellMeasure, time_s: float, scene: Scene, frames: NDArray[np.int64], ends: tuple[_Edge, _Edge]) -> float:
    if measure.pick == "share":
        return time_s / max(ends[1].time_s - ends[0].time_s, 1e-9)
    scale = {"ms": 1000.0, "s": 1.0}.get(measure.unit)
    return time_s * (scale if scale is not None else 1 / _gap(scene.times[frames]))


KIND = Kind(name="dwell", measure_model=DwellMeasure, read=read)
