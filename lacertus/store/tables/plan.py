"""Practice, classes, notes from the floor, rounds, and calendars."""

from __future__ import annotations

import uuid
from datetime import date, datetime

from sqlalchemy import ARRAY, CheckConstraint, ForeignKey, Index, String, UniqueConstraint, false, true
from sqlalchemy.orm import Mapped, mapped_column, relationship

from lacertus.core.plan.clock import Clock
from lacertus.core.plan.lesson import PlannedPairs, Teach, Teaching, Unit, Units
from lacertus.core.plan.rounds import Tap
from lacertus.core.techniques.practice import Dose
from lacertus.store.state import Json
from lacertus.store.tables.base import Base, created, key, owner


def _by() -> Mapped[uuid.UUID | None]:
    return mapped_column(ForeignKey("account.id", ondelete="SET NULL"))


class Prescription(Base):
    """A drill that a student is to practise, for some faults of a technique, until it ends.

    What the drill is stands here as it was prescribed: a technique that is changed changes no prescription.
    """

    __tablename__ = "prescription"
    id: Mapped[uuid.UUID] = key()
    student_id: Mapped[uuid.UUID] = owner("student")
    account_id: Mapped[uuid.UUID | None] = _by()
    review_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("review.id", ondelete="SET NULL"), index=True)
    technique: Mapped[str]
    drill: Mapped[str]
    """The drill's id in its technique, or of an academy's own drill; empty where it was written by hand for this student."""
    name: Mapped[str]
    how: Mapped[str] = mapped_column(default="")
    faults: Mapped[list[str]] = mapped_column(ARRAY(String))
    dose: Mapped[Dose] = mapped_column(Json("dose", Dose, without="defaults"))
    times_a_week: Mapped[int]
    partner_task: Mapped[str] = mapped_column(default="")
    side: Mapped[str] = mapped_column(default="both")
    start: Mapped[str | None]
    made_in: Mapped[str]
    since: Mapped[date]
    until: Mapped[date | None]
    ended_on: Mapped[date | None]
    ended_why: Mapped[str] = mapped_column(default="")
    created_at: Mapped[datetime] = created()
    __table_args__ = (
        CheckConstraint("side in ('both', 'left', 'right')", name="side"),
        CheckConstraint("made_in in ('review', 'class', 'hand')", name="made_in"),
        CheckConstraint("ended_why in ('', 'done', 'replaced', 'pain', 'cleared', 'stopped')", name="ended_why"),
    )


class PracticeLog(Base):
    """That a drill was practised on a day: how much, where, how it felt. Sent twice with the same key it is one row."""

    __tablename__ = "practice_log"
    id: Mapped[uuid.UUID] = key()
    student_id: Mapped[uuid.UUID] = owner("student")
    prescription_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("prescription.id", ondelete="CASCADE"), index=True)
    lesson_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("lesson.id", ondelete="CASCADE"), index=True)
    account_id: Mapped[uuid.UUID | None] = _by()
    key: Mapped[uuid.UUID] = mapped_column(default=uuid.uuid4)
    done_on: Mapped[date]
    technique: Mapped[str]
    drill: Mapped[str]
    name: Mapped[str]
    amount: Mapped[int]
    """Reps; of a dose in rounds, rounds."""
    place: Mapped[str]
    felt: Mapped[str | None]
    pain: Mapped[bool] = mapped_column(default=False)
    words: Mapped[str] = mapped_column(default="")
    said_by: Mapped[str]
    created_at: Mapped[datetime] = created()
    __table_args__ = (
        UniqueConstraint("student_id", "key"),
        CheckConstraint("place in ('class', 'home')", name="place"),
        CheckConstraint("felt in ('sure', 'unsure')", name="felt"),
        CheckConstraint("said_by in ('student', 'guardian', 'coach', 'class')", name="said_by"),
        Index("ix_practice_log_student_id_done_on", "student_id", "done_on"),
    )


class OwnDrill(Base):
    """A drill that a coach wrote in a line, where the library has none for a fault; the academy keeps it."""

    __tablename__ = "own_drill"
    id: Mapped[uuid.UUID] = key()
    academy_id: Mapped[uuid.UUID] = owner("academy")
    account_id: Mapped[uuid.UUID | None] = _by()
    technique: Mapped[str]
    fault: Mapped[str]
    name: Mapped[str]
    how: Mapped[str] = mapped_column(default="")
    dose: Mapped[Dose] = mapped_column(Json("dose", Dose, without="defaults"))
    created_at: Mapped[datetime] = created()
    __table_args__ = (UniqueConstraint("academy_id", "technique", "fault", "name"),)


