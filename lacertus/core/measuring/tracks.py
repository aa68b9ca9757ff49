"""Keyed points of one landmark → its position and uncertainty at any frame between them.

A position keeps the list of keyed points that it was made from, with weights, so that whatever is
computed from several positions sees their covariance: the own part of a point's σ belongs to that
point alone, the shared part (what the coach means by “hip”) to the landmark in every frame.
"""

from __future__ import annotations

import math
from bisect import bisect_left
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Protocol, TypeVar, overload

import numpy as np
from numpy.typing import NDArray

from lacertus.core.errors import NotSeen


@dataclass(frozen=True, kw_only=True)
class Key:
    """A point placed or tracked on one frame: pixels, and the two parts of its σ in pixels."""

    frame: int
    x: float
    y: float
    own: float
    shared: float
    hidden: bool = False


class Placed(Protocol):
    """A point on a frame, pixels."""

    @property
    def frame(self) -> int: ...
    @property
    def x(self) -> float: ...
    @property
    def y(self) -> float: ...


Entry = TypeVar("Entry", bound=Placed)


class KeysOnDemand(Sequence[Key]):
    """Keyed points made when they are asked for: a clip tracked in every frame has thousands, and few are read.

    Args:
        entries: the points, in frame order.
        make: makes the key of an entry.
    """

    def __init__(self, entries: Sequence[Entry], make: Callable[[Entry], Key]) -> None:
        self.entries: Sequence[Placed] = entries
        self.numbers = [entry.frame for entry in entries]
        self._made: dict[int, Key] = {}
        self._make: Callable[[int], Key] = lambda index: make(entries[index])

    def __len__(self) -> int:
        return len(self.numbers)

    @overload
    def __getitem__(self, index: int) -> Key: ...
    @overload
    def __getitem__(self, index: slice) -> Sequence[Key]: ...
    def __getitem__(self, index: int | slice) -> Key | Sequence[Key]:
        if isinstance(index, slice):
            return [self[i] for i in range(*index.indices(len(self)))]
        if index < 0:
            index += len(self)
        if index not in self._made:
            self._made[index] = self._make(index)
        return self._made[index]


@dataclass(frozen=True, kw_only=True)
class Source:
    """One uncertain ingredient of a position: which it is, its σ in pixels and its weight."""

    name: tuple[str, ...]
    sigma: float
    weight: float


@dataclass(frozen=True, kw_only=True)
class Position:
    """Where a point is in one frame, in pixels, and what its uncertainty is made of.

    `own` and `shared` list independent ingredients; two positions that name the same ingredient
    vary together. `owner` is the body and the landmark or derived point, None for a share of a segment.
    """

    name: str
    owner: tuple[str, str] | None
    frame: int
    x: float
    y: float
    sources: tuple[Source, ...]
    hidden: bool = False

    @property
    def sigma(self) -> float:
        """Standard deviation of x (and of y) in pixels."""
        return math.sqrt(sum((source.sigma * source.weight) ** 2 for source in merged(self.sources)))


def merged(sources: Sequence[Source]) -> tuple[Source, ...]:
    """Add up the ingredients that carry the same name, as they vary together."""
    total: dict[tuple[str, ...], float] = {}
    for source in sources:
        total[source.name] = total.get(source.name, 0.0) + source.sigma * source.weight
    return tuple(Source(name=name, sigma=abs(sigma), weight=1.0) for name, sigma in total.items())


def combine(name: str, parts: Sequence[tuple[Position, float]], owner: tuple[str, str] | None = None) -> Position:
    """A weighted mean of positions of one frame, e.g. the middle of the hips."""
    return Position(
        name=name,
        owner=owner,
        frame=parts[0][0].frame,
        x=sum(position.x * weight for position, weight in parts),
        y=sum(position.y * weight for position, weight in parts),
        sources=tuple(
            Source(name=source.name, sigma=source.sigma, weight=source.weight * weight)
            for position, weight in parts
            for source in position.sources
        ),
        hidden=any(position.hidden for position, _ in parts),
    )


