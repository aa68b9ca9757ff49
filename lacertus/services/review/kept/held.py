"""A review that is locked is read once in a transaction: until its end nobody else changes it, and we know what we change.

Whatever a session adds, deletes or changes by a statement of its own lets go of the review, so that it is read anew; a change that
puts what it changed back into the review by `put_back` keeps hold of it.
"""

from __future__ import annotations

import uuid
from collections.abc import Callable
from typing import Any, TypeVar

from sqlalchemy import event, inspect, select
from sqlalchemy.orm import ORMExecuteState, Session
from sqlalchemy.orm.attributes import set_committed_value

from lacertus.services.review.kept.surroundings import Beside
from lacertus.store.tables import Answer, Base, Correction, EventMark, JobRow, OverruleRow, PointRow, RepRow, Review

_HELD = "held_review"
_VIEW = "view_of_review"
_LOCKED = "locked_review_of_rep"
_BESIDE = "beside_review"
_OF_A_REP = (EventMark, PointRow, Answer, OverruleRow)
"""What is put back into a rep by `put_back`; it changes nothing of what there is beside its review."""
T = TypeVar("T")


def hold(db: Session, review: Review) -> Review:
    """Keep a review at hand until the transaction ends or something in it is changed behind its back."""
    db.info[_HELD] = review
    db.info.pop(_VIEW, None)
    return review


def held(db: Session, review_id: uuid.UUID) -> Review | None:
    """The review that is at hand, where it is this one."""
    found = _whole(db)
    return found if found is not None and found.id == review_id else None


def _whole(db: Session) -> Review | None:
    """The review that is at hand, unless the session has forgotten what it read of it."""
    found: Review | None = db.info.get(_HELD)
    return found if found is not None and "reps" not in inspect(found).unloaded else None


def held_of_rep(db: Session, academy: uuid.UUID, rep_id: uuid.UUID) -> tuple[Review, RepRow] | None:
    """The review that is at hand and its rep, where the rep is one of it and the review is this academy's."""
    review = _whole(db)
    if review is None or review.academy_id != academy:
        return None
    return next(((review, rep) for rep in review.reps if rep.id == rep_id), None)


def now_locked(db: Session, rep_id: uuid.UUID, review_id: uuid.UUID) -> None:
    """Note that the review of a rep is locked until the transaction ends, so that it need not be looked for again."""
    db.info[_LOCKED] = (rep_id, review_id)


def locked_of(db: Session, rep_id: uuid.UUID) -> uuid.UUID | None:
    """The review of a rep, where this transaction is known to have locked it."""
    rep, review = db.info.get(_LOCKED, (None, None))
    return review if rep == rep_id else None


def worked_out(db: Session, review: Review, work: Callable[[], T]) -> T:
    """What was worked out of a review, kept until something of it changes or another is looked at."""
    kept: tuple[Review, T] | None = db.info.get(_VIEW)
    if kept is None or kept[0] is not review:
        kept = (review, work())
        db.info[_VIEW] = kept
    return kept[1]


def keep_beside(db: Session, review: Review, found: Beside) -> None:
    """Keep what was read of a review's surroundings together with it, until any of them may have changed."""
    db.info[_BESIDE] = (review, found)


def beside_of(db: Session, review: Review) -> Beside | None:
    """What was read of a review's surroundings, where it still holds."""
    kept: tuple[Review, Beside] | None = db.info.get(_BESIDE)
    return kept[1] if kept is not None and kept[0] is review else None


def forget(db: Session) -> None:
    """Let go of what was worked out: what it was worked out of was read anew."""
    db.info.pop(_VIEW, None)


def put_back(db: Session, review: Review, rep: RepRow, name: str, model: type[Base]) -> None:
    """Read what was changed of a rep (`events`, `points`, `answers`, `overrules`), and keep hold of its review."""
    db.flush()
    if name == "points":
        # Read when they are looked at: there are hundreds.
        db.expire(rep, ["points", "points_version"])
        hold(db, review)
        return
    rows = select(model).where(model.rep_id == rep.id).execution_options(populate_existing=True)  # type: ignore[attr-defined]
    set_committed_value(rep, name, list(db.scalars(rows)))
    hold(db, review)


def _let_go(db: Session, *, of_a_rep: bool = False) -> None:
    db.info.pop(_HELD, None)
    db.info.pop(_VIEW, None)
    if not of_a_rep:
        db.info.pop(_BESIDE, None)


def _is_new_rep(db: Session, one: Any) -> bool:
    """A new correction is put into its review by whoever draws it; a new rep is read with all its parts."""
    return one in db.new and not isinstance(one, Correction)


@event.listens_for(Session, "after_flush")
def _flushed(db: Session, _context: Any) -> None:
    changed = [one for one in (*db.new, *db.dirty) if not isinstance(one, JobRow)]
    if db.deleted or any(not isinstance(one, Review | RepRow | Correction) or _is_new_rep(db, one) for one in changed):
        _let_go(db)
    elif any(not isinstance(one, Correction) for one in changed):
        forget(db)


@event.listens_for(Session, "do_orm_execute")
def _executed(state: ORMExecuteState) -> None:
    of = None if state.bind_mapper is None else state.bind_mapper.class_
    if of is not JobRow and (state.is_insert or state.is_update or state.is_delete):
        _let_go(state.session, of_a_rep=of in _OF_A_REP)


def _ended(db: Session, *_: Any) -> None:
    _let_go(db)
    db.info.pop(_LOCKED, None)


event.listen(Session, "after_commit", _ended)
event.listen(Session, "after_rollback", _ended)
event.listen(Session, "after_soft_rollback", _ended)
