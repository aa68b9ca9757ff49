"""Which way a part leans, before or behind.

There is one answer for each stretch of frames, as it can only change by passing through the picture's plane.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from lacertus.core.measuring.space.draws import DRAWS, uniform

if TYPE_CHECKING:
    from lacertus.core.measuring.space.chain import Seen

Array = NDArray[np.float64]

FLAT = 0.3
"""A part that reaches less in depth than this share of the most it does lies near enough to the picture's plane to pass it."""
FORGETS_S = 0.3
"""Frames that lie so far apart with none between tell little of one another. A convention."""
SLOPE_FRAMES = 5
KINK = 0.15
"""By so much of its longest reach a part may change its way within five frames. A convention."""
SURE = 1e-26
"""How likely what was seen by eye is wrong in its own frame: it outweighs whatever joints can do."""
CLOSE_S = 0.06
"""Frames nearer than this make one stretch; with more between, each is one of its own."""
WEIGHT = 2.0
"""Frames of a stretch are alike: all of them together tell as much as two. A convention."""


@dataclass(frozen=True, kw_only=True)
class Stretches:
    """Stretches of frames, by their first frames (indices), and the log odds that a part turns over between two of them.

    `turns` is (stretches − 1) for each part: the probability that it leans the other way afterwards.
    """

    firsts: NDArray[np.int64]
    frames: NDArray[np.int64]
    times_s: Array
    turns: Mapping[str, Array]

    @classmethod
    def of(cls, seen: Seen, reaches: Mapping[str, Array]) -> Stretches:
        """Stretches between which one of the parts passes the picture's plane, or too much time.

        `reaches` are how far each part reaches in depth (frames × DRAWS).
        """
        gaps = np.diff(seen.times_s)
        apart = gaps > CLOSE_S
        flat = {part: _flat(reach.mean(axis=1)) for part, reach in reaches.items()}
        breaks = set((np.flatnonzero(apart) + 1).tolist())
        for reach, near in ((reaches[part].mean(axis=1), flat[part]) for part in reaches):
            breaks |= _crossings(reach, near)
        firsts = np.array(sorted({0, *breaks}), dtype=np.int64)
        forgotten = 0.5 * (1 - np.exp(-gaps[firsts[1:] - 1] / FORGETS_S))
        turns = {
            part: np.where(
                near[firsts[1:]] & ~apart[firsts[1:] - 1],
                [_turning(reaches[part].mean(axis=1), int(first)) for first in firsts[1:]],
                np.maximum(forgotten, 1e-3),
            )
            for part, near in flat.items()
        }
        return cls(firsts=firsts, frames=seen.frames, times_s=seen.times_s, turns=turns)

    def mean(self, values: Array) -> Array:
        """What the frames of each stretch tell together: values (frames …) → (stretches …)."""
        if len(self.firsts) == len(values):
            return values
        lengths = np.diff(np.append(self.firsts, len(values)))
        summed = np.add.reduceat(values, self.firsts, axis=0)
        share = np.minimum(lengths, WEIGHT) / lengths
        return np.asarray(summed * share.reshape(-1, *([1] * (values.ndim - 1))))

    def spread(self, values: Array) -> Array:
        """Values of stretches (stretches …) in every frame."""
        if len(self.firsts) == len(self.frames):
            return values
        return np.repeat(values, np.diff(np.append(self.firsts, len(self.frames))), axis=0)


@dataclass(frozen=True, kw_only=True)
class Said:
    """What was seen of depth by eye: by joint, when (seconds), and +1 for nearer to the camera, −1 for farther away."""

    told: Mapping[str, Sequence[tuple[float, float]]] = field(default_factory=dict)

    def odds(self, joint: str, stretches: Stretches) -> Array:
        """Log odds that a joint is nearer, by stretch: certain in the frame that it was told of, less with time from it."""
        found = np.zeros(len(stretches.firsts))
        lasts = np.append(stretches.firsts[1:], len(stretches.frames)) - 1
        starts, ends = stretches.times_s[stretches.firsts], stretches.times_s[lasts]
        for at_s, sign in self.told.get(joint, ()):
            off_s = np.maximum(np.maximum(starts - at_s, at_s - ends), 0.0)
            turned = 0.5 * (1 - np.exp(-off_s / FORGETS_S))
            found += sign * np.log((1 - turned) / np.maximum(turned, SURE))
        return found


