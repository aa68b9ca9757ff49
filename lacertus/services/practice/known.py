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

from sqlalchemy.orm import Session

from lacertus.core.progress.fix_first import LastingFix
from lacertus.core.progress.history import FaultHistory
from lacertus.core.progress.ledger import State
from lacertus.core.techniques.definition import Technique
from lacertus.services.practice.stamps import Stamps, stamps_of
from lacertus.services.practice.states import Budget, States, Worked
from lacertus.services.progress import fix_first
from lacertus.store.tables import Student


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
    stamps: Stamps | None = None,
) -> dict[uuid.UUID, Known]:
    """What is known of some students of an academy, by id; without those for whom a budget of time did not suffice."""
    by_id = {one.id: one for one in students}
    told = stamps or stamps_of(db, academy, students)
    return _states.of(db, told.texts, lambda key: Worked(value=_worked_out(db, academy, by_id[key])), date.max, budget)


def of_student(db: Session, academy: uuid.UUID, student: Student) -> Known:
    return of_students(db, academy, [student])[student.id]


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
