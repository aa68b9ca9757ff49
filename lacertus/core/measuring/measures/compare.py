"""`compare`: two values of one rep against one another."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from lacertus.core.errors import NotSeen
from lacertus.core.measuring import geometry
from lacertus.core.measuring.measures.base import EventKey, Kind, Measure, PointRef, Reading
from lacertus.core.measuring.measures.nested import AnyMeasure
from lacertus.core.measuring.measures.scalar import in_space
from lacertus.core.measuring.scene import Scene


class CompareMeasure(Measure):
    """One measure less another of the same unit, or divided by it."""

    of: AnyMeasure
    against: AnyMeasure = Field(alias="with")
    how: Literal["difference", "ratio"] = Field(default="difference", alias="as")
    at: EventKey | None = None

    @property
    def events_used(self) -> tuple[str, ...]:
        own = () if self.at is None else (self.at.event,)
        return tuple(dict.fromkeys((*self.of.events_used, *self.against.events_used, *own)))

    @property
    def points_used(self) -> tuple[PointRef, ...]:
        return (*self.of.points_used, *self.against.points_used)

    @property
    def unit_shown(self) -> str | None:
        return "ratio" if self.how == "ratio" else self.of.measure.unit_shown


def read(measure: CompareMeasure, scene: Scene, checkpoint_id: str) -> Reading:
    """`of` − `with`, or `of` ÷ `with`; what both have in common cancels as far as it does.

    Raises:
        NotSeen: one of the two cannot be read, they have different units, or the divisor may be nothing.
    """
    first = measure.of.read(scene, checkpoint_id, measure.at)
    second = measure.against.read(scene, checkpoint_id, measure.at)
    if measure.how == "difference" and first.unit != second.unit:
        raise NotSeen(f"{first.unit} and {second.unit} cannot be taken from one another; compare them as a ratio")
    if measure.how == "ratio" and abs(second.value) <= 2 * second.u:
        raise NotSeen("the value that is divided by may be nothing, so a ratio cannot be told")
    frames, notes = (*first.frames, *second.frames), tuple(dict.fromkeys((*first.notes, *second.notes)))
    unit = "ratio" if measure.how == "ratio" else first.unit
    if first.draws is not None and second.draws is not None:
        drawn = first.draws - second.draws if measure.how == "difference" else first.draws / second.draws
        return in_space(drawn, unit, frames, notes)
    value, weights = _compared(measure.how, first.value, second.value)
    parts = geometry.combined((weights[0], _parts(first, "of")), (weights[1], _parts(second, "with")))
    return Reading(
        value=value,
        unit=unit,
        u=geometry.uncertainty_of(parts),
        frames=frames,
        notes=notes,
        parts=parts,
        lean_unknown=first.lean_unknown or second.lean_unknown,
    )


def _compared(how: str, first: float, second: float) -> tuple[float, tuple[float, float]]:
    """The value and its derivatives by both."""
    if how == "difference":
        return first - second, (1.0, -1.0)
    return first / second, (1 / second, -first / second**2)


def _parts(reading: Reading, label: str) -> geometry.Parts:
    """A reading's ingredients; one whole where they are not told apart."""
    return reading.parts or {("whole", label): reading.u}


KIND = Kind(name="compare", measure_model=CompareMeasure, read=read)
