"""The student's own side: links to their page, what comes in from it, and what was agreed to."""

from __future__ import annotations

import uuid
from datetime import date, datetime

from sqlalchemy import CheckConstraint, ForeignKey, Index, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from lacertus.store.tables.base import Base, created, key, owner


class StudentLink(Base):
    """A secret link to a student's own page, for the student or for a guardian, until it is withdrawn."""

    __tablename__ = "student_link"
    id: Mapped[uuid.UUID] = key()
    student_id: Mapped[uuid.UUID] = owner("student")
    account_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    holder: Mapped[str]
    """Whose link it is: the student's or a guardian's."""
    opened: Mapped[int] = mapped_column(default=0)
    first_opened_at: Mapped[datetime | None]
    last_opened_at: Mapped[datetime | None]
    revoked_at: Mapped[datetime | None]
    created_at: Mapped[datetime] = created()
    __table_args__ = (CheckConstraint("holder in ('student', 'guardian')", name="holder"),)


class InboxRow(Base):
    """Something that came in from a student or a guardian, until somebody of the academy has dealt with it.

    `key` is made where it is written: what is sent twice, as over a bad connection, is one row.
    """

    __tablename__ = "inbox"
    id: Mapped[uuid.UUID] = key()
    academy_id: Mapped[uuid.UUID] = owner("academy")
    student_id: Mapped[uuid.UUID] = owner("student")
    key: Mapped[uuid.UUID] = mapped_column(default=uuid.uuid4)
    kind: Mapped[str]
    sent_by: Mapped[str] = mapped_column(default="student")
    words: Mapped[str] = mapped_column(default="")
    review_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("review.id", ondelete="CASCADE"), index=True)
    clip_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("clip.id", ondelete="CASCADE"), index=True)
    technique: Mapped[str] = mapped_column(default="")
    checkpoint: Mapped[str] = mapped_column(default="")
    created_at: Mapped[datetime] = created()
    done_at: Mapped[datetime | None]
    reply: Mapped[str] = mapped_column(default="")
    replied_at: Mapped[datetime | None]
    account_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    """Who dealt with it."""
    __table_args__ = (
        UniqueConstraint("academy_id", "key"),
        CheckConstraint("kind in ('answer', 'question', 'pain', 'clip', 'opened', 'consent', 'forget')", name="kind"),
        CheckConstraint("sent_by in ('student', 'guardian')", name="sent_by"),
        Index("ix_inbox_academy_id_created_at", "academy_id", "created_at"),
    )


class ConsentRow(Base):
    """That somebody agreed to something for a student, from a day on and until another, unless it was withdrawn."""

    __tablename__ = "consent"
    id: Mapped[uuid.UUID] = key()
    student_id: Mapped[uuid.UUID] = owner("student")
    account_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    """Who wrote it down; nobody where it was given on the student's own page."""
    purpose: Mapped[str]
    given_by: Mapped[str]
    given_as: Mapped[str]
    given_on: Mapped[date]
    until: Mapped[date | None]
    withdrawn_on: Mapped[date | None]
    withdrawn_by: Mapped[str] = mapped_column(default="")
    created_at: Mapped[datetime] = created()
    __table_args__ = (
        CheckConstraint("purpose in ('filming', 'sharing', 'training')", name="purpose"),
        CheckConstraint("given_as in ('student', 'guardian')", name="given_as"),
    )
