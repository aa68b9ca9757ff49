"""Students."""

from __future__ import annotations

import csv
import io
import unicodedata
import uuid
from collections.abc import Mapping, Sequence
from datetime import UTC, date, datetime
from difflib import SequenceMatcher
from functools import cache
from typing import Any

from sqlalchemy import Select, Uuid, bindparam, select
from sqlalchemy.orm import QueryableAttribute, Session, load_only

from lacertus.core.errors import BadInput
from lacertus.core.texts import checked_name, checked_text
from lacertus.outputs.languages import LANGUAGES
from lacertus.outputs.mail import checked_address
from lacertus.services.errors import LikelyDouble, NotFound
from lacertus.services.people import audit
from lacertus.services.people.rights import Right, needs
from lacertus.store.tables import Student

LONGEST_NOTE = 2000
MOST_WORDS = 30
"""So many groups or pieces of equipment has one student."""


def students(
    db: Session, academy: uuid.UUID, archived: bool = False, only: Sequence[QueryableAttribute[Any]] = ()
) -> list[Student]:
    """The students of an academy by name; those who do not come any more only where they are asked for.

    With `only` these columns are read, and each of the others when it is asked for.
    """
    return list(db.scalars(_students(archived, tuple(only)), {"academy": academy}))


@cache
def _students(archived: bool, only: tuple[QueryableAttribute[Any], ...]) -> Select[Student]:
    found = select(Student).where(Student.academy_id == bindparam("academy", type_=Uuid())).order_by(Student.name)
    found = found.options(load_only(*only)) if only else found
    return found if archived else found.where(Student.archived_at.is_(None))


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
    """Change what is known of a student: any column that a coach sees to.

    Raises:
        BadInput: no name, no e-mail address, a birth date in the future, or too many words in a list.
        NotFound: no such student.
    """
    found = student(db, academy, student_id)
    _apply(found, change)
    db.flush()
    return found


ALIKE = 0.86
"""Names that are as alike as this are asked about: one slip in a name of seven letters. A convention."""


def alike(db: Session, academy: uuid.UUID, name: str) -> list[Student]:
    """The students whose name is nearly this one, archived ones too: the likeliest first."""
    wanted = _plain(name)
    found = [(SequenceMatcher(None, wanted, _plain(one.name)).ratio(), one) for one in students(db, academy, archived=True)]
    return [one for share, one in sorted(found, key=lambda pair: -pair[0]) if share >= ALIKE]


def check_no_double(db: Session, academy: uuid.UUID, name: str) -> None:
    """Raises LikelyDouble where there is a student of nearly this name."""
    found = alike(db, academy, name)
    if found:
        names = ", ".join(f"“{one.name}”{' (archived)' if one.archived_at else ''}" for one in found[:3])
        raise LikelyDouble(f"There is already {names}. Nothing was added.")


def _plain(name: str) -> str:
    """A name without case, accents and double spaces."""
    bare = "".join(c for c in unicodedata.normalize("NFKD", name.casefold()) if not unicodedata.combining(c))
    return " ".join(bare.split())


@needs(Right.CHANGE_STUDENTS)
def archive(db: Session, academy: uuid.UUID, student_id: uuid.UUID, archived: bool) -> Student:
    """Leave a student out of the lists, or take them back; everything is kept. Raises NotFound where there is none."""
    found = student(db, academy, student_id)
    if archived != (found.archived_at is not None):
        found.archived_at = datetime.now(UTC) if archived else None
        audit.write(db, academy, "student archived" if archived else "student taken back", str(student_id))
    db.flush()
    return found


def _apply(found: Student, change: Mapping[str, Any]) -> None:
    for key, value in change.items():
        if key == "name":
            value = checked_name(value, "a student’s name")
        if key in ("email", "guardian_email") and value:
            value = checked_address(value)
        if key == "language" and value and value not in LANGUAGES:
            raise BadInput(f"sheets are written in {', '.join(LANGUAGES.values())}; nothing was changed")
        if key == "guardian" and value:
            value = checked_name(value, "the guardian’s name", 100)
        if key == "born_on" and value is not None and not OLDEST <= value <= datetime.now(UTC).date():
            raise BadInput(f"{value} is no birth date; nothing was changed")
        if key in ("groups", "equipment"):
            value = _words(value, key)
        setattr(found, key, value)


def _words(words: Sequence[str], what: str) -> list[str]:
    """A list of short words, each once."""
    if len(words) > MOST_WORDS:
        raise BadInput(f"a student has at most {MOST_WORDS} {what}; nothing was changed")
    return list(dict.fromkeys(checked_name(word, what, 60) for word in words))


OLDEST = date(1900, 1, 1)


MOST_ROWS = 5000
_COLUMNS = (
    "name", "side_policy", "note", "email", "born_on", "groups", "equipment", "guardian", "guardian_email", "language",
)  # fmt: skip
_SIDES = ("both", "left", "right")


@needs(Right.ADD_STUDENTS)
def import_students(db: Session, academy: uuid.UUID, text: str) -> list[Student]:
    """Add students from a CSV with a head: `name`, and optionally any other of the columns (docs/formats.md).

    Those whose name is there already are left as they are, so that a list may be sent again.

    Raises:
        BadInput: a column or a row does not fit, with its line; nothing is stored then.
    """
    reader = csv.DictReader(io.StringIO(text.removeprefix("\ufeff")), strict=True)
    known = {student.name for student in students(db, academy, archived=True)}
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
        told: dict[str, Any] = {name: values.get(name, "") for name in ("email", "guardian", "guardian_email", "language")}
        told |= {
            name: [word.strip() for word in values.get(name, "").split(";") if word.strip()] for name in ("groups", "equipment")
        }
        told |= {"note": checked_text(note, "the note", 2000) if note else "", "born_on": _day(values.get("born_on", ""))}
        _apply(made, told)
    except BadInput as error:
        raise BadInput(f"line {line}: {error}; nothing was stored") from error
    return made


def _day(text: str) -> date | None:
    try:
        return date.fromisoformat(text) if text else None
    except ValueError as error:
        raise BadInput(f"born_on is a day as year-month-day, not “{text[:40]}”") from error
