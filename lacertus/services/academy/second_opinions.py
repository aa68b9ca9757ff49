"""A second opinion: another coach judges the reps of a finished review by eye, without seeing the first coach's verdicts.

What is handed in stands, beside the first verdict as it was then, so that talking it over afterwards does not change how far the
two agreed.
"""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime
from typing import Any

from sqlalchemy import Select, Subquery, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lacertus.core.academy.agreement import Rating
from lacertus.core.errors import BadInput
from lacertus.services.errors import Conflict
from lacertus.services.people.rights import Right, needs
from lacertus.services.progress.ledger import COUNTS
from lacertus.services.review import loading
from lacertus.services.techniques import catalogue
from lacertus.store.tables import Account, Clip, JudgementRow, Opinion, RepRow, Review, Student

FIRM = ("met", "missed")


@dataclass(frozen=True, kw_only=True)
class Offer:
    """A finished review of another coach that can be judged a second time."""

    review: uuid.UUID
    clip_name: str
    student: str
    filmed_on: date
    first: str
    begun: bool


@dataclass(frozen=True, kw_only=True)
class LookedAt:
    """A checkpoint as it is judged a second time: what it asks, the frame at which the first coach read it, one's own verdict;
    the first verdict only once one's own is handed in."""

    id: str
    ask: str
    look_for: str
    why: str
    phase: str
    safety: bool
    frame: int | None
    mine: str | None
    first: str | None


@dataclass(frozen=True, kw_only=True)
class LookedAtRep:
    id: uuid.UUID
    technique: str
    side: str
    first_frame: int
    last_frame: int
    checkpoints: tuple[LookedAt, ...]


@dataclass(frozen=True, kw_only=True)
class SecondOpinion:
    """A review as it is judged a second time."""

    review: uuid.UUID
    clip: Clip
    student: str
    first_coach: str
    handed_in: bool
    reps: tuple[LookedAtRep, ...]
    cautions: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class Judged:
    """A verdict of a coach for the statistics: whether the first coach's was measured, and of which technique."""

    rating: Rating
    technique: str
    by_eye: bool
    on: date


def offers(db: Session, academy: uuid.UUID, account: uuid.UUID, most: int = 12) -> list[Offer]:
    """Finished reviews of other coaches, with their film, that one has not judged yet; those begun first, then the newest."""
    own = _given_by(account)
    rows = _judged_by_another(academy, account, own).outerjoin(own, own.c.review_id == Review.id)
    newest = (own.c.given.is_(None), Clip.filmed_on.desc(), Clip.created_at.desc())
    return _offers(db, rows.where(own.c.done.is_(None)).order_by(*newest).limit(most))


def begun(db: Session, academy: uuid.UUID, account: uuid.UUID) -> list[Offer]:
    """Those of the offers that one has begun to judge."""
    begun_ones = select(Opinion.rep_id).where(Opinion.account_id == account, Opinion.handed_in_at.is_(None)).limit(1)
    if db.scalar(begun_ones) is None:
        return []
    own = _given_by(account)
    rows = _judged_by_another(academy, account, own).join(own, own.c.review_id == Review.id)
    return _offers(db, rows.where(own.c.done.is_(None)).order_by(Clip.filmed_on.desc(), Clip.created_at.desc()))


def _given_by(account: uuid.UUID) -> Subquery:
    """By review: how many verdicts somebody gave, and when they were handed in."""
    given = select(RepRow.review_id, func.max(Opinion.handed_in_at).label("done"), func.count().label("given"))
    own = given.join(Opinion, Opinion.rep_id == RepRow.id).where(Opinion.account_id == account)
    return own.group_by(RepRow.review_id).subquery()


def _judged_by_another(academy: uuid.UUID, account: uuid.UUID, own: Subquery) -> Select[Any]:
    return (
        select(Review.id, Clip.name, Student.name, Clip.filmed_on, Account.name, own.c.given)
        .join(Clip, Clip.id == Review.clip_id)
        .join(Student, Student.id == Review.student_id)
        .join(Account, Account.id == Review.account_id)
        .where(Review.academy_id == academy, Review.finished_at.is_not(None), Review.account_id != account, Clip.has_film)
    )


