"""What is asked differently of one student, with the reason. A finished review keeps what was asked when it was finished."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.core.techniques.adaptation import Adaptation, adapted, read_adaptation
from lacertus.core.techniques.definition import Technique
from lacertus.services.errors import NotFound
from lacertus.services.people import people
from lacertus.services.people.rights import Right, needs
from lacertus.services.techniques import catalogue
from lacertus.store.tables import AdaptationRow


def adaptations(db: Session, academy: uuid.UUID, student: uuid.UUID) -> list[AdaptationRow]:
    """A student's adaptations that are in force, oldest first."""
    people.student(db, academy, student)
    mine = select(AdaptationRow).where(AdaptationRow.student_id == student, AdaptationRow.ended_at.is_(None))
    return list(db.scalars(mine.order_by(AdaptationRow.created_at)))


@dataclass(frozen=True, kw_only=True)
class AdaptationInForce:
    """An adaptation of a student's, with the technique that it is of."""

    id: uuid.UUID
    technique: Technique
    adaptation: Adaptation


def in_force(db: Session, academy: uuid.UUID, student: uuid.UUID) -> list[AdaptationInForce]:
    """A student's adaptations that are in force, oldest first."""
    return [
        AdaptationInForce(
            id=row.id, technique=catalogue.definition(catalogue.newest(db, academy, row.technique)), adaptation=row.body
        )
        for row in adaptations(db, academy, student)
    ]


@needs(Right.TEACH)
def adapt(db: Session, academy: uuid.UUID, student: uuid.UUID, technique: str, data: dict[str, Any]) -> AdaptationRow:
    """Ask something of a technique differently from now on; an earlier adaptation of the same checkpoint ends.

    Raises:
        NotFound: no such student or technique.
        BadInput: it does not fit the technique.
    """
    people.student(db, academy, student)
    checked = read_adaptation(catalogue.definition(catalogue.newest(db, academy, technique)), data)
    for row in adaptations(db, academy, student):
        if (row.technique, row.checkpoint) == (technique, checked.checkpoint):
            row.ended_at = datetime.now(UTC)
    created = AdaptationRow(student_id=student, technique=technique, checkpoint=checked.checkpoint, body=checked)
    db.add(created)
    db.flush()
    return created


@needs(Right.TEACH)
def end(db: Session, academy: uuid.UUID, student: uuid.UUID, adaptation: uuid.UUID) -> None:
    """Ask as of anyone again. Reviews that were finished before keep what was asked then.

    Raises:
        NotFound: no such adaptation in force.
    """
    row = next((row for row in adaptations(db, academy, student) if row.id == adaptation), None)
    if row is None:
        raise NotFound("There is no such adaptation in force.")
    row.ended_at = datetime.now(UTC)


def for_student(technique: Technique, rows: Sequence[AdaptationRow], at: datetime | None) -> Technique:
    """The technique as it is asked of a student: with the adaptations in force at a time, or now."""
    mine = [row for row in rows if row.technique == technique.id and _in_force(row, at)]
    usable = [row.body for row in mine if technique.checkpoint(row.checkpoint) is not None]
    return adapted(technique, usable)


def _in_force(row: AdaptationRow, at: datetime | None) -> bool:
    if at is None:
        return row.ended_at is None
    return row.created_at <= at and (row.ended_at is None or row.ended_at > at)


def of_students(db: Session, students: Sequence[uuid.UUID]) -> dict[uuid.UUID, list[AdaptationRow]]:
    """All adaptations of some students, ended ones too, by student."""
    found: dict[uuid.UUID, list[AdaptationRow]] = {student: [] for student in students}
    for row in db.scalars(select(AdaptationRow).where(AdaptationRow.student_id.in_(students)).order_by(AdaptationRow.created_at)):
        found[row.student_id].append(row)
    return found
