"""Techniques in their versions."""

from __future__ import annotations

import uuid
from datetime import datetime
from typing import Any

from sqlalchemy import (
    JSON,
    CheckConstraint,
    ForeignKey,
    UniqueConstraint,
    false,
)
from sqlalchemy.orm import Mapped, mapped_column

from lacertus.store.tables.base import Base, created, key, owner


class MadeStart(Base):
    """A start that a coach made from a frame of a rep: a position that the academy drills a technique from.

    `name` is what reps know it by. One that is deleted is no longer offered, and still known to the reps that were done from it.
    """

    __tablename__ = "made_start"
    id: Mapped[uuid.UUID] = key()
    academy_id: Mapped[uuid.UUID] = owner("academy")
    technique: Mapped[str]
    name: Mapped[str]
    phase: Mapped[str]
    says: Mapped[str]
    resists_from: Mapped[str | None]
    resistance: Mapped[str] = mapped_column(default="none", server_default="none")
    rep_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("rep.id", ondelete="SET NULL"))
    frame: Mapped[int | None]
    offered: Mapped[bool] = mapped_column(default=True, server_default="true")
    created_at: Mapped[datetime] = created()
    __table_args__ = (
        UniqueConstraint("rep_id", "frame"),
        CheckConstraint("resistance in ('none', 'fifth', 'half', 'full')", name="resistance"),
    )


class TechniqueVersion(Base):
    """A technique as it was at some time; a shipped one has no academy."""

    __tablename__ = "technique_version"
    id: Mapped[uuid.UUID] = key()
    academy_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("academy.id", ondelete="CASCADE"))
    technique: Mapped[str]
    version: Mapped[int]
    digest: Mapped[str]
    # JSON, not JSONB: the order of events and options is part of a technique.
    # Read only when it is not known yet: it is large, and never changes.
    # It is the file as its author wrote it: what reads it depends on the version, so that no one record fits.
    body: Mapped[dict[str, Any]] = mapped_column(JSON, deferred=True)
    brought_in: Mapped[bool] = mapped_column(default=False, server_default=false())
    """It came with a student's file and judges that student's old reps alone."""
    created_at: Mapped[datetime] = created()
    __table_args__ = (
        UniqueConstraint("academy_id", "technique", "version", postgresql_nulls_not_distinct=True),
        UniqueConstraint("academy_id", "technique", "digest", postgresql_nulls_not_distinct=True),
    )
