"""What was practised: entered by a coach, ticked on the student's own page, or written when a class is booked."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from typing import Literal

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.plan.practice import amount_of
from lacertus.core.texts import checked_text
from lacertus.services.days import checked_day
from lacertus.services.errors import NotFound
from lacertus.services.people import inbox, people
from lacertus.services.people.rights import Right, needs
from lacertus.store.tables import PracticeLog, Prescription, Student

SaidBy = Literal["student", "guardian", "coach", "class"]
LONGEST_WORDS = 400
LATE_DAYS = 28
"""Practice is entered at most so many days later: what is further back is not remembered well, and counts nowhere."""
MOST_AMOUNT = 5000


@dataclass(frozen=True, kw_only=True)
class Entry:
    """So much of a prescription that was done on a day. Without an amount it is one dose; sent twice with a key it is one entry."""

    prescription: uuid.UUID
    on: date
    place: Literal["class", "home"] = "home"
    amount: int | None = None
    felt: Literal["sure", "unsure"] | None = None
    pain: bool = False
    words: str = ""
    key: uuid.UUID | None = None


@needs(Right.NOTE)
def enter(
    db: Session, academy: uuid.UUID, student_id: uuid.UUID, entry: Entry, said_by: SaidBy, account: uuid.UUID | None, today: date
) -> PracticeLog:
    """Keep that a prescribed drill was practised. Pain ends the prescription and stands in the coach's inbox.

    Raises:
        BadInput: a day in the future or too long ago, or an amount that cannot be.
        NotFound: no such student, or no such prescription of theirs.
    """
    student = people.student(db, academy, student_id)
    row = db.scalar(
        select(Prescription).where(Prescription.id == entry.prescription, Prescription.student_id == student_id).with_for_update()
    )
    if row is None:
        raise NotFound("There is no such prescription of this student. Nothing was stored.")
    if not today - timedelta(days=LATE_DAYS) <= checked_day(entry.on, "the day") <= today:
        raise BadInput(f"practice is entered for today or the {LATE_DAYS} days before; nothing was stored")
    amount = amount_of(row.dose) if entry.amount is None else entry.amount
    if not 0 <= amount <= MOST_AMOUNT:
        raise BadInput(f"an amount is 0 to {MOST_AMOUNT}; nothing was stored")
    words = checked_text(entry.words, "what you wrote", LONGEST_WORDS) if entry.words.strip() else ""
    key = entry.key or uuid.uuid4()
    put = insert(PracticeLog).values(
        id=uuid.uuid4(), student_id=student_id, prescription_id=row.id, account_id=account, key=key, done_on=entry.on,
        technique=row.technique, drill=row.drill, name=row.name, amount=amount, place=entry.place, felt=entry.felt,
        pain=entry.pain, words=words, said_by=said_by, created_at=datetime.now(UTC),
    )  # fmt: skip
    new = db.scalar(put.on_conflict_do_nothing(index_elements=["student_id", "key"]).returning(PracticeLog.id)) is not None
    if new and entry.pain:
        stop_for_pain(db, student, row, words, said_by, today)
    found = db.scalar(select(PracticeLog).where(PracticeLog.student_id == student_id, PracticeLog.key == key))
    assert found is not None
    return found


def stop_for_pain(db: Session, student: Student, row: Prescription, words: str, said_by: SaidBy, on: date) -> None:
    """End a prescription at which something hurt, and tell the coach."""
    if row.ended_on is None:
        row.ended_on, row.ended_why = on, "pain"
    told = f"{row.name}: {words}" if words else row.name
    sent_by: Literal["student", "guardian"] = "guardian" if said_by == "guardian" else "student"
    inbox.put(db, student, inbox.Item(kind="pain", sent_by=sent_by, words=told, technique=row.technique))
    db.flush()


@needs(Right.PLAN)
def remove(db: Session, academy: uuid.UUID, student_id: uuid.UUID, entry_id: uuid.UUID) -> None:
    """Take an entry back that was made by mistake. Raises NotFound where there is none."""
    people.student(db, academy, student_id)
    found = db.scalar(select(PracticeLog).where(PracticeLog.id == entry_id, PracticeLog.student_id == student_id))
    if found is None:
        raise NotFound("There is no such entry.")
    db.delete(found)
    db.flush()


def ticked_on(db: Session, student_id: uuid.UUID, on: date) -> set[uuid.UUID]:
    """The prescriptions that were ticked on a day: shown as done already."""
    found = select(PracticeLog.prescription_id).where(PracticeLog.student_id == student_id, PracticeLog.done_on == on)
    return {key for key in db.scalars(found) if key is not None}
