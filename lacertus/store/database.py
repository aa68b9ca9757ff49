"""The database: engine, sessions, and its errors."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager, suppress
from functools import cache

import sqlalchemy as sa
import sqlalchemy.exc
from sqlalchemy.orm import Session, sessionmaker

from lacertus.core.errors import LacertusError
from lacertus.settings import settings
from lacertus.store import connecting


class DatabaseError(LacertusError):
    """The database did not do what it was asked. Nothing was stored; try again."""


class DatabaseAway(DatabaseError):
    """The database does not answer. Nothing was stored; start it and try again."""


class SameMoment(DatabaseError):
    """The same thing was changed by someone else at the same moment. Your change was not stored; try again."""


class DatabaseFull(DatabaseError):
    """The database’s disk is full. Nothing was stored, and what was stored before is kept; tell the server’s administrator."""


class DatabaseBusy(DatabaseError):
    """All connections to the database are in use. Nothing was stored; try again in a few seconds."""


class DatabaseStopped(DatabaseError):
    """The database took longer for this than it may, and stopped. Nothing was stored; try again."""


_BY_STATE: tuple[tuple[str, type[DatabaseError]], ...] = (
    ("40", SameMoment),
    ("53100", DatabaseFull),
    ("57014", DatabaseStopped),
    ("55P03", SameMoment),
    ("08", DatabaseAway),
    ("57P", DatabaseAway),
)
"""By the first letters of PostgreSQL's own code for what happened (Appendix A of its manual)."""


def as_ours(error: sqlalchemy.exc.OperationalError) -> DatabaseError:
    """What went wrong in the database, told apart by SQLSTATE; without one there was no connection."""
    state = getattr(error.orig, "sqlstate", None)
    if not state:
        return DatabaseAway()
    return next((kind() for begins, kind in _BY_STATE if state.startswith(begins)), DatabaseError())


PLANNING = "-c plan_cache_mode=force_custom_plan -c jit=off"
"""Each query is planned for what it asks: a plan made for any day and any student read a whole academy for one (docs/decisions.md).
Compiling a query takes longer than any of ours runs."""


@cache
def engine() -> sa.Engine:
    return sa.create_engine(
        settings().sqlalchemy_url,
        pool_size=10,
        max_overflow=10,
        pool_pre_ping=True,
        connect_args=connecting.arguments(PLANNING),
        # What goes wrong is told without the values of the query: hashes of tokens and of passwords are among them.
        hide_parameters=True,
    )


def in_use() -> int:
    """How many connections of this process are in use."""
    pool = engine().pool
    return pool.checkedout() if isinstance(pool, sa.QueuePool) else 0


@cache
def _maker() -> sessionmaker[Session]:
    return sessionmaker(engine(), expire_on_commit=False)


@contextmanager
def session() -> Iterator[Session]:
    """A transaction: committed at the end, rolled back when anything fails.

    Raises:
        DatabaseError: no connection could be had, or the database could not do it.
    """
    with _maker()() as current:
        try:
            yield current
            current.commit()
        except sqlalchemy.exc.OperationalError as error:
            _roll_back(current)
            raise as_ours(error) from error
        except sqlalchemy.exc.TimeoutError as error:
            _roll_back(current)
            raise DatabaseBusy() from error
        except BaseException:
            _roll_back(current)
            raise


def _roll_back(current: Session) -> None:
    """Roll back; where the database has gone meanwhile it has done so itself, and what failed before is told."""
    with suppress(sqlalchemy.exc.OperationalError):
        current.rollback()
