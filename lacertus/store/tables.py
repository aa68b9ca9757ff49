"""The tables. Every root row carries its academy; a review keeps the technique version it was judged by."""

from __future__ import annotations

import uuid
from datetime import date, datetime
from typing import Any

from sqlalchemy import (
    ARRAY,
    JSON,
    BigInteger,
    CheckConstraint,
    DateTime,
    Double,
    ForeignKey,
    Index,
    Integer,
    MetaData,
    UniqueConstraint,
    false,
    func,
    true,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

NAMING = {
    "ix": "ix_%(table_name)s_%(column_0_N_name)s",
    "uq": "uq_%(table_name)s_%(column_0_N_name)s",
    "ck": "ck_%(table_name)s_%(constraint_name)s",
    "fk": "fk_%(table_name)s_%(column_0_N_name)s",
    "pk": "pk_%(table_name)s",
}


class Base(DeclarativeBase):
    metadata = MetaData(naming_convention=NAMING)
    type_annotation_map = {datetime: DateTime(timezone=True), dict[str, Any]: JSONB, float: Double}


def _key() -> Mapped[uuid.UUID]:
    return mapped_column(primary_key=True, default=uuid.uuid4)


def _created() -> Mapped[datetime]:
    return mapped_column(server_default=func.now())


def _owner(table: str) -> Mapped[uuid.UUID]:
    return mapped_column(ForeignKey(f"{table}.id", ondelete="CASCADE"), index=True)


class Academy(Base):
    __tablename__ = "academy"
    id: Mapped[uuid.UUID] = _key()
    name: Mapped[str]


class Account(Base):
    """Someone who signs in: a coach."""

    __tablename__ = "account"
    id: Mapped[uuid.UUID] = _key()
    academy_id: Mapped[uuid.UUID] = _owner("academy")
    email: Mapped[str] = mapped_column(unique=True)
    name: Mapped[str]
    password_hash: Mapped[str]
    created_at: Mapped[datetime] = _created()


class SignIn(Base):
    """A signed-in browser, by the hash of its token."""

    __tablename__ = "sign_in"
    token_hash: Mapped[str] = mapped_column(primary_key=True)
    account_id: Mapped[uuid.UUID] = _owner("account")
    expires_at: Mapped[datetime]


class SignInAttempt(Base):
    """An attempt to sign in that has not succeeded, under each key that it counts for: address and e-mail, address, device."""

    __tablename__ = "sign_in_attempt"
    id: Mapped[int] = mapped_column(primary_key=True)
    key: Mapped[str]
    at: Mapped[datetime] = _created()
    __table_args__ = (Index("ix_sign_in_attempt_key_at", "key", "at"), Index("ix_sign_in_attempt_at", "at"))


class Student(Base):
    __tablename__ = "student"
    id: Mapped[uuid.UUID] = _key()
    academy_id: Mapped[uuid.UUID] = _owner("academy")
    name: Mapped[str]
    side_policy: Mapped[str] = mapped_column(default="both")
    note: Mapped[str] = mapped_column(default="")
    email: Mapped[str] = mapped_column(default="", server_default="")
    lends_pictures: Mapped[bool] = mapped_column(default=False, server_default=false())
    """Whether pictures of this student's reps may stand beside another student's correction."""
    grade_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("grade.id", ondelete="SET NULL"), index=True)
    """The grade that this student works towards."""
    focus: Mapped[dict[str, Any] | None]
    """What the coach wants to be fixed first over the whole history, and why."""
    __table_args__ = (CheckConstraint("side_policy in ('both', 'left', 'right')", name="side_policy"),)


class Note(Base):
    """What a coach noted about a student on a day."""

    __tablename__ = "note"
    id: Mapped[uuid.UUID] = _key()
    student_id: Mapped[uuid.UUID] = _owner("student")
    account_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    noted_on: Mapped[date]
    words: Mapped[str]
    created_at: Mapped[datetime] = _created()


class Grade(Base):
    """A grade of an academy: techniques, each with the rung that is asked. `place` orders them, the first grade first."""

    __tablename__ = "grade"
    id: Mapped[uuid.UUID] = _key()
    academy_id: Mapped[uuid.UUID] = _owner("academy")
    name: Mapped[str]
    place: Mapped[int]
    required: Mapped[list[Requirement]] = relationship(lazy="raise", order_by="Requirement.technique", cascade="all, delete-orphan")
    __table_args__ = (UniqueConstraint("academy_id", "name"),)


