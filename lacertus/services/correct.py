"""Corrections: an arrow and a cue on a frame, tied to a missed checkpoint."""

from __future__ import annotations

import uuid
from dataclasses import dataclass

from sqlalchemy import select, update
from sqlalchemy.orm import Session, joinedload

from lacertus.core.errors import BadInput
from lacertus.services import review as reviewing
from lacertus.services import stored
from lacertus.services.errors import NotFound
from lacertus.services.people import checked_text
from lacertus.store.media import Media, media, still_key
from lacertus.store.tables import Clip, Correction, Review

LONGEST_CUE = 200
MOST_CORRECTIONS = 60


@dataclass(frozen=True, kw_only=True)
class Arrow:
    """From one place in the picture to another, pixels."""

    from_x: float
    from_y: float
    to_x: float
    to_y: float


@dataclass(frozen=True, kw_only=True)
class Mark:
    """A correction as it is drawn: for which checkpoint, on which frame, the arrow and the cue."""

    checkpoint: str
    frame: int
    arrow: Arrow
    cue: str


def draw(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, mark: Mark, correction_id: uuid.UUID | None = None) -> Correction:
    """Draw an arrow with a cue on a frame of a rep; sending it twice draws it once.

    Raises:
        BadInput: the checkpoint was not missed, the frame or the arrow lies outside, or the cue is
            missing or too long.
    """
    found, rep = stored.review_of_rep(db, academy, rep_id)
    drawn = next((correction for correction in found.corrections if correction.id == correction_id), None)
    if drawn is not None:
        return drawn
    if len(found.corrections) >= MOST_CORRECTIONS:
        raise BadInput(f"a review holds at most {MOST_CORRECTIONS} corrections")
    text = checked_text(mark.cue, "the cue", LONGEST_CUE)
    if not rep.first_frame <= mark.frame <= rep.last_frame:
        raise BadInput(f"frame {mark.frame} lies outside the rep ({rep.first_frame}–{rep.last_frame})")
    arrow = mark.arrow
    for x, y in ((arrow.from_x, arrow.from_y), (arrow.to_x, arrow.to_y)):
        reviewing.check_inside(found.clip, x, y)
    if abs(arrow.to_x - arrow.from_x) + abs(arrow.to_y - arrow.from_y) < 4:
        raise BadInput("the arrow has no length: press where it starts and let go where it points")
    entry = next(entry for entry in reviewing.judged(found) if entry.rep.id == rep_id)
    if not any(j.id == mark.checkpoint and j.counts_as_missed for j in entry.judgements):
        raise BadInput(f"“{mark.checkpoint}” was not missed in this rep, so there is nothing to correct")
    correction = Correction(
        id=correction_id or uuid.uuid4(),
        review_id=found.id,
        rep_id=rep_id,
        checkpoint=mark.checkpoint,
        frame=mark.frame,
        cue=text,
        from_x=arrow.from_x,
        from_y=arrow.from_y,
        to_x=arrow.to_x,
        to_y=arrow.to_y,
    )
    db.add(correction)
    db.flush()
    return correction


def delete(db: Session, academy: uuid.UUID, correction_id: uuid.UUID) -> None:
    """Take a correction away.

    Raises:
        Conflict: its review is finished.
    """
    correction = one(db, academy, correction_id)
    review = stored.open_for_change(stored.load(db, academy, correction.review_id))
    db.delete(correction)
    db.flush()
    media().delete(still_key(review.clip_id, correction_id))


def one(db: Session, academy: uuid.UUID, correction_id: uuid.UUID) -> Correction:
    """A correction.

    Raises:
        NotFound: not in this academy.
    """
    mine = select(Correction).join(Review, Review.id == Correction.review_id)
    found = db.scalar(mine.where(Review.academy_id == academy, Correction.id == correction_id))
    if found is None:
        raise NotFound("There is no such correction in your academy.")
    return found


def still_file(db: Session, academy: uuid.UUID, correction_id: uuid.UUID) -> tuple[Media, str]:
    """Where the picture of a correction is stored.

    Raises:
        NotFound: it has not been drawn yet.
    """
    correction = one(db, academy, correction_id)
    if not correction.has_still:
        raise NotFound("The picture is still being drawn; look again in a moment.")
    clip_id = db.scalar(select(Review.clip_id).where(Review.id == correction.review_id))
    assert clip_id is not None
    return media(), still_key(clip_id, correction_id)


# --- what the worker does -----------------------------------------------------------------------


def still_wanted(db: Session, correction_id: uuid.UUID) -> tuple[uuid.UUID, float] | None:
    """Clip and time (seconds, inside the frame) of a correction's picture; None where it was deleted."""
    correction = db.get(Correction, correction_id)
    if correction is None:
        return None
    found = select(Review).where(Review.id == correction.review_id).options(joinedload(Review.clip))
    clip: Clip = db.scalars(found).one().clip
    times = clip.pts_s or []
    after = times[correction.frame + 1] if correction.frame + 1 < len(times) else (clip.duration_s or 0.0)
    return clip.id, (times[correction.frame] + after) / 2


def note_still(db: Session, correction_id: uuid.UUID) -> None:
    db.execute(update(Correction).where(Correction.id == correction_id).values(has_still=True))
