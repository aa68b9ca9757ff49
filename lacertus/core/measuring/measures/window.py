"""`window`: an answer to a cue, in time, each time that the cue comes."""

from __future__ import annotations

import math
from typing import Annotated

from pydantic import Field

from lacertus.core.errors import NotSeen, WrongAnswer
from lacertus.core.measuring.measures.base import InTime, Kind, Reading
from lacertus.core.measuring.scene import Scene
from lacertus.core.measuring.timebase import Instant


class WindowMeasure(InTime):
    """Whether an answer comes within a time of the reaction that it answers, milliseconds."""

    cue: str
    answers: Annotated[tuple[str, ...], Field(min_length=1)]
    wrong: tuple[str, ...] = ()
    until: str | None = None
    each: bool = False

    @property
    def events_used(self) -> tuple[str, ...]:
        until = () if self.until is None else (self.until,)
        return tuple(dict.fromkeys((self.cue, *self.answers, *self.wrong, *until)))

    @property
    def natural_bounds(self) -> tuple[float, float]:
        return 0.0, math.inf


def read(measure: WindowMeasure, scene: Scene, checkpoint_id: str) -> Reading:
    """Time from the cue to the first answer; with `each` the longest over all cues.

    Raises:
        NotSeen: the cue, or every answer, is not marked.
        WrongAnswer: a wrong one came first, or none before `until` (or the next cue, or the rep's end).
    """
    cues = scene.rep.events.get(measure.cue)
    if cues is None:
        raise NotSeen(f"the cue “{_words(measure.cue)}” is not marked")
    if not cues:
        raise NotSeen(f"the cue “{_words(measure.cue)}” did not come, so there was nothing to answer")
    if all(scene.rep.events.get(answer) is None for answer in measure.answers):
        raise NotSeen(f"no answer is marked: {', '.join(_words(answer) for answer in measure.answers)}")
    asked = cues if measure.each else cues[:1]
    pairs = [(cue, _answer(measure, cue, asked, scene)) for cue in asked]
    return max((_latency(measure, cue, answer, scene) for cue, answer in pairs), key=lambda reading: reading.value)


def _answer(measure: WindowMeasure, cue: int, cues: tuple[int, ...], scene: Scene) -> tuple[int, str]:
    events = scene.rep.events
    ends = [frame for frame in events.get(measure.until or "", ()) if frame > cue]
    ends += [frame for frame in cues if frame > cue]
    end = min(ends, default=scene.rep.range[1] + 1)
    came = [(frame, name) for name in (*measure.answers, *measure.wrong) for frame in events.get(name, ()) if cue <= frame < end]
    if not came:
        raise WrongAnswer(f"no answer to “{_words(measure.cue)}” at frame {cue} before frame {end}")
    frame, name = min(came)
    if name in measure.wrong:
        raise WrongAnswer(f"“{_words(name)}” came first (frame {frame}), which is no answer to “{_words(measure.cue)}”")
    return frame, name


def _latency(measure: WindowMeasure, cue: int, answer: tuple[int, str], scene: Scene) -> Reading:
    start, end = _instant(cue, measure.cue, scene), _instant(*answer, scene)
    scale = {"ms": 1000.0, "s": 1.0, "frames": 1 / end.gap_s}[measure.unit]
    return Reading(
        value=(end.time_s - start.time_s) * scale,
        unit=measure.unit,
        u=math.hypot(start.u_s, end.u_s) * scale,
        frames=(cue, answer[0]),
        notes=(f"answered by {_words(answer[1])}",),
    )


def _instant(frame: int, event: str, scene: Scene) -> Instant:
    return scene.time.instant(frame, scene.edges.get(event, "first"))


def _words(event: str) -> str:
    return event.replace("_", " ")


KIND = Kind(name="window", measure_model=WindowMeasure, read=read)
