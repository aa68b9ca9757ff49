"""Reviews: reps with their marks, answers and verdicts, second markings and second opinions."""

from __future__ import annotations

import uuid
from datetime import date, datetime

from sqlalchemy import (
    ARRAY,
    BigInteger,
    CheckConstraint,
    ForeignKey,
    Integer,
    String,
)
from sqlalchemy.orm import Mapped, mapped_column, relationship

from lacertus.core.clips.film import ProposedCuts
from lacertus.core.corrections.example import Example
from lacertus.core.corrections.marked_clip import MarkedClipMade
from lacertus.core.corrections.marks import Mark
from lacertus.core.corrections.shapes import Shape
from lacertus.core.measuring.body import BodyName
from lacertus.core.measuring.rep_facts import Nearer, TargetTurn
from lacertus.core.measuring.repfile import Marking
from lacertus.core.progress.fix_first import FixChoice
from lacertus.core.review.blind_remarking import Remark
from lacertus.core.review.reference import FrameOfReference, Heights
from lacertus.core.review.tracking import Tracked
from lacertus.core.sheets.words import SheetWords
from lacertus.store.state import Json
from lacertus.store.tables.base import Base, created, key, owner
from lacertus.store.tables.clips import Clip
from lacertus.store.tables.techniques import TechniqueVersion


class Review(Base):
    """A coach's work on a clip; once finished it is kept as it was."""

    __tablename__ = "review"
    id: Mapped[uuid.UUID] = key()
    academy_id: Mapped[uuid.UUID] = owner("academy")
    clip_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("clip.id", ondelete="CASCADE"), unique=True)
    student_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("student.id"), index=True)
    account_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"), index=True)
    """Who began it, and so marks in it."""
    marking: Mapped[Marking] = mapped_column(Json("marking", Marking, without="defaults"), default=Marking, server_default="{}")
    """How closely that coach marks, as it was known while the review was open."""
    heights_px: Mapped[dict[BodyName, float]] = mapped_column(Json("heights", Heights), default=dict)
    reference: Mapped[FrameOfReference] = mapped_column(
        Json("reference", FrameOfReference, without="defaults"), default=FrameOfReference, server_default="{}"
    )
    """The frame of reference: where up is, the scale, four mat points, limbs' lengths."""
    proposals: Mapped[tuple[tuple[int, int], ...]] = mapped_column(Json("cuts", ProposedCuts), default=tuple, server_default="[]")
    fix_choice: Mapped[FixChoice | None] = mapped_column(Json("fix choice", FixChoice))
    """What the coach wants to be fixed first in place of what is recommended, and why."""
    words: Mapped[SheetWords] = mapped_column(Json("sheet words", SheetWords), default=SheetWords, server_default="{}")
    """What the coach writes on the sheet: what was good, the answer to the student's question, when the next clip is due."""
    marked: Mapped[MarkedClipMade | None] = mapped_column(Json("marked clip", MarkedClipMade))
    """The marked clip, once it is made."""
    worked_s: Mapped[float] = mapped_column(default=0.0, server_default="0")
    """How long the coach worked on it, seconds: while the bench was open and used, or as the coach corrected it."""
    changes: Mapped[int] = mapped_column(default=0, server_default="0")
    """How often something of it was changed: a window tells by it what it had on its screen."""
    reopened_why: Mapped[str | None]
    finished_at: Mapped[datetime | None]
    created_at: Mapped[datetime] = created()
    clip: Mapped[Clip] = relationship(lazy="raise")
    reps: Mapped[list[RepRow]] = relationship(
        lazy="raise", order_by="(RepRow.blind_of.is_not(None), RepRow.first_frame)", cascade="all, delete-orphan"
    )
    corrections: Mapped[list[Correction]] = relationship(
        lazy="raise", order_by="Correction.created_at", cascade="all, delete-orphan"
    )


class ReviewChange(Base):
    """What of a review was changed last by whom: the newest change of each thing."""

    __tablename__ = "review_change"
    review_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("review.id", ondelete="CASCADE"), primary_key=True)
    what: Mapped[str] = mapped_column(primary_key=True)
    """What was changed: the address that the change was sent to."""
    number: Mapped[int]
    window: Mapped[str]
    account_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"), index=True)