class Requirement(Base):
    """A technique that a grade asks for, on a rung that is to be passed."""

    __tablename__ = "requirement"
    grade_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("grade.id", ondelete="CASCADE"), primary_key=True)
    technique: Mapped[str] = mapped_column(primary_key=True)
    rung: Mapped[str]


class Taught(Base):
    """A day on which a technique was taught in class."""

    __tablename__ = "taught"
    academy_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("academy.id", ondelete="CASCADE"), primary_key=True)
    technique: Mapped[str] = mapped_column(primary_key=True)
    taught_on: Mapped[date] = mapped_column(primary_key=True)
    account_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))


class AdaptationRow(Base):
    """A checkpoint that is asked of one student otherwise, or not at all, while it is in force (`core.techniques.adaptation`)."""

    __tablename__ = "adaptation"
    id: Mapped[uuid.UUID] = _key()
    student_id: Mapped[uuid.UUID] = _owner("student")
    technique: Mapped[str]
    checkpoint: Mapped[str]
    body: Mapped[dict[str, Any]]
    created_at: Mapped[datetime] = _created()
    ended_at: Mapped[datetime | None]


class TechniqueVersion(Base):
    """A technique as it was at some time; a shipped one has no academy."""

    __tablename__ = "technique_version"
    id: Mapped[uuid.UUID] = _key()
    academy_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("academy.id", ondelete="CASCADE"))
    technique: Mapped[str]
    version: Mapped[int]
    digest: Mapped[str]
    # JSON, not JSONB: the order of events and options is part of a technique.
    # Read only when it is not known yet: it is large, and never changes.
    body: Mapped[dict[str, Any]] = mapped_column(JSON, deferred=True)
    brought_in: Mapped[bool] = mapped_column(default=False, server_default=false())
    """It came with a student's file and judges that student's old reps alone."""
    created_at: Mapped[datetime] = _created()
    __table_args__ = (
        UniqueConstraint("academy_id", "technique", "version", postgresql_nulls_not_distinct=True),
        UniqueConstraint("academy_id", "technique", "digest", postgresql_nulls_not_distinct=True),
    )


class Clip(Base):
    """A video, its facts and the times of its frames (seconds from 0). Until it is named it has no student."""

    __tablename__ = "clip"
    id: Mapped[uuid.UUID] = _key()
    academy_id: Mapped[uuid.UUID] = _owner("academy")
    student_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("student.id"), index=True)
    name: Mapped[str]
    folder: Mapped[str] = mapped_column(default="", server_default="")
    sha256: Mapped[str | None]
    naming: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    filmed_on: Mapped[date]
    state: Mapped[str] = mapped_column(default="waiting")
    failure: Mapped[str | None]
    frames_done: Mapped[int] = mapped_column(default=0)
    frames_expected: Mapped[int | None]
    stop_asked: Mapped[bool] = mapped_column(default=False)
    has_film: Mapped[bool] = mapped_column(default=True, server_default=true())
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
    capture_rate: Mapped[list[Any]] = mapped_column(JSONB, default=lambda: [[0, 1.0]], server_default="[[0, 1.0]]")
    capture_sure: Mapped[bool] = mapped_column(default=True, server_default=true())
    capture_why: Mapped[str] = mapped_column(default="", server_default="")
    has_sound: Mapped[bool] = mapped_column(default=False, server_default=false())
    sound_broke_off: Mapped[bool] = mapped_column(default=False, server_default=false())
    dropped_frames: Mapped[int] = mapped_column(default=0, server_default="0")
    repeated_frames: Mapped[int] = mapped_column(default=0, server_default="0")
    film: Mapped[dict[str, Any] | None]
    camera: Mapped[dict[str, Any] | None]
    proposals: Mapped[list[Any]] = mapped_column(JSONB, default=list, server_default="[]")
    reading_since: Mapped[datetime | None]
    created_at: Mapped[datetime] = _created()
    student: Mapped[Student | None] = relationship(lazy="raise")
    __table_args__ = (
        UniqueConstraint("academy_id", "sha256"),
        CheckConstraint("state in ('waiting', 'reading', 'ready', 'failed', 'stopped')", name="state"),
        CheckConstraint(r"name !~ '[/\\\x01-\x1f\x7f]' and octet_length(name) <= 255", name="name"),
        Index("ix_clip_academy_id_created_at", "academy_id", "created_at"),
    )


