"""`interval`: the time from one event to another."""

from __future__ import annotations

import math

from pydantic import Field

from lacertus.core.measuring.geometry import Parts
from lacertus.core.measuring.measures.base import EventKey, InTime, Kind, Reading
from lacertus.core.measuring.scene import Scene


class IntervalMeasure(InTime):
    """Real time from one event to another, milliseconds."""

    start: EventKey = Field(alias="from")
    end: EventKey = Field(alias="to")

    @property
    def events_used(self) -> tuple[str, ...]:
        return (self.start.event, self.end.event)


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
    parts: Parts = {}
    for sign, instant, ref in ((-scale, start, measure.start), (scale, end, measure.end)):
        name = ("instant", ref.event, str(instant.frame))
        parts[name] = parts.get(name, 0.0) + sign * instant.u_s
    return Reading(value=(end.time_s - start.time_s) * scale, unit=measure.unit, u=u_s * scale, frames=frames, parts=parts)


KIND = Kind(name="interval", measure_model=IntervalMeasure, read=read)
