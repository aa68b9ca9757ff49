"""Clips, uploads on their way in, and clips that show the same reps."""

from __future__ import annotations

import uuid
from datetime import date, datetime

from sqlalchemy import (
    ARRAY,
    BigInteger,
    CheckConstraint,
    Double,
    ForeignKey,
    Index,
    UniqueConstraint,
    false,
    true,
)
from sqlalchemy.orm import Mapped, mapped_column, relationship

from lacertus.core.clips.film import CameraSummary, CaptureRate, Film, ProposedCuts
from lacertus.core.clips.naming import Naming
from lacertus.store.state import Json
from lacertus.store.tables.base import Base, created, key, owner
from lacertus.store.tables.people import Student


class Clip(Base):
    """A video, its facts and the times of its frames (seconds from 0). Until it is named it has no student."""

    __tablename__ = "clip"
    id: Mapped[uuid.UUID] = key()
    academy_id: Mapped[uuid.UUID] = owner("academy")
    student_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("student.id"), index=True)
    name: Mapped[str]
    folder: Mapped[str] = mapped_column(default="", server_default="")
    sha256: Mapped[str | None]
    naming: Mapped[Naming] = mapped_column(Json("naming", Naming, without="defaults"), default=Naming, server_default="{}")
    filmed_on: Mapped[date]
    state: Mapped[str] = mapped_column(default="waiting")
    failure: Mapped[str | None]
    frames_done: Mapped[int] = mapped_column(default=0)
    frames_expected: Mapped[int | None]
    stop_asked: Mapped[bool] = mapped_column(default=False)
    has_film: Mapped[bool] = mapped_column(default=True, server_default=true())
    keeps_film: Mapped[bool] = mapped_column(default=False, server_default=false())
    """Its film stays longer than the academy keeps films."""
    size_bytes: Mapped[int] = mapped_column(BigInteger, default=0)
    codec: Mapped[str | None]
    width: Mapped[int | None]
    height: Mapped[int | None]
    rotation: Mapped[int | None]
    mirrored: Mapped[bool | None]
    nominal_fps: Mapped[float | None]
    variable_rate: Mapped[bool | None]
    duration_s: Mapped[float | None]
    pts_s: Mapped[list[float] | None] = mapped_column(ARRAY(Double))
    capture_rate: Mapped[tuple[tuple[int, float], ...]] = mapped_column(
        Json("capture rate", CaptureRate), default=lambda: ((0, 1.0),), server_default="[[0, 1.0]]"
    )
    capture_sure: Mapped[bool] = mapped_column(default=True, server_default=true())
    capture_why: Mapped[str] = mapped_column(default="", server_default="")
    has_sound: Mapped[bool] = mapped_column(default=False, server_default=false())
    sound_broke_off: Mapped[bool] = mapped_column(default=False, server_default=false())
    dropped_frames: Mapped[int] = mapped_column(default=0, server_default="0")
    repeated_frames: Mapped[int] = mapped_column(default=0, server_default="0")
    film: Mapped[Film | None] = mapped_column(Json("film", Film))
    camera: Mapped[CameraSummary | None] = mapped_column(Json("camera", CameraSummary))
    proposals: Mapped[tuple[tuple[int, int], ...]] = mapped_column(Json("cuts", ProposedCuts), default=tuple, server_default="[]")
    reading_since: Mapped[datetime | None]
    created_at: Mapped[datetime] = created()
    student: Mapped[Student | None] = relationship(lazy="raise")
    __table_args__ = (
        UniqueConstraint("academy_id", "sha256"),
        CheckConstraint("state in ('waiting', 'reading', 'ready', 'failed', 'stopped')", name="state"),
        CheckConstraint(r"name !~ '[/\\\x01-\x1f\x7f]' and octet_length(name) <= 255", name="name"),
        Index("ix_clip_academy_id_created_at", "academy_id", "created_at"),
        Index("ix_clip_academy_id_student_id_filmed_on", "academy_id", "student_id", "filmed_on"),
    )


class UploadRow(Base):
    """A file on its way in, whose first bytes lie in the uploads folder under this id. Once it is whole it becomes the clip of
    the same id, and this row goes."""

    __tablename__ = "upload"
    id: Mapped[uuid.UUID] = key()
    academy_id: Mapped[uuid.UUID] = owner("academy")
    length: Mapped[int] = mapped_column(BigInteger)
    name: Mapped[str]
    folder: Mapped[str]
    student_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("student.id", ondelete="SET NULL"))
    filmed_on: Mapped[date]
    naming: Mapped[Naming] = mapped_column(Json("naming", Naming, without="defaults"), default=Naming, server_default="{}")
    sent_by: Mapped[str] = mapped_column(default="", server_default="")
    """Who sends it from the student's own page: the student or a guardian; empty: somebody of the academy."""
    touched_at: Mapped[datetime] = created()
    __table_args__ = (CheckConstraint("length > 0", name="length"),)


class ViewTie(Base):
    """Two clips of the same reps: the frames at which both show the same instant. Kept from either clip's side."""

    __tablename__ = "view_tie"
    clip_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("clip.id", ondelete="CASCADE"), primary_key=True)
    other_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("clip.id", ondelete="CASCADE"), primary_key=True, index=True)
    frame: Mapped[int]
    other_frame: Mapped[int]
    __table_args__ = (CheckConstraint("clip_id <> other_id", name="two_clips"),)
