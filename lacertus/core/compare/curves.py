"""The curve of a quantity over a rep: its value and standard uncertainty in every frame, and gaps where nothing is known."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lacertus.core.compare.quantity import Quantity, quantities_of
from lacertus.core.errors import Coincident, NotSeen
from lacertus.core.measuring.measures import KINDS
from lacertus.core.measuring.measures.base import Kind
from lacertus.core.measuring.measures.nested import Nested
from lacertus.core.measuring.measures.scalar import between_deg, level, owner_of, unwound
from lacertus.core.measuring.scene import Scene
from lacertus.core.measuring.smoothing import LEAST_FRAMES, at_even_steps, residual_cutoff
from lacertus.core.review.asking import wanted_range
from lacertus.core.techniques.checkpoint import Checkpoint
from lacertus.core.techniques.definition import Technique

Array = NDArray[np.float64]
MOST_READ = 120
"""In so many frames at most is u worked out one by one, where the rep is not in space; between them it runs straight."""


@dataclass(frozen=True, kw_only=True)
class Curve:
    """A quantity over a rep.

    `frames` (n) are all frames of the rep; `values` and `u` (n, in the quantity's unit) are not a number where the rep does not
    tell. A value that wraps round at ±180 degrees runs on without a jump.
    """

    quantity: Quantity
    frames: NDArray[np.int64]
    values: Array
    u: Array

    @property
    def is_empty(self) -> bool:
        return bool(np.isnan(self.values).all())


def curves_of(checkpoint: Checkpoint, technique: Technique, scene: Scene) -> tuple[Curve, ...]:
    """The curves of all that a checkpoint reads, over the whole rep. Where a curve cannot be told at all it is empty."""
    frames = np.arange(scene.rep.range[0], scene.rep.range[1] + 1)
    wanted = wanted_range(checkpoint, technique, scene.rep)
    return tuple(_curve(quantity, scene, frames) for quantity in quantities_of(checkpoint, wanted))


def _curve(quantity: Quantity, scene: Scene, frames: NDArray[np.int64]) -> Curve:
    nothing = np.full(len(frames), np.nan)
    try:
        values, u = _read(quantity.nested, scene, frames) if quantity.nested is not None else _moved(quantity, scene, frames)
    except (NotSeen, Coincident):
        values, u = nothing, nothing
    return Curve(quantity=quantity, frames=frames, values=values, u=np.where(np.isnan(values), np.nan, u))


LEAST_REPS = 3
"""From so many reps on is told how they spread."""


def spread_of(clock_s: Array, reps: Sequence[tuple[Array, Array]]) -> tuple[Array, Array]:
    """Mean and standard deviation (n − 1) over reps at each time of a clock; not a number where fewer than three are known.

    Args:
        clock_s: the times (n, seconds).
        reps: each rep's own times of that clock and its values, both as many as it has frames.
    """
    rows = np.stack([_at(clock_s, own, values) for own, values in reps]) if reps else np.empty((0, len(clock_s)))
    known = (~np.isnan(rows)).sum(axis=0)
    enough = known >= LEAST_REPS
    mean, deviation = np.full(len(clock_s), np.nan), np.full(len(clock_s), np.nan)
    mean[enough] = np.nanmean(rows[:, enough], axis=0)
    deviation[enough] = np.nanstd(rows[:, enough], axis=0, ddof=1)
    return mean, deviation


def _at(clock_s: Array, own: Array, values: Array) -> Array:
    """Values at other times, straight between neighbours; nothing over a gap or beyond the ends."""
    found = np.interp(clock_s, own, values, left=np.nan, right=np.nan)
    return np.asarray(found)


# --- a value at a frame ------------------------------------------------------------------------------


def _read(nested: Nested, scene: Scene, frames: NDArray[np.int64]) -> tuple[Array, Array]:
    """Value and u in each frame: by all ways that the rep may be in space, else as it is read frame by frame."""
    kind = KINDS[nested.kind]
    drawn = nested.drawn(scene, frames)
    if drawn is not None and not np.isnan(drawn).all():
        around = unwound(drawn) if _wraps(nested) else drawn
        values, u = around.mean(axis=-1), around.std(axis=-1)
        return (_unwrapped(values) if _wraps(nested) else values), u
    some = frames[:: max(1, -(-len(frames) // MOST_READ))]
    read = [_one(nested, kind, scene, int(frame)) for frame in some]
    few, few_u = (np.array(column, dtype=np.float64) for column in zip(*read, strict=True))
    values = few if len(some) == len(frames) else _all_values(nested, kind, scene, frames, some, few)
    known = ~np.isnan(few_u)
    u = np.interp(frames, some[known], few_u[known]) if known.any() else np.full(len(frames), np.nan)
    return (_unwrapped(values) if _wraps(nested) else values), u


def _all_values(nested: Nested, kind: Kind, scene: Scene, frames: NDArray[np.int64], some: NDArray[np.int64], few: Array) -> Array:
    """Values in all frames where the kind has a curve; else those of some, and gaps between them."""
    if kind.curve is not None:
        return kind.curve(nested.measure, scene, frames)
    found = np.full(len(frames), np.nan)
    found[some - frames[0]] = few
    return found


def _one(nested: Nested, kind: Kind, scene: Scene, frame: int) -> tuple[float, float]:
    assert kind.frame_rule is not None
    try:
        reading = kind.frame_rule(nested.measure, scene, frame)
    except (NotSeen, Coincident):
        return float("nan"), float("nan")
    return reading.value, reading.u


def _wraps(nested: Nested) -> bool:
    """Whether a value goes on at −180 beyond 180."""
    return getattr(nested.measure, "signed", False) is True


def _unwrapped(degrees: Array) -> Array:
    """Angles without jumps of a whole turn between neighbours that are known."""
    known = ~np.isnan(degrees)
    found = degrees.copy()
    found[known] = np.degrees(np.unwrap(np.radians(degrees[known])))
    return found


# --- how points move ---------------------------------------------------------------------------------


def _moved(quantity: Quantity, scene: Scene, frames: NDArray[np.int64]) -> tuple[Array, Array]:
    """Speed of a point, of an opening angle, or the way that a point has come, over the longest stretch in which it is known.

    In space u is the scatter over all ways that the rep may be; in the picture it is not told.
    """
    places, in_space = _places(quantity, scene, frames)
    first, last = _longest(np.asarray(~np.isnan(places).any(axis=(0, 1, 3))))
    if last - first < LEAST_FRAMES:
        raise NotSeen(f"a speed needs {LEAST_FRAMES} frames")
    times = scene.times[frames[first:last]]
    told = _told(quantity, places[:, :, first:last], times) / _unit(quantity, scene)
    values, u = np.full(len(frames), np.nan), np.full(len(frames), np.nan)
    values[first:last] = told[0]
    if in_space:
        u[first:last] = told[1:].std(axis=0)
    return values, u


def _places(quantity: Quantity, scene: Scene, frames: NDArray[np.int64]) -> tuple[Array, bool]:
    """Places (points × 2 or 3 × n × ways, pixels), the middle of all ways first; and whether they lie in space."""
    space = scene.space
    if space is not None and space.can_read_on(quantity.points, frames):
        drawn = space.paths(quantity.points, frames, sharp=True)
        if not np.isnan(drawn).all():
            return np.concatenate((drawn.mean(axis=-1, keepdims=True), drawn), axis=-1), True
    return level(scene.places(quantity.points, frames, still=True), scene)[..., None], False


def _longest(known: NDArray[np.bool_]) -> tuple[int, int]:
    """The longest run of True: its first index, and the one after its last."""
    edges = np.diff(np.concatenate(([False], known, [False])).astype(np.int8))
    starts, ends = np.nonzero(edges == 1)[0], np.nonzero(edges == -1)[0]
    if not len(starts):
        return 0, 0
    at = int(np.argmax(ends - starts))
    return int(starts[at]), int(ends[at])


def _told(quantity: Quantity, places: Array, times: Array) -> Array:
    """What is told of places (points × axes × n × ways): ways × n."""
    each = np.moveaxis(places, -1, 0)
    if quantity.way == "turning":
        arms = each[:, 0] - each[:, 1], each[:, 2] - each[:, 1]
        curves = between_deg(*(np.moveaxis(arm, 1, 0) for arm in arms))[:, None]
    else:
        curves = each[:, 0] if len(quantity.points) == 1 else each[:, 0] - each[:, 1]
    even_s, even = at_even_steps(times, curves)
    smooth = residual_cutoff(even[0], 1 / float(even_s[1] - even_s[0]))(even)
    if quantity.way == "distance":
        told = np.sqrt(((smooth - smooth[..., :1]) ** 2).sum(axis=1))
    else:
        told = np.sqrt((np.gradient(smooth, even_s, axis=-1) ** 2).sum(axis=1))
    return np.stack([np.interp(times, even_s, row) for row in told])


def _unit(quantity: Quantity, scene: Scene) -> float:
    """Pixels in the unit of a way; 1 for degrees a second."""
    if quantity.way == "turning":
        return 1.0
    return scene.pixels_per("height", owner_of(quantity.points[0]))[0]
