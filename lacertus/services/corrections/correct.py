"""Corrections: marks and a cue over a stretch of frames, tied to a missed checkpoint; made ready, drawn, copied, taken away."""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import groupby

from sqlalchemy import select, update
from sqlalchemy.orm import Session, joinedload

from lacertus.core.corrections import marks as drawing
from lacertus.core.corrections.default_corrections import default_correction
from lacertus.core.corrections.marks import Mark
from lacertus.core.corrections.shapes import Shape
from lacertus.core.errors import BadInput
from lacertus.core.measuring.scene import Scene
from lacertus.core.texts import checked_text
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.people.rights import Right, needs
from lacertus.services.review import loading
from lacertus.services.review.view import view_of
from lacertus.store import queue
from lacertus.store.media import Media, NoMedia, media, still_key, voice_key
from lacertus.store.queue import DRAW_STILL
from lacertus.store.tables import Clip, Correction, RepRow, Review

LONGEST_CUE = 200
MOST_CORRECTIONS = 60
MOST_MARKS = 12
MOST_FRAMES = 600


@dataclass(frozen=True, kw_only=True)
class Drawing:
    """A correction as it is drawn: for which checkpoint, on which frame it stops, from where to where it shows, marks and cue.

    `snap` hangs spots that were given as places on the landmarks that they lie at.
    """

    checkpoint: str
    frame: int
    first: int
    last: int
    marks: tuple[Mark, ...]
    cue: str
    snap: bool = True
    voice_s: float | None = None


@dataclass(frozen=True, kw_only=True)
class Shown:
    """What is drawn of a correction from one frame to another."""

    first: int
    last: int
    shapes: tuple[Shape, ...]


@needs(Right.REVIEW)
def draw(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, given: Drawing, correction_id: uuid.UUID | None = None) -> Correction:
    """Draw a correction, or change the one of that id; sending it twice draws it once.

    Raises:
        BadInput: the checkpoint was not missed, a frame or a mark lies outside, or the cue is missing or too long.
        Conflict: the review is finished.
    """
    found, rep = loading.review_of_rep(db, academy, rep_id)
    text = checked_text(given.cue, "the cue", LONGEST_CUE)
    _check_frames(rep, given)
    if len(given.marks) > MOST_MARKS:
        raise BadInput(f"a correction holds at most {MOST_MARKS} marks")
    scene = scene_of(found, rep)
    drawing.check_drawable(given.marks, scene.rep.size)
    marks = [drawing.snapped(mark, scene, given.frame) if given.snap else mark for mark in given.marks]
    correction = next((one for one in found.corrections if one.id == correction_id), None)
    if correction is None:
        correction = _begun(db, found, rep, given.checkpoint, correction_id)
    same_still = correction.frame == given.frame and correction.has_still
    correction.frame, correction.first_frame, correction.last_frame = given.frame, given.first, given.last
    correction.cue, correction.marks = text, tuple(marks)
    correction.has_still = same_still
    if given.voice_s is not None and correction.voice_s is None:
        correction.voice_s = given.voice_s if _has_voice(found.clip_id, correction.id) else None
    db.flush()
    if not same_still:
        queue.ask(db, DRAW_STILL, correction.id, found.clip_id)
    return correction


def _check_frames(rep: RepRow, given: Drawing) -> None:
    if not rep.first_frame <= given.frame <= rep.last_frame:
        raise BadInput(f"frame {given.frame} lies outside the rep ({rep.first_frame}–{rep.last_frame})")
    if not rep.first_frame <= given.first <= given.frame <= given.last <= rep.last_frame:
        raise BadInput(
            f"a correction is shown from a frame of the rep ({rep.first_frame}–{rep.last_frame}) to another, with frame "
            f"{given.frame} among them; {given.first}–{given.last} is not that"
        )
    if given.last - given.first >= MOST_FRAMES:
        raise BadInput(f"a correction is shown over at most {MOST_FRAMES} frames")


def _begun(db: Session, review: Review, rep: RepRow, checkpoint: str, correction_id: uuid.UUID | None) -> Correction:
    """A new correction of a checkpoint that was missed in the rep."""
    if len(review.corrections) >= MOST_CORRECTIONS:
        raise BadInput(f"a review holds at most {MOST_CORRECTIONS} corrections")
    if correction_id is not None and db.get(Correction, correction_id) is not None:
        raise Conflict("This correction belongs to another review.")
    _check_missed(review, rep.id, checkpoint)
    correction = Correction(id=correction_id or uuid.uuid4(), review_id=review.id, rep_id=rep.id, checkpoint=checkpoint)
    db.add(correction)
    review.corrections.append(correction)
    return correction


