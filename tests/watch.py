"""Watches every statement that the tests send: what belongs to a review is only changed while that review is locked."""

from __future__ import annotations

import re
import traceback
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import sqlalchemy as sa

_CHANGES = re.compile(
    r"\s*(?:insert into|update|delete from)\s+(review|rep|event_mark|point|answer|overrule|correction|judgement|revision)\b(.*)",
    re.IGNORECASE | re.DOTALL,
)
_LOCKS = re.compile(r"from\s+review\b.*for update|update review set changes=\(review\.changes \+", re.IGNORECASE | re.DOTALL)
"""A change is counted before it is made, and counting it keeps others from the review as long as the transaction goes on."""
_BEGUN = re.compile(r"\s*insert into review\b", re.IGNORECASE)
_OWN_STATE = re.compile(r"\s*set (?:(?:tracking|has_still|marked)=[^,]*,?\s*)+(?:where|$)", re.IGNORECASE | re.DOTALL)
"""How far the worker is, written in one statement: it says nothing of what the coach did."""

unlocked: list[str] = []
_paused: list[bool] = []


@contextmanager
def paused() -> Iterator[None]:
    """For what a test writes into the tables itself."""
    _paused.append(True)
    try:
        yield
    finally:
        _paused.pop()


def _before(connection: sa.Connection, _cursor: Any, statement: str, *_rest: Any) -> None:
    if _LOCKS.search(statement) or _BEGUN.match(statement):
        connection.info["review_locked"] = True
        return
    changed = None if _paused else _CHANGES.match(statement)
    if changed is None or connection.info.get("review_locked") or _OWN_STATE.match(changed.group(2)):
        return
    ours = [frame for frame in traceback.extract_stack() if "/lacertus/" in frame.filename or "/tests/" in frame.filename]
    where = " ".join(f"{frame.filename.rpartition('/')[2]}:{frame.lineno}" for frame in ours[-4:])
    unlocked.append(f"{statement.strip()[:80]} at {where}")


def _ended(connection: sa.Connection) -> None:
    # One that was cut off has told nobody of its locks any more.
    if not connection.invalidated:
        connection.info.pop("review_locked", None)


def watch() -> None:
    """Begin to watch; what was changed without a lock by our own code is in `unlocked`."""
    sa.event.listen(sa.Engine, "before_cursor_execute", _before)
    sa.event.listen(sa.Engine, "commit", _ended)
    sa.event.listen(sa.Engine, "rollback", _ended)
