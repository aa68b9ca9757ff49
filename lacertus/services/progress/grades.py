"""Grades: lists of techniques with the rung that is asked; what was taught when; what a student still lacks."""

from __future__ import annotations

import uuid
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, selectinload

from lacertus.core.errors import BadInput
from lacertus.core.progress.rungs import Decided, passed_to
from lacertus.core.techniques.definition import Technique
from lacertus.core.texts import checked_name
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.people import people
from lacertus.services.people.rights import Right, needs
from lacertus.services.progress.rungs import as_decided
from lacertus.services.techniques import catalogue
from lacertus.store.tables import (
    Clip,
    Grade,
    JudgementRow,
    RepRow,
    Requirement,
    Review,
    RungDecision,
    Student,
    Taught,
    TechniqueVersion,
)

MOST_GRADES = 40


@dataclass(frozen=True, kw_only=True)
class Asked:
    """A technique that a grade asks for, over the academy: when it was last taught and filmed, who works towards the grade and
    has not passed it yet (names)."""

    technique: Technique
    rung: str
    last_taught: date | None
    last_filmed: date | None
    lacking: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class ShownGrade:
    id: uuid.UUID
    name: str
    students: int
    asked: tuple[Asked, ...]


@dataclass(frozen=True, kw_only=True)
class Held:
    """A technique that a student's grade asks for: whether it was passed, and up to which rung (None: none yet)."""

    technique: Technique
    rung: str
    passed: bool
    passed_to: str | None
    last_taught: date | None
    last_filmed: date | None


# --- the grades of an academy ------------------------------------------------------------------------


def grades(db: Session, academy: uuid.UUID) -> list[Grade]:
    """The grades of an academy in their order, with what they ask."""
    mine = select(Grade).where(Grade.academy_id == academy).options(selectinload(Grade.required))
    return list(db.scalars(mine.order_by(Grade.place, Grade.name)))


def grade(db: Session, academy: uuid.UUID, grade_id: uuid.UUID) -> Grade:
    """One grade.

    Raises:
        NotFound: not in this academy.
    """
    found = next((one for one in grades(db, academy) if one.id == grade_id), None)
    if found is None:
        raise NotFound("There is no such grade in your academy.")
    return found


@needs(Right.TEACH)
def add(db: Session, academy: uuid.UUID, name: str) -> Grade:
    """Add a grade after the others.

    Raises:
        BadInput: no name.
        Conflict: there is one of this name, or there are too many.
    """
    have = grades(db, academy)
    checked = checked_name(name, "the grade’s name", 80)
    if any(one.name == checked for one in have):
        raise Conflict(f"There is a grade “{checked}” already.")
    if len(have) >= MOST_GRADES:
        raise Conflict(f"An academy has at most {MOST_GRADES} grades.")
    made = Grade(academy_id=academy, name=checked, place=max((one.place for one in have), default=0) + 1)
    made.required = []
    db.add(made)
    db.flush()
    return made


@needs(Right.TEACH)
def change(db: Session, academy: uuid.UUID, grade_id: uuid.UUID, name: str | None = None, up: bool | None = None) -> None:
    """Rename a grade, or move it one place up (earlier) or down.

    Raises:
        BadInput: an empty name.
        Conflict: another grade is called so.
        NotFound: no such grade.
    """
    have, found = grades(db, academy), grade(db, academy, grade_id)
    if name is not None:
        checked = checked_name(name, "the grade’s name", 80)
        if any(one.name == checked and one.id != grade_id for one in have):
            raise Conflict(f"There is a grade “{checked}” already.")
        found.name = checked
    if up is not None:
        at = next(i for i, one in enumerate(have) if one.id == grade_id)
        to = max(at - 1, 0) if up else min(at + 1, len(have) - 1)
        have.insert(to, have.pop(at))
        for place, one in enumerate(have, 1):
            one.place = place
    db.flush()


@needs(Right.TEACH)
def remove(db: Session, academy: uuid.UUID, grade_id: uuid.UUID) -> None:
    """Delete a grade; students who worked towards it work towards none.

    Raises:
        NotFound: no such grade.
    """
    db.delete(grade(db, academy, grade_id))
    db.flush()
    db.expire_all()


