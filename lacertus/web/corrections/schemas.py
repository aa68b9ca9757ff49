"""Corrections and what is drawn of them, as the API takes and gives them."""

from __future__ import annotations

import uuid
from typing import Annotated

from pydantic import Field

from lacertus.core.corrections.example import Example, Source
from lacertus.core.corrections.marks import Mark
from lacertus.core.corrections.shapes import Shape
from lacertus.web.schemas import Frame, In, Name, Out


class CorrectionIn(In):
    """A correction: the frame it stops on, from where to where it is shown, its marks and its cue."""

    checkpoint: Name
    frame: Frame
    first_frame: Frame
    last_frame: Frame
    marks: Annotated[list[Mark], Field(max_length=50)] = []
    cue: Annotated[str, Field(max_length=20_000)]
    snap: bool = Field(default=True, description="Hang places that lie at a landmark on it")
    voice_s: float | None = Field(default=None, gt=0, le=3600, description="Given again where the correction was taken away before")


class CheckpointIn(In):
    checkpoint: Name


class CopyIn(In):
    rep: uuid.UUID
    id: uuid.UUID


class CopiesIn(In):
    copies: Annotated[list[CopyIn], Field(min_length=1, max_length=60)]


class ExampleIn(In):
    source: Source | None


class ExampleChoiceOut(Out):
    source: Source
    words: str


class CorrectionOut(Out):
    id: uuid.UUID
    rep_id: uuid.UUID
    checkpoint: str
    fault: str
    frame: int
    first_frame: int
    last_frame: int
    marks: list[Mark]
    cue: str
    has_still: bool
    voice_s: float | None
    example: Example | None


class DrawnStretchOut(Out):
    first: int
    last: int
    shapes: list[Shape]


class DrawnCorrectionOut(Out):
    id: uuid.UUID
    stretches: list[DrawnStretchOut]
