"""Facts of a clip that the coach may set at any time: its capture rate, and a second view tied by a shared instant."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import delete, or_, select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.measuring.timebase import check_capture_rate
from lacertus.services.clips import intake
from lacertus.services.clips.listing import ListedClip, listed
from lacertus.services.people.accounts import Coach
from lacertus.services.people.rights import Right, needs
from lacertus.services.review import loading, recording, tied
from lacertus.services.sheets import finish as finishing
from lacertus.store.tables import Clip, Review, ViewTie

LEAST_RATE, MOST_RATE = 0.05, 64.0
MOST_RATES = 50


@needs(Right.REVIEW)
def set_capture_rate(db: Session, coach: Coach, clip_id: uuid.UUID, rates: Sequence[tuple[int, float]]) -> int:
    """Set how many seconds of the file one second of reality lasts, from which frame on.

    Every measure follows, also those of a finished review: it is a fact of the clip, and no judgement.
    Returns how many verdicts of a finished review came out otherwise.

    Raises:
        BadInput: the rates do not start at frame 0, are out of order, or lie outside the clip or what is possible.
    """
    clip = intake.ready_clip(db, coach.academy_id, clip_id)
    check_capture_rate(rates)
    if len(rates) > MOST_RATES or any(not LEAST_RATE <= rate <= MOST_RATE for _, rate in rates):
        raise BadInput(f"a capture rate lies between {LEAST_RATE:g} and {MOST_RATE:g}, and changes at most {MOST_RATES} times")
    if rates[-1][0] >= len(clip.pts_s or ()):
        raise BadInput(f"frame {rates[-1][0]} is past the clip’s last, {len(clip.pts_s or ()) - 1}")
    loading.lock_of_clip(db, clip_id)
    clip.capture_rate = tuple(rates)
    clip.capture_sure, clip.capture_why = True, f"{intake.SET_BY_COACH} {coach.name}"
    db.flush()
    return _judge_again(db, coach.academy_id, coach.id, clip_id, "another capture rate")


def _judge_again(db: Session, academy: uuid.UUID, account: uuid.UUID | None, clip_id: uuid.UUID, why: str) -> int:
    """Write a finished review's verdicts anew after a fact of its clip has changed, as a revision; returns how many differ."""
    changed = recording.judge_again(db, academy, clip_id)
    if changed and (review_id := db.scalar(select(Review.id).where(Review.clip_id == clip_id))) is not None:
        finishing.note(db, academy, review_id, account, why)
    return changed


@needs(Right.REVIEW)
def tie_views(
    db: Session,
    academy: uuid.UUID,
    clip_id: uuid.UUID,
    other_id: uuid.UUID,
    frame: int,
    other_frame: int,
    account: uuid.UUID | None = None,
) -> None:
    """Tie two clips of the same reps by the frames at which both show the same instant; tying again moves it.

    A finished review that this judges otherwise gets a revision.

    Raises:
        BadInput: the same clip twice, or a frame outside its clip.
    """
    if clip_id == other_id:
        raise BadInput("a clip cannot be its own second view")
    for one, at in ((clip_id, frame), (other_id, other_frame)):
        frames = len(intake.ready_clip(db, academy, one).pts_s or ())
        if not 0 <= at < frames:
            raise BadInput(f"frame {at} does not fit the clip’s frames 0–{frames - 1}")
    _lock_both(db, clip_id, other_id)
    _untie(db, clip_id, other_id)
    db.add(ViewTie(clip_id=clip_id, other_id=other_id, frame=frame, other_frame=other_frame))
    db.add(ViewTie(clip_id=other_id, other_id=clip_id, frame=other_frame, other_frame=frame))
    db.flush()
    _judge_both_again(db, academy, account, clip_id, other_id)


@needs(Right.REVIEW)
def untie_views(db: Session, academy: uuid.UUID, clip_id: uuid.UUID, other_id: uuid.UUID, account: uuid.UUID | None = None) -> None:
    """Take the tie of two clips away. A finished review that is judged otherwise without it gets a revision."""
    intake.clip(db, academy, clip_id)
    _lock_both(db, clip_id, other_id)
    _untie(db, clip_id, other_id)
    _judge_both_again(db, academy, account, clip_id, other_id)


def _lock_both(db: Session, *clips: uuid.UUID) -> None:
    """Lock the reviews of two clips, in one order whoever begins."""
    for clip_id in sorted(clips):
        loading.lock_of_clip(db, clip_id)


def _judge_both_again(db: Session, academy: uuid.UUID, account: uuid.UUID | None, *clips: uuid.UUID) -> None:
    db.expire_all()
    for clip_id in sorted(clips):
        _judge_again(db, academy, account, clip_id, "another second view")


def _untie(db: Session, clip_id: uuid.UUID, other_id: uuid.UUID) -> None:
    here, there = (
        (ViewTie.clip_id == clip_id) & (ViewTie.other_id == other_id),
        (ViewTie.clip_id == other_id) & (ViewTie.other_id == clip_id),
    )
    db.execute(delete(ViewTie).where(or_(here, there)))


@dataclass(frozen=True, kw_only=True)
class SecondView:
    """A clip that is or may be a second view; where it is tied, `aligned` has its frame for each frame of the first."""

    clip: Clip
    frame: int | None = None
    other_frame: int | None = None
    aligned: tuple[int, ...] = ()


@dataclass(frozen=True, kw_only=True)
class ClipTimes:
    """A clip as it is listed, its frames in real time, and its second views: those that are tied first."""

    listed: ListedClip
    real_s: tuple[float, ...]
    views: tuple[SecondView, ...]


def clip_times(db: Session, academy: uuid.UUID, clip_id: uuid.UUID) -> ClipTimes:
    """A clip with every frame's own time, and its second views.

    Raises:
        NotFound: not in this academy.
    """
    clip = intake.clip(db, academy, clip_id)
    (one,) = listed(db, academy, [clip])
    ties = [
        SecondView(
            clip=other,
            frame=tie.frame,
            other_frame=tie.other_frame,
            aligned=tuple(tied.frames_of_other(clip, tie, other)),
        )
        for tie, other in tied.ties_of(db, clip.id)
    ]
    known = {view.clip.id for view in ties}
    more = [SecondView(clip=other) for other in possible_views(db, academy, clip) if other.id not in known]
    real_s = tied.time_base(clip).real_s if clip.pts_s else ()
    return ClipTimes(listed=one, real_s=tuple(real_s), views=(*ties, *more))


def possible_views(db: Session, academy: uuid.UUID, clip: Clip) -> list[Clip]:
    """Clips that may be a second view: the same student's, of the same day, with a film."""
    same = (Clip.academy_id == academy, Clip.student_id == clip.student_id, Clip.filmed_on == clip.filmed_on)
    found = select(Clip).where(*same, Clip.id != clip.id, Clip.state == "ready", Clip.has_film).order_by(Clip.name)
    return list(db.scalars(found))
