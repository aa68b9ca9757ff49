"""What there is beside a review that most reviews do not have, asked for in one statement instead of one each."""

from __future__ import annotations

import uuid
from collections.abc import Collection
from dataclasses import dataclass

from sqlalchemy import Exists, func, select
from sqlalchemy.orm import Session

from lacertus.store.tables import AdaptationRow, MadeStart, Review, Revision, SheetAnswer, ViewTie


@dataclass(frozen=True, kw_only=True)
class Beside:
    """What is worth being read of a review's surroundings."""

    tied: bool
    """Its clip is tied to another one."""
    adapted: bool
    """A technique was adapted to one of its performers."""
    starts: bool
    """The academy made starts of its own for one of its techniques."""
    said: bool
    """Its sheet was answered."""
    revisions: int
    """How often it was finished."""


def beside(db: Session, review: Review) -> Beside:
    """What there is beside a review."""
    performers = {rep.student_id or review.student_id for rep in review.reps}
    found = select(
        select(ViewTie.clip_id).where(ViewTie.clip_id == review.clip_id).exists().label("tied"),
        select(AdaptationRow.id).where(AdaptationRow.student_id.in_(performers)).exists().label("adapted"),
        _own_starts(review.academy_id, {rep.technique_version.technique for rep in review.reps}).label("starts"),
        select(SheetAnswer.id).where(SheetAnswer.review_id == review.id).exists().label("said"),
        select(func.count()).where(Revision.review_id == review.id).scalar_subquery().label("revisions"),
    )
    row = db.execute(found).one()
    return Beside(tied=row.tied, adapted=row.adapted, starts=row.starts, said=row.said, revisions=row.revisions)


def _own_starts(academy: uuid.UUID, techniques: Collection[str]) -> Exists:
    return select(MadeStart.id).where(MadeStart.academy_id == academy, MadeStart.technique.in_(techniques)).exists()
