"""Notes from the floor: what a coach saw or was asked. They are no exposures, and never change the ledger."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Literal

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.texts import checked_text
from lacertus.services.errors import NotFound
from lacertus.services.people import people
from lacertus.services.people.rights import Right, needs
from lacertus.services.techniques import catalogue
from lacertus.store.tables import Account, FloorNote, Lesson

Kind = Literal["fault", "good", "remark", "question", "film"]
LONGEST = 500
MOST_SHOWN = 100
LATE = timedelta(days=14)
"""A note that was kept on a phone without a connection arrives at most so much later."""
SEEN_DAYS = 30


@dataclass(frozen=True, kw_only=True)
class Noted:
    """Something noted, with a key of its own: sent twice it is one note."""

    kind: Kind
    students: tuple[uuid.UUID, ...]
    key: uuid.UUID
    at: datetime
    lesson: uuid.UUID | None = None
    unit: str = ""
    technique: str = ""
    checkpoint: str = ""
    words: str = ""


@dataclass(frozen=True, kw_only=True)
class Shown:
    """A note as it is shown: who noted it, and what the checkpoint asks."""

    row: FloorNote
    by: str
    ask: str
    technique_name: str


@needs(Right.FLOOR)
def note(db: Session, academy: uuid.UUID, what: Noted, account: uuid.UUID | None) -> list[FloorNote]:
    """Keep a note, for each of the students that it is about.

    Raises:
        BadInput: nothing is said, or the time lies in the future or too far back.
        NotFound: no such student, class, technique or checkpoint.
    """
    now = datetime.now(UTC)
    if what.at.tzinfo is None or not now - LATE <= what.at <= now + timedelta(minutes=10):
        raise BadInput("the time of this note lies in the future, or more than two weeks back; nothing was stored")
    if not 1 <= len(what.students) <= 40:
        raise BadInput("choose whom the note is about; nothing was stored")
    words = checked_text(what.words, "the note", LONGEST) if what.words.strip() else ""
    if what.kind in ("remark", "question") and not words:
        raise BadInput("write a word first; nothing was stored")
    if what.kind in ("fault", "good") and not what.checkpoint and not words:
        raise BadInput("choose what was good or not; nothing was stored")
    _check(db, academy, what)
    for student in what.students:
        people.student(db, academy, student)
        put = insert(FloorNote).values(
            id=uuid.uuid4(), academy_id=academy, student_id=student, lesson_id=what.lesson, account_id=account, key=what.key,
            kind=what.kind, unit=what.unit[:200], technique=what.technique, checkpoint=what.checkpoint, words=words,
            noted_at=min(what.at, now),
        )  # fmt: skip
        db.execute(put.on_conflict_do_nothing(index_elements=["student_id", "key"]))
    found = select(FloorNote).where(FloorNote.key == what.key, FloorNote.student_id.in_(what.students))
    return list(db.scalars(found.order_by(FloorNote.student_id)))


def _check(db: Session, academy: uuid.UUID, what: Noted) -> None:
    if what.lesson is not None:
        own = select(Lesson.id).where(Lesson.id == what.lesson, Lesson.academy_id == academy)
        if db.scalar(own) is None:
            raise NotFound("There is no such class in your academy. Nothing was stored.")
    if what.technique:
        technique = catalogue.definition(catalogue.newest(db, academy, what.technique))
        if what.checkpoint and technique.asked(what.checkpoint) is None:
            raise NotFound("This technique has no such checkpoint. Nothing was stored.")
    elif what.checkpoint:
        raise BadInput("say of which technique the checkpoint is; nothing was stored")


def of_student(db: Session, academy: uuid.UUID, student_id: uuid.UUID) -> list[Shown]:
    """The notes about a student, the newest first. Raises NotFound where there is no such student."""
    people.student(db, academy, student_id)
    rows = select(FloorNote, Account.name).outerjoin(Account, Account.id == FloorNote.account_id)
    newest = rows.where(FloorNote.student_id == student_id).order_by(FloorNote.noted_at.desc(), FloorNote.id)
    return _shown(db, academy, [(row, name) for row, name in db.execute(newest.limit(MOST_SHOWN))])


def of_lesson(db: Session, academy: uuid.UUID, lesson_id: uuid.UUID) -> list[Shown]:
    """The notes of a class, the newest first."""
    rows = select(FloorNote, Account.name).outerjoin(Account, Account.id == FloorNote.account_id)
    own = rows.where(FloorNote.academy_id == academy, FloorNote.lesson_id == lesson_id)
    newest = own.order_by(FloorNote.noted_at.desc(), FloorNote.id).limit(MOST_SHOWN)
    return _shown(db, academy, [(row, name) for row, name in db.execute(newest)])


def _shown(db: Session, academy: uuid.UUID, rows: Sequence[tuple[FloorNote, str | None]]) -> list[Shown]:
    known = catalogue.known(db, academy, {row.technique for row, _ in rows if row.technique})
    found = []
    for row, name in rows:
        technique = known.get(row.technique)
        asked = technique.asked(row.checkpoint) if technique else None
        found.append(
            Shown(row=row, by=name or "", ask=asked.ask if asked else "", technique_name=technique.names.main if technique else "")
        )
    return found


def seen_lately(db: Session, student_id: uuid.UUID, since: datetime) -> dict[tuple[str, str], int]:
    """By technique and checkpoint, how often a fault of a student was seen on the floor since a moment."""
    rows = (
        select(FloorNote.technique, FloorNote.checkpoint, func.count())
        .where(FloorNote.student_id == student_id, FloorNote.kind == "fault", FloorNote.noted_at >= since)
        .group_by(FloorNote.technique, FloorNote.checkpoint)
    )
    return {(technique, checkpoint): count for technique, checkpoint, count in db.execute(rows) if checkpoint}


def wishes(db: Session, student_id: uuid.UUID) -> list[FloorNote]:
    """What a coach wants to be filmed, the oldest first."""
    own = select(FloorNote).where(FloorNote.student_id == student_id, FloorNote.kind == "film", FloorNote.done_at.is_(None))
    return list(db.scalars(own.order_by(FloorNote.noted_at)))


@needs(Right.FLOOR)
def settle(db: Session, academy: uuid.UUID, note_id: uuid.UUID, done: bool) -> FloorNote:
    """Say that a question was answered or a wish to film fulfilled, or take that back. Raises NotFound where there is none."""
    row = db.scalar(select(FloorNote).where(FloorNote.id == note_id, FloorNote.academy_id == academy))
    if row is None:
        raise NotFound("There is no such note in your academy.")
    row.done_at = datetime.now(UTC) if done else None
    db.flush()
    return row


@needs(Right.FLOOR)
def remove(db: Session, academy: uuid.UUID, note_id: uuid.UUID) -> None:
    """Delete a note. Raises NotFound where there is none."""
    row = db.scalar(select(FloorNote).where(FloorNote.id == note_id, FloorNote.academy_id == academy))
    if row is None:
        raise NotFound("There is no such note in your academy.")
    db.delete(row)
    db.flush()