def _check_missed(review: Review, rep_id: uuid.UUID, checkpoint: str) -> None:
    judgement = view_of(review).rep(rep_id).judgement(checkpoint)
    if judgement is None or not judgement.is_missed:
        raise BadInput(f"“{checkpoint}” was not missed in this rep, so there is nothing to correct")


def scene_of(review: Review, rep: RepRow) -> Scene:
    """A rep's points and frames, as its marks hang on them."""
    return view_of(review).rep(rep.id).scene


@needs(Right.REVIEW)
def draw_default(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, checkpoint: str, correction_id: uuid.UUID) -> Correction:
    """Make the usual correction of a missed checkpoint: marks, frames and cue from what it measures.

    Raises:
        BadInput: the checkpoint was not missed in this rep.
        Conflict: the review is finished.
    """
    review, rep = loading.review_of_rep(db, academy, rep_id)
    return draw(db, academy, rep_id, default_of(review, rep, checkpoint), correction_id)


def default_of(review: Review, rep: RepRow, checkpoint: str) -> Drawing:
    """The usual correction of a checkpoint in a rep; raises BadInput where the technique has no such checkpoint."""
    entry = view_of(review).rep(rep.id)
    asked, judgement = entry.technique.asked(checkpoint), entry.judgement(checkpoint)
    if asked is None or judgement is None:
        raise BadInput(f"the technique has no checkpoint “{checkpoint}”")
    made = default_correction(entry.technique, asked, judgement, entry.scene)
    first, last = max(made.first, made.frame - MOST_FRAMES // 2), min(made.last, made.frame + MOST_FRAMES // 2 - 1)
    return Drawing(checkpoint=checkpoint, frame=made.frame, first=first, last=last, marks=made.marks, cue=made.cue)


@needs(Right.REVIEW)
def copy(db: Session, academy: uuid.UUID, correction_id: uuid.UUID, to: Mapping[uuid.UUID, uuid.UUID]) -> list[Correction]:
    """Copy a correction to other reps (rep → id of the copy) in which its checkpoint was missed too.

    Marks on landmarks follow the other rep's; the frame is where that rep was read; fixed places stay as they are.

    Raises:
        BadInput: the checkpoint was not missed there.
        Conflict: the review is finished.
    """
    found = one(db, academy, correction_id)
    marks = found.marks
    copies = []
    for rep_id, copy_id in to.items():
        review, rep = loading.review_of_rep(db, academy, rep_id)
        ready = default_of(review, rep, found.checkpoint)
        given = Drawing(
            checkpoint=found.checkpoint,
            frame=ready.frame,
            first=ready.first,
            last=ready.last,
            marks=marks,
            cue=found.cue,
            snap=False,
        )
        copies.append(draw(db, academy, rep_id, given, copy_id))
    return copies


def shown(db: Session, academy: uuid.UUID, rep_id: uuid.UUID) -> dict[uuid.UUID, list[Shown]]:
    """What is drawn of each correction of a rep, stretch by stretch.

    Raises:
        NotFound: no such rep.
    """
    review = loading.load(db, academy, loading.review_id_of(db, academy, rep_id))
    rep = next(rep for rep in review.reps if rep.id == rep_id)
    own = [correction for correction in review.corrections if correction.rep_id == rep_id]
    if not own:
        return {}
    scene = scene_of(review, rep)
    return {correction.id: shown_of(correction, scene) for correction in own}


def shown_of(correction: Correction, scene: Scene) -> list[Shown]:
    frames = range(correction.first_frame, correction.last_frame + 1)
    each = drawing.drawn(correction.marks, scene, frames, correction.frame)
    found = []
    for shapes, group in groupby(zip(frames, each, strict=True), key=lambda pair: pair[1]):
        held = [frame for frame, _ in group]
        found.append(Shown(first=held[0], last=held[-1], shapes=shapes))
    return found


def shapes_at(shown_here: Sequence[Shown], frame: int) -> tuple[Shape, ...]:
    """The shapes on one frame."""
    return next((entry.shapes for entry in shown_here if entry.first <= frame <= entry.last), ())


def note_drawn(review: Review) -> None:
    """Keep what is drawn on each correction's frame, as its review is finished: so it is shown from then on."""
    by_rep = {rep.id: rep for rep in review.reps}
    scenes = {key: scene_of(review, by_rep[key]) for key in {correction.rep_id for correction in review.corrections}}
    for correction in review.corrections:
        shapes = shapes_at(shown_of(correction, scenes[correction.rep_id]), correction.frame)
        correction.drawn = tuple(shapes)


@needs(Right.REVIEW)
def delete(db: Session, academy: uuid.UUID, correction_id: uuid.UUID) -> None:
    """Take a correction away. Its voice note is kept with the clip, so that taking this back brings it again.

    Raises:
        Conflict: its review is finished.
    """
    correction = one(db, academy, correction_id)
    review = loading.for_change(db, academy, correction.review_id)
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


def open_one(db: Session, academy: uuid.UUID, correction_id: uuid.UUID) -> tuple[Review, Correction]:
    """A correction that may be changed, and its review.

    Raises:
        NotFound: not in this academy.
        Conflict: its review is finished.
    """
    correction = one(db, academy, correction_id)
    return loading.for_change(db, academy, correction.review_id), correction


def still_file(db: Session, academy: uuid.UUID, correction_id: uuid.UUID) -> tuple[Media, str]:
    """Where the picture of a correction is stored.

    Raises:
        NotFound: it has not been drawn yet.
    """
    correction = one(db, academy, correction_id)
    if not correction.has_still:
        job = queue.state_of(db, DRAW_STILL, correction_id)
        raise NotFound((job and job.reason) or "The picture is still being drawn; try again in a moment.")
    clip_id = db.scalar(select(Review.clip_id).where(Review.id == correction.review_id))
    assert clip_id is not None
    return media(), still_key(clip_id, correction_id)


# --- the voice note ---------------------------------------------------------------------------------

LONGEST_VOICE_S = 120.0
LARGEST_VOICE_BYTES = 8_000_000


@needs(Right.REVIEW)
def keep_voice(db: Session, academy: uuid.UUID, correction_id: uuid.UUID, sound: bytes, seconds: float) -> None:
    """Keep what the coach said over a correction, as the browser recorded it; the worker reads it, the server does not.

    Raises:
        BadInput: nothing was recorded, or too much.
        Conflict: the review is finished.
    """
    review, correction = open_one(db, academy, correction_id)
    if not sound:
        raise BadInput("nothing was recorded")
    if len(sound) > LARGEST_VOICE_BYTES or not 0 < seconds <= LONGEST_VOICE_S:
        raise BadInput(
            f"a voice note is at most {LONGEST_VOICE_S:.0f} s and {LARGEST_VOICE_BYTES // 1_000_000} MB; nothing was stored"
        )
    media().write(voice_key(review.clip_id, correction_id), sound)
    correction.voice_s = seconds
    db.flush()


@needs(Right.REVIEW)
def drop_voice(db: Session, academy: uuid.UUID, correction_id: uuid.UUID) -> None:
    """Take the voice note away.

    Raises:
        Conflict: the review is finished.
    """
    review, correction = open_one(db, academy, correction_id)
    correction.voice_s = None
    db.flush()
    media().delete(voice_key(review.clip_id, correction_id))


def voice_file(db: Session, academy: uuid.UUID, correction_id: uuid.UUID) -> str:
    """Where a correction's voice note is stored.

    Raises:
        NotFound: there is none.
    """
    correction = one(db, academy, correction_id)
    clip_id = db.scalar(select(Review.clip_id).where(Review.id == correction.review_id))
    assert clip_id is not None
    if correction.voice_s is None or not _has_voice(clip_id, correction_id):
        raise NotFound("Nothing was said over this correction.")
    return voice_key(clip_id, correction_id)


def _has_voice(clip_id: uuid.UUID, correction_id: uuid.UUID) -> bool:
    try:
        return media().size(voice_key(clip_id, correction_id)) > 0
    except NoMedia:
        return False


# --- what the worker does -----------------------------------------------------------------------


def still_wanted(db: Session, correction_id: uuid.UUID) -> tuple[uuid.UUID, float] | None:
    """Clip and time (seconds, inside the frame) of a correction's picture; None where it was deleted or has no film."""
    correction = db.get(Correction, correction_id)
    if correction is None:
        return None
    found = select(Review).where(Review.id == correction.review_id).options(joinedload(Review.clip))
    clip: Clip = db.scalars(found).one().clip
    return (clip.id, middle_of(clip, correction.frame)) if clip.has_film else None


def middle_of(clip: Clip, frame: int) -> float:
    """Seconds of the file in the middle of a frame's time on the screen."""
    times = clip.pts_s or []
    after = times[frame + 1] if frame + 1 < len(times) else (clip.duration_s or 0.0)
    return (times[frame] + after) / 2


def note_still(db: Session, correction_id: uuid.UUID) -> bool:
    """Note that the picture is there; False where the correction was deleted meanwhile."""
    told = update(Correction).where(Correction.id == correction_id).values(has_still=True).returning(Correction.id)
    return db.scalar(told) is not None
