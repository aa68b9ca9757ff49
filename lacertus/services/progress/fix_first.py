"""What to fix first over a student's whole history, and the coach's own choice, remembered."""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.progress.fix_first import (
    LONGEST_WHY,
    MOST,
    FaultChoice,
    LastingFix,
    LastingFixChoice,
    Linked,
    Made,
    as_chosen_lasting,
    lasting_fixes,
)
from lacertus.core.progress.history import FaultHistory, histories
from lacertus.core.techniques.definition import Technique
from lacertus.core.texts import checked_text
from lacertus.services.people import people
from lacertus.services.people.rights import Right, needs
from lacertus.services.progress import follow_up
from lacertus.services.progress.ledger import COUNTS, MISSED
from lacertus.services.techniques import adaptations, catalogue
from lacertus.store.tables import JudgementRow, Student


@dataclass(frozen=True, kw_only=True)
class FixFirstPage:
    """What to fix first, what the rules recommend where the coach chose otherwise, and which fault leads to which."""

    first: tuple[LastingFix, ...]
    recommended: tuple[LastingFix, ...]
    links: tuple[Linked, ...]
    chosen_on: date | None


def page(db: Session, academy: uuid.UUID, student_id: uuid.UUID) -> FixFirstPage:
    """What a student is to fix first, over everything that was ever judged.

    Raises:
        NotFound: no such student.
    """
    student = people.student(db, academy, student_id)
    return page_of(db, student, *all_histories(db, academy, student))


def page_of(db: Session, student: Student, found: Sequence[FaultHistory], known: Mapping[str, Technique]) -> FixFirstPage:
    """The same from the histories and techniques of `all_histories`."""
    on = max((cell.day for one in found for cell in one.cells), default=0)
    recommended, links = lasting_fixes(found, known, _made(db, student.id), on)
    choice = student.fix_choice
    if choice is None:
        return FixFirstPage(first=recommended, recommended=(), links=links, chosen_on=None)
    chosen = as_chosen_lasting(choice, found, known)
    return FixFirstPage(first=chosen, recommended=recommended, links=links, chosen_on=date.fromisoformat(choice.on))


def all_histories(db: Session, academy: uuid.UUID, student: Student) -> tuple[tuple[FaultHistory, ...], dict[str, Technique]]:
    """Every fault as it stands on the day of the last session, and the techniques as they are asked of this student now."""
    counts = follow_up.counts(db, student.id)
    rows = adaptations.of_students(db, [student.id])[student.id]
    known = catalogue.known(db, academy, {count.technique for count in counts})
    asked = {name: adaptations.for_student(technique, rows, None) for name, technique in known.items()}
    ladders = {name: technique.ladder for name, technique in asked.items()}
    return histories(counts, ladders, on=max((count.day for count in counts), default=None)), asked


def _made(db: Session, student_id: uuid.UUID) -> list[Made]:
    made = select(JudgementRow.rep_id, JudgementRow.filmed_on, JudgementRow.technique, JudgementRow.fault)
    rows = made.where(JudgementRow.student_id == student_id, COUNTS, MISSED)
    return [Made(rep=rep, day=on.toordinal(), technique=technique, fault=fault) for rep, on, technique, fault in db.execute(rows)]


@needs(Right.TEACH)
def choose(
    db: Session, academy: uuid.UUID, student_id: uuid.UUID, choices: Sequence[FaultChoice], why: str, on: date
) -> FixFirstPage:
    """Remember what the coach wants to be fixed first (at most two); nothing goes back to the rules.

    Raises:
        BadInput: a fault that this student never made, more than two, or no reason.
        NotFound: no such student.
    """
    student = people.student(db, academy, student_id)
    if not choices:
        student.fix_choice = None
    else:
        found, known = all_histories(db, academy, student)
        if len(choices) > MOST or len(set(choices)) < len(choices):
            raise BadInput(f"choose at most {MOST} different faults; nothing was changed")
        text = checked_text(why, "the reason", LONGEST_WHY)
        choice = LastingFixChoice(choices=tuple(choices), why=text, on=on.isoformat())
        if len(as_chosen_lasting(choice, found, known)) < len(choices):
            raise BadInput("one of these faults was never missed by this student, or is not asked of them; nothing was changed")
        student.fix_choice = choice
    db.flush()
    return page(db, academy, student_id)