class WeeklyClass(Base):
    """A class that is held every week. `weekday` 0 is Monday, `at` the minute of the day in the academy's time zone."""

    __tablename__ = "weekly_class"
    id: Mapped[uuid.UUID] = key()
    academy_id: Mapped[uuid.UUID] = owner("academy")
    name: Mapped[str]
    weekday: Mapped[int]
    at: Mapped[int]
    minutes: Mapped[int]
    mats: Mapped[int]
    """So many pairs train at once."""
    for_children: Mapped[bool] = mapped_column(default=False, server_default=false())
    equipment: Mapped[list[str]] = mapped_column(ARRAY(String), default=list, server_default="{}")
    since: Mapped[date]
    until: Mapped[date | None]
    created_at: Mapped[datetime] = created()
    members: Mapped[list[ClassMember]] = relationship(lazy="raise", cascade="all, delete-orphan")
    __table_args__ = (
        CheckConstraint("weekday between 0 and 6", name="weekday"),
        CheckConstraint("at between 0 and 1439", name="at"),
    )


class ClassMember(Base):
    """That a student belongs to a weekly class."""

    __tablename__ = "class_member"
    weekly_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("weekly_class.id", ondelete="CASCADE"), primary_key=True)
    student_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("student.id", ondelete="CASCADE"), primary_key=True, index=True)


class ClassException(Base):
    """A day on which a weekly class is called off, or moved to another day or time."""

    __tablename__ = "class_exception"
    weekly_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("weekly_class.id", ondelete="CASCADE"), primary_key=True)
    planned_on: Mapped[date] = mapped_column(primary_key=True)
    moved_to: Mapped[date | None]
    at: Mapped[int | None]
    why: Mapped[str] = mapped_column(default="")


class Lesson(Base):
    """A class on a day, from its plan to its booking. `planned_on` is its day by the weekly class that it belongs to."""

    __tablename__ = "lesson"
    id: Mapped[uuid.UUID] = key()
    academy_id: Mapped[uuid.UUID] = owner("academy")
    account_id: Mapped[uuid.UUID | None] = _by()
    weekly_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("weekly_class.id", ondelete="SET NULL"), index=True)
    planned_on: Mapped[date | None]
    held_on: Mapped[date]
    at: Mapped[int]
    minutes: Mapped[int]
    name: Mapped[str]
    mats: Mapped[int]
    for_children: Mapped[bool] = mapped_column(default=False)
    equipment: Mapped[list[str]] = mapped_column(ARRAY(String), default=list)
    teach: Mapped[tuple[Teach, ...]] = mapped_column(Json("teaching", Teaching), default=tuple)
    units: Mapped[tuple[Unit, ...]] = mapped_column(Json("units", Units, without="defaults"), default=tuple)
    pairs: Mapped[PlannedPairs | None] = mapped_column(Json("planned pairs", PlannedPairs))
    clock: Mapped[Clock] = mapped_column(Json("clock", Clock), default=Clock)
    version: Mapped[int] = mapped_column(default=1)
    """Counts changes of the plan, so that two who change it at once do not undo each other unseen."""
    booked_at: Mapped[datetime | None]
    created_at: Mapped[datetime] = created()
    attendance: Mapped[list[Attendance]] = relationship(lazy="raise", cascade="all, delete-orphan")
    __table_args__ = (
        UniqueConstraint("weekly_id", "planned_on"),
        CheckConstraint("at between 0 and 1439", name="at"),
        Index("ix_lesson_academy_id_held_on", "academy_id", "held_on"),
    )


class Attendance(Base):
    """That somebody is expected in a class, and, once it was held, whether they came."""

    __tablename__ = "attendance"
    lesson_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("lesson.id", ondelete="CASCADE"), primary_key=True)
    student_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("student.id", ondelete="CASCADE"), primary_key=True, index=True)
    came: Mapped[bool | None]


class TrainedWith(Base):
    """That two trained together in a class that was booked; the smaller id is `student_id`."""

    __tablename__ = "trained_with"
    lesson_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("lesson.id", ondelete="CASCADE"), primary_key=True)
    student_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("student.id", ondelete="CASCADE"), primary_key=True, index=True)
    other_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("student.id", ondelete="CASCADE"), primary_key=True, index=True)


