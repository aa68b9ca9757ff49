"""Shapes of the API for training the eye."""

from __future__ import annotations

import uuid
from datetime import date, datetime
from typing import Annotated

from pydantic import AwareDatetime, Field

from lacertus.core.eye.facts import Spot
from lacertus.core.eye.questions import Kind, Question, Truth
from lacertus.core.eye.scoring import Given, Scored
from lacertus.core.eye.sets import LONGEST_MIN, SHORTEST_MIN
from lacertus.core.eye.spread import Rate, Spread
from lacertus.web.schemas import In, Name, Out, out_of


class EyeSetIn(In):
    """A set of some minutes; without techniques or kinds, of all."""

    minutes: float = Field(default=3.0, ge=SHORTEST_MIN, le=LONGEST_MIN)
    techniques: Annotated[list[Name], Field(max_length=100)] = []
    kinds: Annotated[list[Kind], Field(max_length=10)] = []


class EyeSpotOut(out_of(Spot)):  # type: ignore[misc]
    """A place in a frame, pixels."""


class EyeChoiceOut(Out):
    """Something that can be chosen."""

    id: str
    says: str


class EyeQuestionOut(out_of(Question, without=("says", "choices"))):  # type: ignore[misc]
    """What is asked of a film, or of two."""

    says: str
    choices: list[EyeChoiceOut]


class EyeFilmOut(Out):
    """A film that a question is asked on: its size in pixels, and when each of its frames begins, seconds."""

    id: uuid.UUID
    width: int
    height: int
    first: int
    last: int
    pts_s: list[float]
    is_real: bool = Field(description="Film of a finished review, of a student who agreed to it; else the studio's figures")


class EyeAskedOut(Out):
    """A question of a set."""

    question: EyeQuestionOut
    technique_name: str
    level: int
    films: list[EyeFilmOut]


class EyeSetOut(Out):
    """A set, and how many films are still being made."""

    asked: list[EyeAskedOut]
    waiting: int


class EyeAnswerIn(In):
    """An answer, with a key of its sender's own and when it was given."""

    key: uuid.UUID
    films: Annotated[list[uuid.UUID], Field(min_length=1, max_length=2)]
    kind: Kind
    subject: Annotated[str, Field(max_length=100)] = ""
    given: Given
    at: AwareDatetime | None = None


class EyeTruthOut(out_of(Truth, without=("says", "why", "drawn"))):  # type: ignore[misc]
    """What is so, and what is drawn over the frame."""

    says: str
    why: str
    drawn: list[EyeSpotOut]


class EyeScoredOut(out_of(Scored)):  # type: ignore[misc]
    """How far an answer is off: given − true."""


class EyeAnsweredOut(Out):
    """What came of an answer."""

    scored: EyeScoredOut
    truth: EyeTruthOut
    level: int
    due_at: datetime


class EyeSpreadOut(out_of(Spread)):  # type: ignore[misc]
    """Mean and standard deviation of errors, each with its 95 % interval."""

    bias_within: list[float] | None
    scatter_within: list[float] | None


class EyeRateOut(out_of(Rate)):  # type: ignore[misc]
    """How often of how often, with its 95 % interval."""

    within: list[float]


class EyeSubjectOut(Out):
    """Errors about one event (ms) or angle (degrees), one's own and the others' together."""

    technique: str
    subject: str
    says: str
    own: EyeSpreadOut
    others: EyeSpreadOut


class EyeAlarmsOut(Out):
    """What is seen of a checkpoint."""

    technique: str
    checkpoint: str
    says: str
    hits: EyeRateOut
    false_alarms: EyeRateOut


class EyeKindOut(Out):
    kind: Kind
    own: EyeRateOut
    others: EyeRateOut


class EyeWeekOut(Out):
    day: date
    hits: EyeRateOut
    events_ms: float | None
    angles_deg: float | None


class OwnEventsOut(Out):
    """The own scatter of marked events, and whether it is used in one's reviews."""

    answers: int
    least: int
    sigma_s: float | None
    is_used: bool


class OwnEventsIn(In):
    use: bool


class EyeNamedIn(In):
    shown: bool


class EyeColleagueOut(Out):
    """What the eye of somebody is like who shows it by name."""

    name: str
    hits: EyeRateOut
    events: EyeSpreadOut
    angles: EyeSpreadOut


class EyeNamedOut(Out):
    """Whether one shows one's own eye by name, and who else does."""

    is_named: bool
    colleagues: list[EyeColleagueOut]


class EyeTechniqueOut(Out):
    """A technique that films are made of, and how many there are."""

    id: str
    name: str
    films: int


class EyeOut(Out):
    """One's own eye: what is due, what it is like, beside the academy's."""

    answers: int
    due: int
    films: int
    waiting: int
    techniques: list[EyeTechniqueOut]
    events: EyeSubjectOut
    angles: EyeSubjectOut
    helped: EyeSpreadOut
    by_event: list[EyeSubjectOut]
    by_angle: list[EyeSubjectOut]
    alarms: list[EyeAlarmsOut]
    opinions: int = Field(description="How many second opinions are among what is seen of checkpoints")
    kinds: list[EyeKindOut]
    least_others: int = Field(description="From so many other people on, what they answered is shown together")
    weeks: list[EyeWeekOut]
    own_events: OwnEventsOut
    named: EyeNamedOut