class RepRow(Base):
    """A repetition cut from a clip: first and last frame, and how it was done. Several pairs may be in one clip:
    `student_id` names the performer where that is not the clip's student, `partner_student_id` the partner where that is known."""

    __tablename__ = "rep"
    id: Mapped[uuid.UUID] = key()
    review_id: Mapped[uuid.UUID] = owner("review")
    technique_version_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("technique_version.id"))
    student_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("student.id"), index=True)
    partner_student_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("student.id", ondelete="SET NULL"), index=True)
    first_frame: Mapped[int]
    last_frame: Mapped[int]
    side: Mapped[str]
    heading: Mapped[str] = mapped_column(default="right")
    view: Mapped[str] = mapped_column(default="side")
    partner: Mapped[str] = mapped_column(default="person")
    pace: Mapped[str] = mapped_column(default="full")
    rung: Mapped[str | None]
    layer: Mapped[str | None]
    start: Mapped[str | None]
    purpose: Mapped[str] = mapped_column(default="attempt")
    outcome: Mapped[str | None]
    start_at: Mapped[str | None]
    end_at: Mapped[str | None]
    resists_from: Mapped[str | None]
    reaction: Mapped[str | None]
    finish: Mapped[str | None]
    stance: Mapped[str | None]
    grade: Mapped[str | None]
    linked_to: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("rep.id", ondelete="SET NULL"), index=True)
    blind_of: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("rep.id", ondelete="CASCADE"), index=True)
    """The rep that is marked here a second time, blind, to learn the coach's own scatter."""
    tracking: Mapped[Tracked | None] = mapped_column(Json("tracked", Tracked))
    """What was lost while its points were tracked; empty where they were not."""
    options: Mapped[dict[str, str]] = mapped_column(default=dict)
    nearer: Mapped[tuple[Nearer, ...]] = mapped_column(Json("nearer", tuple[Nearer, ...]), default=tuple, server_default="[]")
    """What a coach saw of depth: which joints are nearer to the camera than what they hang on."""
    target_turn: Mapped[TargetTurn | None] = mapped_column(Json("target_turn", TargetTurn))
    created_at: Mapped[datetime] = created()
    technique_version: Mapped[TechniqueVersion] = relationship(lazy="raise")
    events: Mapped[list[EventMark]] = relationship(lazy="raise", cascade="all, delete-orphan")
    points: Mapped[list[PointRow]] = relationship(lazy="select", cascade="all, delete-orphan", order_by="PointRow.frame")
    """Read when they are looked at: of a review's thousands most reps are known already (`kept/fingerprint.py`)."""
    points_version: Mapped[int] = mapped_column(BigInteger, server_default="0")
    """Another one as soon as a point changes, comes or goes; given by the database (migration 0030)."""
    answers: Mapped[list[Answer]] = relationship(lazy="raise", cascade="all, delete-orphan")
    overrules: Mapped[list[OverruleRow]] = relationship(lazy="raise", cascade="all, delete-orphan")
    __table_args__ = (
        CheckConstraint("0 <= first_frame and first_frame <= last_frame", name="frames"),
        CheckConstraint("side in ('left', 'right')", name="side"),
    )


class EventMark(Base):
    """The frames of an event; an empty list says that it was looked for and did not happen."""

    __tablename__ = "event_mark"
    rep_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("rep.id", ondelete="CASCADE"), primary_key=True)
    event: Mapped[str] = mapped_column(primary_key=True)
    frames: Mapped[list[int]] = mapped_column(ARRAY(Integer))


class PointRow(Base):
    """A landmark on a frame, in pixels of the displayed picture."""

    __tablename__ = "point"
    rep_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("rep.id", ondelete="CASCADE"), primary_key=True)
    body: Mapped[BodyName] = mapped_column(String, primary_key=True)
    landmark: Mapped[str] = mapped_column(primary_key=True)
    frame: Mapped[int] = mapped_column(primary_key=True)
    x: Mapped[float]
    y: Mapped[float]
    by: Mapped[str] = mapped_column(default="placed")
    sigma: Mapped[float | None]
    shared: Mapped[float | None]
    grain: Mapped[float | None]
    """Picture pixels that a pixel of the screen covered when it was placed."""
    hidden: Mapped[bool] = mapped_column(default=False)
    __table_args__ = (CheckConstraint("body in ('performer', 'partner')", name="body"),)


class Answer(Base):
    """A by-eye answer: yes is as it should be."""

    __tablename__ = "answer"
    rep_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("rep.id", ondelete="CASCADE"), primary_key=True)
    checkpoint: Mapped[str] = mapped_column(primary_key=True)
    asked_of: Mapped[str] = mapped_column(primary_key=True, default="coach")
    yes: Mapped[bool]


class OverruleRow(Base):
    """The coach's own verdict on a checkpoint of a rep, and why."""

    __tablename__ = "overrule"
    rep_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("rep.id", ondelete="CASCADE"), primary_key=True)
    checkpoint: Mapped[str] = mapped_column(primary_key=True)
    verdict: Mapped[str]
    reason: Mapped[str]
    __table_args__ = (CheckConstraint("verdict in ('met', 'borderline', 'missed', 'not_seen', 'not_asked')", name="verdict"),)