class UploadRow(Base):
    """A file on its way in, whose first bytes lie in the uploads folder under this id. Once it is whole it becomes the clip of
    the same id, and this row goes."""

    __tablename__ = "upload"
    id: Mapped[uuid.UUID] = _key()
    academy_id: Mapped[uuid.UUID] = _owner("academy")
    length: Mapped[int] = mapped_column(BigInteger)
    name: Mapped[str]
    folder: Mapped[str]
    student_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("student.id", ondelete="SET NULL"))
    filmed_on: Mapped[date]
    touched_at: Mapped[datetime] = _created()
    __table_args__ = (CheckConstraint("length > 0", name="length"),)


class ViewTie(Base):
    """Two clips of the same reps: the frames at which both show the same instant. Kept from either clip's side."""

    __tablename__ = "view_tie"
    clip_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("clip.id", ondelete="CASCADE"), primary_key=True)
    other_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("clip.id", ondelete="CASCADE"), primary_key=True, index=True)
    frame: Mapped[int]
    other_frame: Mapped[int]
    __table_args__ = (CheckConstraint("clip_id <> other_id", name="two_clips"),)


class Review(Base):
    """A coach's work on a clip; once finished it is kept as it was."""

    __tablename__ = "review"
    id: Mapped[uuid.UUID] = _key()
    academy_id: Mapped[uuid.UUID] = _owner("academy")
    clip_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("clip.id", ondelete="CASCADE"), unique=True)
    student_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("student.id"), index=True)
    account_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"), index=True)
    """Who began it, and so marks in it."""
    marking: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    """How closely that coach marks, as it was known while the review was open."""
    heights_px: Mapped[dict[str, Any]] = mapped_column(default=dict)
    reference: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    """The frame of reference: where up is, the scale, four mat points, limbs' lengths."""
    proposals: Mapped[list[Any]] = mapped_column(JSONB, default=list, server_default="[]")
    fix_choice: Mapped[dict[str, Any] | None]
    """What the coach wants to be fixed first in place of what is recommended, and why."""
    words: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    """What the coach writes on the sheet: what was good, the answer to the student's question, when the next clip is due."""
    marked: Mapped[dict[str, Any] | None]
    """How far the marked clip is, and what it was made from."""
    reopened_why: Mapped[str | None]
    finished_at: Mapped[datetime | None]
    created_at: Mapped[datetime] = _created()
    clip: Mapped[Clip] = relationship(lazy="raise")
    reps: Mapped[list[RepRow]] = relationship(
        lazy="raise", order_by="(RepRow.blind_of.is_not(None), RepRow.first_frame)", cascade="all, delete-orphan"
    )
    corrections: Mapped[list[Correction]] = relationship(
        lazy="raise", order_by="Correction.created_at", cascade="all, delete-orphan"
    )


class RepRow(Base):
    """A repetition cut from a clip: first and last frame, and how it was done. Several pairs may be in one clip:
    `student_id` names the performer where that is not the clip's student."""

    __tablename__ = "rep"
    id: Mapped[uuid.UUID] = _key()
    review_id: Mapped[uuid.UUID] = _owner("review")
    technique_version_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("technique_version.id"))
    student_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("student.id"), index=True)
    first_frame: Mapped[int]
    last_frame: Mapped[int]
    side: Mapped[str]
    heading: Mapped[str] = mapped_column(default="right")
    view: Mapped[str] = mapped_column(default="side")
    partner: Mapped[str] = mapped_column(default="person")
    pace: Mapped[str] = mapped_column(default="full")
    rung: Mapped[str | None]
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
    carrying: Mapped[dict[str, Any] | None]
    """How far the carrying of its points is, and what was lost."""
    options: Mapped[dict[str, Any]] = mapped_column(default=dict)
    created_at: Mapped[datetime] = _created()
    technique_version: Mapped[TechniqueVersion] = relationship(lazy="raise")
    events: Mapped[list[EventMark]] = relationship(lazy="raise", cascade="all, delete-orphan")
    points: Mapped[list[PointRow]] = relationship(lazy="raise", cascade="all, delete-orphan", order_by="PointRow.frame")
    answers: Mapped[list[Answer]] = relationship(lazy="raise", cascade="all, delete-orphan")
    overrules: Mapped[list[OverruleRow]] = relationship(lazy="raise", cascade="all, delete-orphan")
    __table_args__ = (
        CheckConstraint("0 <= first_frame and first_frame <= last_frame", name="frames"),
        CheckConstraint("side in ('left', 'right')", name="side"),
    )


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


