"""Alembic's environment: online only, against the configured database."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import context

from lacertus.settings import settings
from lacertus.store.tables import Base


def ours(_object: object, name: str | None, kind: str, _reflected: bool, _other: object) -> bool:
    """Leave the job queue's tables to the queue."""
    return not (kind == "table" and (name or "").startswith("procrastinate"))


# By the database's owner: the application's own role makes no tables.
with sa.create_engine(settings().sqlalchemy_url, poolclass=sa.NullPool).connect() as connection:
    context.configure(connection=connection, target_metadata=Base.metadata, include_object=ours, compare_type=True)
    with context.begin_transaction():
        context.run_migrations()
    connection.commit()
