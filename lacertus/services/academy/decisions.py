"""Rungs and grades that wait for the coach's word.

Working a student's rungs out takes a tenth of a second, so that what was found is kept while nothing that it depends on changes;
a page that has only so much time says how many students are left.
"""

from __future__ import annotations

import uuid
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from sqlalchemy import Uuid, bindparam, func, select
from sqlalchemy.orm import Session

from lacertus.core.progress.rungs import WINDOW_DAYS, Advice
from lacertus.library.falls import falls
from lacertus.services.practice.stamps import Stamps
from lacertus.services.practice.states import Budget, States, Worked
from lacertus.services.progress import grades, rungs
from lacertus.store.tables import Feeling, RungDecision, Student


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
    db: Session, academy: uuid.UUID, students: Sequence[Student], stamps: Stamps, today: date, budget: Budget | None = None,
) -> Found:  # fmt: skip
    """What waits to be decided about students who were filmed in the last 60 days, the last filmed first.

    `stamps` are of what is known of the students' faults: they change with every verdict.
    """
    last = stamps.last_filmed
    decisions = rungs.decisions_of(db, academy)
    decided, falls = _stamps(db, academy, decisions), _fall_stamp(decisions)
    lately = [one for one in students if one.id in last and (today - last[one.id]).days <= WINDOW_DAYS]
    ordered = sorted(lately, key=lambda one: (-last[one.id].toordinal(), one.name))
    own = {one.id: f"{last[one.id]}|{stamps.texts[one.id]}|{decided.get(one.id)}|{falls}" for one in ordered}
    by_id = {one.id: one for one in ordered}
    found = _states.of(db, own, lambda key: _of_student(db, academy, by_id[key], today, last[key]), today, budget)
    rungs_now = [one for student in own for one in found.get(student, ())]
    return Found(pending=(*rungs_now, *_grades(db, academy, students, decisions)), looking=len(own) - len(found))


def _fall_stamp(decisions: Iterable[RungDecision]) -> str:
    """A text that changes with every decision on a fall: who may be thrown decides whether others advance."""
    ids = falls()
    moments = [one.created_at for one in decisions if one.technique in ids]
    return f"{len(moments)}/{max(moments, default='')}"


def _stamps(db: Session, academy: uuid.UUID, decisions: Iterable[RungDecision]) -> dict[uuid.UUID, str]:
    """A text for each student that changes with every decision and every word on feeling sure."""
    moments: dict[uuid.UUID, list[datetime]] = {}
    for one in decisions:
        moments.setdefault(one.student_id, []).append(one.created_at)
    found = {key: f"{len(all_of)}/{max(all_of)}" for key, all_of in moments.items()}
    for key, *rest in db.execute(_SURE, {"academy": academy}):
        found[key] = f"{found.get(key)}{rest}"
    return found


_SURE = (
    select(Feeling.student_id, func.count(Feeling.performer), func.count(Feeling.partner), func.bool_and(Feeling.performer))
    .join(Student, Student.id == Feeling.student_id)
    .where(Student.academy_id == bindparam("academy", type_=Uuid()))
    .group_by(Feeling.student_id)
)


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


def _grades(db: Session, academy: uuid.UUID, students: Sequence[Student], decisions: Sequence[RungDecision]) -> list[Pending]:
    """Students who have passed everything that their grade asks for, since the last decision."""
    last: dict[uuid.UUID, date] = {}
    for one in decisions:
        last[one.student_id] = max(one.decided_on, last.get(one.student_id, one.decided_on))
    return [
        Pending(
            student=student.id,
            technique="",
            grade=grade.name,
            words=f"has passed everything that “{grade.name}” asks for: decide on the grade",
            since=last[student.id].toordinal(),
        )
        for student, grade in grades.complete(db, academy, students, decisions)
    ]