@dataclass(frozen=True)
class Track:
    """All keyed points of one landmark, in frame order.

    Args:
        body: which body, part of the ingredients' names.
        landmark: which landmark.
        keys: the keyed points, strictly increasing in frame.
        times_s: real time of every frame of the clip, seconds.
    """

    body: str
    landmark: str
    keys: Sequence[Key]
    times_s: tuple[float, ...]
    numbers: list[int] = field(init=False, repr=False, compare=False)
    """The frames that are keyed."""

    def __post_init__(self) -> None:
        numbers = self.keys.numbers if isinstance(self.keys, KeysOnDemand) else [key.frame for key in self.keys]
        object.__setattr__(self, "numbers", numbers)

    @cached_property
    def frames(self) -> NDArray[np.int64]:
        """The frames that are keyed, as an array (n)."""
        return np.array(self.numbers, dtype=np.int64)

    @cached_property
    def places(self) -> NDArray[np.float64]:
        """Where the keyed points lie (2 × n, pixels)."""
        placed: Sequence[Placed] = self.keys.entries if isinstance(self.keys, KeysOnDemand) else self.keys
        return np.array([(point.x, point.y) for point in placed], dtype=np.float64).reshape(-1, 2).T

    def curve(self, frames: NDArray[np.int64], times: NDArray[np.float64]) -> NDArray[np.float64]:
        """Places (2 × n, pixels) at many frames, on the same curve as `at`; not a number outside the keyed frames.

        `times` are the real times of every frame of the clip, seconds.
        """
        if not self.numbers:
            return np.full((2, len(frames)), np.nan)
        return curve_through(self.frames, self.places, frames, times)

    def at(self, frame: int) -> Position:
        """Position at a frame: the keyed point itself, or the curve between two of them.

        Raises:
            NotSeen: outside the keyed frames; nothing is extrapolated.
        """
        index = bisect_left(self.numbers, frame)
        if index < len(self.numbers) and self.numbers[index] == frame:
            return self._keyed(self.keys[index])
        if index == 0 or index == len(self.keys):
            raise NotSeen(self._missing(frame))
        return self._between(frame, index - 1)

    def _keyed(self, key: Key) -> Position:
        return self._position(key.frame, key.x, key.y, self._sources(key, 1.0), key.hidden)

    def _between(self, frame: int, left: int) -> Position:
        weights = hermite_weights([self.times_s[number] for number in self.numbers], left, self.times_s[frame])
        x = sum(weight * self.keys[i].x for i, weight in weights.items())
        y = sum(weight * self.keys[i].y for i, weight in weights.items())
        sources = [s for i, weight in weights.items() for s in self._sources(self.keys[i], weight)]
        sources.append(self._bridge(frame, left, x, y))
        hidden = self.keys[left].hidden or self.keys[left + 1].hidden
        return self._position(frame, x, y, tuple(sources), hidden)

    def _position(self, frame: int, x: float, y: float, sources: tuple[Source, ...], hidden: bool) -> Position:
        owner = (self.body, self.landmark)
        return Position(name=spoken(*owner), owner=owner, frame=frame, x=x, y=y, sources=sources, hidden=hidden)

    def _bridge(self, frame: int, left: int, x: float, y: float) -> Source:
        """What the curve itself may be wrong by: how far it lies from the straight line, ÷ √3.

        The step between two orders of interpolation estimates the error of the lower one; taken as
        the half width of a uniform distribution. A convention.
        """
        a, b = self.keys[left], self.keys[left + 1]
        start, end = self.times_s[a.frame], self.times_s[b.frame]
        share = (self.times_s[frame] - start) / (end - start)
        off = math.hypot(x - (a.x + share * (b.x - a.x)), y - (a.y + share * (b.y - a.y)))
        return Source(name=("bridge", self.body, self.landmark, str(frame)), sigma=off / math.sqrt(3), weight=1.0)

    def bridge(self, frames: NDArray[np.int64], places: NDArray[np.float64], times: NDArray[np.float64]) -> NDArray[np.float64]:
        """`_bridge` for the curve's places (2 × n, pixels) in many frames at once: nothing at keyed frames and outside of them."""
        straight = np.stack([np.interp(times[frames], times[self.frames], row) for row in self.places])
        return np.asarray(np.nan_to_num(np.hypot(*(places - straight))) / math.sqrt(3))

    def _sources(self, key: Key, weight: float) -> tuple[Source, Source]:
        return (
            Source(name=("own", self.body, self.landmark, str(key.frame)), sigma=key.own, weight=weight),
            Source(name=("shared", self.body, self.landmark), sigma=key.shared, weight=weight),
        )

    def _missing(self, frame: int) -> str:
        label = spoken(self.body, self.landmark)
        if not self.keys:
            return f"{label} has no point; place it at frame {frame}"
        nearest = min((key.frame for key in self.keys), key=lambda keyed: abs(keyed - frame))
        return f"{label} has no point at frame {frame} (the nearest is at {nearest}); place it there"