def _offers(db: Session, rows: Select[Any]) -> list[Offer]:
    return [
        Offer(review=review, clip_name=clip, student=student, filmed_on=on, first=first, begun=given is not None)
        for review, clip, student, on, first, given in db.execute(rows)
    ]


def look(db: Session, academy: uuid.UUID, account: uuid.UUID, review_id: uuid.UUID) -> SecondOpinion:
    """A review to be judged a second time, with what one has given so far.

    Raises:
        Conflict: it is open, one's own, or nobody is known to have judged it.
        NotFound: not in this academy.
    """
    review = _to_judge(db, academy, account, review_id)
    judged = _judged(db, review)
    given = {(one.rep_id, one.checkpoint): one for one in _given(db, account, review)}
    handed_in = any(one.handed_in_at is not None for one in given.values())
    first = db.get(Account, review.account_id)
    student = db.get(Student, review.student_id)
    assert first is not None and student is not None
    reps = tuple(_rep(rep, judged[rep.id], given, handed_in) for rep in review.reps if rep.id in judged)
    asked = [catalogue.definition(rep.technique_version) for rep in review.reps]
    return SecondOpinion(
        review=review.id,
        clip=review.clip,
        student=student.name,
        first_coach=first.name,
        handed_in=handed_in,
        reps=reps,
        cautions=tuple(dict.fromkeys(caution for technique in asked for caution in technique.cautions)),
    )


def _to_judge(db: Session, academy: uuid.UUID, account: uuid.UUID, review_id: uuid.UUID) -> Review:
    review = loading.load(db, academy, review_id)
    if review.finished_at is None:
        raise Conflict("This review is open; a second opinion is given on a finished one.")
    if review.account_id is None:
        raise Conflict("It is not known who judged this review, so that there is nobody to agree with.")
    if review.account_id == account:
        raise Conflict(
            "This review is your own; a second opinion is another coach’s. To see how closely you mark, mark a rep again."
        )
    return review


def _judged(db: Session, review: Review) -> dict[uuid.UUID, list[JudgementRow]]:
    """What was asked in each rep, in the order of its technique; demonstrations never count."""
    rows = (
        select(JudgementRow)
        .where(JudgementRow.review_id == review.id, JudgementRow.verdict != "not_asked", COUNTS)
        .order_by(JudgementRow.id)
    )
    found: dict[uuid.UUID, list[JudgementRow]] = {}
    for row in db.scalars(rows):
        found.setdefault(row.rep_id, []).append(row)
    return found


def _given(db: Session, account: uuid.UUID, review: Review) -> Sequence[Opinion]:
    mine = select(Opinion).where(Opinion.account_id == account, Opinion.rep_id.in_([rep.id for rep in review.reps]))
    return db.scalars(mine).all()


def _rep(rep: RepRow, judged: Sequence[JudgementRow], given: dict[tuple[uuid.UUID, str], Opinion], handed_in: bool) -> LookedAtRep:
    technique = catalogue.definition(rep.technique_version)
    shown = []
    for row in judged:
        asked = technique.asked(row.checkpoint)
        if asked is None:
            continue
        mine = given.get((rep.id, row.checkpoint))
        shown.append(
            LookedAt(
                id=row.checkpoint,
                ask=asked.ask,
                look_for=asked.look_for or "",
                why=asked.why,
                phase=asked.phase,
                safety=asked.safety,
                frame=row.frames[0] if row.frames and row.view is None else None,
                mine=mine.verdict if mine else None,
                first=(mine.first_verdict if mine else row.verdict) if handed_in else None,
            )
        )
    return LookedAtRep(
        id=rep.id,
        technique=technique.names.main,
        side=rep.side,
        first_frame=rep.first_frame,
        last_frame=rep.last_frame,
        checkpoints=tuple(shown),
    )


