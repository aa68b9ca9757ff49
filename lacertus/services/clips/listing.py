"""Clips as they are listed: with their review's state, and their name as a line."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.services.clips import naming
from lacertus.store.tables import Clip, Review

ReviewState = Literal["none", "open", "finished"]


@dataclass(frozen=True, kw_only=True)
class ListedClip:
    """A clip, whether it is reviewed, how it is named as one line, and a line to start from where nobody has named it."""

    clip: Clip
    review: ReviewState
    line: str
    suggested: str


def listed(db: Session, academy: uuid.UUID, clips: Sequence[Clip]) -> list[ListedClip]:
    """Clips as they are listed, in the order given."""
    rows = db.execute(select(Review.clip_id, Review.finished_at).where(Review.clip_id.in_([clip.id for clip in clips])))
    states: dict[uuid.UUID, ReviewState] = {clip_id: "finished" if finished else "open" for clip_id, finished in rows}
    words = naming.vocabulary(db, academy)
    suggested = naming.suggested(db, academy, [clip for clip in clips if clip.id not in states], words)
    return [
        ListedClip(
            clip=clip,
            review=states.get(clip.id, "none"),
            line=naming.line_of(clip, words),
            suggested=suggested.get(clip.id, ""),
        )
        for clip in clips
    ]
