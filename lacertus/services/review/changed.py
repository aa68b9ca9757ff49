"""Who changed what of a review, so that nobody overwrites what somebody else marked meanwhile.

Every change of a review has a number. A window tells with what it sends which number it had on its screen: where the same
was changed since by another window, the change is refused and its coach is asked.
"""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from typing import NoReturn

from sqlalchemy import literal, or_, select, true, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session
from sqlalchemy.sql.dml import ReturningUpdate

from lacertus.services.errors import ChangedMeanwhile, NotFound
from lacertus.services.review.kept.held import now_locked
from lacertus.store.tables import Account, Correction, RepRow, Review, ReviewChange

MOST_NAME = 64
"""So long a window's name may be; longer ones are cut."""


@dataclass(frozen=True, kw_only=True)
class Sender:
    """Whose change it is: the account, its window, and the number that this window had on its screen, where it says so."""

    account: uuid.UUID
    window: str
    seen: int | None


@dataclass(frozen=True, kw_only=True)
class Newest:
    """The number of the newest change of a review, and who made it."""

    revision: int
    by: str | None


def note(db: Session, academy: uuid.UUID, about: dict[str, uuid.UUID], what: str, sender: Sender) -> None:
    """Number a change of a review, which is locked until the end of the transaction; of what is not there nothing is noted.

    Args:
        db: the database.
        academy: whose review it is.
        about: `review_id`, `rep_id` or `correction_id`, whichever is known.
        what: what is changed; the same of two changes of the same.
        sender: whose change it is.

    Raises:
        ChangedMeanwhile: another window changed the same since; nothing is changed.
    """
    window = sender.window[:MOST_NAME]
    counted = _counted(academy, about).cte("counted")
    named = (literal(what, ReviewChange.what.type), literal(window, ReviewChange.window.type))
    rows = select(counted.c.id, named[0], counted.c.changes, named[1], literal(sender.account, ReviewChange.account_id.type))
    kept = insert(ReviewChange).from_select(["review_id", "what", "number", "window", "account_id"], rows)
    new = {name: kept.excluded[name] for name in ("number", "window", "account_id")}
    mine = true() if sender.seen is None else or_(ReviewChange.number <= sender.seen, ReviewChange.window == window)
    stored = kept.on_conflict_do_update(index_elements=["review_id", "what"], set_=new, where=mine)
    noted = stored.returning(ReviewChange.review_id).cte("noted")
    told = select(counted.c.id, noted.c.review_id).select_from(counted.outerjoin(noted, true()))
    found = db.execute(told.execution_options(synchronize_session=False)).one_or_none()
    if found is None:
        return
    if "rep_id" in about:
        now_locked(db, about["rep_id"], found[0])
    if found[1] is None:
        _refuse(db, found[0], what)


def _counted(academy: uuid.UUID, about: dict[str, uuid.UUID]) -> ReturningUpdate[uuid.UUID, int]:
    """Count a change of a review, which keeps others from it until the end of the transaction."""
    own = update(Review).where(Review.academy_id == academy)
    if "review_id" in about:
        own = own.where(Review.id == about["review_id"])
    elif "rep_id" in about:
        own = own.where(Review.id == RepRow.review_id, RepRow.id == about["rep_id"])
    else:
        own = own.where(Review.id == Correction.review_id, Correction.id == about["correction_id"])
    return own.values(changes=Review.changes + 1).returning(Review.id, Review.changes)


def _refuse(db: Session, review: uuid.UUID, what: str) -> NoReturn:
    own = select(Account.name).select_from(ReviewChange).outerjoin(Account, Account.id == ReviewChange.account_id)
    by = db.scalar(own.where(ReviewChange.review_id == review, ReviewChange.what == what))
    raise ChangedMeanwhile(
        f"{by or 'Somebody'} changed the same meanwhile in another window. Yours is not saved. Keep what is there now, or "
        "save yours over it."
    )


def newest(db: Session, academy: uuid.UUID, review_id: uuid.UUID, window: str) -> Newest:
    """The number of the newest change of a review; and by whom, where another window made it.

    Raises:
        NotFound: not in this academy.
    """
    revision = db.scalar(select(Review.changes).where(Review.academy_id == academy, Review.id == review_id))
    if revision is None:
        raise NotFound("There is no such review in your academy.")
    last = (
        select(ReviewChange.window, Account.name)
        .outerjoin(Account, Account.id == ReviewChange.account_id)
        .where(ReviewChange.review_id == review_id)
        .order_by(ReviewChange.number.desc())
        .limit(1)
    )
    found = db.execute(last).one_or_none()
    return Newest(revision=revision, by=found[1] if found is not None and found[0] != window[:MOST_NAME] else None)