class PartnerRule(Base):
    """That two are kept apart, or may train together against the rules; the smaller id is `student_id`."""

    __tablename__ = "partner_rule"
    student_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("student.id", ondelete="CASCADE"), primary_key=True)
    other_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("student.id", ondelete="CASCADE"), primary_key=True, index=True)
    rule: Mapped[str]
    why: Mapped[str] = mapped_column(default="")
    account_id: Mapped[uuid.UUID | None] = _by()
    created_at: Mapped[datetime] = created()
    __table_args__ = (CheckConstraint("rule in ('apart', 'allowed')", name="rule"),)


class LayerWord(Base):
    """The coach's word that a student holds a layer of a technique, or does not yet."""

    __tablename__ = "layer_word"
    student_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("student.id", ondelete="CASCADE"), primary_key=True)
    technique: Mapped[str] = mapped_column(primary_key=True)
    layer: Mapped[str] = mapped_column(primary_key=True)
    holds: Mapped[bool]
    said_on: Mapped[date]
    account_id: Mapped[uuid.UUID | None] = _by()


class FloorNote(Base):
    """What a coach saw on the floor. No exposure: it never changes the ledger. Sent twice with the same key it is one row."""

    __tablename__ = "floor_note"
    id: Mapped[uuid.UUID] = key()
    academy_id: Mapped[uuid.UUID] = owner("academy")
    student_id: Mapped[uuid.UUID] = owner("student")
    lesson_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("lesson.id", ondelete="SET NULL"), index=True)
    account_id: Mapped[uuid.UUID | None] = _by()
    key: Mapped[uuid.UUID] = mapped_column(default=uuid.uuid4)
    kind: Mapped[str]
    unit: Mapped[str] = mapped_column(default="")
    technique: Mapped[str] = mapped_column(default="")
    checkpoint: Mapped[str] = mapped_column(default="")
    words: Mapped[str] = mapped_column(default="")
    noted_at: Mapped[datetime]
    done_at: Mapped[datetime | None]
    """When a wish to film was fulfilled, or a question answered."""
    __table_args__ = (
        UniqueConstraint("student_id", "key"),
        CheckConstraint("kind in ('fault', 'good', 'remark', 'question', 'film')", name="kind"),
        Index("ix_floor_note_student_id_noted_at", "student_id", "noted_at"),
    )


class Round(Base):
    """A round or a game of two: live with a tally, or a range of a long clip in which attempts were cut."""

    __tablename__ = "round"
    id: Mapped[uuid.UUID] = key()
    academy_id: Mapped[uuid.UUID] = owner("academy")
    account_id: Mapped[uuid.UUID | None] = _by()
    student_id: Mapped[uuid.UUID] = owner("student")
    other_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("student.id", ondelete="CASCADE"), index=True)
    clip_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("clip.id", ondelete="CASCADE"), index=True)
    lesson_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("lesson.id", ondelete="SET NULL"), index=True)
    held_on: Mapped[date]
    objective: Mapped[str]
    """What scores."""
    first_frame: Mapped[int | None]
    last_frame: Mapped[int | None]
    rounds: Mapped[int] = mapped_column(default=1)
    seconds: Mapped[float]
    rest_s: Mapped[float] = mapped_column(default=0.0)
    clock: Mapped[Clock] = mapped_column(Json("clock", Clock), default=Clock)
    taps: Mapped[tuple[Tap, ...]] = mapped_column(Json("taps", tuple[Tap, ...], without="defaults"), default=tuple)
    shown: Mapped[bool] = mapped_column(default=True, server_default=true())
    """Whether the students see it on their page."""
    created_at: Mapped[datetime] = created()
    __table_args__ = (Index("ix_round_academy_id_held_on", "academy_id", "held_on"),)


class CalendarFeed(Base):
    """A secret address from which a coach or a student reads their calendar, until it is renewed."""

    __tablename__ = "calendar_feed"
    id: Mapped[uuid.UUID] = key()
    academy_id: Mapped[uuid.UUID] = owner("academy")
    account_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("account.id", ondelete="CASCADE"), index=True)
    student_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("student.id", ondelete="CASCADE"), index=True)
    revoked_at: Mapped[datetime | None]
    created_at: Mapped[datetime] = created()
    __table_args__ = (CheckConstraint("(account_id is null) <> (student_id is null)", name="whose"),)
