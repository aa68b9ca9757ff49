"""Reps aligned in time: locked on an event in real time, or stretched from event to event so that each phase has the same length.

The clock of a comparison counts seconds of the leading rep, 0 at the event on which the reps are locked. Each side has a time of
that clock for each of its frames; a frame is on the screen from its own time until that of the next one.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from lacertus.core.errors import BadInput

Array = NDArray[np.float64]
Events = Mapping[str, tuple[int, ...]]


def common_events(sides: Sequence[tuple[Events, Sequence[float]]]) -> tuple[str, ...]:
    """The events that every side has and that come in the same order in all, in the leading side's order.

    Args:
        sides: for each side its marked frames by event, and the real time of each frame, seconds. The first marking counts.

    Of two events that come in another order on some side, the one that fits fewer others is left out.
    """
    lead = sides[0][0]
    names = [name for name in lead if all(marked.get(name) for marked, _ in sides)]
    at = {name: [times[marked[name][0]] for marked, times in sides] for name in names}
    kept = sorted(names, key=lambda name: at[name][0])
    while True:
        crossing = {name: sum(_crosses(at[name], at[other]) for other in kept if other != name) for name in kept}
        if not any(crossing.values()):
            return tuple(kept)
        kept.remove(max(kept, key=lambda name: crossing[name]))


def _crosses(one: Sequence[float], other: Sequence[float]) -> bool:
    """Whether two events come in one order on the leading side and in another, or at once, on another side."""
    return any((b - a) * (one[0] - other[0]) >= 0 for a, b in zip(one[1:], other[1:], strict=True)) or one[0] == other[0]


def locked(times_s: Sequence[float], frame: int) -> Array:
    """The clock's time of each frame (n, seconds) of a rep that is locked where `frame` is.

    Raises:
        BadInput: the clip has no such frame.
    """
    if not 0 <= frame < len(times_s):
        raise BadInput(f"the clip has no frame {frame}; its last is {len(times_s) - 1}")
    return np.asarray(times_s, dtype=np.float64) - times_s[frame]


def stretched(clock_s: Array, own: Sequence[float], lead: Sequence[float]) -> Array:
    """Times of a clock (n, seconds) with the events at `own` moved to `lead`, straight between them.

    Before the first and after the last event time runs on as it is, so that nothing outside is stretched.

    Raises:
        BadInput: the events are not as many, or do not come one after the other.
    """
    if len(own) != len(lead):
        raise BadInput("each event needs a time on both sides")
    if not len(own):
        return clock_s
    if any(np.diff(own) <= 0) or any(np.diff(lead) <= 0):
        raise BadInput("the events must come one after the other")
    found = np.interp(clock_s, own, lead)
    before, after = clock_s < own[0], clock_s > own[-1]
    found[before] = clock_s[before] - own[0] + lead[0]
    found[after] = clock_s[after] - own[-1] + lead[-1]
    return np.asarray(found)


def frame_shown(clock_s: Sequence[float], now_s: float) -> int:
    """The frame that is on the screen at a moment of the clock: the last one that has begun, the first before all."""
    return max(0, bisect_right(clock_s, now_s) - 1)


def phase_spans(
    phases: Sequence[str], phase_of: Mapping[str, str], events: Events, clock_s: Array, last: int
) -> dict[str, tuple[float, float]]:
    """When each phase of a rep lasts, seconds of the clock: from its first event to that of the next phase that has one.

    Args:
        phases: in their order.
        phase_of: the phase of each event.
        events: marked frames by event.
        clock_s: the clock's time of each frame.
        last: the rep's last frame, at which its last phase ends.
    """
    begins: dict[str, float] = {}
    for event, frames in events.items():
        if frames and event in phase_of:
            at = float(clock_s[frames[0]])
            begins[phase_of[event]] = min(at, begins.get(phase_of[event], at))
    known = [phase for phase in phases if phase in begins]
    ends = [*(begins[phase] for phase in known[1:]), float(clock_s[last])]
    return {phase: (begins[phase], end) for phase, end in zip(known, ends, strict=True) if end > begins[phase]}
