"""What `path` and `speed` share: a point's or an angle's curve over a stretch, smoothed, with what each placed point adds.

First-order propagation through the whole way: from placed points to places in every frame, to the curve (frame by
frame), to even steps of time, to the smoothed curve (both linear), to the value. Carried points keep their covariance.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lacertus.core.errors import NotSeen
from lacertus.core.measuring.geometry import Parts
from lacertus.core.measuring.measures.base import PointRef
from lacertus.core.measuring.measures.scalar import Array, level, owner_of, unit_draws
from lacertus.core.measuring.scene import Scene
from lacertus.core.measuring.smoothing import LEAST_FRAMES, LowPass, at_even_steps, residual_cutoff
from lacertus.core.measuring.space.draws import normal

Curves = Callable[[Array], Array]
"""Places (m × points × 2 or 3 × n, level, pixels) → curves (m × c × n), each frame by itself."""
Pick = Callable[[Array, Array], Array]
"""Times (n, seconds) and curves (m × c × n) → values (m)."""

LEFT = (0.5, 0.7)
"""What is left of scatter in a value, as a share of what as much scatter again adds to it, and u of that share: points are drawn
through in the picture before they are put in space, which leaves about half. Conventions, from the bench's posed bodies."""
LEFT_OF_ANGLE = (1.5, 1.5)
"""The same of an angle, which near its straightest turns all scatter into movement. Conventions, from the same."""
CALM_U = 0.5
"""u of what movement in depth adds to a value, as a share of it. A convention, from the same."""
STEP_PX = 0.01
STEP_SHARE = 1e-3
"""Gradients are central differences over this share of the curve's reach."""


@dataclass(frozen=True, kw_only=True)
class Moved:
    """A value over a stretch, the ingredients of its u, and the low-pass that was used."""

    value: float
    parts: Parts
    low_pass: LowPass | None

    @property
    def notes(self) -> tuple[str, ...]:
        return _notes(self.low_pass)


def _notes(low_pass: LowPass | None) -> tuple[str, ...]:
    if low_pass is None:
        return ("not smoothed: too few frames",)
    return (f"smoothed at {low_pass.cutoff_hz:.1f} Hz (residual analysis)",)


@dataclass(frozen=True, kw_only=True)
class MovedInSpace:
    """Values over a stretch in all ways that the rep may be (DRAWS), and what to say of them."""

    draws: Array
    notes: tuple[str, ...]


def motion_in_space(
    scene: Scene,
    refs: tuple[PointRef, ...],
    frames: NDArray[np.int64],
    curves: Curves,
    pick: Pick,
    unit: str | None,
    left: tuple[float, float],
) -> MovedInSpace | None:
    """A value off the smoothed curves of some points in space; None where they cannot be put there.

    Scatter makes a way longer and a low-pass blunts it. What scatter adds is read by adding as much again, what the low-pass takes
    by smoothing twice; both are taken off, and go into u with what depth adds (docs/measurement.md).

    Raises:
        NotSeen: the camera's own motion is not known, or the points miss in a frame.
    """
    space = scene.space
    if space is None or not space.can_read_on(refs, frames):
        return None
    scene.steady.check()
    seen = space.paths(refs, frames, sharp=True)
    if np.isnan(seen).any():
        return None
    times = scene.times[frames]
    ways = [seen, space.paths(refs, frames), seen if space.settles_depth else _calm(seen)]
    drawn = [_curves_in_space(way, curves) for way in ways]
    if len(frames) < LEAST_FRAMES:
        values = [pick(times, one)[1:] for one in drawn]
        return _corrected(scene, refs, frames, unit, values, 0.0, None, left)
    times, even = at_even_steps(times, np.stack(drawn))
    low_pass = residual_cutoff(even[0, 0, :2], 1 / float(times[1] - times[0]))
    smooth = low_pass(even)
    values = [pick(times, one)[1:] for one in smooth]
    taken = float((values[0] - pick(times, low_pass(smooth[0]))[1:]).mean())
    return _corrected(scene, refs, frames, unit, values, taken, low_pass, left)


def _calm(places: Array) -> Array:
    """The same way (points × 3 × n × DRAWS) with a depth that does not change."""
    found = places.copy()
    found[:, 2] = places[:, 2].mean(axis=1, keepdims=True)
    return found


