"""Academies apart: a second wall in the database, behind the filter that each of our queries has.

The application works as a role of its own that owns nothing. Row-level security lets it see, in every table that says whose its
rows are, those of one academy as soon as it is known for whom a transaction works: who signed in, whose link was opened, whose work
a worker does. Before that, and for the command line, it sees all.
"""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import psycopg
from psycopg import sql
from sqlalchemy import ColumnElement, Connection, Text, cast, event, func, select
from sqlalchemy.orm import InstrumentedAttribute, Session, SessionTransaction

from lacertus.core.errors import LacertusError

ROLE = "lacertus_app"
SETTING = "lacertus.academy"
EVERY = "*"
AS_ROLE = f"-c role={ROLE} -c {SETTING}={EVERY}"
"""Options of a connection of the application."""
_ACADEMY = "works_for_academy"

_GRANTS = (
    "grant usage on schema public to {role}",
    "grant select, insert, update, delete on all tables in schema public to {role}",
    "grant usage, select on all sequences in schema public to {role}",
    "alter default privileges in schema public grant select, insert, update, delete on tables to {role}",
    "alter default privileges in schema public grant usage, select on sequences to {role}",
    "revoke insert, update, delete on alembic_version from {role}",
)


class NoRole(LacertusError):
    """The database’s role for the application is missing."""


def make_role(connection: psycopg.Connection) -> None:
    """Make the application's role where it is not there, and let it read and write what is in the tables.

    Raises:
        NoRole: whoever owns the database may not make roles.
    """
    role = sql.Identifier(ROLE)
    try:
        if connection.execute("select 1 from pg_roles where rolname = %s", (ROLE,)).fetchone() is None:
            connection.execute(sql.SQL("create role {role} nologin").format(role=role))
        if connection.execute("select pg_has_role(current_user, %s, 'member')", (ROLE,)).fetchone() != (True,):
            connection.execute(sql.SQL("grant {role} to current_user").format(role=role))
    except psycopg.errors.InsufficientPrivilege as error:
        raise NoRole(
            f"the database has no role “{ROLE}”, and its owner may not make one. Nothing was changed. As the server’s superuser, "
            f"run: create role {ROLE} nologin; grant {ROLE} to the owner of the database; then start again."
        ) from error
    for grant in _GRANTS:
        connection.execute(sql.SQL(grant).format(role=role))


def work_for(db: Session, academy: uuid.UUID) -> None:
    """From here on a session sees one academy's rows alone."""
    db.info[_ACADEMY] = academy
    db.execute(select(func.set_config(SETTING, str(academy), True)))


def set_to(academy: InstrumentedAttribute[uuid.UUID]) -> ColumnElement[Any]:
    """For a query that tells the academy: it narrows the transaction with the same statement. `works_for` has to follow."""
    return func.set_config(SETTING, cast(academy, Text), True)


def works_for(db: Session, academy: uuid.UUID) -> None:
    """Note that the transaction was narrowed by `set_to`, so that those after it are too."""
    db.info[_ACADEMY] = academy


@contextmanager
def everywhere(db: Session) -> Iterator[None]:
    """For what is asked of all academies at once, such as whether an address is taken."""
    before: uuid.UUID | None = db.info.pop(_ACADEMY, None)
    if before is not None:
        db.execute(select(func.set_config(SETTING, EVERY, True)))
    try:
        yield
        if before is not None:
            db.flush()
            db.execute(select(func.set_config(SETTING, str(before), True)))
    finally:
        if before is not None:
            db.info[_ACADEMY] = before


def anew(db: Session) -> None:
    """Let a session see all academies again, before somebody else signs in with it."""
    if db.info.pop(_ACADEMY, None) is not None:
        db.execute(select(func.set_config(SETTING, EVERY, True)))


@event.listens_for(Session, "after_begin")
def _narrow_again(db: Session, _transaction: SessionTransaction, connection: Connection) -> None:
    """The setting ends with each transaction; a session that goes on works for the same academy."""
    academy = db.info.get(_ACADEMY)
    if academy is not None:
        connection.execute(select(func.set_config(SETTING, str(academy), True)))
