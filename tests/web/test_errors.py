"""Every error of ours has a status and a code, with its own words; what the database says is told apart."""

from __future__ import annotations

import importlib
import json
import pkgutil
from collections.abc import Iterator

import psycopg
import pytest
import sqlalchemy as sa
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session

import lacertus
from lacertus.core.errors import LacertusError
from lacertus.store import database
from lacertus.web.errors import STATUS, respond

ENDS_BEFORE = {
    "TookTooLong": "the caller of a confined process words it for the file",
    "StoodStill": "the caller of a confined process words it for the file",
    "NotProbed": "the worker notes that it does not know",
    "Stopped": "a job ends with it",
    "TakenOver": "a job ends with it: another worker does it",
    "DiskFull": "a job ends with it and is begun again",
    "NoPostgres": "the command line",
    "NoRole": "the command line",
    "TooManyFollow": "the socket is closed, and the page asks now and then",
    "BackupFailed": "the command line",
    "NotStarted": "the command line",
}
"""Errors that never come as far as a request, and where they end."""
RUN_WHEN_READ = ("child", "env", "versions")


def tree(kind: type[LacertusError]) -> Iterator[type[LacertusError]]:
    for below in kind.__subclasses__():
        yield below
        yield from tree(below)


def every_error() -> list[type[LacertusError]]:
    for module in pkgutil.walk_packages(lacertus.__path__, "lacertus."):
        if not any(part.endswith(RUN_WHEN_READ) for part in module.name.split(".")):
            importlib.import_module(module.name)
    return sorted(set(tree(LacertusError)), key=lambda kind: kind.__qualname__)


@pytest.mark.parametrize("kind", every_error(), ids=lambda kind: kind.__name__)
def test_every_error_is_answered_in_its_own_words_or_ends_before(kind: type[LacertusError]) -> None:
    mapped = any(issubclass(kind, known) for known, _, _ in STATUS)
    assert mapped != (kind.__name__ in ENDS_BEFORE)
    if mapped:
        made = kind.__new__(kind)
        LacertusError.__init__(made, "What happened, what was kept, what to do.")
        answer = respond(made)
        assert answer.status_code != 500
        told = json.loads(bytes(answer.body))
        assert told["message"] == "What happened, what was kept, what to do."
        assert told["code"]


def test_the_tree_has_grown_no_smaller() -> None:
    assert len(every_error()) > 35
    assert set(ENDS_BEFORE) <= {kind.__name__ for kind in every_error()}


def test_no_code_stands_for_two_statuses() -> None:
    found: dict[str, set[int]] = {}
    for _, status, code in STATUS:
        found.setdefault(code, set()).add(status)
    assert {code: statuses for code, statuses in found.items() if len(statuses) > 1} == {}


@pytest.mark.parametrize(
    ("state", "kind"),
    [
        (psycopg.errors.DeadlockDetected, database.SameMoment),
        (psycopg.errors.SerializationFailure, database.SameMoment),
        (psycopg.errors.LockNotAvailable, database.SameMoment),
        (psycopg.errors.DiskFull, database.DatabaseFull),
        (psycopg.errors.QueryCanceled, database.DatabaseStopped),
        (psycopg.errors.AdminShutdown, database.DatabaseAway),
        (psycopg.errors.ConnectionFailure, database.DatabaseAway),
        (psycopg.errors.OutOfMemory, database.DatabaseError),
        (psycopg.OperationalError, database.DatabaseAway),
    ],
)
def test_what_the_database_says_is_told_apart(state: type[Exception], kind: type[database.DatabaseError]) -> None:
    assert type(database.as_ours(OperationalError("x", None, state()))) is kind


def test_two_who_wait_for_each_other_are_told_to_try_again(db: Session) -> None:
    """A real deadlock, with the real database."""
    import threading

    both = threading.Barrier(2)
    ended: list[type[database.DatabaseError] | None] = []

    def lock(first: int, second: int) -> None:
        try:
            with database.session() as own:
                own.execute(sa.text("select pg_advisory_xact_lock(:key)"), {"key": first})
                both.wait(10)
                own.execute(sa.text("select pg_advisory_xact_lock(:key)"), {"key": second})
            ended.append(None)
        except database.DatabaseError as error:
            ended.append(type(error))

    threads = [threading.Thread(target=lock, args=keys) for keys in ((11, 12), (12, 11))]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(30)
    assert sorted(ended, key=str) == [database.SameMoment, None] or sorted(ended, key=str) == [None, database.SameMoment]
