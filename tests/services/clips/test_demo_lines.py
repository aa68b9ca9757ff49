"""The lines by which the demo names its clips, read as a coach's would be."""

from __future__ import annotations

import pytest
from sqlalchemy.orm import Session

from lacertus.core.clips.naming import read_line
from lacertus.local.history import FILMED
from lacertus.services.clips.naming import vocabulary
from tests.halls import Hall

LINES = [one.line for one in FILMED if one.line]


@pytest.mark.parametrize("line", LINES)
def test_the_demos_lines_are_understood(db: Session, where: Hall, line: str) -> None:
    read = read_line(line, vocabulary(db, where.academy))
    assert not read.problems
    assert read.naming.technique
