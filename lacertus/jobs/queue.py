"""The job queue in PostgreSQL, and handing work to it: in the transaction of the change that asks for it, or not at all."""

from __future__ import annotations

import uuid
from datetime import datetime
from functools import cache

import procrastinate
from sqlalchemy.orm import Session

from lacertus.settings import settings

READ_CLIP = "read_clip"
DRAW_STILL = "draw_still"
CARRY = "carry_points"
DRAW_BESIDE = "draw_beside"
MAKE_MARKED = "make_marked"


@cache
def queue_app() -> procrastinate.App:
    """The queue as seen from where jobs are handed in."""
    return procrastinate.App(connector=procrastinate.SyncPsycopgConnector(conninfo=settings().database_url))


def ask(db: Session, task: str, *, lock: str | None = None, at: datetime | None = None, **arguments: str | int) -> None:
    """Hand in a job on a session's own connection: it is there when the session commits, and never without it."""
    connection = db.connection().connection.driver_connection
    queue_app().configure_task(task, lock=lock, schedule_at=at, connection=connection).defer(**arguments)


def ask_to_read_clip(db: Session, clip: uuid.UUID, at: datetime | None = None) -> None:
    ask(db, READ_CLIP, lock=str(clip), at=at, clip=str(clip))


def ask_to_carry(db: Session, rep: uuid.UUID, first: int, last: int) -> None:
    ask(db, CARRY, lock=f"carry-{rep}", rep=str(rep), first=first, last=last)


def ask_to_draw_still(db: Session, correction: uuid.UUID) -> None:
    ask(db, DRAW_STILL, correction=str(correction))


def ask_to_draw_beside(db: Session, correction: uuid.UUID) -> None:
    ask(db, DRAW_BESIDE, correction=str(correction))


def ask_to_make_marked(db: Session, review: uuid.UUID) -> None:
    ask(db, MAKE_MARKED, lock=f"marked-{review}", review=str(review))
