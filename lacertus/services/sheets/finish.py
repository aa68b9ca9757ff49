"""Finishing a review, and revising it: what was finished is kept, and each revision says what changed."""

from __future__ import annotations

import uuid
from collections.abc import Iterator, Sequence
from datetime import UTC, datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadRep
from lacertus.core.sheets.revision import RecordedCorrection, RecordedJudgement, RecordedLeft, RecordedRep, RevisionRecord, changes
from lacertus.core.sheets.words import SheetWords
from lacertus.core.texts import checked_text
from lacertus.services.corrections import correct
from lacertus.services.errors import Conflict
from lacertus.services.people.rights import Right, needs
from lacertus.services.review import loading, recording
from lacertus.services.review.view import JudgedRep, view_of
from lacertus.services.sheets import sheet
from lacertus.store.tables import Review, Revision

LONGEST_WHY = 400
LONGEST_LEFT = 1000


@needs(Right.FINISH)
def finish(db: Session, academy: uuid.UUID, review_id: uuid.UUID, account: uuid.UUID | None = None) -> Review:
    """Finish a review: its verdicts go into the ledger, and it is kept as it is, as a revision.

    Raises:
        BadInput: it has no rep, or no checkpoint of it was judged.
        Conflict: it is finished already.
    """
    review = loading.for_change(db, academy, review_id)
    reps = view_of(review).reps
    if not any(j.is_exposure for entry in reps for j in entry.judgements):
        raise BadRep("Nothing has been judged yet: cut a rep, mark its events and answer or measure a checkpoint first.")
    left = (
        *_left(reps),
        *(RecordedLeft(kind="cut", words=f"frames {a}–{b} were proposed and not cut") for a, b in review.proposals),
    )
    recording.write(db, review)
    review.finished_at = datetime.now(UTC)
    correct.note_drawn(review)
    keep(db, review, account or review.account_id, review.reopened_why or "", left)
    review.reopened_why = None
    return review


def _left(reps: Sequence[JudgedRep]) -> Iterator[RecordedLeft]:
    """What is left in the reps; what lacks points is told once."""
    for entry in reps:
        lacking = {one.checkpoint for one in entry.left if one.kind == "points"}
        for one in entry.left:
            if not (one.kind == "not_seen" and one.checkpoint in lacking):
                yield RecordedLeft(kind=one.kind, rep=entry.rep.id, words=one.told[:LONGEST_LEFT])


@needs(Right.FINISH)
def reopen(db: Session, academy: uuid.UUID, review_id: uuid.UUID, why: str) -> Review:
    """Open a finished review again, to revise it. The ledger and the sheet stay as they were finished until it is finished anew.

    Raises:
        BadInput: no reason is given.
        Conflict: it is open already.
    """
    review = loading.locked(db, academy, review_id)
    if review.finished_at is None:
        raise Conflict("This review is open already.")
    review.reopened_why = checked_text(why, "the reason", LONGEST_WHY)
    review.finished_at = None
    db.flush()
    return review


@needs(Right.FINISH)
def change_words(
    db: Session, academy: uuid.UUID, review_id: uuid.UUID, words: SheetWords, account: uuid.UUID | None = None
) -> None:
    """Change what the coach wrote for the sheet; of a finished review that makes a revision."""
    review = loading.locked(db, academy, review_id)
    if words == review.words:
        return
    review.words = words
    db.flush()
    if review.finished_at is not None:
        keep(db, review, account, "the words on the sheet")


def note(db: Session, academy: uuid.UUID, review_id: uuid.UUID, account: uuid.UUID | None, why: str) -> None:
    """Keep a revision of a finished review whose verdicts were written anew."""
    review = loading.locked(db, academy, review_id)
    if review.finished_at is not None:
        keep(db, review, account, why)


def keep(db: Session, review: Review, account: uuid.UUID | None, why: str, left: Sequence[RecordedLeft] | None = None) -> Revision:
    """Keep a review as it is now as its next revision, with what changed since the last.

    `left` is what was left when it was finished; without it, what the last revision says.
    """
    newest = select(Revision).where(Revision.review_id == review.id).order_by(Revision.number.desc()).limit(1)
    before = db.scalar(newest)
    was_left = before.record.left if before is not None and left is None else tuple(left or ())
    record = record_of(review).model_copy(update={"left": was_left})
    revision = Revision(
        review_id=review.id,
        number=before.number + 1 if before else 1,
        account_id=account,
        why=why,
        changes=changes(before.record, record) if before else (),
        record=record,
        sheet=sheet.sheet_of(review),
    )
    db.add(revision)
    db.flush()
    return revision


def revisions(db: Session, review_id: uuid.UUID) -> list[Revision]:
    """The revisions of a review, the newest first."""
    return list(db.scalars(select(Revision).where(Revision.review_id == review_id).order_by(Revision.number.desc())))


def record_of(review: Review) -> RevisionRecord:
    """What a revision keeps."""
    view = view_of(review)
    return RevisionRecord(
        reps=tuple(_recorded(entry) for entry in view.reps if entry.rep.blind_of is None),
        corrections=tuple(
            RecordedCorrection(id=c.id, rep=c.rep_id, checkpoint=c.checkpoint, frame=c.frame, cue=c.cue, marks=c.marks)
            for c in review.corrections
        ),
        fix_first=tuple(fix.checkpoint for fix in view.fixes.first),
        words=review.words,
    )


def _recorded(entry: JudgedRep) -> RecordedRep:
    rep = entry.rep
    return RecordedRep(
        id=rep.id,
        frames=(rep.first_frame, rep.last_frame),
        technique=rep.technique_version.technique,
        version=rep.technique_version.version,
        judgements={
            j.id: RecordedJudgement(verdict=j.verdict.value, value=j.value, u=j.uncertainty, unit=j.unit) for j in entry.judgements
        },
    )


def count(db: Session, review_id: uuid.UUID) -> int:
    """How often a review was finished."""
    return db.scalar(select(func.count()).where(Revision.review_id == review_id)) or 0