class RemarkRow(Base):
    """A rep that a coach marked twice, and how far apart the two were (`core.review.blind_remarking`)."""

    __tablename__ = "remark"
    id: Mapped[uuid.UUID] = _key()
    account_id: Mapped[uuid.UUID] = _owner("account")
    rep_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("rep.id", ondelete="SET NULL"), unique=True)
    body: Mapped[dict[str, Any]]
    created_at: Mapped[datetime] = _created()


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
    body: Mapped[str] = mapped_column(primary_key=True)
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
    id: Mapped[uuid.UUID] = _key()
    review_id: Mapped[uuid.UUID] = _owner("review")
    rep_id: Mapped[uuid.UUID] = _owner("rep")
    checkpoint: Mapped[str]
    frame: Mapped[int]
    first_frame: Mapped[int]
    last_frame: Mapped[int]
    marks: Mapped[list[Any]] = mapped_column(JSONB, default=list, server_default="[]")
    """`core.corrections.marks.Mark` as JSON."""
    drawn: Mapped[list[Any]] = mapped_column(JSONB, default=list, server_default="[]")
    """What was drawn on its frame when the review was finished: `core.corrections.shapes` as JSON."""
    beside: Mapped[dict[str, Any] | None]
    """The picture that stands beside it, of the same checkpoint done right."""
    voice_s: Mapped[float | None]
    """How long the coach speaks over it, seconds, where a voice note was recorded."""
    cue: Mapped[str]
    has_still: Mapped[bool] = mapped_column(default=False)
    still_failed: Mapped[str | None]
    """Why its picture could not be drawn."""
    created_at: Mapped[datetime] = _created()
    __table_args__ = (CheckConstraint("first_frame <= frame and frame <= last_frame", name="frames"),)


class Revision(Base):
    """A review as it was finished, and what changed since it was finished before. Never changed."""

    __tablename__ = "revision"
    id: Mapped[uuid.UUID] = _key()
    review_id: Mapped[uuid.UUID] = _owner("review")
    number: Mapped[int]
    account_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    why: Mapped[str] = mapped_column(default="")
    changes: Mapped[list[Any]] = mapped_column(JSONB, default=list)
    record: Mapped[dict[str, Any]]
    """Verdicts, corrections and what to fix first, by rep and checkpoint."""
    sheet: Mapped[dict[str, Any]]
    """`core.sheets.sheet.Sheet` as JSON: what the student is shown."""
    created_at: Mapped[datetime] = _created()
    __table_args__ = (UniqueConstraint("review_id", "number"),)


class ShareLink(Base):
    """A link by which a student sees a review's sheet without signing in, until it expires or is revoked."""

    __tablename__ = "share_link"
    id: Mapped[uuid.UUID] = _key()
    academy_id: Mapped[uuid.UUID] = _owner("academy")
    review_id: Mapped[uuid.UUID] = _owner("review")
    account_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    sent_to: Mapped[str] = mapped_column(default="")
    expires_at: Mapped[datetime]
    revoked_at: Mapped[datetime | None]
    opened: Mapped[int] = mapped_column(default=0)
    first_opened_at: Mapped[datetime | None]
    last_opened_at: Mapped[datetime | None]
    created_at: Mapped[datetime] = _created()


class SheetAnswer(Base):
    """What the student answered on the sheet about one of its fixes, or about the whole (`checkpoint` empty)."""

    __tablename__ = "sheet_answer"
    id: Mapped[uuid.UUID] = _key()
    review_id: Mapped[uuid.UUID] = _owner("review")
    link_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("share_link.id", ondelete="SET NULL"))
    technique: Mapped[str] = mapped_column(default="")
    checkpoint: Mapped[str] = mapped_column(default="")
    felt: Mapped[str | None]
    tried: Mapped[bool | None]
    sure: Mapped[bool | None]
    words: Mapped[str] = mapped_column(default="")
    created_at: Mapped[datetime] = _created()
    __table_args__ = (CheckConstraint("felt in ('right', 'off')", name="felt"),)


