"""What the routes of the academy, its grades and second opinions take and give."""

from __future__ import annotations

import uuid
from datetime import date
from typing import Annotated, Literal

from pydantic import Field

from lacertus.core.academy.common_faults import LEAST_SHARING, MOST_SHARE
from lacertus.core.progress.ledger import HIT_MISSES, HIT_RATE
from lacertus.web.schemas import In, Name, Out

Second = Literal["met", "missed", "not_seen"]


# --- the academy at a glance -------------------------------------------------------------------------


class WhoOut(Out):
    id: uuid.UUID
    name: str


class RatePointOut(Out):
    """How often something was missed in a month, with the 95 % interval. `month` is its first day."""

    month: date
    misses: int
    exposures: int
    rate: float
    interval: list[float]


class PacePointOut(Out):
    """Minutes a rep in the reviews of a month: the median, and the middle half of them."""

    month: date
    reviews: int
    minutes: float
    low: float
    high: float


class FaultOverMonthsOut(Out):
    technique: str
    technique_name: str
    fault: str
    ask: str
    points: list[RatePointOut]


class OverMonthsOut(Out):
    """An academy over months: the faults that were missed most, and the coach’s own time a rep."""

    months: list[date]
    faults: list[FaultOverMonthsOut]
    pace: list[PacePointOut]


class CommonOut(Out):
    """A fault among the students that were judged in these days."""

    technique: str
    technique_name: str
    fault: str
    family: str
    ask: str
    safety: bool
    asked: int = Field(description="Students with enough reps to tell")
    sharing: list[WhoOut]
    interval: list[float] = Field(description="95 % interval of the share of students")
    exposures: int
    misses: int
    teaching: bool = Field(description="Shared by most: the teaching may be the cause")


class SharingRuleOut(Out):
    """When a fault counts as a student’s, and when the teaching is asked."""

    least_misses: int = HIT_MISSES
    least_rate: float = HIT_RATE
    least_students: int = LEAST_SHARING
    over_share: float = MOST_SHARE


class UnseenOut(Out):
    id: uuid.UUID
    name: str
    last: date | None


class AgreementOut(Out):
    of: str
    judged: int
    reps: int
    same: float
    same_interval: list[float]
    alpha: float | None = Field(description="Krippendorff’s α; null where there is nothing to tell chance from")
    interval: list[float] | None


class OfferOut(Out):
    review: uuid.UUID
    clip_name: str
    student: str
    filmed_on: date
    first: str
    begun: bool


class AcademyOut(Out):
    since: date
    until: date
    students: int
    filmed: int
    reps: int
    common: list[CommonOut]
    sharing_rule: SharingRuleOut = SharingRuleOut()
    unseen: list[UnseenOut]
    unseen_days: int
    agreement: AgreementOut | None
    pairs: list[AgreementOut]
    ways: list[AgreementOut]
    checkpoints: list[AgreementOut]
    offers: list[OfferOut] = Field(description="Reviews that the signed-in coach can judge a second time")


# --- second opinions ---------------------------------------------------------------------------------


class ColleagueOut(Out):
    """A coach who can judge a review a second time."""

    id: uuid.UUID
    name: str
    asked_on: date | None
    asked_by: str
    given: bool


class LookedAtOut(Out):
    id: str
    ask: str
    look_for: str
    why: str
    phase: str
    safety: bool
    frame: int | None
    mine: Second | None
    first: str | None


class LookedAtRepOut(Out):
    id: uuid.UUID
    technique: str
    side: str
    first_frame: int
    last_frame: int
    checkpoints: list[LookedAtOut]


class SecondOpinionOut(Out):
    review: uuid.UUID
    clip: uuid.UUID
    clip_name: str
    student: str
    filmed_on: date
    first_coach: str
    handed_in: bool
    width: int
    height: int
    pts_s: list[float]
    reps: list[LookedAtRepOut]
    cautions: list[str]


class SecondIn(In):
    verdict: Second | None


# --- grades ------------------------------------------------------------------------------------------


class AskedOut(Out):
    technique: str
    name: str
    rung: str
    ladder: list[str]
    last_taught: date | None
    last_filmed: date | None
    lacking: list[str] = Field(description="Who works towards the grade and has not passed it yet")


class GradeOut(Out):
    id: uuid.UUID
    name: str
    students: int = Field(description="How many work towards it")
    asked: list[AskedOut]


class GradeIn(In):
    name: Annotated[str, Field(max_length=200)]


class GradeChange(In):
    name: Annotated[str | None, Field(max_length=200)] = None
    up: bool | None = Field(default=None, description="One place earlier, or later")


class RungIn(In):
    rung: Name


class HeldOut(Out):
    technique: str
    name: str
    rung: str
    passed: bool
    passed_to: str | None
    last_taught: date | None
    last_filmed: date | None


class ProgressOut(Out):
    """A student’s grade, what is lacking first."""

    grade: uuid.UUID
    name: str
    held: list[HeldOut]


class TowardsIn(In):
    grade: uuid.UUID | None