def _corrected(
    scene: Scene, refs: tuple[PointRef, ...], frames: NDArray[np.int64], unit: str | None, values: list[Array], taken: float,
    low_pass: LowPass | None, left: tuple[float, float],
) -> MovedInSpace:  # fmt: skip
    """Values as they are seen, scattered once more, and with a calm depth → without what scatter adds and smoothing takes."""
    seen, scattered, calm = values
    added = float(scattered.mean() - seen.mean())
    share, u = left
    found = scattered - scattered.mean() + seen.mean() - share * added + taken
    found = found + np.hypot(CALM_U * (seen - calm), math.hypot(u * added, taken)) * normal("smoothing")
    if unit is not None:
        found = found / unit_draws(unit, owner_of(refs[0]), scene, frames.tolist())
    return MovedInSpace(draws=found, notes=_notes(low_pass))


def _curves_in_space(places: Array, curves: Curves) -> Array:
    """Curves (1 + DRAWS × c × n) of places (points × 3 × n × DRAWS): first that of the middle of all draws, then each."""
    each = np.moveaxis(places, -1, 0)
    return curves(np.concatenate((each.mean(axis=0, keepdims=True), each)))


def read_motion(scene: Scene, refs: tuple[PointRef, ...], frames: NDArray[np.int64], curves: Curves, pick: Pick) -> Moved:
    """Read a value off the smoothed curves of some points.

    Raises:
        NotSeen: a point is missing in a frame, or the camera's own motion is not known.
    """
    places = scene.places(refs, frames, still=True)
    scene.all_seen(refs, frames, places)
    found, by_place = _with_slopes(scene, places, curves)
    times, low_pass, weights = scene.times[frames], None, None
    if len(frames) >= LEAST_FRAMES:
        even = np.eye(len(frames))
        times, both = at_even_steps(times, np.concatenate((found, even)))
        found, even = both[: len(found)], both[len(found) :]
        low_pass = residual_cutoff(found, 1 / float(times[1] - times[0]))
        smoothed = low_pass(np.concatenate((found, even)))
        found, weights = smoothed[: len(found)], smoothed[len(found) :]
    value, by_curve = _value_with_slopes(times, found, pick)
    # How the value follows the curve at each frame before it was smoothed, and through it each place.
    by_raw = by_curve if weights is None else by_curve @ weights.T
    by_place_and_frame = np.einsum("cn,pacn->pan", by_raw, by_place)
    return Moved(value=value, parts=_parts(scene, refs, frames, by_place_and_frame), low_pass=low_pass)


def _with_slopes(scene: Scene, places: Array, curves: Curves) -> tuple[Array, Array]:
    """The curves (c × n), and how they follow each place's x and y in the picture (points × 2 × c × n)."""
    points = len(places)
    steps = np.zeros((2 * points, points, 2, 1))
    for i in range(points):
        steps[2 * i, i, 0], steps[2 * i + 1, i, 1] = STEP_PX, STEP_PX
    moved = np.concatenate((places[None], places[None] + steps, places[None] - steps))
    found = curves(level(moved, scene))
    count = 2 * points
    slopes = (found[1 : count + 1] - found[count + 1 :]) / (2 * STEP_PX)
    return found[0], slopes.reshape(points, 2, *found.shape[1:])


def _value_with_slopes(times: Array, curve: Array, pick: Pick) -> tuple[float, Array]:
    """The value, and how it follows the curves (c × n) at each step of time."""
    rows, n = curve.shape
    step = max(float(np.ptp(curve, axis=1).max()), 1.0) * STEP_SHARE
    steps = np.eye(rows * n).reshape(rows * n, rows, n) * step
    values = pick(times, np.concatenate((curve[None], curve[None] + steps, curve[None] - steps)))
    count = rows * n
    return float(values[0]), ((values[1 : count + 1] - values[count + 1 :]) / (2 * step)).reshape(rows, n)


def _parts(scene: Scene, refs: tuple[PointRef, ...], frames: NDArray[np.int64], slopes: Array) -> Parts:
    parts: Parts = {}
    for i, ref in enumerate(refs):
        ingredients = scene.ingredients(ref, frames)
        if not ingredients:
            raise NotSeen("no point was placed in this stretch")
        added = np.stack([moved for _, moved in ingredients]) @ slopes[i].T
        for (name, _), (by_x, by_y) in zip(ingredients, added.tolist(), strict=True):
            for letter, part in (("x", by_x), ("y", by_y)):
                key = (letter, *name)
                parts[key] = parts.get(key, 0.0) + part
    return parts
