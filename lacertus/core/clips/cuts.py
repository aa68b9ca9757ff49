"""Where repetitions may begin and end: stretches in which something moves, between ones in which nothing does."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

SMOOTH_S = 0.12
LEAST_REP_S = 0.5
LEAST_REST_S = 0.15
"""A shorter pause belongs to the repetition: a chamber held, a breath before the landing."""
MARGIN_S = 0.2
"""So much stillness is left at both ends, so that the first event has a frame before it."""
BEGIN_SHARE, REST_SHARE = 0.32, 0.16
"""Movement begins a repetition above the first share of the way from rest to vigour and ends it below the
second. Conventions, set on the studio's clips (docs/decisions.md)."""
CALL_BEFORE_S, CALL_AFTER_S = 1.0, 0.3
"""A call begins a repetition that starts moving so long after it, or had begun to so shortly before."""
ALIKE_SLACK = 0.15
"""A stretch without a call is a repetition too where it lasts as long and moves as much as those with one, within so much of
their median. A convention."""
LEAST_CONTRAST = 3.0
"""Vigour must be so many times rest, else the clip has no pauses to cut at."""


@dataclass(frozen=True, kw_only=True)
class Cut:
    """First and last frame of a proposed repetition."""

    first: int
    last: int


def propose_cuts(
    motion: Sequence[float] | NDArray[np.float64], real_s: Sequence[float], calls_s: Sequence[float] = ()
) -> tuple[Cut, ...]:
    """Repetitions by movement, and by the calls that begin them; the coach accepts, drags or drops each.

    Args:
        motion: how much moves in each frame against the one before, any unit, 0 for none.
        real_s: every frame's real time in seconds.
        calls_s: real times of spoken commands, in seconds.

    A call divides what moves on through it. Where most stretches begin with a call, the others are getting up
    and walking back, and are left out. A clip that never rests is one repetition from its first frame to its last.
    """
    moves, times = np.asarray(motion, dtype=np.float64), np.asarray(real_s, dtype=np.float64)
    if moves.size < 2:
        return ()
    speed = _a_second(moves, times)
    rest, vigour = np.percentile(speed, (10, 95))
    if vigour <= 0:
        return ()
    if vigour < LEAST_CONTRAST * max(rest, 1e-9):
        return _long_enough(_divided([(0, moves.size - 1)], times, calls_s), times)
    begin, end = rest + BEGIN_SHARE * (vigour - rest), rest + REST_SHARE * (vigour - rest)
    runs = _divided(_joined(_stretches(speed, begin, end), times), times, calls_s)
    return _long_enough(_called(runs, times, calls_s, speed), times)


def _a_second(moves: NDArray[np.float64], times: NDArray[np.float64]) -> NDArray[np.float64]:
    """Movement a second, smoothed over SMOOTH_S of real time."""
    gaps = np.diff(times, prepend=times[0])
    gaps[0] = gaps[1]
    usual = float(np.median(gaps))
    return np.asarray(gaussian_filter1d(moves / np.maximum(gaps, usual / 4), SMOOTH_S / usual, mode="nearest"))


def _stretches(speed: NDArray[np.float64], begin: float, end: float) -> list[tuple[int, int]]:
    """Runs above `end` that reach `begin` somewhere."""
    above = np.flatnonzero(np.diff(np.concatenate(([0], (speed > end).astype(np.int8), [0]))))
    runs = above.reshape(-1, 2)
    return [(int(a), int(b) - 1) for a, b in runs if speed[a:b].max() > begin]


def _joined(runs: list[tuple[int, int]], times: NDArray[np.float64]) -> list[tuple[int, int]]:
    found: list[tuple[int, int]] = []
    for first, last in runs:
        if found and times[first] - times[found[-1][1]] < LEAST_REST_S:
            found[-1] = (found[-1][0], last)
        else:
            found.append((first, last))
    return found


def _divided(runs: list[tuple[int, int]], times: NDArray[np.float64], calls_s: Sequence[float]) -> list[tuple[int, int]]:
    """Runs divided at calls that leave a repetition on either side."""
    found = []
    for first, last in runs:
        for call in sorted(calls_s):
            if times[first] + LEAST_REP_S <= call <= times[last] - LEAST_REP_S:
                at = int(np.searchsorted(times, call))
                found.append((first, at - 1))
                first = at
        found.append((first, last))
    return found


def _called(
    runs: list[tuple[int, int]], times: NDArray[np.float64], calls_s: Sequence[float], speed: NDArray[np.float64]
) -> list[tuple[int, int]]:
    """The runs that a call begins where most do, and those that are their like: a slap may have covered the call. Else all."""
    begun = [run for run in runs if any(-CALL_AFTER_S <= times[run[0]] - call <= CALL_BEFORE_S for call in calls_s)]
    if len(begun) < 2 or 2 * len(begun) < len(runs):
        return runs
    lasts = [float(times[last] - times[first]) for first, last in begun]
    moves = [float(np.median(speed[first : last + 1])) for first, last in begun]
    return [run for run in runs if run in begun or _alike(run, times, speed, lasts, moves)]


def _alike(
    run: tuple[int, int], times: NDArray[np.float64], speed: NDArray[np.float64], lasts: Sequence[float], moves: Sequence[float]
) -> bool:
    """Whether a run lasts as long and moves as much as the repetitions do."""
    first, last = run
    own = (float(times[last] - times[first]), float(np.median(speed[first : last + 1])))
    for value, values in zip(own, (lasts, moves), strict=True):
        slack = ALIKE_SLACK * float(np.median(values))
        if not min(values) - slack <= value <= max(values) + slack:
            return False
    return True


def _long_enough(runs: list[tuple[int, int]], times: NDArray[np.float64]) -> tuple[Cut, ...]:
    """Runs that last, each with a margin that does not reach into its neighbour."""
    lasting = [(first, last) for first, last in runs if times[last] - times[first] >= LEAST_REP_S]
    cuts = []
    for i, (first, last) in enumerate(lasting):
        earliest = (lasting[i - 1][1] + first) // 2 if i else 0
        latest = (last + lasting[i + 1][0]) // 2 if i + 1 < len(lasting) else times.size - 1
        first = max(int(np.searchsorted(times, times[first] - MARGIN_S)), earliest)
        last = min(int(np.searchsorted(times, times[last] + MARGIN_S, side="right")) - 1, latest)
        cuts.append(Cut(first=first, last=max(last, first)))
    return tuple(cuts)
