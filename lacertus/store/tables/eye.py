"""Training the eye: films whose truth is known, what each coach is asked again and again, and what they answered."""

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
    """A film of the studio's, the same for all academies: what it shows, and what is true of it once it is filmed."""

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
    __table_args__ = (
        CheckConstraint("state in ('wanted', 'ready', 'failed')", name="state"),
        CheckConstraint("(state = 'ready') = (facts is not null)", name="facts"),
        CheckConstraint("level between 1 and 5", name="level"),
    )


class EyeCard(Base):
    """A question that a coach is asked again and again: at which level, and when it is due (the scheduler's own state)."""

    __tablename__ = "eye_card"
    id: Mapped[uuid.UUID] = key()
    academy_id: Mapped[uuid.UUID] = owner("academy")
    account_id: Mapped[uuid.UUID] = owner("account")
    technique: Mapped[str]
    kind: Mapped[str]
    subject: Mapped[str] = mapped_column(default="")
    level: Mapped[int]
    due_at: Mapped[datetime]
    state: Mapped[dict[str, Any]] = mapped_column(JSONB)
    __table_args__ = (
        UniqueConstraint("account_id", "technique", "kind", "subject"),
        CheckConstraint("level between 1 and 5", name="level"),
    )


class EyeAnswer(Base):
    """An answer, by the key that whoever sent it gave it, so that one that is sent twice counts once."""

    __tablename__ = "eye_answer"
    id: Mapped[uuid.UUID] = mapped_column(primary_key=True)
    academy_id: Mapped[uuid.UUID] = owner("academy")
    account_id: Mapped[uuid.UUID] = owner("account")
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
