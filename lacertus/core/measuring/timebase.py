"""Frames, the file's own times and real time.

`pts_s` holds every frame's own time in the file, in display order. The capture rate says how many
seconds of the file one second of reality lasts, and may change within a clip: a 240-frame capture
that plays at 30 has rate 8.
"""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

from lacertus.core.errors import BadRep, NotSeen

MARKING_SCATTER_S = 0.006
"""Least scatter of a coach's own marking, in seconds. A convention (docs/measurement.md)."""

Edge = Literal["first", "last"]


@dataclass(frozen=True, kw_only=True)
class Instant:
    """A moment in real time: seconds from frame 0, its standard uncertainty, and its frame."""

    frame: int
    time_s: float
    u_s: float
    gap_s: float


@dataclass(frozen=True)
class TimeBase:
    """Maps frames to real seconds.

    Args:
        pts_s: the frames' times in the file, in seconds, strictly increasing.
        capture_rate: (frame, rate) pairs; from that frame on, real time = file time ÷ rate.
        marking_s: the coach's own marking scatter where it was measured, in seconds.
    """

    pts_s: tuple[float, ...]
    capture_rate: tuple[tuple[int, float], ...] = ((0, 1.0),)
    marking_s: float | None = None
    _starts: tuple[int, ...] = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        check_times(self.pts_s)
        check_capture_rate(self.capture_rate)
        object.__setattr__(self, "_starts", tuple(frame for frame, _ in self.capture_rate))

    @cached_property
    def real_s(self) -> tuple[float, ...]:
        """Every frame's real time in seconds, 0 at frame 0."""
        if len(self.capture_rate) == 1:
            first, rate = self.pts_s[0], self.capture_rate[0][1]
            return tuple([(time - first) / rate for time in self.pts_s])
        times = [0.0]
        for frame in range(1, len(self.pts_s)):
            gap = self.pts_s[frame] - self.pts_s[frame - 1]
            times.append(times[-1] + gap / self.rate_at(frame - 1))
        return tuple(times)

    def rate_at(self, frame: int) -> float:
        """Capture rate in force from this frame to the next."""
        return self.capture_rate[bisect_right(self._starts, frame) - 1][1]

    def instant(self, frame: int, edge: Edge = "first") -> Instant:
        """When an event marked at `frame` happened.

        “First frame in which” lies between the frame before and this one, “last frame in which”
        between this one and the next: the middle of that gap, with u² = gap²/12 + s²
        (a uniform distribution over the gap, and the marking scatter s).

        Raises:
            NotSeen: where the clip has no frame on the other side of the gap.
        """
        before, after = (frame - 1, frame) if edge == "first" else (frame, frame + 1)
        if before < 0 or after >= len(self.real_s):
            where = "first" if before < 0 else "last"
            raise NotSeen(f"marked on the clip’s {where} frame, so when it began cannot be told; use a longer clip")
        gap = self.real_s[after] - self.real_s[before]
        scatter = self.marking_s if self.marking_s is not None else max(gap / 2, MARKING_SCATTER_S)
        middle = (self.real_s[before] + self.real_s[after]) / 2
        return Instant(frame=frame, time_s=middle, u_s=math.sqrt(gap**2 / 12 + scatter**2), gap_s=gap)


def check_times(pts_s: Sequence[float]) -> None:
    """Raise BadRep unless the times, in seconds, are finite and strictly increasing."""
    if not pts_s:
        raise BadRep("pts_s is empty: a clip has at least one frame")
    if not all(math.isfinite(time) for time in pts_s):
        raise BadRep("pts_s holds a time that is no finite number")
    for frame in range(1, len(pts_s)):
        if pts_s[frame] <= pts_s[frame - 1]:
            raise BadRep(f"pts_s does not increase at frame {frame}: {pts_s[frame - 1]} then {pts_s[frame]}")


def check_capture_rate(capture_rate: Sequence[tuple[int, float]]) -> None:
    """Raise BadRep unless the rates start at frame 0, in order, and are positive."""
    if not capture_rate or capture_rate[0][0] != 0:
        raise BadRep("capture_rate must start at frame 0")
    frames = [frame for frame, _ in capture_rate]
    if frames != sorted(set(frames)):
        raise BadRep("capture_rate must list its frames in order, each once")
    if not all(math.isfinite(rate) and rate > 0 for _, rate in capture_rate):
        raise BadRep("capture_rate holds a rate that is not above 0")


def aligned_frames(one: TimeBase, frame: int, other: TimeBase, other_frame: int) -> tuple[int, ...]:
    """For every frame of one clip, the frame that another clip of the same reps shows at that real time.

    `frame` and `other_frame` show the same instant. A frame is on the screen from its own time until the
    next one's, so the one is taken whose own time is nearest.
    """
    return shown_at(one, other, other.real_s[other_frame] - one.real_s[frame])


def shown_at(one: TimeBase, other: TimeBase, shift: float) -> tuple[int, ...]:
    """For every frame of one clip, the frame of another that shows it; real times of the other are later by `shift` seconds."""
    times = other.real_s
    found = []
    for time in one.real_s:
        after = bisect_right(times, time + shift)
        before = max(after - 1, 0)
        after = min(after, len(times) - 1)
        nearer_after = abs(times[after] - time - shift) < abs(times[before] - time - shift)
        found.append(after if nearer_after else before)
    return tuple(found)
