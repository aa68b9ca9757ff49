"""Who changed what of a review, so that nobody overwrites what somebody else marked meanwhile.

Every change of a review has a number. A window tells with what it sends which number it had on its screen: where the same
was changed since by another window, the change is refused and its coach is asked.
"""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from functools import lru_cache
from typing import NoReturn

from sqlalchemy import Select, bindparam, or_, select, true, update
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
    key = next((name for name in _KEYS if name in about), "")
    if not key:
        return
    given = {"academy": academy, "about": about[key], "what": what, "window": sender.window[:MOST_NAME], "account": sender.account}
    seen = {} if sender.seen is None else {"seen": sender.seen}
    found = db.execute(_noted(key, is_checked=bool(seen)), given | seen).one_or_none()
    if found is None:
        return
    if key == "rep_id":
        now_locked(db, about[key], found[0])
    if found[1] is None:
        _refuse(db, found[0], what)


_KEYS = ("review_id", "rep_id", "correction_id")


@lru_cache(maxsize=2 * len(_KEYS))
def _noted(key: str, *, is_checked: bool) -> Select[uuid.UUID, uuid.UUID]:
    """Count a change of a review, which keeps others from it until the end of the transaction, and note it, in one statement.

    It is made once, as every mark sends it. It gives the review, and the review again where the change was noted.
    """
    own = update(Review).where(Review.academy_id == bindparam("academy"))
    of = {
        "review_id": (Review.id == bindparam("about"),),
        "rep_id": (Review.id == RepRow.review_id, RepRow.id == bindparam("about")),
        "correction_id": (Review.id == Correction.review_id, Correction.id == bindparam("about")),
    }
    counted = own.where(*of[key]).values(changes=Review.changes + 1).returning(Review.id, Review.changes).cte("counted")
    what, window, account = (
        bindparam(name, type_=column.type)
        for name, column in (("what", ReviewChange.what), ("window", ReviewChange.window), ("account", ReviewChange.account_id))
    )
    rows = select(counted.c.id, what, counted.c.changes, window, account)
    kept = insert(ReviewChange).from_select(["review_id", "what", "number", "window", "account_id"], rows)
    new = {name: kept.excluded[name] for name in ("number", "window", "account_id")}
    mine = or_(ReviewChange.number <= bindparam("seen"), ReviewChange.window == window) if is_checked else true()
    stored = kept.on_conflict_do_update(index_elements=["review_id", "what"], set_=new, where=mine)
    noted = stored.returning(ReviewChange.review_id).cte("noted")
    told = select(counted.c.id, noted.c.review_id).select_from(counted.outerjoin(noted, true()))
    return told.execution_options(synchronize_session=False)


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
