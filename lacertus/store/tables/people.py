"""Academies, accounts, students, and what a coach notes and asks for."""

from __future__ import annotations

import uuid
from datetime import date, datetime

from sqlalchemy import (
    CheckConstraint,
    ForeignKey,
    Index,
    false,
)
from sqlalchemy.orm import Mapped, mapped_column

from lacertus.core.progress.fix_first import LastingFixChoice
from lacertus.core.techniques.adaptation import Adaptation
from lacertus.store.state import Json
from lacertus.store.tables.base import Base, created, key, owner


class Academy(Base):
    __tablename__ = "academy"
    id: Mapped[uuid.UUID] = key()
    name: Mapped[str]


class Account(Base):
    """Someone who signs in: a coach."""

    __tablename__ = "account"
    id: Mapped[uuid.UUID] = key()
    academy_id: Mapped[uuid.UUID] = owner("academy")
    email: Mapped[str] = mapped_column(unique=True)
    name: Mapped[str]
    password_hash: Mapped[str]
    created_at: Mapped[datetime] = created()


class SignIn(Base):
    """A signed-in browser, by the hash of its token."""

    __tablename__ = "sign_in"
    token_hash: Mapped[str] = mapped_column(primary_key=True)
    account_id: Mapped[uuid.UUID] = owner("account")
    expires_at: Mapped[datetime]


class SignInAttempt(Base):
    """An attempt to sign in that has not succeeded, under each key that it counts for: address and e-mail, address, device."""

    __tablename__ = "sign_in_attempt"
    id: Mapped[int] = mapped_column(primary_key=True)
    key: Mapped[str]
    at: Mapped[datetime] = created()
    __table_args__ = (Index("ix_sign_in_attempt_key_at", "key", "at"), Index("ix_sign_in_attempt_at", "at"))


class Student(Base):
    __tablename__ = "student"
    id: Mapped[uuid.UUID] = key()
    academy_id: Mapped[uuid.UUID] = owner("academy")
    name: Mapped[str]
    side_policy: Mapped[str] = mapped_column(default="both")
    note: Mapped[str] = mapped_column(default="")
    email: Mapped[str] = mapped_column(default="", server_default="")
    lends_pictures: Mapped[bool] = mapped_column(default=False, server_default=false())
    """Whether pictures of this student's reps may stand beside another student's correction."""
    grade_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("grade.id", ondelete="SET NULL"), index=True)
    """The grade that this student works towards."""
    fix_choice: Mapped[LastingFixChoice | None] = mapped_column(Json("lasting fix choice", LastingFixChoice))
    """What the coach wants to be fixed first over the whole history, and why."""
    __table_args__ = (CheckConstraint("side_policy in ('both', 'left', 'right')", name="side_policy"),)


class Note(Base):
    """What a coach noted about a student on a day."""

    __tablename__ = "note"
    id: Mapped[uuid.UUID] = key()
    student_id: Mapped[uuid.UUID] = owner("student")
    account_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    noted_on: Mapped[date]
    words: Mapped[str]
    created_at: Mapped[datetime] = created()


class AdaptationRow(Base):
    """A checkpoint that is asked of one student otherwise, or not at all, while it is in force (`core.techniques.adaptation`)."""

    __tablename__ = "adaptation"
    id: Mapped[uuid.UUID] = key()
    student_id: Mapped[uuid.UUID] = owner("student")
    technique: Mapped[str]
    checkpoint: Mapped[str]
    body: Mapped[Adaptation] = mapped_column(Json("adaptation", Adaptation, without="none"))
    created_at: Mapped[datetime] = created()
    ended_at: Mapped[datetime | None]
