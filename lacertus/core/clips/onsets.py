"""When a sound begins: a spoken command, a slap on the mat, out of how fast the spectrum grows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d, median_filter

MEDIAN_REACH_S = 0.35
"""A sound stands out against the median of so much before and after it."""
ABOVE_SCATTER = 6.0
"""How many median absolute deviations above that it must rise. A convention, set on the studio's clips."""
LEAST_SHARE = 0.12
"""And at least so much of the clip's largest rise: a whisper beside a slap is no mark."""
APART_S = 0.15
VOICED_FLATNESS, VOICED_S = 0.12, 0.08
"""A sound whose spectrum is this uneven (geometric ÷ arithmetic mean of its power) right after it begins has a
pitch: a call, and no slap. A convention, set on the studio's sounds."""


@dataclass(frozen=True, kw_only=True)
class Onset:
    """A sound's beginning in seconds, its strength from 0 to 1 (the clip's largest), and whether it has a pitch, as a call has."""

    time_s: float
    strength: float
    voiced: bool = False


def find_onsets(
    flux: Sequence[float] | NDArray[np.float64], step_s: float, start_s: float = 0.0, flatness: Sequence[float] = ()
) -> tuple[Onset, ...]:
    """Onsets in a spectral flux: the sum of what each band's log magnitude gained since the step before.

    Args:
        flux: one value a step, not negative; silence is 0.
        step_s: seconds between two steps.
        start_s: time of the first step.
        flatness: each step's spectral flatness, 0 (a pure tone) to 1 (noise); empty where it is not known.

    A peak counts when it is the largest within APART_S on either side and stands out of its
    surroundings (peak picking after Dixon, "Onset detection revisited", 2006).
    """
    rise = np.asarray(flux, dtype=np.float64)
    if rise.size == 0 or rise.max() <= 0:
        return ()
    reach = 2 * max(round(MEDIAN_REACH_S / step_s), 1) + 1
    usual = median_filter(rise, reach, mode="nearest")
    scatter = float(np.median(np.abs(rise - usual)))
    stands_out = rise - usual
    highest = maximum_filter1d(rise, 2 * max(round(APART_S / step_s), 1) + 1, mode="nearest")
    least = max(ABOVE_SCATTER * scatter, LEAST_SHARE * float(stands_out.max()))
    peaks = np.flatnonzero((rise >= highest) & (stands_out > least))
    top = float(stands_out[peaks].max()) if peaks.size else 1.0
    found = [
        Onset(time_s=start_s + float(k) * step_s, strength=float(stands_out[k]) / top, voiced=_voiced(flatness, int(k), step_s))
        for k in peaks
    ]
    # A plateau gives equal neighbours: the first of them is the onset.
    return tuple(onset for i, onset in enumerate(found) if i == 0 or onset.time_s - found[i - 1].time_s >= APART_S)


def _voiced(flatness: Sequence[float], step: int, step_s: float) -> bool:
    after = flatness[step + 1 : step + 1 + max(round(VOICED_S / step_s), 1)]
    return len(after) > 0 and float(np.mean(after)) < VOICED_FLATNESS
