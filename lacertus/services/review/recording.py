"""What a review tells the ledger."""

from __future__ import annotations

import uuid

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from lacertus.core.review.judge import Judgement
from lacertus.services.progress import ledger
from lacertus.services.review import tied
from lacertus.services.review.loading import (
    load,
    lock_of_clip,
)
from lacertus.services.review.view import view_of
from lacertus.services.techniques import catalogue
from lacertus.store.tables import JudgementRow, RepRow, Review


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
    db.execute(delete(JudgementRow).where(mine))
    db.add_all(rows)
    db.flush()
    return sum(before.get((row.rep_id, row.checkpoint)) != row.verdict for row in rows)


def ledger_rows(review: Review) -> list[JudgementRow]:
    """What goes into the ledger: each rep once, however often it was marked and in however many views it was filmed."""
    told = tied.told_elsewhere(review)
    counted = [entry for entry in view_of(review).reps if entry.rep.blind_of is None and entry.rep.id not in told]
    return [_row(review, entry.rep, judgement) for entry in counted for judgement in entry.judgements]


def _row(review: Review, rep: RepRow, judgement: Judgement) -> JudgementRow:
    asked = catalogue.definition(rep.technique_version).checkpoint(judgement.id)
    assert asked is not None
    return JudgementRow(
        review_id=review.id,
        rep_id=rep.id,
        student_id=rep.student_id or review.student_id,
        filmed_on=review.clip.filmed_on,
        technique=rep.technique_version.technique,
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
        **{name: getattr(rep, name) for name in ledger.OF_REP},
    )
