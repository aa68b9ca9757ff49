"""What the routes of classes, the floor, rounds and calendars take and give."""

from __future__ import annotations

import uuid
from datetime import date, datetime
from typing import Annotated, Literal

from pydantic import AwareDatetime, Field

from lacertus.core.plan.clock import Act, Where
from lacertus.core.plan.lesson import PlannedPairs, Teach, Unit
from lacertus.core.plan.rounds import Attempt, Counted, Side, Tap
from lacertus.services.classes.lessons import OnDay
from lacertus.web.schemas import In, Name, Out, out_of

Id = Annotated[str, Field(max_length=200)]
Minute = Annotated[int, Field(ge=0, le=1439, description="Minute of the day")]
Minutes = Annotated[int, Field(ge=1, le=600)]
Pairs = Annotated[int, Field(ge=1, le=200, description="Pairs that train at once")]
Equipment = Annotated[list[Annotated[str, Field(min_length=1, max_length=60)]], Field(max_length=30)]
Students = Annotated[list[uuid.UUID], Field(max_length=300)]
Version = Annotated[int, Field(ge=1, le=1_000_000_000)]
Frame = Annotated[int, Field(ge=0, le=10_000_000)]


class MemberOut(Out):
    id: uuid.UUID
    name: str
    is_child: bool


# --- the week --------------------------------------------------------------------------------------


class WeeklyIn(In):
    """A class that is held every week."""

    name: Name
    weekday: Annotated[int, Field(ge=0, le=6, description="0 is Monday")]
    at: Minute
    minutes: Minutes
    mats: Pairs = 10
    since: date
    until: date | None = None
    for_children: bool = False
    equipment: Equipment = []


class WeeklyOut(Out):
    id: uuid.UUID
    name: str
    weekday: int
    at: int
    minutes: int
    mats: int
    since: date
    until: date | None
    for_children: bool
    equipment: list[str]
    members: list[uuid.UUID]


class ExceptionIn(In):
    """A day on which a class is called off, or moved to another day or time."""

    moved_to: date | None = None
    at: Minute | None = None
    why: Annotated[str, Field(max_length=200)] = ""


class ExceptionOut(Out):
    weekly: uuid.UUID
    name: str
    planned_on: date
    moved_to: date | None
    at: int | None
    why: str


class OnDayOut(out_of(OnDay)):  # type: ignore[misc]
    """A class on a day; `lesson` once it is planned."""


class CalendarOut(Out):
    today: date
    weekly: list[WeeklyOut]
    exceptions: list[ExceptionOut]
    classes: list[OnDayOut]
    people: list[MemberOut]


class MembersIn(In):
    students: Students


class FeedOut(Out):
    address: str


# --- classes ---------------------------------------------------------------------------------------


class PlanWeeklyIn(In):
    weekly: uuid.UUID
    planned_on: date


class PlanOnceIn(In):
    name: Name
    on: date
    at: Minute
    minutes: Minutes
    mats: Pairs = 10


class LessonChange(In):
    """What is left out stays as it is. `version` is the one that was shown: what somebody else changed since is not undone."""

    version: Version
    name: Name | None = None
    held_on: date | None = None
    at: Minute | None = None
    minutes: Minutes | None = None
    mats: Pairs | None = None
    for_children: bool | None = None
    equipment: Equipment | None = None
    teach: Annotated[list[Teach], Field(max_length=8)] | None = None
    coming: Students | None = None
    units: Annotated[list[Unit], Field(max_length=60)] | None = None
    pairs: PlannedPairs | None = None


class VersionIn(In):
    version: Version


class TaughtLayerOut(Out):
    id: str
    name: str


class TaughtStartOut(Out):
    id: str
    says: str


class NextOut(Out):
    """What to teach next of a technique."""

    layer: str | None
    layer_name: str
    start: str | None
    start_says: str
    is_new: bool
    holding: int
    coming: int


class TeachableOut(Out):
    """A technique that can be taught."""

    technique: str
    name: str
    family: str
    grown_ups: bool
    layers: list[TaughtLayerOut]
    starts: list[TaughtStartOut]
    next: NextOut
    last_taught: date | None


class AttendingOut(Out):
    id: uuid.UUID
    name: str
    is_child: bool
    came: bool | None


class ClockOut(out_of(Where)):  # type: ignore[misc]
    """Where a class is, at the server’s own time."""

    now: float = Field(description="The server’s time, seconds since the epoch")


class ClassOut(Out):
    """A class with its plan."""

    id: uuid.UUID
    weekly: uuid.UUID | None
    planned_on: date | None
    held_on: date
    at: int
    minutes: int
    name: str
    mats: int
    for_children: bool
    equipment: list[str]
    teach: list[Teach]
    units: list[Unit]
    pairs: PlannedPairs | None
    coming: list[AttendingOut]
    version: int
    clock: ClockOut
    booked_at: datetime | None
    today: date


