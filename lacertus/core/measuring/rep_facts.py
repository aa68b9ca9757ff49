"""How a rep was done: the one record of it, for files, rows, the API and screens."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BeforeValidator, Field, field_validator

from lacertus.core.bounds import FrameNumber, Word
from lacertus.core.measuring.body import LEANING, BodyName, Side
from lacertus.core.model import Record

Heading = Literal["left", "right"]
View = Literal["side", "front", "behind", "angle", "above", "two"]
"""Where a clip is filmed from, and what a technique is best filmed from; `two` are two cameras."""
FORMER_VIEWS = {"back": "behind", "oblique": "angle"}
"""Views as files name them that were written before."""
Stance = Literal["same_lead", "opposite_lead", "square"]
Partner = Literal["person", "dummy", "bag", "none"]
Pace = Literal["slow", "full"]


def named_now(view: Any) -> Any:
    """A view by its name of today."""
    return FORMER_VIEWS.get(view, view) if isinstance(view, str) else view


AnyView = Annotated[View, BeforeValidator(named_now)]
"""A view, also by its former name."""


class Nearer(Record):
    """What somebody saw of depth: whether a joint is nearer to the camera than the joint that it hangs on, in a frame.

    A knee hangs on its hip, a wrist on its elbow; a hip or a shoulder is told against that of the other side.
    """

    body: BodyName
    landmark: Word
    frame: FrameNumber
    nearer: bool

    @field_validator("landmark")
    @classmethod
    def _leans(cls, value: str) -> str:
        if value not in LEANING:
            raise ValueError(f"“{value}” is not one of {', '.join(LEANING)}")
        return value


MOST_NEARER = 200


class TargetTurn(Record):
    """How far the line to the target is turned out of the picture, as somebody saw it or paced it out on the mat.

    Degrees seen from above, positive away from the camera: from the side, the front or behind against where a camera stands
    that films squarely from there; from an angle as from the side.
    """

    deg: float = Field(ge=-75, le=75)
    u: float = Field(default=5.0, ge=1, le=30)


class RepFacts(Record):
    """How a rep was done, as far as a rep file says it; docs/formats.md says what each means."""

    side: Side
    options: dict[Word, Word] = {}
    partner: Partner | None = "person"
    stance: Stance | None = None
    rung: Word | None = None
    pace: Pace | None = "full"
    grade: Word | None = None
    layer: Word | None = Field(default=None, description="Layer that alone is judged")
    start: Word | None = Field(default=None, description="Start of the technique that the rep was done from")
    purpose: Literal["attempt", "fit_in", "drill", "demonstration"] = "attempt"
    outcome: Literal["completed", "blocked", "countered", "released"] | None = None
    start_at: Word | None = Field(default=None, description="Phase that a rep starting midway begins at")
    end_at: Word | None = Field(default=None, description="Phase that a rep ending early ends with")
    resists_from: Word | None = None
    reaction: Word | None = None
    finish: Word | None = None
    view: AnyView | None = None
    heading: Heading | None = None
    nearer: tuple[Nearer, ...] = Field(default=(), max_length=MOST_NEARER, description="What was seen of depth by eye")
    target_turn: TargetTurn | None = Field(default=None, description="How far the line to the target is turned out of the picture")


class KeptRepFacts(RepFacts):
    """The same of a rep that is kept, where nothing that has a default is left open."""

    partner: Partner = "person"
    pace: Pace = "full"
    view: AnyView = "side"
    heading: Heading = "right"


FACT_NAMES = tuple(RepFacts.model_fields)
MAY_BE_EMPTY = frozenset(name for name, field in KeptRepFacts.model_fields.items() if field.default is None)
"""Facts that a coach may take back; the others are always something."""
