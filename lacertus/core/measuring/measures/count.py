"""`count`: how many times an event was marked."""

from __future__ import annotations

import math

from pydantic import Field

from lacertus.core.errors import NotSeen
from lacertus.core.measuring.measures.base import EventKey, EventRef, Kind, Measure, Reading
from lacertus.core.measuring.scene import Scene


class CountMeasure(Measure):
    """How often an event is marked."""

    event: str
    start: EventKey | None = Field(default=None, alias="from")
    end: EventKey | None = Field(default=None, alias="to")

    @property
    def events_used(self) -> tuple[str, ...]:
        refs = (self.start, self.end)
        return tuple(dict.fromkeys((self.event, *(ref.event for ref in refs if ref is not None))))

    @property
    def natural_bounds(self) -> tuple[float, float]:
        return 0.0, math.inf

    @property
    def unit_shown(self) -> str:
        return "times"


def read(measure: CountMeasure, scene: Scene, checkpoint_id: str) -> Reading:
    """Markings from one event to another, both frames included; 0 where it was looked for and did not happen.

    Raises:
        NotSeen: the event was not looked for.
        DidNotHappen: an end of the stretch did not happen.
    """
    marked = scene.rep.events.get(measure.event)
    if marked is None:
        raise NotSeen(f"event “{measure.event.replace('_', ' ')}” is not marked")
    first, last = (_end(ref, default, scene) for ref, default in zip((measure.start, measure.end), scene.rep.range, strict=True))
    frames = tuple(frame for frame in marked if first <= frame <= last)
    return Reading(value=float(len(frames)), unit="times", u=0.0, frames=frames)


def _end(ref: EventRef | None, default: int, scene: Scene) -> int:
    return default if ref is None else scene.frame_of(ref)


KIND = Kind(name="count", measure_model=CountMeasure, read=read)
