"""`together`: how far apart in time several events lie."""

from __future__ import annotations

import math
from typing import Annotated

from pydantic import Field

from lacertus.core.measuring.measures.base import EventKey, InTime, Kind, Reading
from lacertus.core.measuring.scene import Scene

RANGE_QUANTILE = {2: 2.77, 3: 3.31, 4: 3.63}
"""95 % quantile of the range of 2, 3, 4 standard normal values (studentised range, infinite degrees of freedom):
so far apart do events look that happened together (docs/measurement.md)."""


class TogetherMeasure(InTime):
    """How far apart events are in time, milliseconds."""

    events: Annotated[tuple[EventKey, ...], Field(min_length=2, max_length=4)]

    @property
    def events_used(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys(event.event for event in self.events))

    @property
    def natural_bounds(self) -> tuple[float, float]:
        return 0.0, math.inf


def read(measure: TogetherMeasure, scene: Scene, checkpoint_id: str) -> Reading:
    """Latest − earliest in real time; u is both instants' in quadrature, and *missed* needs a whole range more.

    Raises:
        NotSeen: an event is not marked.
        DidNotHappen: an event was looked for and did not happen.
    """
    instants = [scene.instant(event) for event in measure.events]
    first, last = min(instants, key=lambda i: i.time_s), max(instants, key=lambda i: i.time_s)
    scale = {"ms": 1000.0, "s": 1.0, "frames": 1 / max(i.gap_s for i in instants)}[measure.unit]
    widest = max(instant.u_s for instant in instants)
    return Reading(
        value=(last.time_s - first.time_s) * scale,
        unit=measure.unit,
        u=math.hypot(first.u_s, last.u_s) * scale,
        frames=tuple(instant.frame for instant in instants),
        miss_margin=RANGE_QUANTILE[len(instants)] * widest * scale,
    )


KIND = Kind(name="together", measure_model=TogetherMeasure, read=read)
