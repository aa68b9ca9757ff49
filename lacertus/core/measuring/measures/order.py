"""`order`: whether events came one after the other as they should."""

from __future__ import annotations

import itertools
import math
from typing import Annotated

from pydantic import Field

from lacertus.core.errors import DidNotHappen, NotSeen
from lacertus.core.measuring.measures.base import EventKey, EventRef, Kind, Measure, Reading
from lacertus.core.measuring.scene import Scene
from lacertus.core.measuring.timebase import Instant


class OrderMeasure(Measure):
    """How many pairs of events are in the wrong order."""

    events: Annotated[tuple[EventKey, ...], Field(min_length=2)]
    optional: tuple[str, ...] = ()

    @property
    def events_used(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys(event.event for event in self.events))

    @property
    def natural_bounds(self) -> tuple[float, float]:
        return 0.0, math.inf

    @property
    def unit_shown(self) -> str:
        return "pairs"


def read(measure: OrderMeasure, scene: Scene, checkpoint_id: str) -> Reading:
    """Pairs of neighbours that are out of order, and events that did not happen.

    Each difference is judged by itself against not being negative (docs/measurement.md).

    Raises:
        NotSeen: an event that is not optional is not marked.
        DidNotHappen: one that is not optional did not happen.
    """
    there: list[Instant] = []
    for event in measure.events:
        instant = _instant(event, measure, scene)
        if instant is not None:
            there.append(instant)
    pairs = list(itertools.pairwise(there))
    differences = tuple(((b.time_s - a.time_s) * 1000, math.hypot(a.u_s, b.u_s) * 1000) for a, b in pairs)
    return Reading(
        value=float(sum(difference < 0 for difference, _ in differences)),
        unit="pairs",
        u=0.0,
        frames=tuple(instant.frame for instant in there),
        differences=differences,
    )


def _instant(event: EventRef, measure: OrderMeasure, scene: Scene) -> Instant | None:
    try:
        return scene.instant(event)
    except (NotSeen, DidNotHappen):
        if event.event in measure.optional:
            return None
        raise


KIND = Kind(name="order", measure_model=OrderMeasure, read=read, own_range=(None, 0.0))
