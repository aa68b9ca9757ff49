"""Films of comparisons that show a clip or a rep: they go when it goes."""

from __future__ import annotations

import uuid
from collections.abc import Collection

from sqlalchemy import delete, or_, select
from sqlalchemy.orm import Session

from lacertus.store.media import compared_key
from lacertus.store.tables import ComparedFilm, ComparedSide, Review


def forget_films(db: Session, clips: Collection[uuid.UUID] = (), reps: Collection[uuid.UUID] = ()) -> list[str]:
    """Delete the films in which one of some clips or reps is seen; gives the files that go with them."""
    seen = or_(ComparedSide.clip_id.in_(clips), ComparedSide.rep_id.in_(reps))
    shown = select(ComparedFilm.id, Review.clip_id).join(Review, Review.id == ComparedFilm.review_id)
    rows = list(db.execute(shown.where(ComparedFilm.id.in_(select(ComparedSide.film_id).where(seen)))))
    db.execute(delete(ComparedFilm).where(ComparedFilm.id.in_([film for film, _ in rows])))
    return [compared_key(clip, film) for film, clip in rows]
