"""Counts what is read and worked out while something is done: the statements sent, the tables read, the reps judged."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Any

import pytest
import sqlalchemy as sa

from lacertus.core.measuring.scene import Scene
from lacertus.core.review.views.tied import judge_views
from lacertus.services.review import view

_READS = re.compile(r"\s*select\b.*?\bfrom\s+(\w+)", re.IGNORECASE | re.DOTALL)
_INNER = re.compile(r"\([^()]*\)")


@dataclass
class Reading:
    """What was counted."""

    statements: list[str] = field(default_factory=list)
    judged: int = 0
    scenes: int = 0

    @property
    def tables(self) -> Counter[str]:
        """How many statements read each table first."""
        return Counter(table for table in map(_read_first, self.statements) if table)

    def of(self, table: str) -> list[str]:
        """The statements that read a table first."""
        return [one for one in self.statements if _read_first(one) == table]


def _read_first(statement: str) -> str | None:
    """The table that a statement reads first, without what stands in brackets."""
    while (outer := _INNER.sub("", statement)) != statement:
        statement = outer
    found = _READS.match(statement)
    return found.group(1) if found else None


@contextmanager
def reading(patch: pytest.MonkeyPatch) -> Iterator[Reading]:
    """Count until the end of the block, in this process."""
    counted = Reading()
    begin_scene = Scene.__init__

    def note(_connection: sa.Connection, _cursor: Any, statement: str, *_rest: Any) -> None:
        counted.statements.append(statement)

    def judge(*given: Any) -> Any:
        counted.judged += 1
        return judge_views(*given)

    def scene(self: Scene, *given: Any, **named: Any) -> None:
        counted.scenes += 1
        begin_scene(self, *given, **named)

    sa.event.listen(sa.Engine, "before_cursor_execute", note)
    try:
        with patch.context() as patched:
            patched.setattr(view, "judge_views", judge)
            patched.setattr(Scene, "__init__", scene)
            yield counted
    finally:
        sa.event.remove(sa.Engine, "before_cursor_execute", note)
