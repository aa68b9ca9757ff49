"""What a checkpoint reads, as a quantity with a value in every frame: the angle, height, distance or speed behind the number."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

from lacertus.core.measuring.measures import KINDS
from lacertus.core.measuring.measures.base import Measure, PointRef
from lacertus.core.measuring.measures.change import ChangeMeasure
from lacertus.core.measuring.measures.compare import CompareMeasure
from lacertus.core.measuring.measures.dwell import DwellMeasure
from lacertus.core.measuring.measures.nested import Nested
from lacertus.core.measuring.measures.path import PathMeasure
from lacertus.core.measuring.measures.peak import PeakMeasure
from lacertus.core.measuring.measures.speed import SpeedMeasure
from lacertus.core.techniques.checkpoint import Checkpoint
from lacertus.core.techniques.vocabulary import Wanted

TIMES_UNITS = ("ms", "s", "frames", "zone")
NO_CURVE = {
    "interval": "a time between two events: look at the events",
    "together": "times between events: look at the events",
    "order": "the order of events: look at the events",
    "window": "an answer in time: look at the events",
    "count": "how often an event happened: look at the events",
    "seen": "answered by eye: there is nothing measured",
    "set": "told over all reps, not by one alone",
    "floor": "read on the mat’s plan: look at the plan of the mat",
}
"""Why some kinds have no value in every frame."""


@dataclass(frozen=True, kw_only=True)
class Quantity:
    """Something that has a value in every frame.

    `nested` is a measure that is read at a frame; else `way` says what of the points is told: how fast they move or their angle
    opens, or how far the first has come from where it was. `wanted` is the range in which the value should lie.
    """

    name: str
    unit: str | None
    nested: Nested | None = None
    way: Literal["speed", "turning", "distance"] | None = None
    points: tuple[PointRef, ...] = field(default=())
    wanted: Wanted | None = None


def quantities_of(checkpoint: Checkpoint, within: Wanted | None) -> tuple[Quantity, ...]:
    """What a checkpoint reads, in every frame; none for kinds that read events alone.

    Args:
        checkpoint: the checkpoint.
        within: its wanted range in the rep that is looked at.
    """
    measure: Any = checkpoint.measure
    if KINDS[checkpoint.kind].frame_rule is not None:
        return (_of(checkpoint.kind, measure, within),)
    if isinstance(measure, PeakMeasure):
        is_size = measure.unit_shown not in TIMES_UNITS
        return (_of(measure.scalar.kind, measure.scalar.measure, within if is_size else None),)
    if isinstance(measure, ChangeMeasure):
        return (_of(measure.of.kind, measure.of.measure, None),)
    if isinstance(measure, DwellMeasure):
        return tuple(_of(state.kind, state.measure, state.within) for state in measure.states)
    if isinstance(measure, CompareMeasure):
        both = (measure.of, measure.against)
        return tuple(_of(one.kind, one.measure, None) for one in both if KINDS[one.kind].frame_rule is not None)
    if isinstance(measure, SpeedMeasure):
        way: Literal["speed", "turning"] = "speed" if measure.angle is None else "turning"
        fastest = within if measure.pick == "highest" else None
        return (Quantity(name=way, unit=measure.unit_shown, way=way, points=measure.points_used, wanted=fastest),)
    if isinstance(measure, PathMeasure):
        return (Quantity(name="distance", unit="height", way="distance", points=measure.points_used),)
    return ()


def why_none(checkpoint: Checkpoint) -> str:
    """Why a checkpoint has no quantity over time, in words."""
    return NO_CURVE.get(checkpoint.kind, "it has no value in every frame")


def _of(kind: str, measure: Measure, wanted: Wanted | None) -> Quantity:
    return Quantity(
        name=_name(kind, measure), unit=measure.unit_shown, nested=Nested(kind=kind, measure=measure), points=measure.points_used,
        wanted=wanted,
    )  # fmt: skip


def _name(kind: str, measure: Measure) -> str:
    """In a word or two what is measured, and of what: `angle of the working knee`."""
    points: Sequence[PointRef] = measure.points_used
    if kind == "angle" and len(points) == 3:
        return f"angle at the {_spoken(points[1])}"
    if kind == "balance":
        return "share of the weight" if measure.unit_shown == "share" else "distance of the weight from its base"
    word = {"relation": "place", "gap": "gap", "line": "line", "inclination": "lean", "facing": "facing"}.get(kind, kind)
    return f"{word} of the {_spoken(points[0])}" if points else word


def _spoken(ref: PointRef) -> str:
    name = ref.name if ref.name is not None else " to ".join(ref.on or ())
    owner, _, bare = name.rpartition(".")
    return f"partner’s {bare.replace('_', ' ')}" if owner == "partner" else bare.replace("_", " ")