def _turning(reach: Array, at: int) -> float:
    """How likely a part has turned over where it reaches least: it goes on as it came (a V), or it slows down and comes back (a U).

    Log odds 2·s₁·s₂/σ² from what it reaches more before and after, with σ what a part may change its way by in that time.
    """
    window = min(SLOPE_FRAMES, at, len(reach) - 1 - at)
    if window < 2:
        return 0.5
    before, after = reach[at - window] - reach[at], reach[at + window] - reach[at]
    odds = 2 * before * after / max(KINK * float(reach.max()), 1e-9) ** 2
    return float(1 / (1 + np.exp(-min(odds, 6.0))))


def _flat(reach: Array) -> NDArray[np.bool_]:
    return np.asarray(reach < FLAT * max(float(reach.max(initial=0.0)), 1e-9))


def _crossings(reach: Array, flat: NDArray[np.bool_]) -> set[int]:
    """Within each run of flat frames that has others on both sides, the frame that reaches least."""
    edges = np.flatnonzero(np.diff(np.concatenate(([False], flat, [False])).astype(np.int8)))
    return {int(first + np.argmin(reach[first:after])) for first, after in edges.reshape(-1, 2) if first > 0 and after < len(reach)}


def drawn_signs(fits: Array, stretches: Stretches, parts: Sequence[str], states: Sequence[Sequence[float]]) -> list[Array]:
    """For each part, −1 (behind) or +1 (before) in every frame (frames × DRAWS), drawn from all ways it may go.

    Args:
        fits: log odds of each state in each stretch (states × stretches × DRAWS).
        stretches: which frames go together, and how likely each part turns over between them.
        parts: the parts whose signs make up a state.
        states: for each state, the sign of each part.

    Forward filtering, backward sampling: the distribution of every stretch given all before it, then draws from the last one back.
    """
    signs = np.array(states)
    count = len(stretches.firsts)
    passing = [_passing(signs, [stretches.turns[part][i] for part in parts]) for i in range(count - 1)]
    weights = np.exp(fits - fits.max(axis=0))
    filtered = [_normed(weights[:, 0])]
    for i in range(1, count):
        filtered.append(_normed(weights[:, i] * (passing[i - 1].T @ filtered[-1])))
    name = "sign " + " ".join(parts)
    chances = uniform(name, stretches.frames[stretches.firsts])
    chosen = np.empty((count, DRAWS), dtype=np.int64)
    chosen[-1] = _pick(filtered[-1], chances[-1])
    for i in range(count - 2, -1, -1):
        chosen[i] = _pick(_normed(filtered[i] * passing[i][:, chosen[i + 1]]), chances[i])
    return [stretches.spread(signs[chosen, k]) for k in range(len(parts))]


def _passing(signs: Array, turns: Sequence[float]) -> Array:
    """Probability of going from each state (rows) to each other one."""
    found = np.ones((len(signs), len(signs)))
    for part, turn in enumerate(turns):
        same = signs[:, None, part] == signs[None, :, part]
        found *= np.where(same, 1 - turn, turn)
    return found


def _normed(weights: Array) -> Array:
    return np.asarray(weights / np.maximum(weights.sum(axis=0), 1e-300))


def _pick(shares: Array, chances: Array) -> NDArray[np.int64]:
    return np.asarray(np.minimum((np.cumsum(shares, axis=0) < chances).sum(axis=0), len(shares) - 1))
