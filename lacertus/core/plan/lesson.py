"""A class as it is planned and kept: what is taught, its units, its pairs."""

from __future__ import annotations

from typing import Annotated, Literal
from uuid import UUID

from pydantic import Field

from lacertus.core import bounds
from lacertus.core.model import Record
from lacertus.core.techniques.practice import Dose

UnitKind = Literal["fall", "technique", "drill", "round", "closing", "break", "own"]
_Text = Annotated[str, Field(max_length=2000)]
_Minutes = Annotated[int, Field(ge=1, le=600)]
MOST_UNITS = 60


class Teach(Record):
    """What a class is to be taught: a technique, of it a layer (empty: all of it), from a start (empty: from the beginning)."""

    technique: bounds.Word
    layer: bounds.Word = ""
    start: bounds.Word = ""


class Watched(Record):
    """A checkpoint to watch in a unit: what it asks and how it is cued. `missed` of `of` in this class missed it lately."""

    technique: bounds.Word
    checkpoint: bounds.Word
    ask: _Text
    cue: _Text
    missed: int = 0
    of: int = 0


class Station(Record):
    """Some students at one drill."""

    name: _Text
    drill: _Text
    how: _Text = ""
    dose: Dose | None = None
    students: Annotated[tuple[UUID, ...], Field(max_length=300)]


class Unit(Record):
    """One part of a class. `key` stays the same for what it is when the class is made again, so that what is locked is kept."""

    key: Annotated[str, Field(min_length=1, max_length=200)]
    kind: UnitKind
    name: _Text
    minutes: _Minutes
    technique: bounds.Word = ""
    layer: bounds.Word = ""
    start: bounds.Word = ""
    how: _Text = ""
    dose: Dose | None = None
    partner_task: _Text = ""
    watch: Annotated[tuple[Watched, ...], Field(max_length=12)] = ()
    stations: Annotated[tuple[Station, ...], Field(max_length=12)] = ()
    cautions: Annotated[tuple[_Text, ...], Field(max_length=20)] = ()
    in_pairs: bool = False
    locked: bool = False


class PlannedPair(Record):
    """Two who train together, and their score; a third where one joins them."""

    students: Annotated[tuple[UUID, ...], Field(min_length=2, max_length=2)]
    score: int = 0
    third: UUID | None = None


class PlannedAlone(Record):
    """Somebody for whom there is nobody, and why."""

    student: UUID
    why: _Text


class PlannedPairs(Record):
    """Who trains with whom; `throw` is the technique that the pairs were made for."""

    throw: bounds.Word = ""
    pairs: Annotated[tuple[PlannedPair, ...], Field(max_length=300)] = ()
    alone: Annotated[tuple[PlannedAlone, ...], Field(max_length=300)] = ()


Units = Annotated[tuple[Unit, ...], Field(max_length=MOST_UNITS)]
Teaching = Annotated[tuple[Teach, ...], Field(max_length=12)]
