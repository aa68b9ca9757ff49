"""Whether anything changed that a student's faults are worked out from: a text for each, asked of the database at once.

Verdicts are written as a review is finished, and go with it; a finished review is not changed, only opened again. So its reps
need not be counted: the finished reviews tell, and the few reps that are of somebody else than the clip's student.
"""

from __future__ import annotations

import uuid
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from datetime import date
from typing import Any

from sqlalchemy import ColumnElement, Select, func, select, union_all
from sqlalchemy.orm import InstrumentedAttribute, Session

from lacertus.store.tables import AdaptationRow, Clip, MadeStart, RepRow, Review, Student, TechniqueVersion


@dataclass(frozen=True, kw_only=True)
class Stamps:
    """By student, a text that changes with anything that their faults are worked out from; and when each was last filmed."""

    texts: Mapping[uuid.UUID, str]
    last_filmed: Mapping[uuid.UUID, date]


def stamps_of(db: Session, academy: uuid.UUID, students: Collection[Student]) -> Stamps:
    """The stamps of some students of an academy."""
    only = next(iter(students)).id if len(students) == 1 else None
    parts: dict[uuid.UUID, list[str]] = {one.id: [] for one in students}
    asked = union_all(_reviews(academy, only), _reps_of_others(academy, only), _adaptations(academy, only))
    for student, told in sorted(db.execute(asked).tuples(), key=lambda one: one[1]):
        if student in parts:
            parts[student].append(told)
    over_all = _over_all(db, academy)
    return Stamps(
        texts={one.id: "|".join((*parts[one.id], over_all, _choice(one))) for one in students},
        last_filmed=_last_filmed(db, academy, only),
    )


def _last_filmed(db: Session, academy: uuid.UUID, only: uuid.UUID | None) -> dict[uuid.UUID, date]:
    """By student, the newest day of a clip of theirs, or of somebody else's in which a rep is theirs."""
    own = select(Clip.student_id, func.max(Clip.filmed_on)).where(Clip.academy_id == academy)
    others = (
        select(RepRow.student_id, func.max(Clip.filmed_on))
        .join(Review, Review.id == RepRow.review_id)
        .join(Clip, Clip.id == Review.clip_id)
        .where(Review.academy_id == academy)
    )
    found: dict[uuid.UUID, date] = {}
    asked = union_all(_of(own, Clip.student_id, only), _of(others, RepRow.student_id, only))
    for student, on in db.execute(asked).tuples():
        found[student] = max(on, found.get(student, on))
    return found


def _of(
    asked: Select[*tuple[Any, ...]], student: InstrumentedAttribute[uuid.UUID | None], only: uuid.UUID | None
) -> Select[*tuple[Any, ...]]:
    """By student, one of them or all."""
    return asked.where(student.is_not(None) if only is None else student == only).group_by(student)


def _choice(student: Student) -> str:
    return student.fix_choice.model_dump_json() if student.fix_choice else ""


_FINISHED_AT = func.extract("epoch", Review.finished_at)


def _finished(kind: str) -> ColumnElement[str]:
    """How many, and a sum that no review finished anew leaves as it is. A clip whose review is finished keeps its day."""
    return func.concat_ws("/", kind, func.count(), func.sum(_FINISHED_AT), func.max(_FINISHED_AT))


def _reviews(academy: uuid.UUID, only: uuid.UUID | None) -> Select[*tuple[Any, ...]]:
    """Finished reviews by the student of the clip."""
    asked = select(Review.student_id, _finished("own")).where(Review.academy_id == academy, Review.finished_at.is_not(None))
    return (asked if only is None else asked.where(Review.student_id == only)).group_by(Review.student_id)


def _reps_of_others(academy: uuid.UUID, only: uuid.UUID | None) -> Select[*tuple[Any, ...]]:
    """Reps in somebody else's clip, by their performer."""
    asked = select(RepRow.student_id, _finished("others")).join(Review, Review.id == RepRow.review_id)
    return _of(asked.where(Review.academy_id == academy, Review.finished_at.is_not(None)), RepRow.student_id, only)


def _adaptations(academy: uuid.UUID, only: uuid.UUID | None) -> Select[*tuple[Any, ...]]:
    of = AdaptationRow.student_id
    told = func.concat_ws("/", "adapted", func.count(), func.max(AdaptationRow.created_at), func.max(AdaptationRow.ended_at))
    asked = select(of, told).group_by(of)
    if only is not None:
        return asked.where(of == only)
    return asked.join(Student, Student.id == of).where(Student.academy_id == academy)


def _over_all(db: Session, academy: uuid.UUID) -> str:
    """What is the same for all of an academy: its techniques, and the starts that it made."""
    here = TechniqueVersion.academy_id.is_(None) | (TechniqueVersion.academy_id == academy)
    versions = select(func.concat_ws("/", func.count(), func.max(TechniqueVersion.created_at))).where(here)
    starts = select(func.concat_ws("/", func.count(), func.max(MadeStart.created_at))).where(MadeStart.academy_id == academy)
    return "|".join(db.execute(select(versions.scalar_subquery(), starts.scalar_subquery())).one())
