"""What the routes of a student's ledger give."""

from __future__ import annotations

import uuid
from datetime import date
from typing import Literal

from pydantic import Field

from lacertus.core.corrections.shapes import Shape
from lacertus.core.measuring.uncertainty import Verdict
from lacertus.web.corrections.schemas import CorrectionOut
from lacertus.web.schemas import Out, StudentOut

State = Literal["clean", "once", "recurring", "fading", "cleared", "relapsed"]


class CellOut(Out):
    """One session of a fault."""

    on: date
    misses: int
    exposures: int
    borderline: int
    not_seen: int
    state: State
    changed: bool


class HistoryPartOut(Out):
    """A side, a pace or a rung: its misses of exposures, the rate and its 95 % interval."""

    name: str
    exposures: int
    misses: int
    rate: float
    interval: list[float]


class SuccessOut(Out):
    """Completed of all reps with and without the fault, against one reaction of the partner or any (null)."""

    reaction: str | None
    with_fault: list[int]
    without: list[int]


class FaultHistoryOut(Out):
    """A fault of a technique, or a family over all techniques (then technique and fault are empty)."""

    technique: str
    fault: str
    family: str
    safety: bool
    state: State
    misses: int
    exposures: int
    rate: float
    interval: list[float]
    recurrence: float
    recheck: date | None
    lately: list[HistoryPartOut] | None = Field(description="The later and the earlier half of its sessions: which way it goes")
    under_load: bool = Field(description="It relapsed on a harder rung than it was cleared on")
    days: list[CellOut]


class FaultOut(FaultHistoryOut):
    technique_name: str
    ask: str
    checkpoints: list[str]


class FaultDetailOut(Out):
    """A fault, or a family, by side, pace and rung (no name: not said), and what came of it."""

    sides: list[HistoryPartOut]
    paces: list[HistoryPartOut]
    rungs: list[HistoryPartOut]
    options: dict[str, list[HistoryPartOut]] = Field(description="By option group, its choices (no name: not said)")
    success: list[SuccessOut]
    cleared_by: str | None = Field(description="The cue that was given before it cleared")


class RepBehindOut(Out):
    clip: uuid.UUID
    clip_name: str
    rep: uuid.UUID
    first_frame: int
    checkpoint: str
    verdict: Verdict
    value: float | None
    unit: str | None
    side: str
    rung: str | None


class ShownCorrectionOut(CorrectionOut):
    shapes: list[Shape] = Field(description="What is drawn on its frame")
    still_failed: str | None = Field(description="Why its picture could not be drawn")
    filmed_on: date
    technique_name: str
    ask: str
    why: str
    width: int
    height: int


class TechniqueNameOut(Out):
    id: str
    name: str
    rungs: list[str]


class StudentPageOut(Out):
    student: StudentOut
    dates: list[date]
    faults: list[FaultOut]
    families: list[FaultHistoryOut]
    techniques: list[TechniqueNameOut] = Field(description="The techniques that were judged, whatever the filter")
    corrections: list[ShownCorrectionOut]
    cautions: list[str]