@needs(Right.TEACH)
def require(db: Session, academy: uuid.UUID, grade_id: uuid.UUID, technique: str, rung: str | None) -> None:
    """Ask for a technique on a rung; None asks for it no more.

    Raises:
        BadInput: the technique has no such rung.
        NotFound: no such grade or technique.
    """
    found = grade(db, academy, grade_id)
    here = next((one for one in found.required if one.technique == technique), None)
    if rung is None:
        if here is None:
            raise NotFound("This grade does not ask for that technique.")
        found.required.remove(here)
    else:
        ladder = catalogue.definition(catalogue.newest(db, academy, technique)).ladder
        if rung not in ladder:
            raise BadInput(f"this technique has no rung “{rung}”; it has {', '.join(ladder)}")
        if here is None:
            found.required.append(Requirement(grade_id=grade_id, technique=technique, rung=rung))
        else:
            here.rung = rung
    db.flush()


@needs(Right.TEACH)
def note_taught(db: Session, academy: uuid.UUID, technique: str, on: date, account: uuid.UUID | None, today: date) -> None:
    """Note that a technique was taught in class on a day; once more changes nothing.

    Raises:
        BadInput: the day is yet to come.
        NotFound: no such technique.
    """
    catalogue.newest(db, academy, technique)
    if on > today:
        raise BadInput("what was taught is noted on its day or later")
    put = insert(Taught).values(academy_id=academy, technique=technique, taught_on=on, account_id=account)
    db.execute(put.on_conflict_do_nothing())


@needs(Right.TEACH)
def not_taught(db: Session, academy: uuid.UUID, technique: str, on: date) -> None:
    """Take back that a technique was taught on a day.

    Raises:
        NotFound: it was not noted.
    """
    found = db.get(Taught, (academy, technique, on))
    if found is None:
        raise NotFound("That is not noted.")
    db.delete(found)
    db.flush()


@needs(Right.TEACH)
def work_towards(db: Session, academy: uuid.UUID, student_id: uuid.UUID, grade_id: uuid.UUID | None) -> None:
    """Say which grade a student works towards; None for none.

    Raises:
        NotFound: no such student or grade.
    """
    student = people.student(db, academy, student_id)
    student.grade_id = grade(db, academy, grade_id).id if grade_id else None
    db.flush()


# --- what is lacking ---------------------------------------------------------------------------------


def curriculum(db: Session, academy: uuid.UUID) -> list[ShownGrade]:
    """Every grade with what it asks: last taught, last filmed, and who works towards it and lacks it."""
    have = grades(db, academy)
    names = {one.technique for found in have for one in found.required}
    known, taught, filmed = catalogue.known(db, academy, names), _taught(db, academy), _filmed(db, academy)
    towards = _students(db, academy)
    decided = _decided(db, [student.id for own in towards.values() for student in own])
    shown = []
    for found in have:
        own = towards.get(found.id, [])
        asked = tuple(
            Asked(
                technique=known[one.technique],
                rung=one.rung,
                last_taught=taught.get(one.technique),
                last_filmed=filmed.get(one.technique),
                lacking=tuple(s.name for s in own if not _passes(known[one.technique], one.rung, decided, s.id)),
            )
            for one in _in_order(found.required, known)
        )
        shown.append(ShownGrade(id=found.id, name=found.name, students=len(own), asked=asked))
    return shown


def complete(
    db: Session, academy: uuid.UUID, students: Iterable[Student], decisions: Iterable[RungDecision]
) -> list[tuple[Student, Grade]]:
    """Those of some students who have passed everything that their grade asks for; a grade that asks nothing is not there.

    `decisions` are all of the academy, the oldest first.
    """
    decided = _by_technique(decisions)
    with_decisions = {student for student, _ in decided}
    towards: dict[uuid.UUID, list[Student]] = {}
    for student in students:
        if student.id in with_decisions and student.grade_id is not None:
            towards.setdefault(student.grade_id, []).append(student)
    have = [found for found in grades(db, academy) if found.id in towards] if towards else []
    known = catalogue.known(db, academy, {one.technique for found in have for one in found.required})
    return [
        (student, found)
        for found in have
        if (asked := _in_order(found.required, known))
        for student in towards.get(found.id, [])
        if all(_passes(known[one.technique], one.rung, decided, student.id) for one in asked)
    ]


