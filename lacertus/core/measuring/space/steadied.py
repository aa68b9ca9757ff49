"""Depth over time: a body has mass, so its parts do not jump to and fro between one frame and the next."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.linalg import solveh_banded

from lacertus.core.measuring.smoothing import LEAST_FRAMES as SMOOTHED
from lacertus.core.measuring.smoothing import at_even_steps, residual_cutoff
from lacertus.core.measuring.space.signs import CLOSE_S

Array = NDArray[np.float64]

LIVELY = 0.8
"""A part speeds up and slows down in depth about as it does across the picture, or by half more. A convention."""
LEAST_PER_S2 = 2.5
"""At the least so much, one σ, in its own lengths a second squared: a limb that swings in depth alone. A convention."""
LEAST_FRAMES = 6


def steadied(depth: Array, across: Array, times_s: Array, length_px: float, own_px: float) -> Array:
    """Depths (frames × draws, pixels) drawn through by a curve that speeds up and slows down as bodies do.

    Whittaker's smoother: the least squares of what each frame tells, and of the curve's second differences. A part of length L
    that reaches z in depth and is seen to ± σ tells z to l·σ/z, and near the picture's plane to no better than √(2Lσ).

    Args:
        depth: how far a part reaches.
        across: what the picture shows of it (2 × frames): from the one end to the other.
        times_s: when, seconds; frames that lie far apart are left as they are.
        length_px: the part's length.
        own_px: σ of its seen length.
    """
    gaps = np.diff(times_s)
    if len(times_s) < LEAST_FRAMES or gaps.max() > CLOSE_S or own_px <= 0:
        return depth
    reach = np.abs(depth).mean(axis=1)
    seen = np.sqrt(np.maximum(length_px**2 - reach**2, (0.1 * length_px) ** 2))
    told = seen * own_px / np.sqrt(reach**2 + 2 * length_px * own_px)
    bands = _bends(gaps) / max(LIVELY * _liveliness(across, times_s), LEAST_PER_S2 * length_px) ** 2
    weights = 1 / told**2
    bands[2] += weights
    return np.asarray(solveh_banded(bands, weights[:, None] * depth, check_finite=False))


BRISK = 1.5
"""A point speeds up and slows down, where it does most, so much more than at large. A convention, from the studio's kicks."""

LEAST_OF_OWN_PER_S2 = 10.0
"""At the least so many of its own σ a second squared, one σ: of a point that lies still no more can be told. A convention."""


def drawn_through(places: Array, middles: Array, times_s: Array, own_px: float) -> tuple[Array, Array, float]:
    """A point's places (2 × frames × draws) and their middles (2 × frames), drawn through in the picture by curves as bodies move.

    Whittaker's smoother as above; what is left of the point's own σ is told with them. Few frames, or such as lie apart, are left
    as they are.
    """
    gaps = np.diff(times_s)
    if len(times_s) < SMOOTHED or gaps.max() > CLOSE_S or own_px <= 0:
        return places, middles, own_px
    lively = max(BRISK * _liveliness(middles, times_s), LEAST_OF_OWN_PER_S2 * own_px)
    bands = _bends(gaps) / lively**2
    bands[2] += 1 / own_px**2
    frames, draws = places.shape[1:]
    both = np.concatenate((np.moveaxis(places, 1, 0).reshape(frames, -1), middles.T, np.eye(frames)), axis=1)
    found = solveh_banded(bands, both / own_px**2, check_finite=False)
    left = float(np.sqrt((found[:, 2 * draws + 2 :] ** 2).sum(axis=1).mean()))
    smooth = np.moveaxis(found[:, : 2 * draws].reshape(frames, 2, draws), 0, 1)
    return smooth, found[:, 2 * draws : 2 * draws + 2].T, own_px * left


def _liveliness(across: Array, times_s: Array) -> float:
    """How much a part speeds up and slows down in the picture: root of the mean square along one axis, pixels a second squared."""
    if len(times_s) < SMOOTHED:
        return 0.0
    times, even = at_even_steps(times_s, across)
    step = float(times[1] - times[0])
    smooth = residual_cutoff(even, 1 / step)(even)
    return float(np.sqrt((np.diff(smooth, 2, axis=-1) ** 2).mean())) / step**2


def _bends(gaps: Array) -> Array:
    """The upper bands (3 × frames) of DᵀD, with D the second differences by time."""
    n = len(gaps) + 1
    before, after = gaps[:-1], gaps[1:]
    middle = (before + after) / 2
    a, b, c = 1 / (before * middle), -(1 / before + 1 / after) / middle, 1 / (after * middle)
    bands = np.zeros((3, n))
    bands[0, 2:] = a * c
    bands[1, 1:-1] += a * b
    bands[1, 2:] += b * c
    bands[2, :-2] += a * a
    bands[2, 1:-1] += b * b
    bands[2, 2:] += c * c
    return bands
