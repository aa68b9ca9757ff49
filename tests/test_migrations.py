"""Migrations: they make what the tables say, and carry what was there along."""

from __future__ import annotations

from datetime import date

import pytest
from alembic import command
from alembic.autogenerate import compare_metadata
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from sqlalchemy import select, text
from sqlalchemy.orm import Session

from lacertus.store import database, upgrade
from lacertus.store.tables import Base, JudgementRow, Tally
from tests import place, watch
from tests.halls import Hall
from tests.services.progress.rung_reps import TODAY, done


def ours(thing: object, name: str | None, kind: str, _reflected: bool, _to: object) -> bool:
    """The job queue keeps its own tables, and alembic one."""
    return kind != "table" or not str(name).startswith(("procrastinate_", "alembic_"))


def test_the_migrations_make_what_the_tables_say(db: Session) -> None:
    with database.engine().connect() as connection:
        context = MigrationContext.configure(connection, opts={"include_object": ours})
        assert compare_metadata(context, Base.metadata) == []


@pytest.fixture
def config() -> Config:
    found = Config()
    found.set_main_option("script_location", str(upgrade.MIGRATIONS))
    return found


@watch.paused()
def test_verdicts_from_before_learn_how_their_reps_were_done(db: Session, where: Hall, config: Config) -> None:
    """Down to the version before and up again: side, pace, rung, and the tally are there as they were."""
    done(db, where, "front-kick", "solo", ["missed", "met", "borderline"], 5)

    def told() -> tuple[list[tuple[object, ...]], list[tuple[object, ...]]]:
        facts = (JudgementRow.id, JudgementRow.side, JudgementRow.pace, JudgementRow.rung, JudgementRow.first_frame)
        sums = (Tally.technique, Tally.fault, Tally.filmed_on, Tally.exposures, Tally.misses)
        found = [[tuple(row) for row in db.execute(select(*columns).order_by(*columns))] for columns in (facts, sums)]
        db.rollback()
        return found[0], found[1]

    before = told()
    try:
        command.downgrade(config, "0009")
        with database.engine().connect() as connection:
            assert connection.scalar(text("select to_regclass('tally')")) is None
    finally:
        command.upgrade(config, "head")
    assert told() == before
    assert before[1] != [] and before[1][0][2] == date.fromordinal(TODAY.toordinal() - 5)


@watch.paused()
def test_a_database_whose_jobs_counted_who_began_them_goes_on(db: Session, where: Hall, config: Config) -> None:
    """Migration 0034 once added a column; a database that stands there learns all that came since."""
    db.commit()
    try:
        command.downgrade(config, "0034")
        with place.owner() as owner:
            owner.execute("alter table job add column taken integer not null default 0")
        command.upgrade(config, "head")
        with database.engine().connect() as connection:
            columns = {(one.table_name, one.column_name) for one in connection.execute(text(COLUMNS))}
        assert {("job", "taken"), ("rep", "partner_student_id"), ("account", "eye_named")} <= columns
    finally:
        command.upgrade(config, "head")
        with place.owner() as owner:
            owner.execute("alter table job drop column if exists taken")


COLUMNS = "select table_name, column_name from information_schema.columns where table_schema = 'public'"