class Correction(Base):
    """What the coach shows of a missed checkpoint: marks over a stretch of frames, the frame to stop at, and the cue."""

    __tablename__ = "correction"
    id: Mapped[uuid.UUID] = key()
    review_id: Mapped[uuid.UUID] = owner("review")
    rep_id: Mapped[uuid.UUID] = owner("rep")
    checkpoint: Mapped[str]
    frame: Mapped[int]
    first_frame: Mapped[int]
    last_frame: Mapped[int]
    marks: Mapped[tuple[Mark, ...]] = mapped_column(
        Json("marks", tuple[Mark, ...], without="defaults"), default=tuple, server_default="[]"
    )
    drawn: Mapped[tuple[Shape, ...]] = mapped_column(Json("shapes", tuple[Shape, ...]), default=tuple, server_default="[]")
    """What was drawn on its frame when the review was finished."""
    example: Mapped[Example | None] = mapped_column(Json("example", Example))
    """The picture that stands beside it, of the same checkpoint done right."""
    voice_s: Mapped[float | None]
    """How long the coach speaks over it, seconds, where a voice note was recorded."""
    cue: Mapped[str]
    has_still: Mapped[bool] = mapped_column(default=False)
    created_at: Mapped[datetime] = created()
    __table_args__ = (CheckConstraint("first_frame <= frame and frame <= last_frame", name="frames"),)


class Opinion(Base):
    """Another coach's verdict on a checkpoint of a rep of a finished review, given without seeing the first one's.

    Once handed in it stands, beside the first verdict as it was then.
    """

    __tablename__ = "opinion"
    rep_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("rep.id", ondelete="CASCADE"), primary_key=True)
    account_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("account.id", ondelete="CASCADE"), primary_key=True, index=True)
    checkpoint: Mapped[str] = mapped_column(primary_key=True)
    verdict: Mapped[str]
    first_verdict: Mapped[str | None]
    first_account_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    handed_in_at: Mapped[datetime | None]
    __table_args__ = (CheckConstraint("verdict in ('met', 'missed', 'not_seen')", name="verdict"),)


class OpinionAsked(Base):
    """That a coach was asked for a second opinion on a review: by whom and when."""

    __tablename__ = "opinion_asked"
    review_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("review.id", ondelete="CASCADE"), primary_key=True)
    account_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("account.id", ondelete="CASCADE"), primary_key=True, index=True)
    asked_by: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    asked_on: Mapped[date]


class ModelRep(Base):
    """A rep that the academy named as a model: for its technique, or (`checkpoint`) for one checkpoint of it."""

    __tablename__ = "model_rep"
    rep_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("rep.id", ondelete="CASCADE"), primary_key=True)
    checkpoint: Mapped[str] = mapped_column(primary_key=True, default="")
    technique: Mapped[str] = mapped_column(index=True)
    account_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    named_at: Mapped[datetime] = created()


class ComparedFilm(Base):
    """A film of reps beside one another, made for the review of the leading one. `seconds` is its length once it is made."""

    __tablename__ = "compared_film"
    id: Mapped[uuid.UUID] = key()
    review_id: Mapped[uuid.UUID] = owner("review")
    account_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    anchor: Mapped[str]
    stretched: Mapped[bool]
    speed: Mapped[float]
    words: Mapped[str]
    drawn: Mapped[bool] = mapped_column(default=False, server_default="false")
    over: Mapped[bool] = mapped_column(default=False, server_default="false")
    mirrored: Mapped[bool] = mapped_column(default=False, server_default="false")
    count: Mapped[int]
    """So many sides it has. Where one of them is gone the film is shown no more."""
    seconds: Mapped[float | None]
    created_at: Mapped[datetime] = created()
    sides: Mapped[list[ComparedSide]] = relationship(
        cascade="all, delete-orphan", order_by="ComparedSide.number", passive_deletes=True
    )


class ComparedSide(Base):
    """A side of such a film: its key, and the clip and rep that it shows (none of the studio's)."""

    __tablename__ = "compared_side"
    film_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("compared_film.id", ondelete="CASCADE"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    key: Mapped[str]
    clip_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("clip.id", ondelete="CASCADE"), index=True)
    rep_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("rep.id", ondelete="CASCADE"), index=True)


class RemarkRow(Base):
    """A rep that a coach marked twice, and how far apart the two were (`core.review.blind_remarking`)."""

    __tablename__ = "remark"
    id: Mapped[uuid.UUID] = key()
    account_id: Mapped[uuid.UUID] = owner("account")
    rep_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("rep.id", ondelete="SET NULL"), unique=True)
    body: Mapped[Remark] = mapped_column(Json("remark", Remark))
    created_at: Mapped[datetime] = created()
