"""What the routes of a student's progress take and give: what to fix first, before and after, notes."""

from __future__ import annotations

import uuid
from datetime import date
from typing import Annotated

from pydantic import Field

from lacertus.core.corrections.shapes import Shape
from lacertus.web.schemas import In, Name, Out


class FocusOut(Out):
    technique: str
    technique_name: str
    fault: str
    checkpoint: str
    ask: str
    cue: str
    safety: bool
    reason: str
    why: str | None


class LinkedOut(Out):
    """A declared cause, and in how many of the effect’s reps it was made too."""

    technique: str
    cause: str
    effect: str
    cause_ask: str
    effect_ask: str
    together: int
    of: int
    decides: bool


class FocusPageOut(Out):
    first: list[FocusOut]
    recommended: list[FocusOut] = Field(description="What the rules say, where the coach chose otherwise")
    links: list[LinkedOut]
    chosen_on: date | None


class FaultRef(In):
    technique: Name
    fault: Name


class FocusIn(In):
    choices: Annotated[list[FaultRef], Field(max_length=10)]
    why: Annotated[str, Field(max_length=2000)] = ""


class PictureOut(Out):
    """A rep at the frame at which a checkpoint was read; `time_s` lies inside that frame."""

    clip: uuid.UUID
    rep: uuid.UUID
    checkpoint: str
    filmed_on: date
    frame: int
    time_s: float
    width: int
    height: int
    has_film: bool
    shapes: list[Shape]
    verdict: str
    value: float | None
    unit: str | None
    uncertainty: float | None
    side: str


class BeforeAfterOut(Out):
    before: PictureOut | None
    after: PictureOut | None


class NoteOut(Out):
    id: uuid.UUID
    noted_on: date
    words: str
    by: str


class NoteIn(In):
    words: Annotated[str, Field(max_length=5000)]
