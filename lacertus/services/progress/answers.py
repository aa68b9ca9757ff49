"""A student's reactions and answers, and how often their reps came through, read from finished reviews."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.core.progress.answers import Answered, Ended, ReactionTable, SuccessBy, answer_tables, success_by
from lacertus.core.techniques.definition import Technique
from lacertus.services.people import people
from lacertus.services.progress.follow_up import Filters
from lacertus.services.progress.ledger import COUNTS
from lacertus.services.techniques import catalogue, starts
from lacertus.store.tables import JudgementRow, ReactedRow

FROM_THE_BEGINNING = "the beginning"


@dataclass(frozen=True, kw_only=True)
class AnswersPage:
    """What partners did and what came of it, success by option, start and choice, and the techniques that they are of."""

    reactions: tuple[ReactionTable, ...]
    success: tuple[SuccessBy, ...]
    techniques: Mapping[str, Technique]


def page(db: Session, academy: uuid.UUID, student_id: uuid.UUID, filters: Filters = Filters()) -> AnswersPage:
    """A student's reactions, answers and success. Demonstrations never count.

    Raises:
        NotFound: no such student.
    """
    people.student(db, academy, student_id)
    answered, ended = _answered(db, student_id, filters), _ended(db, student_id, filters)
    known = catalogue.known(db, academy, {row.technique for row in answered} | {row.technique for row in ended})
    own = starts.made(db, academy, known)
    known = {name: starts.with_made(technique, own.get(name, ())) for name, technique in known.items()}
    usual = {name: {group: option.default for group, option in one.options.items()} for name, one in known.items()}
    whole = [
        Ended(day=row.day, technique=row.technique, completed=row.completed, facts=usual.get(row.technique, {}) | dict(row.facts))
        for row in ended
    ]
    return AnswersPage(reactions=answer_tables(answered), success=success_by(whole), techniques=known)


def _answered(db: Session, student_id: uuid.UUID, filters: Filters) -> list[Answered]:
    wanted = [
        getattr(ReactedRow, name) == value
        for name in ("technique", "side", "pace", "rung")
        if (value := getattr(filters, name)) is not None
    ]
    rows = select(ReactedRow).where(ReactedRow.student_id == student_id, ReactedRow.purpose != "demonstration", *wanted)
    return [
        Answered(
            day=row.filmed_on.toordinal(),
            technique=row.technique,
            reaction=row.reaction,
            answer=row.answer,
            verdict=row.verdict,
            latency_ms=row.latency_ms,
            completed=None if row.outcome is None else row.outcome == "completed",
        )
        for row in db.scalars(rows.order_by(ReactedRow.id))
    ]


def _ended(db: Session, student_id: uuid.UUID, filters: Filters) -> list[Ended]:
    """Every rep whose outcome was said, once."""
    wanted = [
        getattr(JudgementRow, name) == value
        for name in ("technique", "side", "pace", "rung")
        if (value := getattr(filters, name)) is not None
    ]
    of_rep = (
        JudgementRow.rep_id,
        JudgementRow.filmed_on,
        JudgementRow.technique,
        JudgementRow.outcome,
        JudgementRow.options,
        JudgementRow.start,
        JudgementRow.choice,
    )
    rows = select(*of_rep).where(JudgementRow.student_id == student_id, JudgementRow.outcome.is_not(None), COUNTS, *wanted)
    found = []
    for _, on, technique, outcome, options, start, choice in db.execute(rows.distinct()):
        facts = options | {"start": start or FROM_THE_BEGINNING} | ({"choice": choice} if choice else {})
        found.append(Ended(day=on.toordinal(), technique=technique, completed=outcome == "completed", facts=facts))
    return found
