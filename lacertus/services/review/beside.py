"""What there is beside a review that most reviews do not have, asked for in one statement instead of one each."""

from __future__ import annotations

from typing import Any

from sqlalchemy import ColumnElement, Row, func, or_, select
from sqlalchemy.orm import Session

from lacertus.services.review.kept import held
from lacertus.services.review.kept.surroundings import Beside
from lacertus.store.tables import AdaptationRow, MadeStart, RepRow, Review, Revision, SheetAnswer, TechniqueVersion, ViewTie


def beside(db: Session, review: Review) -> Beside:
    """What there is beside a review: as it was read with it, or asked anew where something was changed since."""
    return held.beside_of(db, review) or told_in(db.execute(select(*columns()).where(Review.id == review.id)).one())


def columns() -> tuple[ColumnElement[Any], ...]:
    """The same as columns of a query of reviews; `told_in` reads them."""
    of_it = RepRow.review_id == Review.id
    performers = select(RepRow.student_id).where(of_it, RepRow.student_id.is_not(None)).correlate(Review)
    techniques = select(TechniqueVersion.technique).join(RepRow).where(of_it).correlate(Review)
    of_performers = or_(AdaptationRow.student_id == Review.student_id, AdaptationRow.student_id.in_(performers))
    own_starts = select(MadeStart.id).where(MadeStart.academy_id == Review.academy_id, MadeStart.technique.in_(techniques))
    return (
        select(ViewTie.clip_id).where(ViewTie.clip_id == Review.clip_id).correlate(Review).exists().label("tied"),
        select(AdaptationRow.id).where(of_performers).correlate(Review).exists().label("adapted"),
        own_starts.correlate(Review).exists().label("starts"),
        select(SheetAnswer.id).where(SheetAnswer.review_id == Review.id).correlate(Review).exists().label("said"),
        select(func.count()).where(Revision.review_id == Review.id).correlate(Review).scalar_subquery().label("revisions"),
    )


def told_in(row: Row[Any]) -> Beside:
    """What `columns` told."""
    return Beside(tied=row.tied, adapted=row.adapted, starts=row.starts, said=row.said, revisions=row.revisions)
