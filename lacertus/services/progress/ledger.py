"""The fault ledger of the academy's own students, read from the verdicts of finished reviews."""

from __future__ import annotations

import uuid
from collections.abc import Iterable, Mapping
from datetime import date

from sqlalchemy import ColumnElement, and_, case, func, or_, select
from sqlalchemy.orm import Session

from lacertus.core.progress import ledger as book
from lacertus.core.progress.ledger import FaultLedger, ledger_of
from lacertus.core.review.judgement import Judgement
from lacertus.store.tables import JudgementRow

MISSED: ColumnElement[bool] = and_(
    JudgementRow.counts,
    or_(JudgementRow.verdict == "missed", and_(JudgementRow.verdict == "borderline", JudgementRow.safety)),
)
"""Missed, or borderline where safety is at stake; of a wrong choice only what says so, and safety."""
COUNTS: ColumnElement[bool] = JudgementRow.purpose != "demonstration"
"""Demonstrations never count."""
OF_REP = (
    "first_frame", "side", "pace", "rung", "purpose", "outcome", "reaction", "options", "stance", "layer", "start", "start_at",
    "end_at",
)  # fmt: skip
"""How the rep was done, as a verdict keeps it."""
EXPOSED: ColumnElement[bool] = or_(MISSED, and_(JudgementRow.counts, JudgementRow.verdict == "met"))
WHOLE: ColumnElement[bool] = and_(JudgementRow.start.is_(None), JudgementRow.start_at.is_(None), JudgementRow.end_at.is_(None))
"""A rep from the beginning to the end: rung advice goes by no others."""


def sessions_of(
    db: Session, student: uuid.UUID, technique: str, until: date, but: uuid.UUID | None = None
) -> dict[str, list[book.Session]]:
    """By checkpoint, a student's sessions of a technique up to a day; `but` leaves one review out."""
    counts = (
        select(
            JudgementRow.checkpoint,
            JudgementRow.filmed_on,
            func.sum(case((EXPOSED, 1), else_=0)),
            func.sum(case((MISSED, 1), else_=0)),
        )
        .where(
            JudgementRow.student_id == student,
            JudgementRow.technique == technique,
            JudgementRow.filmed_on <= until,
            COUNTS,
        )
        .group_by(JudgementRow.checkpoint, JudgementRow.filmed_on)
    )
    if but is not None:
        counts = counts.where(JudgementRow.review_id != but)
    found: dict[str, list[book.Session]] = {}
    for checkpoint, on, exposures, misses in db.execute(counts):
        found.setdefault(checkpoint, []).append(book.Session(day=on.toordinal(), exposures=exposures, misses=misses))
    return found


def with_reps(
    earlier: Mapping[str, Iterable[book.Session]], reps: Iterable[Iterable[Judgement]], on: date, *, fresh: bool = False
) -> dict[str, FaultLedger]:
    """Ledgers of the checkpoints that have a history, with the reps of a review that is not finished yet counted in; `fresh`
    asks for those without a history too."""
    now: dict[str, tuple[int, int]] = {}
    safety: dict[str, bool] = {}
    for rep in reps:
        for judgement in rep:
            n, m = now.get(judgement.id, (0, 0))
            now[judgement.id] = n + judgement.is_exposure, m + judgement.counts_as_missed
            safety[judgement.id] = judgement.safety
    found = {}
    for checkpoint, sessions in earlier.items():
        n, m = now.get(checkpoint, (0, 0))
        here = book.Session(day=on.toordinal(), exposures=n, misses=m)
        ledger = ledger_of([*sessions, here], safety=safety.get(checkpoint, False))
        if ledger is not None and (fresh or any(session.exposures for session in sessions)):
            found[checkpoint] = ledger
    return found
