"""What somebody agreed to for a student, and the check before anybody is filmed, shown to others or trained on."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime
from typing import Literal, get_args

from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.texts import checked_name
from lacertus.services.days import checked_day
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.people import audit, people
from lacertus.services.people.rights import Right, needs
from lacertus.store.tables import Academy, ConsentRow, Student

Purpose = Literal["filming", "sharing", "training"]
Holder = Literal["student", "guardian"]
PURPOSES: tuple[Purpose, ...] = get_args(Purpose)
MEANS: dict[Purpose, str] = {
    "filming": "being filmed for review",
    "sharing": "pictures beside the corrections of others",
    "training": "the academy’s own training sets",
}
OF_AGE = 18
"""From this age on a student agrees by themselves. The usual age of majority; local law may say otherwise (docs/security.md)."""
MOST = 200
State = Literal["given", "none", "ended", "withdrawn", "not yet"]


class NoConsent(Conflict):
    """Nobody agreed to this. Nothing was stored."""


@dataclass(frozen=True, kw_only=True)
class Standing:
    """How one purpose stands on a day: the consent that counts, if there is any, and whether it allows what is asked."""

    purpose: Purpose
    state: State
    allows: bool
    row: ConsentRow | None = None


def is_child(student: Student, on: date) -> bool:
    """Whether a student is known to be under age on a day."""
    born = student.born_on
    return born is not None and on.year - born.year - ((on.month, on.day) < (born.month, born.day)) < OF_AGE


def standings(db: Session, student: Student, on: date | None = None) -> tuple[Standing, ...]:
    """Every purpose with what counts for it on a day, today unless said."""
    on = on or datetime.now(UTC).date()
    newest = select(ConsentRow).where(ConsentRow.student_id == student.id).order_by(ConsentRow.created_at, ConsentRow.id)
    rows = {row.purpose: row for row in db.scalars(newest)}
    asked = db.get_one(Academy, student.academy_id).needs_consent
    return tuple(_standing(purpose, rows.get(purpose), asked, on) for purpose in PURPOSES)


def _standing(purpose: Purpose, row: ConsentRow | None, asked: bool, on: date) -> Standing:
    if row is None:
        return Standing(purpose=purpose, state="none", allows=not asked)
    state: State = "given"
    if row.withdrawn_on is not None:
        state = "withdrawn"
    elif row.until is not None and row.until < on:
        state = "ended"
    elif row.given_on > on:
        state = "not yet"
    return Standing(purpose=purpose, state=state, allows=state == "given", row=row)


def allows(db: Session, student: Student, purpose: Purpose) -> bool:
    """Whether something may be done with a student today."""
    return next(one for one in standings(db, student) if one.purpose == purpose).allows


def agreed(db: Session, academy: uuid.UUID, purpose: Purpose, on: date | None = None) -> frozenset[uuid.UUID]:
    """The students of an academy for whom somebody has said yes to something, and whose consent counts on a day, today unless said.

    Also where the academy asks for no consents nobody is taken to have agreed.
    """
    on = on or datetime.now(UTC).date()
    there = select(Student.id).where(Student.academy_id == academy, Student.archived_at.is_(None))
    rows = (
        select(ConsentRow)
        .where(ConsentRow.purpose == purpose, ConsentRow.student_id.in_(there))
        .distinct(ConsentRow.student_id)
        .order_by(ConsentRow.student_id, ConsentRow.created_at.desc(), ConsentRow.id.desc())
    )
    return frozenset(row.student_id for row in db.scalars(rows) if _standing(purpose, row, True, on).state == "given")


_WHY: dict[State, str] = {
    "given": "",
    "none": "nobody has agreed to it yet",
    "ended": "the consent has ended",
    "withdrawn": "the consent was withdrawn",
    "not yet": "the consent begins later",
}


def check(db: Session, student: Student, purpose: Purpose) -> None:
    """Raises NoConsent where something may not be done with a student, with the reason and what to do."""
    found = next(one for one in standings(db, student) if one.purpose == purpose)
    if not found.allows:
        who = "a guardian’s consent" if is_child(student, datetime.now(UTC).date()) else "consent"
        raise NoConsent(
            f"{student.name} has not agreed to {MEANS[purpose]}: {_WHY[found.state]}. Nothing was stored. "
            f"Record {who} on the student’s page first."
        )


def history(db: Session, academy: uuid.UUID, student_id: uuid.UUID) -> Sequence[ConsentRow]:
    """Every consent of a student, the newest first. Raises NotFound where there is no such student."""
    people.student(db, academy, student_id)
    found = select(ConsentRow).where(ConsentRow.student_id == student_id)
    return list(db.scalars(found.order_by(ConsentRow.created_at.desc(), ConsentRow.id)))


@needs(Right.CHANGE_STUDENTS)
def give(
    db: Session,
    academy: uuid.UUID,
    student_id: uuid.UUID,
    purpose: Purpose,
    given_by: str,
    given_as: Holder,
    given_on: date,
    until: date | None = None,
    account: uuid.UUID | None = None,
) -> ConsentRow:
    """Write down that somebody agreed.

    Raises:
        BadInput: a child's own consent, no name, or days that do not fit.
        Conflict: there are too many.
        NotFound: no such student.
    """
    student = people.student(db, academy, student_id)
    checked_day(given_on, "the day of the consent")
    if until is not None and checked_day(until, "the end of the consent") < given_on:
        raise BadInput("a consent ends on or after the day on which it is given; nothing was stored")
    if given_as == "student" and is_child(student, given_on):
        raise BadInput(f"{student.name} is under {OF_AGE}: a guardian agrees for them; nothing was stored")
    if len(history(db, academy, student_id)) >= MOST:
        raise Conflict("There are very many consents of this student already. Nothing was stored.")
    row = ConsentRow(
        student_id=student_id, purpose=purpose, given_by=checked_name(given_by, "who agrees", 100), given_as=given_as,
        given_on=given_on, until=until, account_id=account,
    )  # fmt: skip
    # Which of two is the newer one is told by when it was written, so two in one transaction need times of their own.
    row.created_at = datetime.now(UTC)
    db.add(row)
    if purpose == "sharing":
        student.lends_pictures = True
    audit.write(db, academy, f"consent recorded: {purpose}", str(student_id))
    db.flush()
    return row


@needs(Right.CHANGE_STUDENTS)
def withdraw(db: Session, academy: uuid.UUID, student_id: uuid.UUID, purpose: Purpose, by: str) -> ConsentRow:
    """End a consent today. What was done before stays, until it is deleted.

    Raises:
        NotFound: no such student, or nothing to withdraw.
    """
    found = next((row for row in history(db, academy, student_id) if row.purpose == purpose), None)
    if found is None or found.withdrawn_on is not None:
        raise NotFound("There is no consent to withdraw. Nothing was changed.")
    found.withdrawn_on = datetime.now(UTC).date()
    found.withdrawn_by = checked_name(by, "who withdraws it", 100)
    if purpose == "sharing":
        people.student(db, academy, student_id).lends_pictures = False
    audit.write(db, academy, f"consent withdrawn: {purpose}", str(student_id))
    db.flush()
    return found
