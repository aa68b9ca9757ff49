"""What the routes of the day and of practice take and give."""

from __future__ import annotations

import uuid
from datetime import date, datetime
from typing import Annotated, Literal

from pydantic import Field

from lacertus.core.plan.practice import Helped, Kept
from lacertus.core.techniques.practice import Dose
from lacertus.web.classes.schemas import OnDayOut
from lacertus.web.schemas import In, Name, Out, out_of

Id = Annotated[str, Field(max_length=200)]
Words = Annotated[str, Field(max_length=2000)]
Side = Literal["both", "left", "right"]
EndedWhy = Literal["done", "replaced", "pain", "cleared", "stopped"]


# --- the day ---------------------------------------------------------------------------------------


class DayReasonOut(Out):
    """Why something is to be done: what kind it is, whom it is about, in words, and where the work is."""

    kind: str
    student: str
    words: str
    path: str


class DayTaskOut(Out):
    """An item of the queue."""

    id: str
    safety: bool
    severity: float
    minutes: float
    priority: float
    since: date
    overdue_days: int
    path: str
    reasons: list[DayReasonOut]


class DayOut(Out):
    on: date
    minutes: float = Field(description="What the chosen items take together")
    chosen: list[DayTaskOut]
    left: list[DayTaskOut] = Field(description="What does not fit into the minutes at hand")
    more_chosen: int = Field(description="So many more are chosen than are listed")
    more_left: int
    classes: list[OnDayOut]
    waiting: int = Field(description="Items in the inbox")
    arrived: int = Field(description="Clips of the last two days")
    looking: int = Field(description="Students who are still to be looked at")


class WorkedIn(In):
    """Seconds that the bench was open and used since the last time that this was sent; or what they come to, as corrected."""

    add_s: Annotated[float, Field(ge=0, le=600)] | None = None
    total_s: Annotated[float, Field(ge=0, le=360_000)] | None = None


class WorkedOut(Out):
    worked_s: float


# --- practice --------------------------------------------------------------------------------------


class DrillChoiceOut(Out):
    """A drill that answers a fault, or a position to begin the technique from (`is_start`)."""

    technique: str
    id: str
    name: str
    how: str
    dose: Dose
    dose_words: str
    minutes: float
    partner_task: str
    start: str | None
    own: bool
    is_start: bool


class ProposalOut(Out):
    """A thing to fix first with its drills."""

    technique: str
    technique_name: str
    fault: str
    ask: str
    reason: str
    drills: list[DrillChoiceOut]
    prescribed: list[str]


class DrillIn(In):
    """A drill of the academy's own for a fault, in a line."""

    fault: Id
    name: Name
    how: Annotated[str, Field(max_length=600)] = ""
    dose: Dose


class PrescribeIn(In):
    """What to prescribe: a drill by its id, or one that is written here by name."""

    technique: Id
    faults: Annotated[list[Id], Field(min_length=1, max_length=10)]
    dose: Dose
    drill: Id = ""
    name: Annotated[str, Field(max_length=120)] = ""
    how: Annotated[str, Field(max_length=600)] = ""
    times_a_week: Annotated[int, Field(ge=1, le=21)] = 3
    partner_task: Annotated[str, Field(max_length=400)] = ""
    side: Side = "both"
    start: Id | None = None
    until: date | None = None
    made_in: Literal["review", "class", "hand"] = "hand"
    review: uuid.UUID | None = None


class PrescriptionChange(In):
    """What is left out stays as it is."""

    dose: Dose | None = None
    times_a_week: Annotated[int, Field(ge=1, le=21)] | None = None
    side: Side | None = None
    partner_task: Annotated[str, Field(max_length=400)] | None = None


class EndIn(In):
    why: EndedWhy = "stopped"


class PracticeIn(In):
    """So much of a prescription that was done on a day; without an amount it is one dose."""

    prescription: uuid.UUID
    on: date
    place: Literal["class", "home"] = "home"
    amount: Annotated[int, Field(ge=0, le=5000)] | None = None
    felt: Literal["sure", "unsure"] | None = None
    pain: bool = False
    words: Annotated[str, Field(max_length=400)] = ""
    key: uuid.UUID | None = None


class KeptOut(out_of(Kept)):  # type: ignore[misc]
    """How much of what is prescribed was done in the last 28 days."""


class PracticeRateOut(Out):
    """Misses of exposures over some sessions, with the 95 % interval of the rate."""

    misses: int
    exposures: int
    sessions: int
    rate: float
    interval: list[float]


class HelpedOut(Out):
    """The rates of a fault before and after, their difference, and what they come to."""

    fault: str
    ask: str
    before: PracticeRateOut
    after: PracticeRateOut
    difference: float
    interval: list[float]
    verdict: Helped


class DrillClipOut(Out):
    clip: uuid.UUID
    name: str
    on: date
    reps: int
    reviewed: bool


class PrescriptionOut(Out):
    """A prescription with what came of it."""

    id: uuid.UUID
    technique: str
    technique_name: str
    drill: str
    name: str
    how: str
    faults: list[str]
    dose: Dose
    dose_words: str
    minutes: float
    times_a_week: int
    partner_task: str
    side: Side
    made_in: str
    since: date
    until: date | None
    ended_on: date | None
    ended_why: str
    by: str
    kept: KeptOut | None
    helped: list[HelpedOut]
    clips: list[DrillClipOut]


class LogOut(Out):
    """An entry of the practice log."""

    id: uuid.UUID
    done_on: date
    technique: str
    name: str
    amount: int
    place: str
    felt: str | None
    pain: bool
    words: str
    said_by: str
    by: str
    created_at: datetime


class WeekOut(Out):
    """How much was done in the seven days up to a day."""

    until: date
    kept: KeptOut


class PracticeOut(Out):
    """A student's practice."""

    open: list[PrescriptionOut]
    ended: list[PrescriptionOut]
    adherence: KeptOut | None
    weeks: list[WeekOut]
    log: list[LogOut]
    next_day: date | None = Field(description="The student's next class day")


class PrescribedOut(Out):
    """What was prescribed; `replaced` names the prescription that made room for it."""

    id: uuid.UUID
    name: str
    replaced: str | None


class TogetherOut(Out):
    """In how many students a fault cleared within 42 days, with a drill or cue and without it."""

    what: str
    kind: Literal["drill", "cue"]
    technique: str
    technique_name: str
    fault: str
    ask: str
    cleared: int
    of: int
    interval: list[float]
    cleared_without: int
    of_without: int
    interval_without: list[float]
