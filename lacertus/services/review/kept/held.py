"""A review that is locked is read once in a transaction: until its end nobody else changes it, and we know what we change.

Whatever a session adds, deletes or changes by a statement of its own lets go of the review, so that it is read anew; a change that
puts what it changed back into the review by `put_back` keeps hold of it.
"""

from __future__ import annotations

import uuid
from collections.abc import Callable
from typing import Any, TypeVar

from sqlalchemy import event, select
from sqlalchemy.orm import ORMExecuteState, Session
from sqlalchemy.orm.attributes import set_committed_value

from lacertus.store.tables import Base, Correction, JobRow, RepRow, Review

_HELD = "held_review"
_VIEW = "view_of_review"
_LOCKED = "locked_review_of_rep"
T = TypeVar("T")


def hold(db: Session, review: Review) -> Review:
    """Keep a review at hand until the transaction ends or something in it is changed behind its back."""
    db.info[_HELD] = review
    db.info.pop(_VIEW, None)
    return review


def held(db: Session, review_id: uuid.UUID) -> Review | None:
    """The review that is at hand, where it is this one."""
    found = db.info.get(_HELD)
    return found if found is not None and found.id == review_id else None


def held_of_rep(db: Session, academy: uuid.UUID, rep_id: uuid.UUID) -> tuple[Review, RepRow] | None:
    """The review that is at hand and its rep, where the rep is one of it and the review is this academy's."""
    review: Review | None = db.info.get(_HELD)
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


def forget(db: Session) -> None:
    """Let go of what was worked out: what it was worked out of was read anew."""
    db.info.pop(_VIEW, None)


def put_back(db: Session, review: Review, rep: RepRow, name: str, model: type[Base]) -> None:
    """Read what was changed of a rep (`events`, `points`, `answers`, `overrules`), and keep hold of its review."""
    db.flush()
    rows = select(model).where(model.rep_id == rep.id).execution_options(populate_existing=True)  # type: ignore[attr-defined]
    if name == "points":
        rows = rows.order_by(model.frame)  # type: ignore[attr-defined]
    set_committed_value(rep, name, list(db.scalars(rows)))
    hold(db, review)


def _let_go(db: Session, *_: Any) -> None:
    db.info.pop(_HELD, None)
    db.info.pop(_VIEW, None)


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
    ours = state.bind_mapper is None or state.bind_mapper.class_ is not JobRow
    if ours and (state.is_insert or state.is_update or state.is_delete):
        _let_go(state.session)


def _ended(db: Session, *_: Any) -> None:
    _let_go(db)
    db.info.pop(_LOCKED, None)


event.listen(Session, "after_commit", _ended)
event.listen(Session, "after_rollback", _ended)
event.listen(Session, "after_soft_rollback", _ended)