def curve_through(
    keyed: NDArray[np.int64], places: NDArray[np.float64], frames: NDArray[np.int64], times: NDArray[np.float64]
) -> NDArray[np.float64]:
    """Places (m × n) at `frames` of what is keyed (m × keys) at some of them; not a number outside the keyed frames.

    `times` are the real times of every frame of the clip, seconds.
    """
    left = np.searchsorted(keyed, frames, side="right") - 1
    outside = (frames < keyed[0]) | (frames > keyed[-1])
    left = np.clip(left, 0, len(keyed) - 1)
    found = np.where(outside, np.nan, places[:, left])
    between = ~outside & (keyed[left] != frames)
    if between.any():
        found[:, between] = _curved(times[keyed], places, left[between], times[frames[between]])
    return found


def _curved(
    times: NDArray[np.float64], values: NDArray[np.float64], left: NDArray[np.int64], at: NDArray[np.float64]
) -> NDArray[np.float64]:
    """`hermite_weights` for many instants at once: values (2 × keys) at times `at`, each after the key `left`."""
    gaps = np.diff(times)
    slopes = np.diff(values) / gaps
    share = gaps[1:] / (gaps[:-1] + gaps[1:])
    middle = share * slopes[:, :-1] + (1 - share) * slopes[:, 1:]
    tangents = np.concatenate((slopes[:, :1], middle, slopes[:, -1:]), axis=1)
    step = times[left + 1] - times[left]
    s = (at - times[left]) / step
    start = (1 + 2 * s) * (1 - s) ** 2 * values[:, left] + s * (1 - s) ** 2 * step * tangents[:, left]
    return np.asarray(start + s * s * (3 - 2 * s) * values[:, left + 1] + s * s * (s - 1) * step * tangents[:, left + 1])


def spoken(body: str, landmark: str) -> str:
    """`partner`, `left_knee` → “partner’s left knee”; the performer is not named."""
    words = landmark.replace("_", " ")
    return words if body == "performer" else f"{body}’s {words}"


def hermite_weights(times: Sequence[float], left: int, at: float) -> dict[int, float]:
    """Weights of the keyed values in a cubic Hermite curve at time `at`, between `left` and the next.

    Tangents are finite differences weighted by time: the slope of the parabola through a point and
    its two neighbours; at the ends the one-sided difference. Times in seconds; weights add up to 1.
    """
    step = times[left + 1] - times[left]
    s = (at - times[left]) / step
    h00, h10 = (1 + 2 * s) * (1 - s) ** 2, s * (1 - s) ** 2
    h01, h11 = s * s * (3 - 2 * s), s * s * (s - 1)
    weights = {left: h00, left + 1: h01}
    for index, factor in ((left, h10), (left + 1, h11)):
        for i, weight in tangent_weights(times, index).items():
            weights[i] = weights.get(i, 0.0) + factor * step * weight
    return weights


def tangent_weights(times: Sequence[float], index: int) -> dict[int, float]:
    """Weights of the keyed values in the tangent at one of them, per second."""
    if index == 0 or index == len(times) - 1:
        a, b = (0, 1) if index == 0 else (index - 1, index)
        slope = 1 / (times[b] - times[a])
        return {a: -slope, b: slope}
    before, after = times[index] - times[index - 1], times[index + 1] - times[index]
    share = after / (before + after)
    return {
        index - 1: -share / before,
        index: share / before - (1 - share) / after,
        index + 1: (1 - share) / after,
    }