@needs(Right.REVIEW)
def give(
    db: Session,
    academy: uuid.UUID,
    account: uuid.UUID,
    review_id: uuid.UUID,
    rep_id: uuid.UUID,
    checkpoint: str,
    verdict: str | None,
) -> None:
    """Give one's own verdict on a checkpoint of a rep; None takes it back.

    Raises:
        BadInput: no such rep or checkpoint in this review.
        Conflict: as `look`, or it is handed in.
        NotFound: no such review.
    """
    review = _open_look(db, academy, account, review_id)
    if not any(row.checkpoint == checkpoint for row in _judged(db, review).get(rep_id, ())):
        raise BadInput("this review has no such rep and checkpoint; nothing was stored")
    here = db.get(Opinion, (rep_id, account, checkpoint))
    if verdict is None:
        if here is not None:
            db.delete(here)
    else:
        put = insert(Opinion).values(rep_id=rep_id, account_id=account, checkpoint=checkpoint, verdict=verdict)
        db.execute(put.on_conflict_do_update(index_elements=["rep_id", "account_id", "checkpoint"], set_={"verdict": verdict}))
    db.flush()
    db.expire_all()


def _open_look(db: Session, academy: uuid.UUID, account: uuid.UUID, review_id: uuid.UUID) -> Review:
    review = _to_judge(db, academy, account, review_id)
    if any(one.handed_in_at is not None for one in _given(db, account, review)):
        raise Conflict("Your second opinion has been submitted and cannot be changed.")
    return review


@needs(Right.REVIEW)
def hand_in(db: Session, academy: uuid.UUID, account: uuid.UUID, review_id: uuid.UUID) -> SecondOpinion:
    """Hand in what one has given; from now on the first verdicts are shown beside it.

    Raises:
        BadInput: nothing was given yet.
        Conflict: as `give`.
    """
    review = _open_look(db, academy, account, review_id)
    given = _given(db, account, review)
    if not given:
        raise BadInput("nothing is judged yet; give at least one verdict first")
    first = {(row.rep_id, row.checkpoint): row.verdict for rows in _judged(db, review).values() for row in rows}
    for one in given:
        one.first_verdict = first.get((one.rep_id, one.checkpoint))
        one.first_account_id = review.account_id
        one.handed_in_at = datetime.now(UTC)
    db.flush()
    db.expire_all()
    return look(db, academy, account, review_id)


def ratings(db: Session, academy: uuid.UUID) -> list[Judged]:
    """Every firm verdict that was given a second time, and the first one that it is held against."""
    rows = (
        select(Opinion, Account.name, JudgementRow.safety, JudgementRow.kind, JudgementRow.technique, JudgementRow.filmed_on)
        .join(JudgementRow, (JudgementRow.rep_id == Opinion.rep_id) & (JudgementRow.checkpoint == Opinion.checkpoint))
        .join(Account, Account.id == Opinion.account_id)
        .where(Account.academy_id == academy, Opinion.handed_in_at.is_not(None), Opinion.first_account_id.is_not(None))
        .order_by(Opinion.handed_in_at)
    )
    coaches = select(Account.id, Account.name).where(Account.academy_id == academy)
    names = dict(db.execute(coaches).tuples().all())
    found = []
    for given, name, safety, kind, technique, on in db.execute(rows):
        first = "missed" if given.first_verdict == "borderline" and safety else given.first_verdict
        first_coach = names.get(given.first_account_id) if given.first_account_id else None
        if given.verdict not in FIRM or first not in FIRM or first_coach is None:
            continue
        for coach, verdict in ((first_coach, first), (name, given.verdict)):
            rating = Rating(coach=coach, rep=given.rep_id, checkpoint=given.checkpoint, missed=verdict == "missed")
            found.append(Judged(rating=rating, technique=technique, by_eye=kind == "seen", on=on))
    return found
