"""Before and after: the same checkpoint of a student in an early rep and in a late one, each as it was measured."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lacertus.core.corrections.shapes import Shape
from lacertus.services.corrections import correct, examples
from lacertus.services.people import people
from lacertus.services.progress.ledger import COUNTS, EXPOSED
from lacertus.services.review import loading
from lacertus.services.review.view import view_of
from lacertus.store.tables import Clip, JudgementRow, Review


@dataclass(frozen=True, kw_only=True)
class Picture:
    """A rep at the frame at which a checkpoint was read: where it is found (time in seconds of the film, inside the frame),
    what is drawn on it, in pixels of the displayed picture, and what was read."""

    clip: uuid.UUID
    rep: uuid.UUID
    checkpoint: str
    filmed_on: date
    frame: int
    time_s: float
    width: int
    height: int
    has_film: bool
    shapes: tuple[Shape, ...]
    verdict: str
    value: float | None
    unit: str | None
    uncertainty: float | None
    side: str


@dataclass(frozen=True, kw_only=True)
class _Read:
    """That a rep was judged by a checkpoint, and whether the film of its clip is kept."""

    review: uuid.UUID
    rep: uuid.UUID
    filmed_on: date
    checkpoint: str
    side: str
    missed: bool
    has_film: bool


def pictures(
    db: Session, academy: uuid.UUID, student_id: uuid.UUID, technique: str, fault: str
) -> tuple[Picture, Picture | None] | None:
    """The first rep in which a fault was made, and a later one of the same checkpoint and side: the last in which it was met,
    or, where it never was, the last of all. Reps whose film is kept go before others. None where nothing can be shown.

    Raises:
        NotFound: no such student.
    """
    people.student(db, academy, student_id)
    reads = _reads(db, student_id, technique, fault)
    before = _first([read for read in reads if read.missed])
    if before is None:
        return None
    later = [read for read in reads if _later(read, before)]
    after = _first([read for read in reversed(later) if not read.missed]) or _first(list(reversed(later)))
    return _picture(db, academy, before), _picture(db, academy, after) if after else None


def _reads(db: Session, student_id: uuid.UUID, technique: str, fault: str) -> list[_Read]:
    """Everything firm that was read of the fault in the clip's own view, the oldest first."""
    rows = (
        select(
            JudgementRow.review_id.label("review"),
            JudgementRow.rep_id.label("rep"),
            JudgementRow.filmed_on,
            JudgementRow.checkpoint,
            JudgementRow.side,
            (JudgementRow.verdict != "met").label("missed"),
            Clip.has_film,
        )
        .join(Review, Review.id == JudgementRow.review_id)
        .join(Clip, Clip.id == Review.clip_id)
        .where(
            JudgementRow.student_id == student_id,
            JudgementRow.technique == technique,
            JudgementRow.fault == fault,
            EXPOSED,
            JudgementRow.view.is_(None),
            func.cardinality(JudgementRow.frames) > 0,
            COUNTS,
            # While it is being revised, its marks may be others than those that were judged.
            Review.finished_at.is_not(None),
        )
        .order_by(JudgementRow.filmed_on, Clip.created_at, JudgementRow.first_frame)
    )
    return [_Read(**row._mapping) for row in db.execute(rows)]


def _first(reads: Sequence[_Read]) -> _Read | None:
    return next((read for read in reads if read.has_film), None) or next(iter(reads), None)


def _later(read: _Read, before: _Read) -> bool:
    return (read.checkpoint, read.side) == (before.checkpoint, before.side) and read.filmed_on > before.filmed_on


def _picture(db: Session, academy: uuid.UUID, read: _Read) -> Picture:
    review = loading.load(db, academy, read.review)
    entry = view_of(review).rep(read.rep)
    judgement = next(j for j in entry.judgements if j.id == read.checkpoint)
    frame, shapes = examples.pictured_at(review, entry.rep, judgement)
    return Picture(
        clip=review.clip_id,
        rep=read.rep,
        checkpoint=read.checkpoint,
        filmed_on=read.filmed_on,
        frame=frame,
        time_s=correct.middle_of(review.clip, frame),
        width=review.clip.width or 1,
        height=review.clip.height or 1,
        has_film=read.has_film,
        shapes=shapes,
        verdict=judgement.verdict.value,
        value=judgement.value,
        unit=judgement.unit,
        uncertainty=judgement.uncertainty,
        side=read.side,
    )
