"""The queue's library: its app, its schema and handing a job in, with its errors turned into ours."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime
from functools import cache

import procrastinate
import procrastinate.exceptions
from sqlalchemy.orm import Session

from lacertus.core.errors import LacertusError
from lacertus.settings import settings
from lacertus.store import connecting
from lacertus.store.database import DatabaseError


class QueueFull(LacertusError):
    """Too much work of this academy waits already. Nothing was stored; try again once some of it is done."""


class QueueError(DatabaseError):
    """The work could not be put into the queue. Nothing was stored; try again."""


@contextmanager
def as_queue_error() -> Iterator[None]:
    """The one place where the queue library's errors become ours."""
    try:
        yield
    except procrastinate.exceptions.ProcrastinateException as error:
        raise QueueError() from error


@cache
def queue_app() -> procrastinate.App:
    """The queue as seen from where jobs are handed in."""
    return procrastinate.App(
        connector=procrastinate.SyncPsycopgConnector(conninfo=settings().database_url, kwargs=connecting.arguments())
    )


def defer(db: Session, task: str, *, lock: str | None, at: datetime | None, arguments: dict[str, str | int]) -> None:
    """Hand in a job on a session's own connection: it is there when the session commits, and never without it.

    Raises:
        QueueError: the queue did not take it.
    """
    connection = db.connection().connection.driver_connection
    with as_queue_error():
        queue_app().configure_task(task, lock=lock, schedule_at=at, connection=connection).defer(**arguments)


def apply_schema() -> None:
    """Make the queue's tables in an empty database, as its owner."""
    owner = procrastinate.App(connector=procrastinate.SyncPsycopgConnector(conninfo=settings().database_url))
    with as_queue_error(), owner.open():
        owner.schema_manager.apply_schema()
