"""The database's errors are ours, also where its connection is gone by the time that something else failed."""

from __future__ import annotations

import pytest
import sqlalchemy as sa
from sqlalchemy.orm import Session

from lacertus.store import database
from tests.place import owner


def _cut_off(current: Session) -> None:
    """End the connection of a session from beside it, as a database that is killed does."""
    own = current.scalar(sa.text("select pg_backend_pid()"))
    with owner() as other:
        other.execute("select pg_terminate_backend(%s, 5000)", (own,))


def test_what_failed_first_is_told_where_the_connection_is_gone(db: Session) -> None:
    def work() -> None:
        with database.session() as current:
            _cut_off(current)
            raise KeyError("first")

    with pytest.raises(KeyError, match="first"):
        work()


def test_a_connection_that_is_gone_is_told_as_ours(db: Session) -> None:
    def work() -> None:
        with database.session() as current:
            _cut_off(current)
            current.execute(sa.text("select 1"))

    with pytest.raises(database.DatabaseAway, match="Nothing was stored"):
        work()
    with database.session() as current:
        assert current.scalar(sa.text("select 1")) == 1
