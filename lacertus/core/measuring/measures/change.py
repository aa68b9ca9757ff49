"""`change`: how much a value changes from one event to another."""

from __future__ import annotations

from pydantic import Field

from lacertus.core.measuring import geometry
from lacertus.core.measuring.measures.base import EventKey, Kind, Measure, PointRef, Reading
from lacertus.core.measuring.measures.nested import Scalar
from lacertus.core.measuring.measures.scalar import in_space
from lacertus.core.measuring.scene import Scene


class ChangeMeasure(Measure):
    """How much another measure changes between two events, in its own unit."""

    of: Scalar
    start: EventKey = Field(alias="from")
    end: EventKey = Field(alias="to")

    @property
    def events_used(self) -> tuple[str, ...]:
        return (self.start.event, self.end.event)

    @property
    def points_used(self) -> tuple[PointRef, ...]:
        return self.of.points_used

    @property
    def unit_shown(self) -> str | None:
        return self.of.measure.unit_shown


def read(measure: ChangeMeasure, scene: Scene, checkpoint_id: str) -> Reading:
    """Value at `to` less value at `from`. What both have in common (the shared part of a landmark's σ) cancels.

    Raises:
        NotSeen: one of the two cannot be read.
    """
    before = measure.of.at(scene, scene.frame_of(measure.start))
    after = measure.of.at(scene, scene.frame_of(measure.end))
    frames, notes = (*before.frames, *after.frames), tuple(dict.fromkeys((*before.notes, *after.notes)))
    if after.draws is not None and before.draws is not None:
        return in_space(after.draws - before.draws, after.unit, frames, notes, cyclic=after.cyclic)
    value = after.value - before.value
    if after.cyclic:
        value = (value + 180.0) % 360.0 - 180.0
    parts = geometry.combined((1.0, after.parts), (-1.0, before.parts))
    return Reading(
        value=value,
        unit=after.unit,
        u=geometry.uncertainty_of(parts),
        frames=frames,
        notes=notes,
        parts=parts,
        lean_unknown=after.lean_unknown or before.lean_unknown,
    )


KIND = Kind(name="change", measure_model=ChangeMeasure, read=read)
