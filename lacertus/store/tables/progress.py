"""The ledger, rungs, grades, and what was taught."""

from __future__ import annotations

import uuid
from datetime import date, datetime
from typing import Any

from sqlalchemy import (
    ARRAY,
    CheckConstraint,
    ForeignKey,
    Index,
    Integer,
    UniqueConstraint,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column, relationship

from lacertus.store.tables.base import Base, created, key, owner


class JudgementRow(Base):
    """A verdict of a finished review, as the ledger reads it.

    How the rep was done stands here as it was when the review was finished: a student's page reads that student's rows alone,
    and a rep that is changed while its review is revised changes nothing before it is finished anew.
    """

    __tablename__ = "judgement"
    id: Mapped[int] = mapped_column(primary_key=True)
    review_id: Mapped[uuid.UUID] = owner("review")
    rep_id: Mapped[uuid.UUID] = owner("rep")
    student_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("student.id"))
    filmed_on: Mapped[date]
    technique: Mapped[str]
    checkpoint: Mapped[str]
    kind: Mapped[str]
    verdict: Mapped[str]
    measured: Mapped[str | None]
    because: Mapped[str | None]
    value: Mapped[float | None]
    unit: Mapped[str | None]
    uncertainty: Mapped[float | None]
    frames: Mapped[list[int]] = mapped_column(ARRAY(Integer))
    view: Mapped[str | None]
    reason: Mapped[str | None]
    fault: Mapped[str]
    family: Mapped[str]
    safety: Mapped[bool]
    entry: Mapped[bool] = mapped_column(default=False, server_default="false")
    """It asked whether the technique was open at all."""
    choice: Mapped[str | None]
    """Whether it was open in this rep: open, wrong, unknown; empty where nothing asked."""
    counts: Mapped[bool] = mapped_column(default=True, server_default="true")
    """False where the rep was a wrong choice, so that how it was done counts nowhere."""
    first_frame: Mapped[int]
    side: Mapped[str]
    pace: Mapped[str]
    rung: Mapped[str | None]
    purpose: Mapped[str]
    outcome: Mapped[str | None]
    reaction: Mapped[str | None]
    options: Mapped[dict[str, str]]
    stance: Mapped[str | None]
    layer: Mapped[str | None]
    start: Mapped[str | None]
    start_at: Mapped[str | None]
    end_at: Mapped[str | None]
    __table_args__ = (
        UniqueConstraint("rep_id", "checkpoint"),
        Index("ix_judgement_student_id_filmed_on", "student_id", "filmed_on"),
        CheckConstraint("verdict in ('met', 'borderline', 'missed', 'not_seen', 'not_asked')", name="verdict"),
    )


class ReactedRow(Base):
    """One time that the partner did something in a finished review: what was done about it, how fast, and how the rep ended.

    `latency_ms` is the time from the reaction to the first answer, `u_ms` its standard uncertainty. How the rep was done stands
    here as it was when the review was finished.
    """

    __tablename__ = "reacted"
    id: Mapped[int] = mapped_column(primary_key=True)
    review_id: Mapped[uuid.UUID] = owner("review")
    rep_id: Mapped[uuid.UUID] = owner("rep")
    student_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("student.id"), index=True)
    filmed_on: Mapped[date]
    technique: Mapped[str]
    reaction: Mapped[str]
    frame: Mapped[int | None]
    answer: Mapped[str | None]
    latency_ms: Mapped[float | None]
    u_ms: Mapped[float | None]
    verdict: Mapped[str]
    reason: Mapped[str | None]
    side: Mapped[str]
    pace: Mapped[str]
    rung: Mapped[str | None]
    purpose: Mapped[str]
    outcome: Mapped[str | None]
    stance: Mapped[str | None]
    start: Mapped[str | None]
    options: Mapped[dict[str, str]]
    __table_args__ = (CheckConstraint("verdict in ('met', 'borderline', 'missed', 'not_seen', 'not_asked')", name="verdict"),)


