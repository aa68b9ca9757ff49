"""How a rep was done: the one record of it, for files, rows, the API and screens."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from lacertus.core.bounds import Word
from lacertus.core.measuring.body import Side
from lacertus.core.model import Record

Heading = Literal["left", "right"]
View = Literal["side", "front", "back", "oblique"]
Partner = Literal["person", "dummy", "bag", "none"]
Pace = Literal["slow", "full"]


class RepFacts(Record):
    """How a rep was done, as far as a rep file says it; docs/formats.md says what each means."""

    side: Side
    options: dict[Word, Word] = {}
    partner: Partner | None = "person"
    stance: Literal["same_lead", "opposite_lead", "square"] | None = None
    rung: Word | None = None
    pace: Pace | None = "full"
    grade: Word | None = None
    purpose: Literal["attempt", "fit_in", "drill", "demonstration"] = "attempt"
    outcome: Literal["completed", "blocked", "countered", "released"] | None = None
    start_at: Word | None = Field(default=None, description="Phase that a rep starting midway begins at")
    end_at: Word | None = Field(default=None, description="Phase that a rep ending early ends with")
    resists_from: Word | None = None
    reaction: Word | None = None
    finish: Word | None = None
    view: View | None = None
    heading: Heading | None = None


class KeptRepFacts(RepFacts):
    """The same of a rep that is kept, where nothing that has a default is left open."""

    partner: Partner = "person"
    pace: Pace = "full"
    view: View = "side"
    heading: Heading = "right"


FACT_NAMES = tuple(RepFacts.model_fields)
MAY_BE_EMPTY = frozenset(name for name, field in KeptRepFacts.model_fields.items() if field.default is None)
"""Facts that a coach may take back; the others are always something."""
