"""Reps on a rung, as they were judged on a day."""

from __future__ import annotations

import uuid
from datetime import UTC, date, datetime, timedelta

from sqlalchemy.orm import Session

from lacertus.services.techniques import catalogue
from lacertus.store.tables import Clip, JudgementRow, RepRow, Review
from tests.halls import Hall

TODAY = date(2026, 6, 1)


def done(
    db: Session, where: Hall, technique: str, rung: str, verdicts: list[str], days_ago: int, student: uuid.UUID | None = None
) -> None:
    """Reps of a technique on a rung, every core and safety checkpoint judged alike, one verdict a rep."""
    version = catalogue.newest(db, where.academy, technique)
    definition = catalogue.definition(version)
    on, who = TODAY - timedelta(days=days_ago), student or where.student
    clip = Clip(
        academy_id=where.academy, student_id=who, name=f"{technique} {days_ago}", filmed_on=on, state="ready", has_film=False
    )
    db.add(clip)
    db.flush()
    review = Review(academy_id=where.academy, clip_id=clip.id, student_id=who, finished_at=datetime(2026, 6, 1, tzinfo=UTC))
    db.add(review)
    db.flush()
    for number, verdict in enumerate(verdicts):
        how = {"side": "right", "rung": rung, "pace": "full", "purpose": "attempt", "options": {}}
        rep = RepRow(
            review_id=review.id, technique_version_id=version.id, last_frame=10 * number + 5, first_frame=10 * number, **how
        )
        db.add(rep)
        db.flush()
        db.add_all(
            JudgementRow(
                review_id=review.id, rep_id=rep.id, student_id=who, filmed_on=on, technique=technique, checkpoint=c.id, kind=c.kind,
                verdict=verdict, frames=[], fault=c.fault.code, family=c.fault.family, safety=c.safety,
                first_frame=10 * number, **how,
            )
            for c in definition.checkpoints
            if c.core or c.safety
        )  # fmt: skip
    db.commit()
