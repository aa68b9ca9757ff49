"""What the routes of a student's ledger give."""

from __future__ import annotations

import uuid
from datetime import date
from typing import Literal

from pydantic import Field

from lacertus.core.corrections.shapes import Shape
from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.progress.answers import Latency, Share
from lacertus.web.corrections.schemas import CorrectionOut
from lacertus.web.schemas import Out, StudentOut, out_of

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
    entry: bool = Field(description="It asks whether the technique was open at all: a choice, not how it was done")
    state: State
    first_seen: bool = Field(description="Clean so far, and missed since then in too few reps for a state of its own")
    missed_again: bool = Field(description="Cleared, and missed since then in too few reps for a state of its own")
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


class BlockOut(Out):
    """Sessions joined: the day of the last, misses of exposures, the rate with its 95 % interval, and the state after it."""

    on: date
    exposures: int
    misses: int
    rate: float
    interval: list[float]
    state: State


class MarkOut(Out):
    """What was done about a fault meanwhile."""

    on: date
    kind: Literal["drill", "rung", "cue"]
    words: str


class FaultDetailOut(Out):
    """A fault, or a family, by side, pace and rung (no name: not said), and what came of it."""

    sides: list[HistoryPartOut]
    paces: list[HistoryPartOut]
    rungs: list[HistoryPartOut]
    options: dict[str, list[HistoryPartOut]] = Field(description="By option group, its choices (no name: not said)")
    success: list[SuccessOut]
    cleared_by: str | None = Field(description="The cue that was given before it cleared")
    blocks: list[BlockOut] = Field(description="The rate over time, the oldest first")
    marks: list[MarkOut]


class ShareOut(out_of(Share)):  # type: ignore[misc]
    """So many of so many, with the 95 % interval of the rate."""


class LatencyOut(out_of(Latency)):  # type: ignore[misc]
    """The median of so many latencies and its 95 % interval, milliseconds; below six the whole range."""


class AnswerRowOut(Out):
    """An answer to a reaction; `answer` is empty where none came, `counts` whether it is one that counts."""

    answer: str | None
    name: str
    counts: bool
    times: ShareOut
    latency: LatencyOut | None
    completed: ShareOut | None


class ReactionOut(Out):
    technique: str
    technique_name: str
    reaction: str
    says: str
    within_ms: float | None
    held: ShareOut | None = Field(description="Answered rightly and in time")
    answers: list[AnswerRowOut]


class SuccessByChoiceOut(Out):
    name: str
    completed: ShareOut


class SuccessByOut(Out):
    """How often reps came through, by the choices of an option group, by start, or by whether it was open."""

    technique: str
    technique_name: str
    group: str
    choices: list[SuccessByChoiceOut]


class AnswersOut(Out):
    reactions: list[ReactionOut]
    success: list[SuccessByOut]


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
