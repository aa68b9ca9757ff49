"""What was finished and shown: revisions, links, answers of students."""

from __future__ import annotations

import uuid
from datetime import datetime

from sqlalchemy import (
    CheckConstraint,
    ForeignKey,
    UniqueConstraint,
)
from sqlalchemy.orm import Mapped, mapped_column

from lacertus.core.sheets.revision import RevisionRecord
from lacertus.core.sheets.sheet import Sheet
from lacertus.store.state import Json
from lacertus.store.tables.base import Base, created, key, owner


class Revision(Base):
    """A review as it was finished, and what changed since it was finished before. Never changed."""

    __tablename__ = "revision"
    id: Mapped[uuid.UUID] = key()
    review_id: Mapped[uuid.UUID] = owner("review")
    number: Mapped[int]
    account_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    why: Mapped[str] = mapped_column(default="")
    changes: Mapped[tuple[str, ...]] = mapped_column(Json("changes", tuple[str, ...]), default=tuple)
    record: Mapped[RevisionRecord] = mapped_column(Json("revision", RevisionRecord))
    """Verdicts, corrections and what to fix first, by rep and checkpoint."""
    sheet: Mapped[Sheet] = mapped_column(Json("sheet", Sheet))
    """What the student is shown."""
    created_at: Mapped[datetime] = created()
    __table_args__ = (UniqueConstraint("review_id", "number"),)


class ShareLink(Base):
    """A link by which a student sees a review's sheet without signing in, until it expires or is revoked."""

    __tablename__ = "share_link"
    id: Mapped[uuid.UUID] = key()
    academy_id: Mapped[uuid.UUID] = owner("academy")
    review_id: Mapped[uuid.UUID] = owner("review")
    account_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    sent_to: Mapped[str] = mapped_column(default="")
    expires_at: Mapped[datetime]
    revoked_at: Mapped[datetime | None]
    opened: Mapped[int] = mapped_column(default=0)
    first_opened_at: Mapped[datetime | None]
    last_opened_at: Mapped[datetime | None]
    created_at: Mapped[datetime] = created()


class SheetAnswer(Base):
    """What the student answered on the sheet about one of its fixes, or about the whole (`checkpoint` empty)."""

    __tablename__ = "sheet_answer"
    id: Mapped[uuid.UUID] = key()
    review_id: Mapped[uuid.UUID] = owner("review")
    link_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("share_link.id", ondelete="SET NULL"))
    technique: Mapped[str] = mapped_column(default="")
    checkpoint: Mapped[str] = mapped_column(default="")
    felt: Mapped[str | None]
    tried: Mapped[bool | None]
    sure: Mapped[bool | None]
    words: Mapped[str] = mapped_column(default="")
    created_at: Mapped[datetime] = created()
    __table_args__ = (CheckConstraint("felt in ('right', 'off')", name="felt"),)