class Feeling(Base):
    """Whether performer and partner say that they feel sure on a rung of a technique; null is not asked yet."""

    __tablename__ = "feeling"
    student_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("student.id", ondelete="CASCADE"), primary_key=True)
    technique: Mapped[str] = mapped_column(primary_key=True)
    rung: Mapped[str] = mapped_column(primary_key=True)
    performer: Mapped[bool | None]
    partner: Mapped[bool | None]


class RungDecision(Base):
    """What the coach decided on a student's rung: from which to which, what was recommended by what number, and why."""

    __tablename__ = "rung_decision"
    id: Mapped[uuid.UUID] = _key()
    student_id: Mapped[uuid.UUID] = _owner("student")
    account_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    technique: Mapped[str]
    from_rung: Mapped[str]
    to_rung: Mapped[str]
    decision: Mapped[str]
    advice: Mapped[str]
    because: Mapped[str]
    why: Mapped[str] = mapped_column(default="")
    decided_on: Mapped[date]
    created_at: Mapped[datetime] = _created()
    __table_args__ = (
        CheckConstraint("decision in ('advance', 'hold', 'step_back')", name="decision"),
        CheckConstraint("advice in ('advance', 'hold', 'step_back')", name="advice"),
    )


class SiteFact(Base):
    """Something that one process found out and others tell, such as how the worker's readers are confined."""

    __tablename__ = "site_fact"
    name: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[dict[str, Any]]
    at: Mapped[datetime] = _created()


class SiteKey(Base):
    """The secret that links are signed with; made once."""

    __tablename__ = "site_key"
    id: Mapped[int] = mapped_column(primary_key=True)
    secret: Mapped[str]
    __table_args__ = (CheckConstraint("id = 1", name="one"),)


class JudgementRow(Base):
    """A verdict of a finished review, as the ledger reads it.

    How the rep was done stands here as it was when the review was finished: a student's page reads that student's rows alone,
    and a rep that is changed while its review is revised changes nothing before it is finished anew.
    """

    __tablename__ = "judgement"
    id: Mapped[int] = mapped_column(primary_key=True)
    review_id: Mapped[uuid.UUID] = _owner("review")
    rep_id: Mapped[uuid.UUID] = _owner("rep")
    student_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("student.id"))
    filmed_on: Mapped[date]
    technique: Mapped[str]
    checkpoint: Mapped[str]
    kind: Mapped[str]
    verdict: Mapped[str]
    measured: Mapped[str | None]
    because: Mapped[str | None]
    value: Mapped[float | None]
    unit: Mapped[str | None]
    uncertainty: Mapped[float | None]
    frames: Mapped[list[int]] = mapped_column(ARRAY(Integer))
    view: Mapped[str | None]
    reason: Mapped[str | None]
    fault: Mapped[str]
    family: Mapped[str]
    safety: Mapped[bool]
    first_frame: Mapped[int]
    side: Mapped[str]
    pace: Mapped[str]
    rung: Mapped[str | None]
    purpose: Mapped[str]
    outcome: Mapped[str | None]
    reaction: Mapped[str | None]
    options: Mapped[dict[str, Any]]
    __table_args__ = (
        UniqueConstraint("rep_id", "checkpoint"),
        Index("ix_judgement_student_id_filmed_on", "student_id", "filmed_on"),
        CheckConstraint("verdict in ('met', 'borderline', 'missed', 'not_seen', 'not_asked')", name="verdict"),
    )


class Tally(Base):
    """Exposures and misses of a fault by review and student: the verdicts added up, for what is asked of a whole academy.

    The database keeps it: a trigger on `judgement` adds a review's verdicts up anew whenever one of them comes, changes or goes
    (migration 0011). Demonstrations are not in it.
    """

    __tablename__ = "tally"
    review_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("review.id", ondelete="CASCADE"), primary_key=True)
    student_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("student.id", ondelete="CASCADE"), primary_key=True)
    technique: Mapped[str] = mapped_column(primary_key=True)
    fault: Mapped[str] = mapped_column(primary_key=True)
    academy_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("academy.id", ondelete="CASCADE"))
    filmed_on: Mapped[date]
    family: Mapped[str]
    safety: Mapped[bool]
    exposures: Mapped[int]
    misses: Mapped[int]
    __table_args__ = (Index("ix_tally_academy_id_filmed_on", "academy_id", "filmed_on"),)
