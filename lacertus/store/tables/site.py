"""What belongs to the site as a whole."""

from __future__ import annotations

import uuid
from datetime import datetime

from sqlalchemy import (
    CheckConstraint,
    UniqueConstraint,
    false,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from lacertus.confined.probe import Held
from lacertus.store.state import Json
from lacertus.store.tables.base import Base, created, key, owner


class JobRow(Base):
    """Work that was asked for: how far it is and how it ended. One row for each thing that is worked on, asked anew or not."""

    __tablename__ = "job"
    id: Mapped[uuid.UUID] = key()
    academy_id: Mapped[uuid.UUID] = owner("academy")
    clip_id: Mapped[uuid.UUID] = owner("clip")
    task: Mapped[str]
    """What is done, by its name in the queue."""
    about: Mapped[uuid.UUID]
    """What it is done to: a clip, a rep, a correction, a review."""
    arguments: Mapped[dict[str, int]] = mapped_column(JSONB, default=dict, server_default="{}")
    state: Mapped[str] = mapped_column(default="waiting", server_default="waiting")
    done: Mapped[int] = mapped_column(default=0, server_default="0")
    of: Mapped[int | None]
    reason: Mapped[str | None]
    """Why it failed, with what to do."""
    stop_asked: Mapped[bool] = mapped_column(default=False, server_default=false())
    request: Mapped[str | None]
    """The request that asked for it, as in the log."""
    asked_at: Mapped[datetime] = created()
    ended_at: Mapped[datetime | None]
    __table_args__ = (
        UniqueConstraint("task", "about"),
        CheckConstraint("state in ('waiting', 'running', 'done', 'failed', 'stopped')", name="state"),
    )


class SiteFact(Base):
    """Something that one process found out and others tell, such as how the worker's readers are confined."""

    __tablename__ = "site_fact"
    name: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[Held] = mapped_column(Json("held", Held))
    at: Mapped[datetime] = created()


class SiteKey(Base):
    """The secret that links are signed with; made once."""

    __tablename__ = "site_key"
    id: Mapped[int] = mapped_column(primary_key=True)
    secret: Mapped[str]
    __table_args__ = (CheckConstraint("id = 1", name="one"),)
