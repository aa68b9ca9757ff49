"""Training the eye: films whose truth is known, what everybody is asked again and again, and what they answered."""

from __future__ import annotations

import uuid
from datetime import datetime
from typing import Any

from sqlalchemy import CheckConstraint, ForeignKey, UniqueConstraint
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from lacertus.core.eye.facts import Facts
from lacertus.core.eye.scoring import Given
from lacertus.store.state import Json
from lacertus.store.tables.base import Base, created, key, owner


class EyeTake(Base):
    """A film: what it shows, and what is true of it once it is filmed.

    The studio's films are the same for all academies, but for those of an academy's own techniques. A film of a rep belongs to the
    rep's academy and stays in the rep's clip; it is one as long as the review is finished as it was then.
    """

    __tablename__ = "eye_take"
    id: Mapped[uuid.UUID] = key()
    technique: Mapped[str] = mapped_column(index=True)
    fault: Mapped[str] = mapped_column(default="")
    """The code of the fault that is put in; empty for none."""
    reaction: Mapped[str] = mapped_column(default="")
    level: Mapped[int]
    seed: Mapped[int]
    state: Mapped[str] = mapped_column(default="wanted")
    facts: Mapped[Facts | None] = mapped_column(Json("facts", Facts))
    created_at: Mapped[datetime] = created()
    academy_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("academy.id", ondelete="CASCADE"), index=True)
    """Whose film it is; None where it is everybody's."""
    version_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("technique_version.id", ondelete="CASCADE"), index=True)
    """The version of an academy's technique that it is judged by; None where it is the shipped one."""
    rep_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("rep.id", ondelete="CASCADE"), unique=True)
    """The rep that it shows, where it is real film."""
    finished_at: Mapped[datetime | None]
    """When the rep's review was finished, as far as this film knows."""
    __table_args__ = (
        CheckConstraint("state in ('wanted', 'ready', 'failed')", name="state"),
        CheckConstraint("(state = 'ready') = (facts is not null)", name="facts"),
        CheckConstraint("level between 1 and 5", name="level"),
        CheckConstraint("(rep_id is null) = (finished_at is null)", name="rep"),
        CheckConstraint("academy_id is not null or (version_id is null and rep_id is null)", name="academy"),
    )


def _account() -> Mapped[uuid.UUID | None]:
    return mapped_column(ForeignKey("account.id", ondelete="CASCADE"), index=True)


def _student() -> Mapped[uuid.UUID | None]:
    return mapped_column(ForeignKey("student.id", ondelete="CASCADE"), index=True)


ONE_LEARNER = "num_nonnulls(account_id, student_id) = 1"
"""Who answers is a coach or a student."""


class EyeCard(Base):
    """A question that somebody is asked again and again: at which level, and when it is due (the scheduler's own state)."""

    __tablename__ = "eye_card"
    id: Mapped[uuid.UUID] = key()
    academy_id: Mapped[uuid.UUID] = owner("academy")
    account_id: Mapped[uuid.UUID | None] = _account()
    student_id: Mapped[uuid.UUID | None] = _student()
    technique: Mapped[str]
    kind: Mapped[str]
    subject: Mapped[str] = mapped_column(default="")
    level: Mapped[int]
    due_at: Mapped[datetime]
    state: Mapped[dict[str, Any]] = mapped_column(JSONB)
    __table_args__ = (
        UniqueConstraint("account_id", "technique", "kind", "subject"),
        UniqueConstraint("student_id", "technique", "kind", "subject"),
        CheckConstraint("level between 1 and 5", name="level"),
        CheckConstraint(ONE_LEARNER, name="learner"),
    )


class EyeAnswer(Base):
    """An answer, by the key that whoever sent it gave it, so that one that is sent twice counts once."""

    __tablename__ = "eye_answer"
    id: Mapped[uuid.UUID] = mapped_column(primary_key=True)
    academy_id: Mapped[uuid.UUID] = owner("academy")
    account_id: Mapped[uuid.UUID | None] = _account()
    student_id: Mapped[uuid.UUID | None] = _student()
    take_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("eye_take.id", ondelete="SET NULL"), index=True)
    second_take_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("eye_take.id", ondelete="SET NULL"), index=True)
    """The second of two films, where one is chosen of them."""
    technique: Mapped[str]
    kind: Mapped[str]
    subject: Mapped[str]
    level: Mapped[int]
    given: Mapped[Given] = mapped_column(Json("given", Given, without="none"))
    hit: Mapped[bool]
    frames: Mapped[int | None]
    ms: Mapped[float | None]
    degrees: Mapped[float | None]
    after: Mapped[float | None]
    """How far it was off (`core.eye.scoring`)."""
    true_choice: Mapped[str | None]
    among: Mapped[list[str]] = mapped_column(JSONB, default=list)
    """What could be chosen."""
    answered_at: Mapped[datetime] = created()
    __table_args__ = (CheckConstraint(ONE_LEARNER, name="learner"),)
