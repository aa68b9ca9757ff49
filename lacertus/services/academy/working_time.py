"""How long a coach works on a review: what the bench counts while it is open and used, or as the coach corrects it."""

from __future__ import annotations

import uuid

from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.services.people.rights import Right, needs
from lacertus.services.review import loading

MOST_S = 360_000.0
"""A hundred hours: more is no working time."""


def read(db: Session, academy: uuid.UUID, review_id: uuid.UUID) -> float:
    """How long a review took so far, seconds. Raises NotFound where there is no such review."""
    return loading.load(db, academy, review_id).worked_s


@needs(Right.REVIEW)
def change(
    db: Session, academy: uuid.UUID, review_id: uuid.UUID, add_s: float | None = None, total_s: float | None = None
) -> float:
    """Add some seconds to how long a review took, or say what it comes to; gives that.

    Raises:
        BadInput: neither is said, or both.
        NotFound: no such review.
    """
    if (add_s is None) == (total_s is None):
        raise BadInput("say how much to add, or what it comes to; nothing was changed")
    review = loading.locked(db, academy, review_id)
    wanted = review.worked_s + (add_s or 0.0) if total_s is None else total_s
    review.worked_s = min(MOST_S, max(0.0, wanted))
    db.flush()
    return review.worked_s
