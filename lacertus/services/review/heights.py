"""Standing heights that can be taken over where the performer is not seen standing: from limbs, the last clip, the mat's scale."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.core.measuring.repfile import RepFile
from lacertus.core.review.guiding.heights import OfferedHeight, from_limbs, from_scale
from lacertus.store.tables import Clip, Review, Student

LOOKED_BACK = 20
"""So many of the student's last reviews are looked through for one that was filmed alike."""


def offered(db: Session, review: Review, reps: Sequence[RepFile]) -> list[OfferedHeight]:
    """The heights that can be taken over; none where the performer's is known, or the review is finished."""
    if review.finished_at is not None or "performer" in review.heights_px:
        return []
    found = []
    if (before := _of_last_clip(db, review)) is not None:
        found.append(before)
    limbs = from_limbs(reps, "performer")
    if limbs is not None:
        found.append(OfferedHeight(body="performer", px=limbs, words=f"{limbs:.0f} pixels by thighs and shanks"))
    scale = review.reference.centimetres_per_pixel
    height = db.scalar(select(Student.height_cm).where(Student.id == review.student_id)) if scale else None
    if scale and height:
        px = from_scale(height, scale)
        found.append(OfferedHeight(body="performer", px=px, words=f"{px:.0f} pixels: {height:.0f} cm by the scale of the picture"))
    most = 2 * (review.clip.height or 0)
    return [one for one in found if 20 <= one.px <= most]


def _of_last_clip(db: Session, review: Review) -> OfferedHeight | None:
    """As it was marked in the student's newest other clip that has a picture of the same size."""
    clip = review.clip
    own = (
        select(Review.heights_px, Clip.filmed_on)
        .join(Clip, Clip.id == Review.clip_id)
        .where(Review.academy_id == review.academy_id, Review.student_id == review.student_id, Review.id != review.id)
        .where(Clip.width == clip.width, Clip.height == clip.height, Clip.filmed_on <= clip.filmed_on)
        .order_by(Clip.filmed_on.desc())
        .limit(LOOKED_BACK)
    )
    for heights, on in db.execute(own).tuples():
        if (px := heights.get("performer")) is not None:
            return OfferedHeight(body="performer", px=px, words=f"{px:.0f} pixels, as in the clip of {on.isoformat()}")
    return None
