"""Rungs and grades that wait for the coach's word.

Working a student's rungs out takes a tenth of a second, so that what was found is kept while nothing that it depends on changes;
a page that has only so much time says how many students are left.
"""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lacertus.core.progress.rungs import WINDOW_DAYS, Advice
from lacertus.library.falls import falls
from lacertus.services.practice.states import Budget, States, Worked
from lacertus.services.progress import grades, rungs
from lacertus.store.tables import Clip, Feeling, RepRow, Review, RungDecision, Student


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


_states: States[tuple[Pending, ...]] = States("rungs", tuple[Pending, ...])


def pending(
    db: Session, academy: uuid.UUID, students: Sequence[Student], faults: Mapping[uuid.UUID, str], today: date,
    budget: Budget | None = None,
) -> Found:  # fmt: skip
    """What waits to be decided about students who were filmed in the last 60 days, the last filmed first.

    `faults` are the stamps of what is known of the students' faults: they change with every verdict.
    """
    performer = func.coalesce(RepRow.student_id, Review.student_id)
    newest = (
        select(performer, func.max(Clip.filmed_on))
        .join(Review, Review.id == RepRow.review_id)
        .join(Clip, Clip.id == Review.clip_id)
        .where(Review.academy_id == academy, Review.finished_at.is_not(None))
        .group_by(performer)
    )
    last = dict(db.execute(newest).tuples().all())
    decided, falls = _stamps(db, academy), _fall_stamp(db, academy)
    lately = [one for one in students if one.id in last and (today - last[one.id]).days <= WINDOW_DAYS]
    ordered = sorted(lately, key=lambda one: (-last[one.id].toordinal(), one.name))
    stamps = {one.id: f"{last[one.id]}|{faults.get(one.id)}|{decided.get(one.id)}|{falls}" for one in ordered}
    by_id = {one.id: one for one in ordered}
    found = _states.of(db, stamps, lambda key: _of_student(db, academy, by_id[key], today, last[key]), today, budget)
    rungs_now = [one for student in stamps for one in found.get(student, ())]
    return Found(pending=(*rungs_now, *_grades(db, academy, students)), looking=len(stamps) - len(found))


def _fall_stamp(db: Session, academy: uuid.UUID) -> str:
    """A text that changes with every decision on a fall: who may be thrown decides whether others advance."""
    own = (
        select(func.count(), func.max(RungDecision.created_at))
        .join(Student, Student.id == RungDecision.student_id)
        .where(Student.academy_id == academy, RungDecision.technique.in_(falls()))
    )
    return str(tuple(db.execute(own).one()))


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


def _of_student(db: Session, academy: uuid.UUID, student: Student, today: date, last: date) -> Worked[tuple[Pending, ...]]:
    """The techniques in which something else is recommended than to hold, and nothing was decided since the last film.

    It holds until the first film that counts now is older than those that count.
    """
    found = []
    leaves = []
    for one in rungs.standings(db, academy, student.id, today):
        told = one.recommendation
        leaves += [session.on for session in one.sessions if (today - session.on).days <= WINDOW_DAYS]
        filmed = max((session.on for session in one.sessions), default=last)
        if told.advice is Advice.HOLD or any(row.decided_on >= filmed for row in one.decisions):
            continue
        doing = "advance" if told.advice is Advice.ADVANCE else "step back"
        words = f"{one.technique.names.main}, {one.rung.replace('_', ' ')}: decide whether to {doing} ({told.because})"
        found.append(Pending(student=student.id, technique=one.technique.id, grade="", words=words, since=filmed.toordinal()))
    until = min(leaves) + timedelta(days=WINDOW_DAYS + 1) if leaves else None
    return Worked(value=tuple(found), until=until)


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
