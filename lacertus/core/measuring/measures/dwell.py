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
    drawn = [state.drawn(scene, frames) for state in measure.states]
    if all(values is not None for values in drawn):
        return _in_space(measure, [values for values in drawn if values is not None], scene, frames)
    flags = [_flags(state, scene, frames) for state in measure.states]
    join = np.logical_or if measure.any_ else np.logical_and
    wide, narrow = (join.reduce([pair[i] for pair in flags]) for i in (0, 1))
    stretch = _Stretch.of(measure, scene, frames)
    (value, u), (less, _) = stretch.time(wide), stretch.time(narrow)
    return Reading(
        value=value,
        unit=measure.unit_shown,
        u=math.hypot(u, (value - less) / 2),
        frames=(int(frames[0]), int(frames[-1])),
    )


EVERY = 3
"""A dwell is counted out in every third of the ways that a rep may be: it takes longer than a formula does."""


def _in_space(measure: DwellMeasure, drawn: list[NDArray[np.float64]], scene: Scene, frames: NDArray[np.int64]) -> Reading:
    """The time in all ways that the rep may be. What cannot be read counts as in the state, and half of it as u."""
    unseen = np.logical_or.reduce([np.isnan(values).any(axis=1) for values in drawn])
    if unseen.mean() > MOST_UNSEEN:
        raise NotSeen("it can be read in fewer than half of the frames of that stretch; film it from another side")
    held = []
    for state, values in zip(measure.states, drawn, strict=True):
        lo, hi = state.within or (None, None)
        low, high = -np.inf if lo is None else lo, np.inf if hi is None else hi
        held.append((values[:, ::EVERY] >= low) & (values[:, ::EVERY] <= high))
    join = np.logical_or if measure.any_ else np.logical_and
    state_held = join.reduce(held) | unseen[:, None]
    stretch = _Stretch.of(measure, scene, frames)
    found = [stretch.time(flags) for flags in state_held.T]
    times, u_marks = np.array([time for time, _ in found]), float(np.mean([u for _, u in found]))
    less = 0.0
    if unseen.any():
        less = float(np.mean([stretch.time(flags & ~unseen)[0] for flags in state_held.T]))
    gone = (times.mean() - less) / 2 if unseen.any() else 0.0
    return Reading(
        value=float(times.mean()),
        unit=measure.unit_shown,
        u=math.hypot(float(times.std()), u_marks, gone),
        frames=(int(frames[0]), int(frames[-1])),
        in_space=True,
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


def _edge(ref: EventRef | None, scene: Scene, frame: int) -> _Edge:
    """When the stretch begins or ends: the event's instant, or the frame itself."""
    if ref is None:
        return _Edge(time_s=float(scene.times[frame]), u_s=0.0)
    instant = scene.instant(ref)
    return _Edge(time_s=instant.time_s, u_s=instant.u_s)


@dataclass(frozen=True, kw_only=True)
class _Stretch:
    """The frames of a stretch in real time, and how a time in it is told."""

    measure: DwellMeasure
    times: tuple[float, ...]
    gap: float
    ends: tuple[_Edge, _Edge]

    @classmethod
    def of(cls, measure: DwellMeasure, scene: Scene, frames: NDArray[np.int64]) -> _Stretch:
        times = scene.times[frames]
        ends = _edge(measure.start, scene, int(frames[0])), _edge(measure.end, scene, int(frames[-1]))
        return cls(measure=measure, times=tuple(times.tolist()), gap=float(np.diff(times).mean()), ends=ends)

    def time(self, held: Flags) -> tuple[float, float]:
        """Time in the state in the unit, and its u from frames and marking alone."""
        runs = [self._run(first, last) for first, last in self._runs(held)]
        if not runs:
            return 0.0, self._scaled(self.gap / math.sqrt(12))
        longest = max(runs)
        time_s = longest[0] if self.measure.pick == "longest" else sum(run[0] for run in runs)
        u_s = longest[1] if self.measure.pick == "longest" else math.sqrt(sum(run[1] ** 2 for run in runs))
        return self._scaled(time_s), self._scaled(u_s)

    def _runs(self, held: Flags) -> list[tuple[int, int]]:
        """First and last index of every run in the state; being outside for less than ENDS_AFTER_S does not end one."""
        padded = np.zeros(len(held) + 2, dtype=np.int8)
        padded[1:-1] = held
        changes = np.flatnonzero(padded[1:] != padded[:-1]).tolist()
        found: list[tuple[int, int]] = []
        for first, after in zip(changes[::2], changes[1::2], strict=True):
            if found and self.times[first] - self.times[found[-1][1]] - self.gap < ENDS_AFTER_S:
                found[-1] = (found[-1][0], after - 1)
            else:
                found.append((first, after - 1))
        return found

    def _run(self, first: int, last: int) -> tuple[float, float]:
        """How long a run lasts, and u of that, seconds: it begins and ends in the middle of a gap, or with the stretch."""
        times, (begin, finish) = self.times, self.ends
        if first > 0:
            gap = times[first] - times[first - 1]
            begin = _Edge(time_s=times[first] - gap / 2, u_s=gap / math.sqrt(12))
        if last < len(times) - 1:
            gap = times[last + 1] - times[last]
            finish = _Edge(time_s=times[last] + gap / 2, u_s=gap / math.sqrt(12))
        return max(finish.time_s - begin.time_s, 0.0), math.hypot(begin.u_s, finish.u_s)

    def _scaled(self, time_s: float) -> float:
        if self.measure.pick == "share":
            return time_s / max(self.ends[1].time_s - self.ends[0].time_s, 1e-9)
        scale = {"ms": 1000.0, "s": 1.0}.get(self.measure.unit)
        return time_s * (scale if scale is not None else 1 / self.gap)


KIND = Kind(name="dwell", measure_model=DwellMeasure, read=read)
