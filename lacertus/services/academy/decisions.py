"""Rungs and grades that wait for the coach's word.

Working a student's rungs out takes some milliseconds, so that what was found is kept while nothing that it depends on changes; of
those that are new only so many are worked out for one page, and the page says how many are left.
"""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from threading import Lock

from cachetools import LRUCache
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lacertus.core.progress.rungs import WINDOW_DAYS, Advice
from lacertus.services.practice.known import Known
from lacertus.services.progress import grades, rungs
from lacertus.store.tables import Feeling, RungDecision, Student, Tally

AT_ONCE = 40
"""So many students' rungs are worked out for one page."""
MOST_KEPT = 4000


@dataclass(frozen=True, kw_only=True)
class Pending:
    """Something to decide: a rung of a technique, or a grade whose techniques are all passed. `since` is an ordinal."""

    student: uuid.UUID
    technique: str
    grade: str
    words: str
    since: int


@dataclass(frozen=True, kw_only=True)
class Found:
    pending: tuple[Pending, ...]
    looking: int
    """So many students are still to be looked at."""


_kept: LRUCache[tuple[object, ...], tuple[Pending, ...]] = LRUCache(MOST_KEPT)
_lock = Lock()


def pending(db: Session, academy: uuid.UUID, students: Sequence[Student], faults: Mapping[uuid.UUID, Known], today: date) -> Found:
    """What waits to be decided about students who were filmed in the last 60 days, the last filmed first."""
    last = dict(
        db.execute(
            select(Tally.student_id, func.max(Tally.filmed_on)).where(Tally.academy_id == academy).group_by(Tally.student_id)
        )
        .tuples()
        .all()
    )
    decided = _stamps(db, academy)
    lately = [one for one in students if one.id in last and (today - last[one.id]).days <= WINDOW_DAYS]
    found: list[Pending] = []
    looked = left = 0
    for one in sorted(lately, key=lambda one: (-last[one.id].toordinal(), one.name)):
        # Without a fault that was ever missed, what was filmed still tells: the day stands for it.
        key = (one.id, today, last[one.id], faults.get(one.id), decided.get(one.id))
        with _lock:
            kept = _kept.get(key)
        if kept is None:
            if looked == AT_ONCE:
                left += 1
                continue
            looked += 1
            kept = tuple(_of_student(db, academy, one, today, last[one.id]))
            with _lock:
                _kept[key] = kept
        found += kept
    return Found(pending=(*found, *_grades(db, academy, students)), looking=left)


def _stamps(db: Session, academy: uuid.UUID) -> dict[uuid.UUID, str]:
    """A text for each student that changes with every decision and every word on feeling sure."""
    own = select(Student.id).where(Student.academy_id == academy)
    decisions = select(RungDecision.student_id, func.count(), func.max(RungDecision.created_at)).where(
        RungDecision.student_id.in_(own)
    )
    sure = select(Feeling.student_id, func.count(Feeling.performer), func.count(Feeling.partner), func.bool_and(Feeling.performer))
    found = {key: f"{rest}" for key, *rest in db.execute(decisions.group_by(RungDecision.student_id))}
    for key, *rest in db.execute(sure.where(Feeling.student_id.in_(own)).group_by(Feeling.student_id)):
        found[key] = f"{found.get(key)}{rest}"
    return found


def _of_student(db: Session, academy: uuid.UUID, student: Student, today: date, last: date) -> list[Pending]:
    """The techniques in which something else is recommended than to hold, and nothing was decided since the last film."""
    found = []
    for one in rungs.standings(db, academy, student.id, today):
        told = one.recommendation
        filmed = max((session.on for session in one.sessions), default=last)
        if told.advice is Advice.HOLD or any(row.decided_on >= filmed for row in one.decisions):
            continue
        doing = "advance" if told.advice is Advice.ADVANCE else "step back"
        words = f"{one.technique.names.main}, {one.rung.replace('_', ' ')}: decide whether to {doing} ({told.because})"
        found.append(Pending(student=student.id, technique=one.technique.id, grade="", words=words, since=filmed.toordinal()))
    return found


def _grades(db: Session, academy: uuid.UUID, students: Sequence[Student]) -> list[Pending]:
    """Students who have passed everything that their grade asks for, since the last decision."""
    own = select(RungDecision.student_id, func.max(RungDecision.decided_on)).group_by(RungDecision.student_id)
    done = [(student, grade) for student, grade in grades.complete(db, academy) if student.archived_at is None]
    last = dict(db.execute(own.where(RungDecision.student_id.in_([student.id for student, _ in done]))).tuples().all())
    return [
        Pending(
            student=student.id,
            technique="",
            grade=grade.name,
            words=f"has passed everything that “{grade.name}” asks for: decide on the grade",
            since=last[student.id].toordinal(),
        )
        for student, grade in done
        if student.id in last and any(one.id == student.id for one in students)
    ]
