"""An update while the site runs: what an earlier version's servers and workers need of the database stays."""

from __future__ import annotations

import io
import json
import re
import subprocess
import sys
from pathlib import Path

import pytest
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.operations import Operations
from alembic.script import ScriptDirectory

from lacertus.store.upgrade import MIGRATIONS
from tests.place import ROOT

EARLIER = "b2aed37"
"""The version before: it runs beside this one while a site is updated."""
ITS_SCHEMA = "0032"
TAKES_AWAY = re.compile(
    r"\bdrop (table|column|type)\b|\brename\b|\bset not null\b|\balter column \S+ type\b"
    r"|\badd column (?!.*\bdefault\b).*\bnot null\b",
    re.IGNORECASE,
)


def statements(since: str) -> list[str]:
    """What the migrations since one of them send to the database."""
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    out = io.StringIO()
    context = MigrationContext.configure(dialect_name="postgresql", opts={"as_sql": True, "output_buffer": out})
    with Operations.context(context):
        for script in reversed(list(ScriptDirectory.from_config(config).iterate_revisions("head", since))):
            script.module.upgrade()
    return [" ".join(one.split()) for one in out.getvalue().split(";\n") if one.strip()]


def test_migrations_take_nothing_away_that_the_version_before_needs() -> None:
    found = statements(ITS_SCHEMA)
    assert len(found) > 20
    assert [one for one in found if TAKES_AWAY.search(one)] == []


@pytest.mark.parametrize(
    ("statement", "bad"),
    [
        ("ALTER TABLE review DROP COLUMN changes", True),
        ("ALTER TABLE review RENAME TO reviews", True),
        ("ALTER TABLE rep ADD COLUMN grip VARCHAR NOT NULL", True),
        ("ALTER TABLE rep ADD COLUMN grip VARCHAR DEFAULT '' NOT NULL", False),
        ("ALTER TABLE rep ADD COLUMN grip VARCHAR", False),
        ("DROP INDEX ix_rep_grip", False),
    ],
)
def test_what_takes_away_is_known(statement: str, bad: bool) -> None:
    assert bool(TAKES_AWAY.search(statement)) == bad


@pytest.mark.timeout(700)
def test_both_versions_work_side_by_side(tmp_path: Path) -> None:
    there = subprocess.run(["git", "cat-file", "-e", f"{EARLIER}^{{commit}}"], cwd=ROOT, capture_output=True, check=False)
    if there.returncode != 0:
        pytest.skip("this checkout does not hold the version before")
    done = subprocess.run(
        [sys.executable, "-m", "tests.faults.rolling", str(tmp_path), EARLIER],
        cwd=ROOT, capture_output=True, text=True, check=False, timeout=680,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr[-3000:]
    told = json.loads(done.stdout.splitlines()[-1])
    assert told == {"went_on": 200, "read": True, "seen": [True] * 6, "alone": True}
