"""How long a coach works on a review: what the bench counts while it is open and used, or as the coach corrects it."""

from __future__ import annotations

import uuid

from sqlalchemy.orm import Session

from lacertus.services.people.rights import Right, needs
from lacertus.services.review import loading

MOST_S = 360_000.0
"""A hundred hours: more is no working time."""


@needs(Right.REVIEW)
def add(db: Session, academy: uuid.UUID, review_id: uuid.UUID, seconds: float) -> float:
    """Add some seconds; gives what it comes to. Raises NotFound where there is no such review."""
    review = loading.locked(db, academy, review_id)
    review.worked_s = min(MOST_S, review.worked_s + seconds)
    db.flush()
    return review.worked_s


@needs(Right.REVIEW)
def correct(db: Session, academy: uuid.UUID, review_id: uuid.UUID, seconds: float) -> float:
    """Say how long it took; gives that. Raises NotFound where there is no such review."""
    review = loading.locked(db, academy, review_id)
    review.worked_s = min(MOST_S, max(0.0, seconds))
    db.flush()
    return review.worked_s
