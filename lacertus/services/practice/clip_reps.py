"""Clips that show a drill: their reps count as practice, by the cuts that were accepted, or before review by the proposed ones."""

from __future__ import annotations

import uuid
from collections.abc import Collection
from dataclasses import dataclass
from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.store.tables import Clip, RepRow, Review


@dataclass(frozen=True, kw_only=True)
class DrillClip:
    """A clip of drilling: whose, of what, when, how many reps, when each begins (seconds), and whether they were reviewed."""

    clip: uuid.UUID
    name: str
    student: uuid.UUID
    on: date
    technique: str
    drill: str
    reps: int
    starts_s: tuple[float, ...]
    reviewed: bool


def drill_clips(db: Session, students: Collection[uuid.UUID]) -> list[DrillClip]:
    """The clips of some students that are named as a drill, the newest first."""
    named = (
        select(Clip, Review.id, Review.proposals)
        .outerjoin(Review, Review.clip_id == Clip.id)
        .where(Clip.student_id.in_(students), Clip.naming["drill"].astext.is_not(None), Clip.state == "ready")
        .order_by(Clip.filmed_on.desc(), Clip.created_at.desc())
    )
    rows = list(db.execute(named))
    reviews = [review for _, review, _ in rows if review is not None]
    cut: dict[uuid.UUID, list[int]] = {}
    accepted = select(RepRow.review_id, RepRow.first_frame).where(RepRow.review_id.in_(reviews), RepRow.blind_of.is_(None))
    for review, frame in db.execute(accepted.order_by(RepRow.first_frame)):
        cut.setdefault(review, []).append(frame)
    return [_drill_clip(clip, cut.get(review, []), proposals) for clip, review, proposals in rows]


def _drill_clip(clip: Clip, cut: list[int], proposals: tuple[tuple[int, int], ...] | None) -> DrillClip:
    proposed = [first for first, _ in proposals or clip.proposals]
    frames = cut or proposed
    times = clip.pts_s or []
    assert clip.student_id is not None
    return DrillClip(
        clip=clip.id,
        name=clip.name,
        student=clip.student_id,
        on=clip.filmed_on,
        technique=clip.naming.technique or "",
        drill=clip.naming.drill or "",
        reps=len(frames),
        starts_s=tuple(times[frame] for frame in frames if frame < len(times)),
        reviewed=bool(cut),
    )
