"""What the routes of sheets, links and open formats take and give."""

from __future__ import annotations

import uuid
from datetime import datetime
from typing import Annotated

from pydantic import Field

from lacertus.core.corrections.marked_clip import MarkedClipMade
from lacertus.core.sheets.words import SheetWords
from lacertus.web.jobs.schemas import JobOut
from lacertus.web.review.schemas import SaidOut
from lacertus.web.schemas import In, Out


class WordsIn(In):
    """What the coach writes on the sheet; `next_on` is an ISO day, empty for the ledger's own."""

    good: Annotated[str, Field(max_length=20_000)] = ""
    answer: Annotated[str, Field(max_length=20_000)] = ""
    note: Annotated[str, Field(max_length=20_000)] = ""
    next_on: Annotated[str, Field(max_length=20)] = ""


class LinkIn(In):
    days: Annotated[int, Field(ge=-1000, le=100_000)] = 30


class MailIn(LinkIn):
    to: Annotated[str, Field(max_length=1000)] = Field(default="", description="Empty for the student’s own address")


class LinkOut(Out):
    id: uuid.UUID
    address: str
    sent_to: str
    expires_at: datetime
    revoked_at: datetime | None
    opened: int
    first_opened_at: datetime | None
    last_opened_at: datetime | None
    created_at: datetime


class MailOut(Out):
    link: LinkOut
    to: str
    file: str | None = Field(description="The mail file in the outbox, where no relay is set")


class RevisionOut(Out):
    number: int
    created_at: datetime
    by: str
    why: str
    changes: list[str]
    left: list[str] = Field(description="What was left when the review was finished")


class ToCompareOut(Out):
    """Something to be fixed, and a rep in which it was missed, to begin a comparison with."""

    ask: str
    rep: uuid.UUID
    checkpoint: str


class SheetPageOut(Out):
    """Everything of a review's sheet that the coach sees to."""

    review: uuid.UUID
    clip: uuid.UUID
    student: uuid.UUID
    student_name: str
    email: str
    finished: bool
    reopened_why: str | None
    good: list[str] = Field(description="What stands under “What was good”")
    fixes: list[str]
    compare: list[ToCompareOut] = Field(description="Fixes that can be seen moving beside another rep")
    question: str
    next_on: str | None
    words: SheetWords
    marked: MarkedClipMade | None = Field(description="The marked clip, once it is made")
    corrections: int
    revisions: list[RevisionOut]
    links: list[LinkOut]
    said: list[SaidOut]
    jobs: list[JobOut] = Field(description="Work that was asked for on its clip, the newest first")


class TracksOut(Out):
    points: int
