"""Who changed what of a review, so that nobody overwrites what somebody else marked meanwhile.

Every change of a review has a number. A window tells with what it sends which number it had on its screen: where the same
was changed since by another window, the change is refused and its coach is asked.
"""

from __future__ import annotations

import uuid
from dataclasses import dataclass

from sqlalchemy import select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

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
    numbered = _numbered(db, academy, about)
    if numbered is None:
        return
    review, number = numbered
    window = sender.window[:MOST_NAME]
    if sender.seen is not None:
        _check(db, review, what, window, sender.seen)
    row = {"number": number, "window": window, "account_id": sender.account}
    kept = insert(ReviewChange).values(review_id=review, what=what, **row)
    db.execute(kept.on_conflict_do_update(index_elements=["review_id", "what"], set_=row))


def _numbered(db: Session, academy: uuid.UUID, about: dict[str, uuid.UUID]) -> tuple[uuid.UUID, int] | None:
    """Lock a review by counting the change: the review and the number of the change."""
    own = update(Review).where(Review.academy_id == academy)
    if "review_id" in about:
        own = own.where(Review.id == about["review_id"])
    elif "rep_id" in about:
        own = own.where(Review.id == RepRow.review_id, RepRow.id == about["rep_id"])
    else:
        own = own.where(Review.id == Correction.review_id, Correction.id == about["correction_id"])
    counted = own.values(changes=Review.changes + 1).returning(Review.id, Review.changes)
    found = db.execute(counted.execution_options(synchronize_session=False)).one_or_none()
    if found is None:
        return None
    if "rep_id" in about:
        now_locked(db, about["rep_id"], found[0])
    return found[0], found[1]


def _check(db: Session, review: uuid.UUID, what: str, window: str, seen: int) -> None:
    own = select(Account.name).select_from(ReviewChange).outerjoin(Account, Account.id == ReviewChange.account_id)
    newer = own.where(ReviewChange.review_id == review, ReviewChange.what == what, ReviewChange.number > seen)
    by = db.execute(newer.where(ReviewChange.window != window)).one_or_none()
    if by is not None:
        raise ChangedMeanwhile(
            f"{by[0] or 'Somebody'} changed the same meanwhile in another window. Yours is not saved. Keep what is there now, or "
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