class ActIn(In):
    act: Act
    unit: Annotated[int, Field(ge=0, le=1000)] | None = None


class CameIn(In):
    came: bool | None


class BookIn(In):
    came: Students
    done: Annotated[list[Id], Field(max_length=60)]


class RuleIn(In):
    """Two students who are kept apart, or allowed together; null takes the rule back."""

    one: uuid.UUID
    other: uuid.UUID
    rule: Literal["apart", "allowed"] | None
    why: Annotated[str, Field(max_length=200)] = ""


class RuleOut(Out):
    one: uuid.UUID
    one_name: str
    other: uuid.UUID
    other_name: str
    rule: str
    why: str


# --- curriculum ------------------------------------------------------------------------------------


class CurriculumRowOut(Out):
    """A technique that a grade asks for, over the academy."""

    grade: str
    technique: str
    name: str
    rung: str
    last_taught: date | None
    last_filmed: date | None
    students: int
    holding: int
    interval: list[float]
    next: NextOut


class LayerWordIn(In):
    holds: bool | None


# --- the floor -------------------------------------------------------------------------------------


class FloorIn(In):
    """Something seen or asked on the floor. With its key it is one note, however often it is sent."""

    kind: Literal["fault", "good", "remark", "question", "film"]
    students: Annotated[list[uuid.UUID], Field(min_length=1, max_length=40)]
    key: uuid.UUID
    at: AwareDatetime
    lesson: uuid.UUID | None = None
    unit: Id = ""
    technique: Id = ""
    checkpoint: Id = ""
    words: Annotated[str, Field(max_length=500)] = ""


class FloorOut(Out):
    id: uuid.UUID
    kind: str
    student: uuid.UUID
    unit: str
    technique: str
    technique_name: str
    checkpoint: str
    ask: str
    words: str
    noted_at: datetime
    done_at: datetime | None
    by: str


# --- rounds ----------------------------------------------------------------------------------------


class RoundIn(In):
    """A round or a game: live, or a range of a clip."""

    objective: Annotated[str, Field(min_length=1, max_length=200)]
    student: uuid.UUID
    other: uuid.UUID | None = None
    seconds: Annotated[float, Field(ge=1, le=3600, allow_inf_nan=False)] = 120
    rounds: Annotated[int, Field(ge=1, le=60)] = 1
    rest_s: Annotated[float, Field(ge=0, le=3600, allow_inf_nan=False)] = 0
    lesson: uuid.UUID | None = None
    clip: uuid.UUID | None = None
    first_frame: Frame | None = None
    last_frame: Frame | None = None


class TapsIn(In):
    """Taps to add, and the keys of those to take back."""

    taps: Annotated[list[Tap], Field(max_length=200)] = []
    undo: Annotated[list[Annotated[str, Field(max_length=64)]], Field(max_length=200)] = []


class RoundAttemptOut(out_of(Attempt)):  # type: ignore[misc]
    by: str
    technique_name: str


class RoundShareOut(Out):
    """So many of so many, with the 95 % interval of the rate."""

    count: int
    of: int
    rate: float
    interval: list[float]


class ThirdOut(Out):
    attempts: int
    a_minute: float
    interval: list[float]
    completed: RoundShareOut | None
    median_s: float | None


class RoundSummaryOut(Out):
    """One student's round in numbers."""

    student: str
    over_all: Counted
    completed: RoundShareOut | None
    by_side: dict[Side, Counted]
    mix: dict[Side, RoundShareOut]
    first: ThirdOut
    last: ThirdOut


class RoundAnswerOut(Out):
    """An answer to a reaction: how often, how fast, and how often the rep came through."""

    reaction: str
    answer: str | None
    times: RoundShareOut
    median_ms: float | None
    interval_ms: list[float] | None
    completed: RoundShareOut | None


class GameOut(Out):
    """A game: points of each by round, rounds won, draws."""

    rounds: list[dict[str, int]]
    wins: dict[str, int]
    draws: int
    by_side: dict[str, dict[Side, int]]


class RoundOut(Out):
    id: uuid.UUID
    held_on: date
    objective: str
    student: uuid.UUID
    student_name: str
    other: uuid.UUID | None
    other_name: str
    clip: uuid.UUID | None
    clip_name: str
    first_frame: int | None
    last_frame: int | None
    rounds: int
    seconds: float
    rest_s: float
    clock: ClockOut
    taps: list[Tap]
    attempts: list[RoundAttemptOut]
    summaries: list[RoundSummaryOut]
    answers: list[RoundAnswerOut]
    game: GameOut | None
