"""Asking another coach by name for a second opinion on a finished review."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from datetime import date
from functools import cache
from typing import Any

from sqlalchemy import Select, Uuid, bindparam, exists, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, aliased

from lacertus.core.errors import BadInput
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.people.rights import Right, needs
from lacertus.services.review import loading
from lacertus.store.tables import Account, Clip, Opinion, OpinionAsked, RepRow, Review, Student

JUDGES = ("owner", "coach")
"""The roles that judge."""


@dataclass(frozen=True, kw_only=True)
class Colleague:
    """A coach who can judge a review a second time: whether asked (on which day, by whom), and whether it was given."""

    id: uuid.UUID
    name: str
    asked_on: date | None
    asked_by: str
    given: bool


@dataclass(frozen=True, kw_only=True)
class Asked:
    """A review that a coach was asked to judge and has not judged yet."""

    review: uuid.UUID
    clip_name: str
    student: str
    on: date
    by: str


def colleagues(db: Session, academy: uuid.UUID, review_id: uuid.UUID) -> list[Colleague]:
    """Those who can give a second opinion on a review: the coaches of the academy but the one who judged it, by name.

    Raises:
        NotFound: no such review.
    """
    review = loading.load(db, academy, review_id)
    asker = aliased(Account)
    given = exists().where(Opinion.rep_id.in_([rep.id for rep in review.reps]), Opinion.handed_in_at.is_not(None))
    rows = (
        select(Account, OpinionAsked.asked_on, asker.name, given.where(Opinion.account_id == Account.id))
        .outerjoin(OpinionAsked, (OpinionAsked.account_id == Account.id) & (OpinionAsked.review_id == review_id))
        .outerjoin(asker, asker.id == OpinionAsked.asked_by)
        .where(Account.academy_id == academy, Account.left_at.is_(None), Account.role.in_(JUDGES))
        .order_by(Account.name, Account.id)
    )
    return [
        Colleague(id=account.id, name=account.name, asked_on=on, asked_by=by or "", given=done)
        for account, on, by, done in db.execute(rows)
        if account.id != review.account_id
    ]


@needs(Right.REVIEW)
def ask(db: Session, academy: uuid.UUID, review_id: uuid.UUID, whom: uuid.UUID, by: uuid.UUID, on: date) -> None:
    """Ask a coach for a second opinion; once more changes nothing.

    Raises:
        BadInput: it is oneself, or nobody who could give one.
        Conflict: the review is open, nobody is known to have judged it, or the opinion was given.
        NotFound: no such review.
    """
    review = loading.load(db, academy, review_id)
    if review.finished_at is None or review.account_id is None:
        raise Conflict("A second opinion is given on a finished review whose coach is known. Nobody was asked.")
    if whom == by:
        raise BadInput("begin your own second opinion on the page Academy; nobody was asked")
    found = next((one for one in colleagues(db, academy, review_id) if one.id == whom), None)
    if found is None:
        raise BadInput("choose a coach of your academy who did not judge this review; nobody was asked")
    if found.given:
        raise Conflict(f"{found.name} has given a second opinion on this review already. Nobody was asked.")
    row = insert(OpinionAsked).values(review_id=review_id, account_id=whom, asked_by=by, asked_on=on)
    db.execute(row.on_conflict_do_nothing())
    db.flush()


@needs(Right.REVIEW)
def take_back(db: Session, academy: uuid.UUID, review_id: uuid.UUID, whom: uuid.UUID) -> None:
    """Ask no longer. Raises NotFound where nobody was asked."""
    review = loading.load(db, academy, review_id)
    row = db.get(OpinionAsked, (review.id, whom))
    if row is None:
        raise NotFound("This coach was not asked about this review.")
    db.delete(row)
    db.flush()


def of_coach(db: Session, academy: uuid.UUID, account: uuid.UUID) -> list[Asked]:
    """The reviews that a coach was asked to judge and has not judged yet, the oldest asked first."""
    return [
        Asked(review=review, clip_name=clip, student=student, on=on, by=by or "")
        for review, clip, student, on, by in db.execute(_of_coach(), {"academy": academy, "account": account})
    ]


@cache
def _of_coach() -> Select[*tuple[Any, ...]]:
    asker = aliased(Account)
    academy, account = bindparam("academy", type_=Uuid()), bindparam("account", type_=Uuid())
    done = (
        exists()
        .where(Opinion.rep_id == RepRow.id, RepRow.review_id == Review.id)
        .where(Opinion.account_id == account, Opinion.handed_in_at.is_not(None))
    )
    return (
        select(Review.id, Clip.name, Student.name, OpinionAsked.asked_on, asker.name)
        .join(OpinionAsked, OpinionAsked.review_id == Review.id)
        .join(Clip, Clip.id == Review.clip_id)
        .join(Student, Student.id == Review.student_id)
        .outerjoin(asker, asker.id == OpinionAsked.asked_by)
        .where(
            Review.academy_id == academy, OpinionAsked.account_id == account, Review.finished_at.is_not(None), Clip.has_film, ~done
        )
        .order_by(OpinionAsked.asked_on, Review.id)
    )
