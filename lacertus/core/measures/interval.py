"""`interval`: the time from one event to another."""

from __future__ import annotations

import math
from typing import Literal

from pydantic import Field

from lacertus.core.measures.base import EventKey, Kind, Measure, Reading
from lacertus.core.scene import Scene


class IntervalMeasure(Measure):
    start: EventKey = Field(alias="from")
    end: EventKey = Field(alias="to")
    unit: Literal["ms", "s", "frames"] = "ms"

    @property
    def events_used(self) -> tuple[str, ...]:
        return (self.start.event, self.end.event)

    @property
    def unit_shown(self) -> str:
        return self.unit


def read(measure: IntervalMeasure, scene: Scene, checkpoint_id: str) -> Reading:
    """`to` − `from` in real time; negative where `to` came first.

    u is the two instants' in quadrature: u² = Σ(gap²/12 + s²).

    Raises:
        NotSeen: an event is not marked, or lies on the edge of the clip.
        DidNotHappen: an event was looked for and did not happen.
    """
    start, end = scene.instant(measure.start), scene.instant(measure.end)
    frames = (start.frame, end.frame)
    u_s = math.hypot(start.u_s, end.u_s)
    if measure.unit == "frames":
        u = math.hypot(start.u_s / start.gap_s, end.u_s / end.gap_s)
        return Reading(value=float(end.frame - start.frame), unit="frames", u=u, frames=frames)
    scale = 1000.0 if measure.unit == "ms" else 1.0
    return Reading(value=(end.time_s - start.time_s) * scale, unit=measure.unit, u=u_s * scale, frames=frames)


KIND = Kind(name="interval", measure_model=IntervalMeasure, read=read)
