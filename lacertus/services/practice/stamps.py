"""Whether anything changed that a student's faults are worked out from: a text for each, asked of the database at once.

Verdicts are written as a review is finished, and go with it; a finished review is not changed, only opened again. So its reps
need not be counted: the finished reviews tell, and the few reps that are of somebody else than the clip's student.
"""

from __future__ import annotations

import uuid
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from datetime import date
from functools import cache
from typing import Any

from sqlalchemy import ColumnElement, CompoundSelect, Select, Uuid, bindparam, func, select, union_all
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
    about = {"academy": academy} if only is None else {"academy": academy, "student": only}
    parts: dict[uuid.UUID, list[str]] = {one.id: [] for one in students}
    for student, told in sorted(db.execute(_told(only is not None), about).tuples(), key=lambda one: one[1]):
        if student in parts:
            parts[student].append(told)
    over_all = "|".join(db.execute(_OVER_ALL, {"academy": academy}).one())
    found: dict[uuid.UUID, date] = {}
    for student, on in db.execute(_filmed(only is not None), about).tuples():
        found[student] = max(on, found.get(student, on))
    return Stamps(
        texts={one.id: "|".join((*parts[one.id], over_all, _choice(one))) for one in students},
        last_filmed=found,
    )


# Putting these questions together takes as long as asking them: each is put together once, with room for whom it is about.
_ACADEMY, _STUDENT = bindparam("academy", type_=Uuid()), bindparam("student", type_=Uuid())
Asked = Select[*tuple[Any, ...]]
Of = InstrumentedAttribute[uuid.UUID] | InstrumentedAttribute[uuid.UUID | None]


def _of(asked: Asked, student: Of, of_one: bool) -> Asked:
    """By student, of one of them or of all."""
    return asked.where(student == _STUDENT if of_one else student.is_not(None)).group_by(student)


@cache
def _told(of_one: bool) -> CompoundSelect[*tuple[Any, ...]]:
    """What tells whether verdicts or adaptations changed: of each student some texts."""
    finished = (Review.academy_id == _ACADEMY, Review.finished_at.is_not(None))
    own = select(Review.student_id, _finished("own")).where(*finished)
    others = select(RepRow.student_id, _finished("others")).join(Review, Review.id == RepRow.review_id).where(*finished)
    told = func.concat_ws("/", "adapted", func.count(), func.max(AdaptationRow.created_at), func.max(AdaptationRow.ended_at))
    adapted = select(AdaptationRow.student_id, told).join(Student, Student.id == AdaptationRow.student_id)
    adapted = adapted.where(Student.academy_id == _ACADEMY)
    return union_all(
        _of(own, Review.student_id, of_one),
        _of(others, RepRow.student_id, of_one),
        _of(adapted, AdaptationRow.student_id, of_one),
    )


@cache
def _filmed(of_one: bool) -> CompoundSelect[*tuple[Any, ...]]:
    """By student, the newest day of a clip of theirs, and of somebody else's in which a rep is theirs."""
    own = select(Clip.student_id, func.max(Clip.filmed_on)).where(Clip.academy_id == _ACADEMY)
    others = (
        select(RepRow.student_id, func.max(Clip.filmed_on))
        .join(Review, Review.id == RepRow.review_id)
        .join(Clip, Clip.id == Review.clip_id)
        .where(Review.academy_id == _ACADEMY)
    )
    return union_all(_of(own, Clip.student_id, of_one), _of(others, RepRow.student_id, of_one))


def _choice(student: Student) -> str:
    return student.fix_choice.model_dump_json() if student.fix_choice else ""


_FINISHED_AT = func.extract("epoch", Review.finished_at)


def _finished(kind: str) -> ColumnElement[str]:
    """How many, and a sum that no review finished anew leaves as it is. A clip whose review is finished keeps its day."""
    return func.concat_ws("/", kind, func.count(), func.sum(_FINISHED_AT), func.max(_FINISHED_AT))


_VERSIONS = select(func.concat_ws("/", func.count(), func.max(TechniqueVersion.created_at))).where(
    TechniqueVersion.academy_id.is_(None) | (TechniqueVersion.academy_id == _ACADEMY)
)
_STARTS = select(func.concat_ws("/", func.count(), func.max(MadeStart.created_at))).where(MadeStart.academy_id == _ACADEMY)
_OVER_ALL = select(_VERSIONS.scalar_subquery(), _STARTS.scalar_subquery())
"""What is the same for all of an academy: its techniques, and the starts that it made."""
