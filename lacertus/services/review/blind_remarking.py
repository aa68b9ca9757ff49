"""Marking a rep a second time, blind, to learn how closely a coach marks (docs/measurement.md)."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime, timedelta

from sqlalchemy import func, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.eye.spread import SHOWN_DAYS, own_events_s
from lacertus.core.measuring.rep_facts import FACT_NAMES
from lacertus.core.measuring.repfile import Marking
from lacertus.core.review.blind_remarking import Scatter, remark_of, scatter_of
from lacertus.services.errors import Conflict
from lacertus.services.people.rights import Right, needs
from lacertus.services.review.loading import rep_file, review_of_rep
from lacertus.services.techniques import catalogue
from lacertus.store.tables import Account, EyeAnswer, RemarkRow, RepRow, Review

_SAME = ("technique_version_id", "student_id", "first_frame", "last_frame", *FACT_NAMES)


@needs(Right.REVIEW)
def mark_again(db: Session, academy: uuid.UUID, rep_id: uuid.UUID) -> RepRow:
    """A rep to be marked a second time: the same cut with nothing marked in it. One that is begun already is gone on with.

    Raises:
        NotFound: not in this academy.
        Conflict: its review is finished, or nothing was marked by hand the first time.
    """
    review, rep = review_of_rep(db, academy, rep_id)
    if rep.blind_of is not None:
        return rep
    if not rep.events and not any(point.by == "placed" for point in rep.points):
        raise Conflict("Mark this rep’s events or place its points first: they are what is marked again.")
    begun = next((other for other in review.reps if other.blind_of == rep.id), None)
    if begun is not None:
        return begun
    again = RepRow(id=uuid.uuid4(), review_id=review.id, blind_of=rep.id, **{name: getattr(rep, name) for name in _SAME})
    db.add(again)
    db.flush()
    return again


@needs(Right.REVIEW)
def compare(db: Session, academy: uuid.UUID, account: uuid.UUID, rep_id: uuid.UUID) -> tuple[Scatter, Scatter]:
    """Compare a rep that was marked blind with its first marking, and keep the pairs as the coach's own.

    Comparing again replaces what that rep gave. Open reviews of the coach are judged by the new σ from then on; finished ones
    are kept as they were.

    Returns:
        The scatter of this rep, and that of all that the coach has marked twice.

    Raises:
        BadInput: nothing is marked in both.
    """
    review, second = review_of_rep(db, academy, rep_id)
    first = next((rep for rep in review.reps if rep.id == second.blind_of), None)
    if first is None:
        raise BadInput("this rep is not a second marking; choose “mark again, blind” on a rep first")
    technique = catalogue.definition(first.technique_version)
    remark = remark_of(technique, rep_file(review, first), rep_file(review, second))
    if not remark.points and not remark.events:
        raise BadInput("nothing is marked both times yet; mark an event or place a point that was marked the first time")
    values = {"account_id": account, "rep_id": second.id, "body": remark}
    keep = insert(RemarkRow).values(id=uuid.uuid4(), **values)
    db.execute(keep.on_conflict_do_update(index_elements=["rep_id"], set_=values | {"created_at": func.now()}))
    mine = select(Review.id).where(Review.account_id == account, Review.finished_at.is_(None)).order_by(Review.id)
    db.execute(mine.with_for_update())
    db.execute(
        update(Review)
        .where(Review.account_id == account, Review.finished_at.is_(None))
        .values(marking=marking_of(db, account))
        .execution_options(synchronize_session=False)
    )
    return scatter_of([remark]), own_scatter(db, account)


def own_scatter(db: Session, account: uuid.UUID) -> Scatter:
    """A coach's scatter from all that was marked twice."""
    bodies = db.scalars(select(RemarkRow.body).where(RemarkRow.account_id == account).order_by(RemarkRow.created_at, RemarkRow.id))
    return scatter_of(list(bodies))


def marking_of(db: Session, account: uuid.UUID) -> Marking:
    """A coach's own σ as a rep file has it; empty where too little was marked twice.

    That of events is the one that training the eye showed, where the coach chose so (rule 4.10).
    """
    marking = own_scatter(db, account).marking
    if not db.scalar(select(Account.events_from_eye).where(Account.id == account)):
        return marking
    since = datetime.now(UTC) - timedelta(days=SHOWN_DAYS)
    own = (EyeAnswer.account_id == account, EyeAnswer.answered_at >= since)
    errors = db.scalars(select(EyeAnswer.ms).where(*own, EyeAnswer.ms.is_not(None)))
    trained = own_events_s([ms / 1000 for ms in errors if ms is not None])
    return marking if trained is None else marking.model_copy(update={"events_s": trained})
