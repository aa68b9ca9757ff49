"""One's own eye at a glance: what is due, which films there are, and what the answers say."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lacertus.core.techniques.definition import Technique
from lacertus.services.errors import NotFound
from lacertus.services.eye import pool, real
from lacertus.services.eye.learner import Learner
from lacertus.services.eye.offered import of_academy
from lacertus.services.eye.progress import Progress, progress_of
from lacertus.store.media import Media, media, take_key
from lacertus.store.tables import EyeCard


@dataclass(frozen=True, kw_only=True)
class Overview:
    """How many questions are due, the techniques that are asked about with their films, how many films are still to be made, and
    the progress."""

    due: int
    techniques: Mapping[str, Technique]
    films: Mapping[str, int]
    waiting: int
    progress: Progress


def overview(db: Session, learner: Learner) -> Overview:
    """The page of one's own eye."""
    due = select(func.count()).where(learner.own(EyeCard), EyeCard.due_at <= datetime.now(UTC))
    return Overview(
        due=db.scalar(due) or 0,
        techniques={name: one.technique for name, one in of_academy(db, learner.academy).items()},
        films=pool.counted(db, learner.academy),
        waiting=pool.waiting(db),
        progress=progress_of(db, learner),
    )


def film_of(db: Session, academy: uuid.UUID, take_id: uuid.UUID) -> tuple[Media, str] | bytes:
    """A film: where it is stored, or, of a rep, the film itself.

    Raises:
        NotFound: there is none, or it may not be shown any more.
    """
    take = pool.take_of(db, academy, take_id)
    if take is None:
        raise NotFound("There is no such film any more; go on with the next question.")
    if take.rep is None:
        return media(), take_key(take.id)
    return real.film(db, academy, take.id)
