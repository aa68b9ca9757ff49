"""What the routes of a student's progress take and give: what to fix first, before and after, notes."""

from __future__ import annotations

import uuid
from datetime import date
from typing import Annotated

from pydantic import Field

from lacertus.core.corrections.shapes import Shape
from lacertus.core.progress.fix_first import FaultChoice, LastingFix, Linked
from lacertus.web.schemas import In, Out, out_of


class LastingFixOut(out_of(LastingFix)):  # type: ignore[misc]
    technique_name: str
    seen_on_floor: int = Field(description="How often it was seen on the floor in the last 30 days; no exposures")


class LinkedOut(out_of(Linked)):  # type: ignore[misc]
    """A declared cause, and in how many of the effect’s reps it was made too."""

    decides: bool


class FixFirstPageOut(Out):
    first: list[LastingFixOut]
    recommended: list[LastingFixOut] = Field(description="What the rules say, where the coach chose otherwise")
    links: list[LinkedOut]
    chosen_on: date | None


class FixFirstIn(In):
    choices: Annotated[list[FaultChoice], Field(max_length=10)]
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
