"""What coaches note about a student, by day."""

from __future__ import annotations

import uuid
from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.core.texts import checked_text
from lacertus.services.errors import NotFound
from lacertus.services.people import people
from lacertus.services.people.rights import Right, needs
from lacertus.store.tables import Account, Note

LONGEST_NOTE = 2000


def notes(db: Session, academy: uuid.UUID, student_id: uuid.UUID) -> list[tuple[Note, str]]:
    """A student's notes, the newest first, each with who wrote it (empty where that account is gone).

    Raises:
        NotFound: no such student.
    """
    people.student(db, academy, student_id)
    rows = select(Note, Account.name).outerjoin(Account, Account.id == Note.account_id).where(Note.student_id == student_id)
    return [(note, name or "") for note, name in db.execute(rows.order_by(Note.noted_on.desc(), Note.created_at.desc()))]


@needs(Right.NOTE)
def add(db: Session, academy: uuid.UUID, student_id: uuid.UUID, words: str, account: uuid.UUID | None, on: date) -> Note:
    """Note something about a student.

    Raises:
        BadInput: no words, or too many.
        NotFound: no such student.
    """
    people.student(db, academy, student_id)
    made = Note(student_id=student_id, account_id=account, noted_on=on, words=checked_text(words, "the note", LONGEST_NOTE))
    db.add(made)
    db.flush()
    return made


@needs(Right.NOTE)
def remove(db: Session, academy: uuid.UUID, student_id: uuid.UUID, note_id: uuid.UUID) -> None:
    """Delete a note.

    Raises:
        NotFound: no such note of this student.
    """
    people.student(db, academy, student_id)
    found = db.scalar(select(Note).where(Note.id == note_id, Note.student_id == student_id))
    if found is None:
        raise NotFound("There is no such note.")
    db.delete(found)
    db.flush()
