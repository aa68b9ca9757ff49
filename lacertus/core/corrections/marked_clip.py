"""How a marked clip runs: corrected reps at their own pace, slowed where a correction shows, stopping where it is to be read."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated

from pydantic import Field

from lacertus.core.model import Record

SLOWED = 4.0
"""So many times slower while a correction shows. A convention, as are the next three."""
STOP_S = 2.0
WORD_S = 0.35
"""Time to read a word of the cue while the picture stands."""
AFTER_VOICE_S = 0.4


class MarkedClipMade(Record):
    """A marked clip that was made: its length, and the cues whose voice note could not be read."""

    seconds: Annotated[float, Field(ge=0, le=1e6)]
    lost: Annotated[tuple[str, ...], Field(max_length=500)] = ()


@dataclass(frozen=True, kw_only=True)
class Showing:
    """A correction in the marked clip: from one frame to another, stopping at `frame`; its cue, how long the coach speaks."""

    key: str
    first: int
    last: int
    frame: int
    cue: str
    voice_s: float = 0.0

    @property
    def stop_s(self) -> float:
        """How long the picture stands, seconds."""
        reading = STOP_S + WORD_S * len(self.cue.split())
        return max(reading, self.voice_s + AFTER_VOICE_S if self.voice_s else 0.0)


@dataclass(frozen=True, kw_only=True)
class Step:
    """A frame of the source: when it comes in the marked clip and for how long, seconds, and the corrections shown on it."""

    frame: int
    at_s: float
    for_s: float
    shown: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Spoken:
    """A correction's words: from when to when they stand in the marked clip, and when its picture stops."""

    key: str
    from_s: float
    to_s: float
    stops_s: float
    cue: str


@dataclass(frozen=True, kw_only=True)
class MarkedClipPlan:
    """The whole marked clip."""

    steps: tuple[Step, ...]
    spoken: tuple[Spoken, ...]

    @property
    def length_s(self) -> float:
        return self.steps[-1].at_s + self.steps[-1].for_s if self.steps else 0.0

    def step_at(self, time_s: float) -> Step:
        """The step that is on the screen at a time."""
        return self.steps[max(0, bisect_right(self._starts, time_s + 1e-9) - 1)]

    @cached_property
    def _starts(self) -> list[float]:
        return [step.at_s for step in self.steps]


def plan_of(reps: Sequence[tuple[int, int]], showings: Sequence[Showing], pts_s: Sequence[float]) -> MarkedClipPlan:
    """Plan a marked clip.

    Args:
        reps: first and last frame of each rep that is shown, in clip order; where they overlap, a frame comes once.
        showings: the corrections, on frames of these reps.
        pts_s: time of every frame of the clip, seconds of the file: reps play at the file's own pace.
    """
    steps: list[Step] = []
    begun: dict[str, float] = {}
    ended: dict[str, float] = {}
    stops: dict[str, float] = {}
    now, done = 0.0, -1
    usual = (pts_s[-1] - pts_s[0]) / max(len(pts_s) - 1, 1)
    for first, last in reps:
        for frame in range(max(first, done + 1), last + 1):
            here = [one for one in showings if one.first <= frame <= one.last]
            gap = pts_s[frame + 1] - pts_s[frame] if frame + 1 < len(pts_s) else usual
            lasts = gap * (SLOWED if here else 1.0)
            for one in here:
                begun.setdefault(one.key, now)
                if one.frame == frame:
                    stops[one.key] = now + lasts
                    lasts += one.stop_s
            steps.append(Step(frame=frame, at_s=now, for_s=lasts, shown=tuple(one.key for one in here)))
            now += lasts
            ended |= {one.key: now for one in here}
        done = max(done, last)
    spoken = [
        Spoken(key=one.key, from_s=begun[one.key], to_s=ended[one.key], stops_s=stops.get(one.key, begun[one.key]), cue=one.cue)
        for one in showings
        if one.key in begun
    ]
    return MarkedClipPlan(steps=tuple(steps), spoken=tuple(sorted(spoken, key=lambda one: (one.from_s, one.to_s))))
