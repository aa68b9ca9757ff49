"""What the routes of the inbox, of students' links and consents, and of films that are about to go take and give."""

from __future__ import annotations

import uuid
from datetime import date, datetime
from typing import Annotated, Literal

from pydantic import Field

from lacertus.services.people.inbox import Kind
from lacertus.web.schemas import In, Name, Out

Purpose = Literal["filming", "sharing", "training"]
Holder = Literal["student", "guardian"]


class ItemOut(Out):
    """Something that came in from a student or a guardian."""

    id: uuid.UUID
    kind: Kind
    sent_by: Holder
    student_id: uuid.UUID
    student: str
    words: str
    review_id: uuid.UUID | None
    clip_id: uuid.UUID | None
    clip: str
    technique: str
    checkpoint: str
    created_at: datetime
    done_at: datetime | None
    reply: str
    replied_at: datetime | None
    by: str = Field(description="Who dealt with it")
    has_address: bool = Field(description="Whether a reply can go out by mail")


class InboxOut(Out):
    waiting: int = Field(description="How many items nobody has dealt with")
    items: list[ItemOut]


class WaitingOut(Out):
    waiting: int


class ReplyIn(In):
    words: Annotated[str, Field(min_length=1, max_length=1000)]
    mail: bool = False


class OwnLinkIn(In):
    holder: Holder = "student"


class OwnLinkOut(Out):
    """A link to a student's own page."""

    id: uuid.UUID
    holder: Holder
    address: str
    qr: str = Field(description="The address as a QR code (SVG as a data address)")
    opened: int
    first_opened_at: datetime | None
    last_opened_at: datetime | None
    revoked_at: datetime | None
    created_at: datetime


class ConsentIn(In):
    purpose: Purpose
    given_by: Name
    given_as: Holder
    given_on: date
    until: date | None = None


class WithdrawIn(In):
    by: Name


class ConsentOut(Out):
    purpose: Purpose
    given_by: str
    given_as: Holder
    given_on: date
    until: date | None
    withdrawn_on: date | None
    withdrawn_by: str


class ConsentStandingOut(Out):
    """How one purpose stands today."""

    purpose: Purpose
    state: Literal["given", "none", "ended", "withdrawn", "not yet"]
    allows: bool
    consent: ConsentOut | None


class ConsentsOut(Out):
    is_child: bool
    asked: bool = Field(description="Whether the academy does nothing without a consent")
    standings: list[ConsentStandingOut]
    history: list[ConsentOut]


class GoingFilmOut(Out):
    """A film that is deleted soon."""

    clip: uuid.UUID
    name: str
    student: str | None
    goes_on: date


class KeepIn(In):
    keep: bool
