"""Students."""

from __future__ import annotations

import csv
import io
import uuid
from collections.abc import Mapping
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.texts import checked_name, checked_text
from lacertus.outputs.mail import checked_address
from lacertus.services.errors import NotFound
from lacertus.services.people.rights import Right, needs
from lacertus.store.tables import Student


def students(db: Session, academy: uuid.UUID) -> list[Student]:
    return list(db.scalars(select(Student).where(Student.academy_id == academy).order_by(Student.name)))


def student(db: Session, academy: uuid.UUID, student_id: uuid.UUID) -> Student:
    """One student.

    Raises:
        NotFound: not in this academy.
    """
    found = db.scalar(select(Student).where(Student.academy_id == academy, Student.id == student_id))
    if found is None:
        raise NotFound("There is no such student in your academy.")
    return found


@needs(Right.ADD_STUDENTS)
def create_student(db: Session, academy: uuid.UUID, name: str, side_policy: str = "both", note: str = "", **more: Any) -> Student:
    """Add a student; `more` is as in `change_student`."""
    created = Student(academy_id=academy, name=checked_name(name, "a student’s name"), side_policy=side_policy, note=note)
    _apply(created, more)
    db.add(created)
    db.flush()
    return created


@needs(Right.CHANGE_STUDENTS)
def change_student(db: Session, academy: uuid.UUID, student_id: uuid.UUID, change: Mapping[str, Any]) -> Student:
    """Change name, side policy, note, e-mail, or whether pictures may stand beside others' corrections.

    Raises:
        BadInput: no name, or no e-mail address.
        NotFound: no such student.
    """
    found = student(db, academy, student_id)
    _apply(found, change)
    db.flush()
    return found


def _apply(found: Student, change: Mapping[str, Any]) -> None:
    for key, value in change.items():
        if key == "name":
            value = checked_name(value, "a student’s name")
        if key == "email" and value:
            value = checked_address(value)
        setattr(found, key, value)


MOST_ROWS = 5000
_COLUMNS = ("name", "side_policy", "note", "email")
_SIDES = ("both", "left", "right")


@needs(Right.ADD_STUDENTS)
def import_students(db: Session, academy: uuid.UUID, text: str) -> list[Student]:
    """Add students from a CSV with a head: `name`, and optionally `side_policy` (both, left, right), `note`, `email`.

    Those whose name is there already are left as they are, so that a list may be sent again.

    Raises:
        BadInput: a column or a row does not fit, with its line; nothing is stored then.
    """
    reader = csv.DictReader(io.StringIO(text.removeprefix("\ufeff")), strict=True)
    known = {student.name for student in students(db, academy)}
    added: list[Student] = []
    try:
        unknown = set(reader.fieldnames or ()) - set(_COLUMNS)
        if unknown or "name" not in (reader.fieldnames or ()):
            raise BadInput(f"the first line names the columns: name, and any of {', '.join(_COLUMNS[1:])}; nothing was stored")
        for row in reader:
            if reader.line_num > MOST_ROWS:
                raise BadInput(f"a list holds at most {MOST_ROWS} lines; nothing was stored")
            made = _student_of(academy, row, reader.line_num)
            if made.name not in known:
                known.add(made.name)
                added.append(made)
    except csv.Error as error:
        raise BadInput(f"line {reader.line_num}: this is no CSV ({error}); nothing was stored") from error
    db.add_all(added)
    db.flush()
    return added


def _student_of(academy: uuid.UUID, row: Mapping[str | None, Any], line: int) -> Student:
    if None in row or any(value is None for value in row.values()):
        raise BadInput(f"line {line}: it has more or fewer cells than the first line; nothing was stored")
    values = {str(key): str(value).strip() for key, value in row.items()}
    side = values.get("side_policy") or "both"
    if side not in _SIDES:
        raise BadInput(f"line {line}: side_policy is one of {', '.join(_SIDES)}, not “{side[:40]}”; nothing was stored")
    try:
        note = values.get("note", "")
        made = Student(academy_id=academy, name=checked_name(values["name"], "a student’s name"), side_policy=side)
        _apply(made, {"note": checked_text(note, "the note", 2000) if note else "", "email": values.get("email", "")})
    except BadInput as error:
        raise BadInput(f"line {line}: {error}; nothing was stored") from error
    return made
