"""Reps that are filmed by two tied cameras: what the other clip shows of each, and which of the two tells the ledger."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session, object_session

from lacertus.core.measuring.repfile import RepFile
from lacertus.core.measuring.timebase import TimeBase, aligned_frames
from lacertus.core.review.proposals import MarkedRep
from lacertus.core.review.views.tied import View
from lacertus.services.review.loading import load, rep_file
from lacertus.store.tables import Clip, RepRow, Review, ViewTie

LEAST_SHARED = 0.5
"""Two cuts are the same rep where they share this part of the shorter one. A convention."""


def time_base(clip: Clip) -> TimeBase:
    """A clip's frames in real time."""
    return TimeBase(tuple(clip.pts_s or ()), clip.capture_rate)


def ties_of(db: Session, clip_id: uuid.UUID) -> list[tuple[ViewTie, Clip]]:
    """A clip's ties, each with the other clip."""
    found = select(ViewTie, Clip).join(Clip, Clip.id == ViewTie.other_id).where(ViewTie.clip_id == clip_id).order_by(Clip.name)
    return [(tie, clip) for tie, clip in db.execute(found)]


def frames_of_other(clip: Clip, tie: ViewTie, other: Clip) -> list[int]:
    """For every frame of a clip, the frame of a tied one that shows the same instant."""
    return list(aligned_frames(time_base(clip), tie.frame, time_base(other), tie.other_frame))


@dataclass(frozen=True, kw_only=True)
class Other:
    """A tied clip's review, and for every frame of the own clip the frame of that one."""

    review: Review
    frames: tuple[int, ...]


def others(review: Review) -> list[Other]:
    """The reviews of the clips that are tied to this one's."""
    db = object_session(review)
    assert db is not None
    found = []
    for tie, clip in ties_of(db, review.clip_id):
        theirs = db.scalar(select(Review.id).where(Review.clip_id == clip.id, Review.academy_id == review.academy_id))
        if theirs is not None:
            found.append(Other(review=load(db, review.academy_id, theirs), frames=tuple(frames_of_other(review.clip, tie, clip))))
    return found


def views_of(tied: Sequence[Other], review: Review, rep: RepRow) -> list[View]:
    """The same rep in the tied clips."""
    if rep.blind_of is not None:
        return []
    pairs = [(other, theirs) for other in tied if (theirs := _counterpart(other, review, rep)) is not None]
    return [View(name=other.review.clip.name, rep=rep_file(other.review, theirs), frames=other.frames) for other, theirs in pairs]


def _counterpart(other: Other, review: Review, rep: RepRow) -> RepRow | None:
    """The rep of the other review that shows the same: same technique and performer, over the same stretch of time."""
    performer = rep.student_id or review.student_id
    first, last = other.frames[rep.first_frame], other.frames[rep.last_frame]
    best: tuple[float, RepRow] | None = None
    for theirs in other.review.reps:
        alike = theirs.technique_version.technique == rep.technique_version.technique and theirs.blind_of is None
        if not alike or (theirs.student_id or other.review.student_id) != performer:
            continue
        shared = min(last, theirs.last_frame) - max(first, theirs.first_frame) + 1
        share = shared / (min(last - first, theirs.last_frame - theirs.first_frame) + 1)
        if share >= LEAST_SHARED and (best is None or share > best[0]):
            best = (share, theirs)
    return None if best is None else best[1]


def told_elsewhere(review: Review) -> set[uuid.UUID]:
    """Reps that a finished review of a tied clip has told the ledger of already, so that nothing counts twice."""
    until = review.finished_at
    earlier = [
        other for other in others(review) if (told := other.review.finished_at) is not None and (until is None or told < until)
    ]
    return {rep.id for rep in review.reps if any(_counterpart(other, review, rep) is not None for other in earlier)}


def marked(views: Sequence[View], rep: RepFile) -> list[MarkedRep]:
    """What the tied clips' reps have marked, in frames of this one: the nearest thing to having marked it here."""
    return [
        MarkedRep(
            name=f"“{view.name}”",
            range=rep.range,
            events={key: view.frame_here(frames[0]) for key, frames in view.rep.events.items() if frames},
        )
        for view in views
    ]
