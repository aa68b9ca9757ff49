"""High-speed capture: how many seconds of the file one second of reality lasts, as far as a file tells.

A proposal only. Where the file says it outright it is taken as sure; where the rate merely suggests it,
the coach is asked. It can be changed at any time, and every measure follows.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Rates = tuple[tuple[int, float], ...]

HIGH_SPEED_FPS = 90.0
"""Phones film the everyday at up to 60 frames a second; from here on it is high-speed capture."""
SLOWED_LEAST = 1.9
"""A file that plays this many times slower than it was captured was slowed; less is the clock's own error."""
RAMP_LEAST = 2.5
"""Within a clip, gaps this many times the shortest usual ones, and for long, suggest a slowed stretch.
Less is what a phone does by itself in poor light."""
RAMP_S = 0.3
"""A stretch of other gaps shorter than this (seconds of the file) is dropped frames."""
_SLOW_NAME = re.compile(r"(?:slow|slo-?mo|super.?slow|(?<!\d)(?:120|240|480|960)\s*fps)", re.IGNORECASE)


@dataclass(frozen=True, kw_only=True)
class Capture:
    """Proposed capture rates as (frame, rate), whether they are sure, and why, in words for the coach."""

    rates: Rates
    sure: bool
    why: str


def propose_capture(pts_s: Sequence[float], captured_fps: float | None = None, name: str = "") -> Capture:
    """What a clip's times, its metadata and its name suggest.

    Args:
        pts_s: the frames' times in the file, seconds.
        captured_fps: frames a second at capture where the file's metadata says so.
        name: the file's name.
    """
    gaps = np.diff(np.asarray(pts_s, dtype=np.float64))
    if gaps.size == 0:
        return Capture(rates=((0, 1.0),), sure=True, why="a single frame")
    plays = 1 / float(np.median(gaps))
    if captured_fps is not None and captured_fps / plays >= SLOWED_LEAST:
        rate = _tidy(captured_fps / plays)
        why = f"the file says that it was captured at {captured_fps:g} frames a second; it plays at {plays:.0f}"
        return Capture(rates=((0, rate),), sure=True, why=why)
    ramp = _ramp(gaps)
    if ramp is not None:
        return ramp
    if plays >= HIGH_SPEED_FPS:
        return Capture(rates=((0, 1.0),), sure=True, why=f"captured at {plays:.0f} frames a second, and plays at that rate")
    if captured_fps is None and _SLOW_NAME.search(name):
        why = (
            f"the file’s name speaks of slow motion, but the file plays at {plays:.0f} frames a second "
            "and does not say how it was captured"
        )
        return Capture(rates=((0, 1.0),), sure=False, why=why)
    return Capture(rates=((0, 1.0),), sure=True, why=f"plays at {plays:.0f} frames a second, as it was filmed")


def _ramp(gaps: NDArray[np.float64]) -> Capture | None:
    """A clip that is fast in parts and slowed in others: runs of gaps several times the shortest usual ones."""
    shortest = float(np.percentile(gaps, 5))
    if 1 / shortest < HIGH_SPEED_FPS:
        return None
    slowed = gaps > RAMP_LEAST * shortest
    rates: list[tuple[int, float]] = [(0, 1.0)]
    for first, after in _runs(slowed):
        if gaps[first:after].sum() < RAMP_S:
            continue
        rate = _tidy(float(np.median(gaps[first:after])) / shortest)
        rates = [entry for entry in rates if entry[0] != first]
        rates += [(int(first), rate), (int(after), 1.0)]
    if len(rates) == 1:
        return None
    rates = [entry for entry in rates if entry[0] < gaps.size]
    stretches = ", ".join(f"from frame {frame} {rate:g}×" for frame, rate in rates)
    why = (
        f"frames lie {1 / shortest:.0f} a second apart in places and much wider in others, "
        f"as in a clip slowed in its middle ({stretches})"
    )
    return Capture(rates=tuple(rates), sure=False, why=why)


def _runs(flags: NDArray[np.bool_]) -> NDArray[np.int64]:
    """Starts and ends (exclusive) of the runs of True; single other gaps within one are bridged."""
    filled = flags.copy()
    filled[1:-1] |= flags[:-2] & flags[2:]
    return np.flatnonzero(np.diff(np.concatenate(([0], filled.astype(np.int8), [0])))).reshape(-1, 2)


def _tidy(rate: float) -> float:
    """A rate within 3 % of a whole number or a half is that."""
    near = round(rate * 2) / 2
    return near if abs(rate - near) <= 0.03 * near else round(rate, 3)