def progress(db: Session, academy: uuid.UUID, student_id: uuid.UUID) -> tuple[Grade, list[Held]] | None:
    """What a student's grade asks, what is lacking first; None where they work towards none.

    Raises:
        NotFound: no such student.
    """
    student = people.student(db, academy, student_id)
    if student.grade_id is None:
        return None
    found = grade(db, academy, student.grade_id)
    known, taught = catalogue.known(db, academy, {one.technique for one in found.required}), _taught(db, academy)
    filmed = _filmed_of(db, student_id)
    decided = _decided(db, [student_id])
    held = [_held(known[one.technique], one.rung, decided, student_id, taught, filmed) for one in _in_order(found.required, known)]
    return found, sorted(held, key=lambda one: one.passed)


def _held(
    technique: Technique,
    rung: str,
    decided: dict[tuple[uuid.UUID, str], list[Decided]],
    student: uuid.UUID,
    taught: dict[str, date],
    filmed: dict[str, date],
) -> Held:
    highest = passed_to(technique.ladder, decided.get((student, technique.id), ()))
    return Held(
        technique=technique,
        rung=rung,
        passed=_passes(technique, rung, decided, student),
        passed_to=technique.ladder[highest] if highest >= 0 else None,
        last_taught=taught.get(technique.id),
        last_filmed=filmed.get(technique.id),
    )


def _in_order(required: Sequence[Requirement], known: dict[str, Technique]) -> list[Requirement]:
    """By the techniques' names; those that are not there any more, or have no such rung now, are left out."""
    found = [one for one in required if one.technique in known and one.rung in known[one.technique].ladder]
    return sorted(found, key=lambda one: known[one.technique].names.main)


def _passes(technique: Technique, rung: str, decided: dict[tuple[uuid.UUID, str], list[Decided]], student: uuid.UUID) -> bool:
    return passed_to(technique.ladder, decided.get((student, technique.id), ())) >= technique.ladder.index(rung)


def _students(db: Session, academy: uuid.UUID) -> dict[uuid.UUID, list[Student]]:
    """Students by the grade that they work towards."""
    mine = select(Student).where(Student.academy_id == academy, Student.grade_id.is_not(None)).order_by(Student.name)
    found: dict[uuid.UUID, list[Student]] = {}
    for student in db.scalars(mine):
        assert student.grade_id is not None
        found.setdefault(student.grade_id, []).append(student)
    return found


def _decided(db: Session, students: Iterable[uuid.UUID]) -> dict[tuple[uuid.UUID, str], list[Decided]]:
    """What was decided, by student and technique, the oldest first."""
    rows = select(RungDecision).where(RungDecision.student_id.in_(list(students)))
    return _by_technique(db.scalars(rows.order_by(RungDecision.decided_on, RungDecision.created_at)))


def _by_technique(rows: Iterable[RungDecision]) -> dict[tuple[uuid.UUID, str], list[Decided]]:
    found: dict[tuple[uuid.UUID, str], list[Decided]] = {}
    for row in rows:
        found.setdefault((row.student_id, row.technique), []).append(as_decided(row))
    return found


def last_taught(db: Session, academy: uuid.UUID) -> dict[str, date]:
    """By technique, the day on which it was last taught."""
    return _taught(db, academy)


def _taught(db: Session, academy: uuid.UUID) -> dict[str, date]:
    rows = select(Taught.technique, func.max(Taught.taught_on)).where(Taught.academy_id == academy)
    return dict(db.execute(rows.group_by(Taught.technique)).tuples().all())


def _filmed(db: Session, academy: uuid.UUID) -> dict[str, date]:
    """By technique, the day on which it was last filmed in the academy."""
    rows = (
        select(TechniqueVersion.technique, func.max(Clip.filmed_on))
        .join(RepRow, RepRow.technique_version_id == TechniqueVersion.id)
        .join(Review, Review.id == RepRow.review_id)
        .join(Clip, Clip.id == Review.clip_id)
        .where(Review.academy_id == academy)
        .group_by(TechniqueVersion.technique)
    )
    return dict(db.execute(rows).tuples().all())


def _filmed_of(db: Session, student_id: uuid.UUID) -> dict[str, date]:
    rows = select(JudgementRow.technique, func.max(JudgementRow.filmed_on)).where(JudgementRow.student_id == student_id)
    return dict(db.execute(rows.group_by(JudgementRow.technique)).tuples().all())
