"""Academies, accounts, students, and what a coach notes and asks for."""

from __future__ import annotations

import uuid
from datetime import date, datetime

from sqlalchemy import (
    ARRAY,
    CheckConstraint,
    ForeignKey,
    Index,
    String,
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
    time_zone: Mapped[str] = mapped_column(default="UTC", server_default="UTC")
    sheet_language: Mapped[str] = mapped_column(default="en", server_default="en")
    units: Mapped[str] = mapped_column(default="metric", server_default="metric")
    needs_second_factor: Mapped[bool] = mapped_column(default=False, server_default=false())
    """Whether everybody who signs in needs a second factor."""
    needs_consent: Mapped[bool] = mapped_column(default=False, server_default=false())
    """Whether nobody is filmed, shown to others or trained on without somebody's consent that is written down."""
    keeps_films_days: Mapped[int | None]
    """So long films are kept that nobody keeps for longer; nothing: for good."""
    films_go_from: Mapped[date | None]
    """No film is deleted before this day: the rule was made two weeks earlier."""
    __table_args__ = (CheckConstraint("units in ('metric', 'imperial')", name="units"),)


class Account(Base):
    """Someone who signs in: an owner, a coach or an assistant. Who has left keeps the name on what they judged."""

    __tablename__ = "account"
    id: Mapped[uuid.UUID] = key()
    academy_id: Mapped[uuid.UUID] = owner("academy")
    email: Mapped[str] = mapped_column(unique=True)
    name: Mapped[str]
    role: Mapped[str] = mapped_column(default="coach", server_default="coach")
    password_hash: Mapped[str]
    totp_secret: Mapped[str | None]
    """The secret of the second factor, once a code of it was typed."""
    totp_used: Mapped[int | None]
    """The time step of the last code that was taken: none is taken twice."""
    left_at: Mapped[datetime | None]
    events_from_eye: Mapped[bool] = mapped_column(default=False, server_default="false")
    """Whether the own scatter of marked events is the one that training the eye showed (rule 4.10)."""
    eye_named: Mapped[bool] = mapped_column(default=False, server_default="false")
    """Whether the others who teach here see by name what their eye is like."""
    created_at: Mapped[datetime] = created()
    __table_args__ = (CheckConstraint("role in ('owner', 'coach', 'assistant')", name="role"),)


class SignIn(Base):
    """A signed-in browser, by the hash of its token."""

    __tablename__ = "sign_in"
    token_hash: Mapped[str] = mapped_column(primary_key=True)
    id: Mapped[uuid.UUID] = mapped_column(default=uuid.uuid4, unique=True)
    account_id: Mapped[uuid.UUID] = owner("account")
    device: Mapped[str] = mapped_column(default="", server_default="")
    """What kind of device it is, in a word."""
    made_at: Mapped[datetime] = created()
    seen_at: Mapped[datetime] = created()
    expires_at: Mapped[datetime]


class AccountLink(Base):
    """A link that is used once, by the hash of its token: to set up an academy, to join one, or to choose a new password."""

    __tablename__ = "account_link"
    id: Mapped[uuid.UUID] = key()
    token_hash: Mapped[str] = mapped_column(unique=True)
    kind: Mapped[str]
    academy_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("academy.id", ondelete="CASCADE"), index=True)
    account_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("account.id", ondelete="CASCADE"), index=True)
    """Whose password it is, or who invites."""
    email: Mapped[str] = mapped_column(default="")
    name: Mapped[str] = mapped_column(default="")
    role: Mapped[str] = mapped_column(default="")
    expires_at: Mapped[datetime]
    used_at: Mapped[datetime | None]
    created_at: Mapped[datetime] = created()
    __table_args__ = (CheckConstraint("kind in ('setup', 'invite', 'reset')", name="kind"),)


class AuditRow(Base):
    """Something that somebody did, for the owners to look up. The database refuses to change or delete it."""

    __tablename__ = "audit"
    id: Mapped[int] = mapped_column(primary_key=True)
    academy_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("academy.id", ondelete="CASCADE"))
    at: Mapped[datetime] = created()
    who: Mapped[str]
    """The name of the account, or what did it. Of students only their ids are kept here."""
    what: Mapped[str]
    about: Mapped[str] = mapped_column(default="")
    __table_args__ = (Index("ix_audit_academy_id_id", "academy_id", "id"),)


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
    born_on: Mapped[date | None]
    height_cm: Mapped[float | None]
    weight_kg: Mapped[float | None]
    groups: Mapped[list[str]] = mapped_column(ARRAY(String), default=list, server_default="{}")
    equipment: Mapped[list[str]] = mapped_column(ARRAY(String), default=list, server_default="{}")
    """What is there to practise with at home."""
    guardian: Mapped[str] = mapped_column(default="", server_default="")
    guardian_email: Mapped[str] = mapped_column(default="", server_default="")
    language: Mapped[str] = mapped_column(default="", server_default="")
    """In which language their sheets and their page are; empty: the academy's."""
    archived_at: Mapped[datetime | None]
    """Since when the student does not come any more; everything is kept, and left out of the lists."""
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
