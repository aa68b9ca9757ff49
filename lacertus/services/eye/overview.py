"""One's own eye at a glance: what is due, which films there are, and what the answers say."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lacertus.services.errors import NotFound
from lacertus.services.eye import pool
from lacertus.services.eye.progress import Progress, progress_of
from lacertus.store.media import Media, media, take_key
from lacertus.store.tables import EyeCard, EyeTake


@dataclass(frozen=True, kw_only=True)
class Overview:
    """How many questions are due, how many films there are by technique and how many are still to be made; and the progress."""

    due: int
    films: Mapping[str, int]
    waiting: int
    progress: Progress


def overview(db: Session, academy: uuid.UUID, account: uuid.UUID) -> Overview:
    """The page of one's own eye."""
    due = select(func.count()).where(EyeCard.account_id == account, EyeCard.due_at <= datetime.now(UTC))
    films = select(EyeTake.technique, func.count()).where(EyeTake.state == "ready").group_by(EyeTake.technique)
    return Overview(
        due=db.scalar(due) or 0,
        films=dict(db.execute(films).tuples().all()),
        waiting=pool.waiting(db),
        progress=progress_of(db, academy, account),
    )


def film_of(db: Session, take: uuid.UUID) -> tuple[Media, str]:
    """Where a film is stored. Raises NotFound where there is none."""
    if db.scalar(select(EyeTake.id).where(EyeTake.id == take, EyeTake.state == "ready")) is None:
        raise NotFound("There is no such film any more; go on with the next question.")
    return media(), take_key(take)
