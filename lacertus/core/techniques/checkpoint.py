"""A checkpoint: one thing that must be so, how it is measured, what is said of it."""

from __future__ import annotations

from typing import Annotated, Any, Literal, Self

from pydantic import BeforeValidator, Field, SerializeAsAny, field_validator, model_serializer, model_validator

from lacertus.core.measuring.measures import KINDS, Measure
from lacertus.core.measuring.measures.nested import AnyMeasure, Nested, read_nested
from lacertus.core.measuring.rep_facts import View
from lacertus.core.model import Record
from lacertus.core.techniques.vocabulary import FAULT_FAMILIES, WRONG_CHOICE, Identifier, Text, Wanted


class Fault(Record):
    """What a missed checkpoint is called, and the family that it belongs to."""

    code: Identifier
    family: str

    @field_validator("family")
    @classmethod
    def _known_family(cls, value: str) -> str:
        if value not in FAULT_FAMILIES:
            raise ValueError(f"“{value}” is not a fault family")
        return value


class Condition(Record):
    """When a checkpoint is asked: a measure lies within its range, or a question was answered so."""

    nested: Nested | None = None
    seen: str | None = None
    answer: bool = True

    @model_serializer
    def _as_written(self) -> dict[str, Any]:
        if self.nested is not None:
            return self.nested.model_dump(mode="json", by_alias=True)
        return {"seen": self.seen} | ({} if self.answer else {"answer": False})

    @property
    def events_used(self) -> tuple[str, ...]:
        return () if self.nested is None else self.nested.events_used


def _read_condition(value: Any) -> Any:
    if isinstance(value, dict) and not {"seen", "nested"} & set(value):
        return {"nested": read_nested(value)}
    return value


class Confirm(Record):
    """The answer that settles the depth which the picture does not show: the key that it stands under in `seen`."""

    ask: Text = "Does it hold in depth too?"
    id: str | None = None
    by: Literal["coach", "partner", "student"] | None = None


def _read_confirm(value: Any) -> Any:
    if value is True:
        return {}
    return {"id": value} if isinstance(value, str) else value


def _read_alternatives(value: Any) -> Any:
    return (value,) if isinstance(value, dict | Nested) else value


class Checkpoint(Record):
    """One thing that must be so.

    `entry` says that it asks whether the technique was open at all. `or_else` are measures that are read, in their order, only
    where the own one is not seen; `any_of` takes the best. `branch` names, by reaction, the answers after which alone it is
    asked. `why_these_points` says why other points are read than the sentence names.
    """

    id: Identifier
    phase: str
    kind: str
    ask: Text
    look_for: Text | None = None
    entry: bool = False
    measure: SerializeAsAny[Measure]
    why_these_points: Text | None = None
    best_view: View | None = None
    within: Wanted | None = None
    within_by: dict[str, dict[str, Wanted | None]] = {}
    reason_for_range: Text | None = None
    when: dict[str, str | tuple[str, ...]] = {}
    from_rung: str | None = None
    from_grade: str | None = None
    only_if: Annotated[Condition, BeforeValidator(_read_condition, json_schema_input_type=dict[str, Any])] | None = None
    any_of: tuple[AnyMeasure, ...] = ()
    or_else: Annotated[
        tuple[AnyMeasure, ...],
        BeforeValidator(_read_alternatives, json_schema_input_type=dict[str, Any] | list[dict[str, Any]]),
    ] = ()
    confirm: Annotated[Confirm, BeforeValidator(_read_confirm, json_schema_input_type=Confirm | bool | str)] | None = None
    branch: dict[str, str | tuple[str, ...]] = {}
    switched_off: Text | None = Field(default=None, description="Why it is not asked, where it is switched off")
    fault: Fault
    cues: tuple[Text, ...] = Field(min_length=1)
    cues_for_children: tuple[Text, ...] = ()
    why: Text
    leads_to: tuple[str, ...] = ()
    weight: float = Field(default=1.0, gt=0)
    core: bool = False
    safety: bool = False

    @model_validator(mode="after")
    def _range_makes_sense(self) -> Self:
        ranges = [("within", self.within)]
        ranges += [(f"within_by.{key}.{value}", wanted) for key, by in self.within_by.items() for value, wanted in by.items()]
        for name, wanted in ranges:
            check_wanted(name, wanted, *self.measure.natural_bounds)
        kind = KINDS.get(self.kind)
        if kind is None:
            return self
        if kind.by_eye and self.within is not None:
            raise ValueError(f"{self.kind} takes no “within”: the answer yes is what is wanted")
        for key, others in (("any_of", self.any_of), ("or_else", self.or_else)):
            if any(_lacks_range(other) for other in others):
                raise ValueError(f"each measure of {key} needs its own “within”")
        if self.entry and self.fault.family != WRONG_CHOICE:
            raise ValueError(f"an entry check’s fault is of the family “{WRONG_CHOICE}”, not “{self.fault.family}”")
        if self.only_if is not None and self.only_if.nested is not None and self.only_if.nested.within is None:
            raise ValueError("only_if needs “within”: [lowest, highest]")
        if not kind.by_eye and self.within is None and kind.own_range is None:
            raise ValueError(f"{self.kind} needs “within”: [lowest, highest], null for no limit")
        return self

    @property
    def measures(self) -> tuple[Nested, ...]:
        """Its own measure with its range, and all that may stand in for it."""
        return (Nested(kind=self.kind, measure=self.measure, within=self.within), *self.any_of, *self.or_else)

    @property
    def asked_of(self) -> str:
        """Who answers it where it is answered by eye: the coach, unless its measure names the partner or the student."""
        return next((str(getattr(one.measure, "by", "coach")) for one in self.measures if KINDS[one.kind].by_eye), "coach")

    @property
    def events_used(self) -> tuple[str, ...]:
        """Events that its own measure and its condition read."""
        return tuple(dict.fromkeys((*self.measure.events_used, *(self.only_if.events_used if self.only_if else ()))))


def _lacks_range(other: Nested) -> bool:
    kind = KINDS[other.kind]
    return other.within is None and not kind.by_eye and kind.own_range is None


def check_wanted(name: str, wanted: Wanted | None, least: float, most: float) -> None:
    """Raise ValueError for a range that nothing can fall into, or that limits nothing; all in the measure's own unit."""
    if wanted is None:
        return
    lo, hi = wanted
    if lo is None and hi is None:
        raise ValueError(f"{name} limits nothing: give a lowest or a highest value")
    if lo is not None and hi is not None and lo > hi:
        raise ValueError(f"{name} is empty: {lo} is above {hi}")
    if (lo is not None and lo > most) or (hi is not None and hi < least):
        raise ValueError(f"{name} cannot be reached: the value lies between {least:g} and {most:g}")
