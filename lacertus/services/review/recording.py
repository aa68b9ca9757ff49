"""What a review tells the ledger."""

from __future__ import annotations

import uuid
from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from lacertus.core.review.judgement import Judgement
from lacertus.services.progress import ledger
from lacertus.services.review import tied
from lacertus.services.review.loading import (
    load,
    lock_of_clip,
)
from lacertus.services.review.view import JudgedRep, view_of
from lacertus.services.techniques import catalogue
from lacertus.store.tables import JudgementRow, ReactedRow, RepRow, Review


def judge_again(db: Session, academy: uuid.UUID, clip_id: uuid.UUID) -> int:
    """Write a finished review's verdicts anew after a fact of its clip has changed; returns how many verdicts differ."""
    found = lock_of_clip(db, clip_id)
    if found is None or found.finished_at is None:
        return 0
    review = load(db, academy, found.id)
    rows = ledger_rows(review)
    mine = JudgementRow.review_id == review.id
    before = {
        (rep, checkpoint): verdict
        for rep, checkpoint, verdict in db.execute(
            select(JudgementRow.rep_id, JudgementRow.checkpoint, JudgementRow.verdict).where(mine)
        )
    }
    write(db, review)
    db.flush()
    return sum(before.get((row.rep_id, row.checkpoint)) != row.verdict for row in rows)


def write(db: Session, review: Review) -> None:
    """Put what a review says into the ledger, in place of what it said before."""
    db.execute(delete(JudgementRow).where(JudgementRow.review_id == review.id))
    db.execute(delete(ReactedRow).where(ReactedRow.review_id == review.id))
    db.add_all([*ledger_rows(review), *reacted_rows(review)])


def ledger_rows(review: Review) -> list[JudgementRow]:
    """The verdicts: each rep once, however often it was marked and in however many views it was filmed."""
    return [_row(review, entry, judgement) for entry in _counted(review) for judgement in entry.judgements]


def reacted_rows(review: Review) -> list[ReactedRow]:
    """What the partners did and how it was answered, in the same reps; what did not occur is left out."""
    return [
        ReactedRow(
            **_owned(review, entry.rep),
            reaction=row.id,
            frame=row.frame,
            answer=row.answer,
            latency_ms=row.latency_ms,
            u_ms=row.u_ms,
            verdict=row.verdict.value,
            reason=row.reason,
            **{name: getattr(entry.rep, name) for name in OF_REACTION},
        )
        for entry in _counted(review)
        for row in entry.reacted
        if row.frame is not None
    ]


OF_REACTION = ("side", "pace", "rung", "purpose", "outcome", "stance", "start", "options")
"""How the rep was done, as a reaction keeps it."""


def _counted(review: Review) -> list[JudgedRep]:
    told = tied.told_elsewhere(review)
    return [entry for entry in view_of(review).reps if entry.rep.blind_of is None and entry.rep.id not in told]


def _owned(review: Review, rep: RepRow) -> dict[str, Any]:
    return {
        "review_id": review.id,
        "rep_id": rep.id,
        "student_id": rep.student_id or review.student_id,
        "filmed_on": review.clip.filmed_on,
        "technique": rep.technique_version.technique,
    }


def _row(review: Review, entry: JudgedRep, judgement: Judgement) -> JudgementRow:
    asked = catalogue.definition(entry.rep.technique_version).asked(judgement.id)
    assert asked is not None
    return JudgementRow(
        **_owned(review, entry.rep),
        checkpoint=judgement.id,
        kind=judgement.kind,
        verdict=judgement.verdict.value,
        measured=None if judgement.measured is None else judgement.measured.value,
        because=judgement.because,
        value=judgement.value,
        unit=judgement.unit,
        uncertainty=judgement.uncertainty,
        frames=list(judgement.frames),
        view=judgement.view,
        reason=judgement.reason,
        fault=judgement.fault,
        family=asked.fault.family,
        safety=judgement.safety,
        entry=asked.entry,
        choice=None if entry.choice is None else entry.choice.value,
        counts=judgement.counts,
        **{name: getattr(entry.rep, name) for name in ledger.OF_REP},
    )
