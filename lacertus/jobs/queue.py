"""The job queue in PostgreSQL, and handing work to it."""

from __future__ import annotations

import uuid
from functools import cache

import procrastinate

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


def open_queue() -> None:
    """Open the queue's connections; call once before handing in work."""
    queue_app().open()


def ask_to_read_clip(clip: uuid.UUID) -> None:
    queue_app().configure_task(READ_CLIP, lock=str(clip)).defer(clip=str(clip))


def ask_to_carry(rep: uuid.UUID, first: int, last: int) -> None:
    queue_app().configure_task(CARRY, lock=f"carry-{rep}").defer(rep=str(rep), first=first, last=last)


def ask_to_draw_still(correction: uuid.UUID) -> None:
    queue_app().configure_task(DRAW_STILL).defer(correction=str(correction))


def ask_to_draw_beside(correction: uuid.UUID) -> None:
    queue_app().configure_task(DRAW_BESIDE).defer(correction=str(correction))


def ask_to_make_marked(review: uuid.UUID) -> None:
    queue_app().configure_task(MAKE_MARKED, lock=f"marked-{review}").defer(review=str(review))
