"""`seen`: a yes/no question answered by eye, by the coach, the partner or the student."""

from __future__ import annotations

from typing import Literal

from lacertus.core.errors import NotSeen
from lacertus.core.measuring.measures.base import EventKey, Kind, Measure, Reading
from lacertus.core.measuring.scene import Scene


class SeenMeasure(Measure):
    """A question for the eye, at an event."""

    at: EventKey | None = None
    by: Literal["coach", "partner", "student"] = "coach"

    @property
    def events_used(self) -> tuple[str, ...]:
        return (self.at.event,) if self.at else ()

    @property
    def natural_bounds(self) -> tuple[float, float]:
        return (0.0, 1.0)


def read(measure: SeenMeasure, scene: Scene, checkpoint_id: str) -> Reading:
    """1 for yes (as it should be), 0 for no. Nothing is measured, so u is 0.

    Raises:
        NotSeen: nobody has answered.
        DidNotHappen: the event to look at was looked for and did not happen.
    """
    frames: tuple[int, ...] = ()
    if measure.at is not None:
        marked = scene.marked(measure.at)
        frames = () if marked is None else (marked,)
    answer = scene.rep.seen.get(checkpoint_id, {}).get(measure.by)
    if answer is None:
        raise NotSeen(f"not answered yet: the {measure.by} says yes or no")
    return Reading(value=1.0 if answer else 0.0, unit=None, u=0.0, frames=frames)


KIND = Kind(name="seen", measure_model=SeenMeasure, read=read, by_eye=True)
