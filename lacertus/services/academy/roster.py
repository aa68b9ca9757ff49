"""The students of an academy as a list: what is open, when each was last filmed, what is due, and who may be thrown.

Each part is one question to the database, whatever the number of students; what is open of each is kept until something changes.
"""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, timedelta

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lacertus.services.people import people
from lacertus.services.practice.stamps import Stamps, stamps_of
from lacertus.services.practice.states import States, Worked
from lacertus.services.progress import rungs
from lacertus.store.tables import Clip, Grade, Review, Student, Tally

OPEN_DAYS = 180
"""A fault that was not asked for so long is not called open. A convention."""


@dataclass(frozen=True, kw_only=True)
class Row:
    """A student in the list.

    `open_faults` counts the faults that were missed on the last day that each was asked, `open_safety` those of them that bear on
    safety; `due` is the day that the last sheet named for the next clip.
    """

    student: Student
    open_faults: int
    open_safety: int
    last_filmed: date | None
    due: date | None
    grade: str | None
    thrown_on: tuple[str, ...]


def roster(db: Session, academy: uuid.UUID, today: date, archived: bool = False) -> tuple[Row, ...]:
    """Every student by name; with `archived` those who do not come any more too."""
    found = people.students(db, academy, archived)
    stamps = stamps_of(db, academy, found)
    open_now, filmed = _open(db, stamps, today), stamps.last_filmed
    due = _due(db, academy, filmed)
    grades = {one.id: one.name for one in db.scalars(select(Grade).where(Grade.academy_id == academy))}
    thrown = rungs.thrown_on(db, academy)
    return tuple(
        Row(
            student=one,
            open_faults=open_now.get(one.id, (0, 0))[0],
            open_safety=open_now.get(one.id, (0, 0))[1],
            last_filmed=filmed.get(one.id),
            due=due.get(one.id),
            grade=grades.get(one.grade_id) if one.grade_id else None,
            thrown_on=thrown.get(one.id, ()),
        )
        for one in found
    )


_states: States[tuple[int, int]] = States("open", tuple[int, int])


def _open(db: Session, stamps: Stamps, today: date) -> Mapping[uuid.UUID, tuple[int, int]]:
    """By student: faults missed when last asked, and how many of those bear on safety."""
    return _states.of(db, stamps.texts, lambda key: _open_of(db, key, today), today)


def _open_of(db: Session, student: uuid.UUID, today: date) -> Worked[tuple[int, int]]:
    """The same of one student, until the first fault that is counted now was not asked for too long."""
    of = (Tally.technique, Tally.fault)
    days = (
        select(*of, Tally.filmed_on, func.sum(Tally.misses).label("misses"), func.bool_or(Tally.safety).label("safety"))
        .where(Tally.student_id == student, Tally.filmed_on >= today - timedelta(days=OPEN_DAYS), Tally.exposures > 0)
        .group_by(*of, Tally.filmed_on)
        .subquery()
        .c
    )
    last = (
        select(days.misses, days.safety, days.filmed_on)
        .distinct(days.technique, days.fault)
        .order_by(days.technique, days.fault, days.filmed_on.desc())
        .subquery()
        .c
    )
    asked = select(func.count(), func.count().filter(last.safety), func.min(last.filmed_on)).where(last.misses > 0)
    faults, safety, oldest = db.execute(asked).one()
    return Worked(value=(faults, safety), until=oldest + timedelta(days=OPEN_DAYS + 1) if oldest else None)


def _due(db: Session, academy: uuid.UUID, filmed: Mapping[uuid.UUID, date]) -> Mapping[uuid.UUID, date]:
    """What the newest finished review of each student names, unless something was filmed since."""
    newest = (
        select(Review.student_id, Review.words, Clip.filmed_on)
        .join(Clip, Clip.id == Review.clip_id)
        .where(Review.academy_id == academy, Review.finished_at.is_not(None))
        .distinct(Review.student_id)
        .order_by(Review.student_id, Clip.filmed_on.desc(), Review.finished_at.desc())
    )
    return {
        key: date.fromisoformat(words.next_on)
        for key, words, on in db.execute(newest)
        if words.next_on and filmed.get(key, on) <= on
    }
