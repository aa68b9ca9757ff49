"""Bringing the schema up to date, as the database's owner: our tables, the job queue's, and the application's role."""

from __future__ import annotations

from pathlib import Path

import psycopg
from alembic import command
from alembic.config import Config

from lacertus.settings import settings
from lacertus.store.apart import make_role
from lacertus.store.broker import apply_schema
from lacertus.store.database import DatabaseAway

MIGRATIONS = Path(__file__).parent / "migrations"


def upgrade() -> None:
    """Bring the schema up to date: our tables, the job queue's, and the role that the application works as.

    Raises:
        DatabaseAway: the database does not answer.
        NoRole: its owner may not make that role.
    """
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    try:
        with psycopg.connect(settings().database_url) as connection:
            # One upgrade at a time, should several servers start together.
            connection.execute("select pg_advisory_lock(7320)")
            command.upgrade(config, "head")
            _upgrade_queue(connection)
            make_role(connection)
    except psycopg.OperationalError as error:
        raise DatabaseAway() from error


def _upgrade_queue(connection: psycopg.Connection) -> None:
    row = connection.execute("select to_regclass('procrastinate_jobs')").fetchone()
    if row is not None and row[0] is None:
        apply_schema()