class Tally(Base):
    """Exposures and misses of a fault by review and student: the verdicts added up, for what is asked of a whole academy.

    The database keeps it: a trigger on `judgement` adds a review's verdicts up anew whenever one of them comes, changes or goes
    (migrations 0011, 0015). Demonstrations are not in it.
    """

    __tablename__ = "tally"
    review_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("review.id", ondelete="CASCADE"), primary_key=True)
    student_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("student.id", ondelete="CASCADE"), primary_key=True)
    technique: Mapped[str] = mapped_column(primary_key=True)
    fault: Mapped[str] = mapped_column(primary_key=True)
    academy_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("academy.id", ondelete="CASCADE"))
    filmed_on: Mapped[date]
    family: Mapped[str]
    safety: Mapped[bool]
    exposures: Mapped[int]
    misses: Mapped[int]
    __table_args__ = (
        Index("ix_tally_academy_id_filmed_on", "academy_id", "filmed_on"),
        Index("ix_tally_student_id_filmed_on", "student_id", "filmed_on"),
    )


class StudentState(Base):
    """What was worked out of a student's history (`part` of it), kept while its stamp is that of all it was worked out from.

    `until` is the first day (not included) on which it is to be worked out anew though nothing has changed.
    """

    __tablename__ = "student_state"
    student_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("student.id", ondelete="CASCADE"), primary_key=True)
    part: Mapped[str] = mapped_column(primary_key=True)
    stamp: Mapped[str]
    until: Mapped[date | None]
    body: Mapped[list[Any]] = mapped_column(JSONB)


class Feeling(Base):
    """Whether performer and partner say that they feel sure on a rung of a technique; null is not asked yet."""

    __tablename__ = "feeling"
    student_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("student.id", ondelete="CASCADE"), primary_key=True)
    technique: Mapped[str] = mapped_column(primary_key=True)
    rung: Mapped[str] = mapped_column(primary_key=True)
    performer: Mapped[bool | None]
    partner: Mapped[bool | None]


class RungDecision(Base):
    """What the coach decided on a student's rung: from which to which, what was recommended by what number, and why."""

    __tablename__ = "rung_decision"
    id: Mapped[uuid.UUID] = key()
    student_id: Mapped[uuid.UUID] = owner("student")
    account_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    technique: Mapped[str]
    from_rung: Mapped[str]
    to_rung: Mapped[str]
    decision: Mapped[str]
    advice: Mapped[str]
    because: Mapped[str]
    why: Mapped[str] = mapped_column(default="")
    decided_on: Mapped[date]
    created_at: Mapped[datetime] = created()
    __table_args__ = (
        CheckConstraint("decision in ('advance', 'hold', 'step_back')", name="decision"),
        CheckConstraint("advice in ('advance', 'hold', 'step_back')", name="advice"),
    )


class Grade(Base):
    """A grade of an academy: techniques, each with the rung that is asked. `place` orders them, the first grade first."""

    __tablename__ = "grade"
    id: Mapped[uuid.UUID] = key()
    academy_id: Mapped[uuid.UUID] = owner("academy")
    name: Mapped[str]
    place: Mapped[int]
    required: Mapped[list[Requirement]] = relationship(lazy="raise", order_by="Requirement.technique", cascade="all, delete-orphan")
    __table_args__ = (UniqueConstraint("academy_id", "name"),)


class Requirement(Base):
    """A technique that a grade asks for, on a rung that is to be passed."""

    __tablename__ = "requirement"
    grade_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("grade.id", ondelete="CASCADE"), primary_key=True)
    technique: Mapped[str] = mapped_column(primary_key=True)
    rung: Mapped[str]


class Taught(Base):
    """A day on which a technique was taught in class."""

    __tablename__ = "taught"
    academy_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("academy.id", ondelete="CASCADE"), primary_key=True)
    technique: Mapped[str] = mapped_column(primary_key=True)
    taught_on: Mapped[date] = mapped_column(primary_key=True)
    account_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
