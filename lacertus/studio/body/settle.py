"""Bodies that press do not sink into each other: one of them gives way, by as much as the other is in it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from scipy.ndimage import gaussian_filter1d

from lacertus.studio.body.contact import ARMS, NAMES, Numbers, Rows, Solids, apart
from lacertus.studio.body.vectors import Vector, unit

RATE = 25.0
"""How many times a second two bodies are held apart; between them the way out is interpolated."""
PRESSED_M = 0.018
"""How far flesh gives under weight before the body does."""
MOST_M = 0.16
"""No body is moved further than this: a pose that needs more is wrong."""
ROUNDS, TRIES = 2, 8
SMOOTH_S = 0.05
_FIRM = np.flatnonzero([name not in ARMS for name in NAMES])
"""An arm bends round what it meets; trunk, head and legs push."""

Posed = Callable[[Vector, Numbers], tuple[Solids, Solids]]
"""Ways moved (times, 3) and times (seconds) → the solids of the body that gives way, moved, and of the other."""


def ways_out(times_s: Numbers, posed: Posed) -> Vector:
    """How far the body that gives way is moved at each time, metres (times, 3), so that neither sinks into the other.

    Deepest first: each try moves it out of the deepest overlap along the line between the two surfaces, but
    never into the mat. The ways are smoothed over time at the end, as nobody jerks.
    """
    ways = np.zeros((len(times_s), 3))
    open_ones = np.arange(len(times_s))
    for _ in range(ROUNDS):
        body, other = (solids.only(_FIRM) for solids in posed(ways[open_ones], times_s[open_ones]))
        moved = np.zeros((len(open_ones), 3))
        sunk = np.arange(len(open_ones))
        for _ in range(TRIES):
            depth, along = _deepest(_shifted(body, moved, sunk), other.some(sunk))
            still = depth > 0
            sunk = sunk[still]
            if not len(sunk):
                break
            moved[sunk] += along[still] * (0.8 * depth[still])[:, None]
        touched = (moved != 0).any(axis=1)
        ways[open_ones] += moved
        length = np.linalg.norm(ways, axis=1, keepdims=True)
        ways *= np.minimum(1.0, MOST_M / np.maximum(length, 1e-9))
        open_ones = open_ones[touched]
        if not len(open_ones):
            break
    return np.asarray(gaussian_filter1d(ways, SMOOTH_S * RATE, axis=0, mode="nearest"))


def _shifted(solids: Solids, ways: Vector, rows: Rows) -> Solids:
    by, some = ways[rows][:, None], solids.some(rows)
    return replace(some, a=some.a + by, b=some.b + by)


def _deepest(body: Solids, other: Solids) -> tuple[Numbers, Vector]:
    """The deepest overlap at each time beyond what flesh gives, metres (times,), and the way out of it (times, 3)."""
    gap, between = apart(body, other)
    depth = (-PRESSED_M - gap).reshape(len(gap), -1)
    at = depth.argmax(axis=1)
    rows = np.arange(len(gap))
    out = unit(between.reshape(len(gap), -1, 3)[rows, at])
    out[:, 2] = np.maximum(out[:, 2], 0.0)
    return depth[rows, at], out
