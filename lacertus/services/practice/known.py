"""What is known of each student's faults now: their states, when each is looked at again, and what is to be fixed first.

Working a student's ledger out takes some milliseconds, so that a page over hundreds of students keeps what it found. What was
found is used again only while everything that it was worked out from is the same: a fingerprint of it is asked of the database
for all students at once.
"""

from __future__ import annotations

import uuid
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from datetime import date

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lacertus.core.progress.fix_first import LastingFix
from lacertus.core.progress.history import FaultHistory
from lacertus.core.progress.ledger import State
from lacertus.core.techniques.definition import Technique
from lacertus.services.practice.states import Budget, States, Worked
from lacertus.services.progress import fix_first
from lacertus.store.tables import AdaptationRow, MadeStart, RepRow, Review, Student, TechniqueVersion


@dataclass(frozen=True, kw_only=True)
class FaultNow:
    """A fault of a student as it stands. Days are ordinals; `rank` is its place in fix first, 0 being the first."""

    technique: str
    technique_name: str
    fault: str
    family: str
    checkpoint: str
    ask: str
    cue: str
    cues_for_children: tuple[str, ...]
    safety: bool
    state: State
    recheck: int | None
    missed_since: int | None
    last_day: int
    relapsed_on: int | None
    cleared_on: int | None
    rank: int


@dataclass(frozen=True, kw_only=True, eq=False)
class Known:
    """A student's faults, those to be fixed first in front; and how each stands day by day."""

    faults: tuple[FaultNow, ...]
    first: tuple[LastingFix, ...]

    @property
    def ranks(self) -> dict[tuple[str, str], int]:
        return {(one.technique, one.fault): one.rank for one in self.faults}

    def fault(self, technique: str, fault: str) -> FaultNow | None:
        return next((one for one in self.faults if (one.technique, one.fault) == (technique, fault)), None)


_states: States[Known] = States("faults", Known)


def of_students(
    db: Session,
    academy: uuid.UUID,
    students: Collection[Student],
    budget: Budget | None = None,
    known_stamps: Mapping[uuid.UUID, str] | None = None,
) -> dict[uuid.UUID, Known]:
    """What is known of some students of an academy, by id; without those for whom a budget of time did not suffice."""
    by_id = {one.id: one for one in students}
    told = known_stamps if known_stamps is not None else stamps(db, academy, students)
    return _states.of(db, told, lambda key: Worked(value=_worked_out(db, academy, by_id[key])), date.max, budget)


def of_student(db: Session, academy: uuid.UUID, student: Student) -> Known:
    return of_students(db, academy, [student])[student.id]


def stamps(db: Session, academy: uuid.UUID, students: Collection[Student]) -> dict[uuid.UUID, str]:
    """A text for each student that changes with anything that their faults are worked out from."""
    ids = [one.id for one in students]
    # Verdicts are written as a review is finished, and go with their rep or review.
    finished = func.extract("epoch", Review.finished_at)
    performer = func.coalesce(RepRow.student_id, Review.student_id)
    judged = (
        select(performer, func.count(), func.sum(finished), func.max(finished))
        .join(Review, Review.id == RepRow.review_id)
        .where(Review.academy_id == academy)
        .group_by(performer)
    )
    if len(ids) == 1:
        judged = judged.where(performer == ids[0])
    faults = {key: "/".join(map(str, rest)) for key, *rest in db.execute(judged)}
    adapted = (
        select(AdaptationRow.student_id, func.count(), func.max(AdaptationRow.created_at), func.max(AdaptationRow.ended_at))
        .where(AdaptationRow.student_id.in_(ids))
        .group_by(AdaptationRow.student_id)
    )
    otherwise = {key: "/".join(map(str, rest)) for key, *rest in db.execute(adapted)}
    here = TechniqueVersion.academy_id.is_(None) | (TechniqueVersion.academy_id == academy)
    versions = db.execute(select(func.count(), func.max(TechniqueVersion.created_at)).where(here)).one()
    starts = db.execute(select(func.count(), func.max(MadeStart.created_at)).where(MadeStart.academy_id == academy)).one()
    over_all = f"{tuple(versions)}{tuple(starts)}"
    return {
        one.id: f"{faults.get(one.id)}|{otherwise.get(one.id)}|{over_all}|{one.fix_choice and one.fix_choice.model_dump_json()}"
        for one in students
    }


def _worked_out(db: Session, academy: uuid.UUID, student: Student) -> Known:
    histories, techniques = fix_first.all_histories(db, academy, student)
    first = fix_first.page_of(db, student, histories, techniques).first
    order = {(one.technique, one.fault): rank for rank, one in enumerate(first)}
    # After what is to be fixed first come the others, the weightiest first, as the student's page lists them.
    rest = [one for one in histories if (one.technique, one.fault) not in order]
    order |= {(one.technique, one.fault): len(first) + rank for rank, one in enumerate(rest)}
    found = [_fault_now(one, techniques, order[one.technique, one.fault]) for one in histories]
    return Known(faults=tuple(sorted(found, key=lambda one: one.rank)), first=first)


def _fault_now(one: FaultHistory, techniques: Mapping[str, Technique], rank: int) -> FaultNow:
    technique = techniques.get(one.technique)
    asked = technique.asked(one.checkpoints[0]) if technique and one.checkpoints else None
    blocks = one.ledger.blocks
    relapsed = one.ledger.state is State.RELAPSED and (len(blocks) < 2 or blocks[-2].state is not State.RELAPSED)
    return FaultNow(
        technique=one.technique,
        technique_name=technique.names.main if technique else one.technique,
        fault=one.fault,
        family=one.family,
        checkpoint=one.checkpoints[0] if one.checkpoints else "",
        ask=asked.ask if asked else one.fault.replace("-", " "),
        cue=asked.cues[0] if asked else "",
        cues_for_children=tuple(getattr(asked, "cues_for_children", ())),
        safety=one.safety,
        state=one.ledger.state,
        recheck=one.ledger.recheck,
        missed_since=one.ledger.missed_since,
        last_day=one.ledger.days[-1].day,
        relapsed_on=blocks[-1].day if relapsed and blocks else None,
        cleared_on=one.cleared_on,
        rank=rank,
    )
