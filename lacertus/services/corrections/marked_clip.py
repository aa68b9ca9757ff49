"""The marked clip of a review: asked for, planned, and how far the worker is with it."""

from __future__ import annotations

import uuid
from collections.abc import Collection
from dataclasses import dataclass

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from lacertus.core.corrections.marked_clip import MarkedClipMade, MarkedClipPlan, Showing, plan_of
from lacertus.core.corrections.shapes import Shape
from lacertus.core.errors import BadInput
from lacertus.services.corrections import correct
from lacertus.services.errors import NotFound
from lacertus.services.people.rights import Right, needs
from lacertus.services.review import loading
from lacertus.store import queue
from lacertus.store.media import Media, captions_key, marked_key, media
from lacertus.store.queue import MAKE_MARKED_CLIP
from lacertus.store.tables import Correction, Review


@dataclass(frozen=True, kw_only=True)
class Wanted:
    """What the worker needs: the clip, the plan, and what is drawn and spoken, by correction."""

    clip: uuid.UUID
    plan: MarkedClipPlan
    cues: dict[str, str]
    shapes: dict[str, dict[int, tuple[Shape, ...]]]
    voices: tuple[uuid.UUID, ...]


@needs(Right.SHARE)
def ask(db: Session, academy: uuid.UUID, review_id: uuid.UUID) -> Review:
    """Ask for the marked clip of a review; while it is being made, asking again changes nothing.

    Raises:
        BadInput: no correction was drawn, or the clip has no film here.
    """
    review = loading.locked(db, academy, review_id)
    if not plan(review).cues:
        raise BadInput("no correction has been drawn yet, so there is nothing to mark in the clip")
    if not review.clip.has_film:
        raise BadInput("the film of this clip is not kept here, so it cannot be marked")
    if not queue.runs(db, MAKE_MARKED_CLIP, review.id):
        review.marked = None
        queue.check_room(db, academy)
        queue.ask(db, MAKE_MARKED_CLIP, review.id, review.clip_id)
    return review


def plan(review: Review) -> Wanted:
    """The marked clip as it will run: every rep of the student's own with a correction, in clip order."""
    by_rep = {rep.id: rep for rep in review.reps if rep.student_id in (None, review.student_id)}
    showings, cues, shapes = [], {}, {}
    drawn = [correction for correction in review.corrections if correction.rep_id in by_rep]
    corrected = sorted({correction.rep_id for correction in drawn}, key=lambda key: by_rep[key].first_frame)
    for rep_id in corrected:
        scene = correct.scene_of(review, by_rep[rep_id])
        for correction in (c for c in drawn if c.rep_id == rep_id):
            key = str(correction.id)
            showings.append(
                Showing(
                    key=key,
                    first=correction.first_frame,
                    last=correction.last_frame,
                    frame=correction.frame,
                    cue=correction.cue,
                    voice_s=correction.voice_s or 0.0,
                )
            )
            cues[key] = correction.cue
            stretches = correct.shown_of(correction, scene)
            shapes[key] = {frame: one.shapes for one in stretches for frame in range(one.first, one.last + 1)}
    reps = [(by_rep[key].first_frame, by_rep[key].last_frame) for key in corrected]
    voices = tuple(c.id for c in drawn if c.voice_s is not None)
    plan = plan_of(reps, showings, review.clip.pts_s or [])
    return Wanted(clip=review.clip_id, plan=plan, cues=cues, shapes=shapes, voices=voices)


def wanted(db: Session, review_id: uuid.UUID) -> Wanted | None:
    """What the worker is to make; None where nothing is left to mark."""
    academy = db.scalar(select(Review.academy_id).where(Review.id == review_id))
    if academy is None:
        return None
    found = plan(loading.load(db, academy, review_id))
    return found if found.cues else None


def note_made(db: Session, review_id: uuid.UUID, made: MarkedClipMade, corrections: Collection[uuid.UUID]) -> bool:
    """Say that the marked clip is there; False where one of the corrections that it shows was deleted meanwhile.

    It goes with its rep, and with the student who is seen in it.
    """
    db.execute(select(Review.id).where(Review.id == review_id).with_for_update())
    own = select(func.count()).where(Correction.id.in_(corrections), Correction.review_id == review_id)
    if db.scalar(own) != len(corrections):
        return False
    db.execute(update(Review).where(Review.id == review_id).values(marked=made))
    return True


def marked_file(review: Review) -> tuple[Media, str]:
    """Where the marked clip is stored.

    Raises:
        NotFound: it has not been made.
    """
    return media(), _made(review, marked_key(review.clip_id))


def captions_file(review: Review) -> tuple[Media, str]:
    """Where its captions are stored; raises as `marked_file`."""
    return media(), _made(review, captions_key(review.clip_id))


def _made(review: Review, key: str) -> str:
    if review.marked is None:
        raise NotFound("The marked clip has not been made yet.")
    return key
