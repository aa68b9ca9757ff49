"""Films for the eye that tests begin from: made once in a process, and put into the database for each test."""

from __future__ import annotations

import uuid
from functools import cache
from typing import Any

import sqlalchemy as sa
from sqlalchemy.orm import Session

from lacertus.services.eye import filming, pool
from lacertus.services.eye.pool import Wish
from lacertus.store import database
from lacertus.store.tables import EyeTake

KICK = "front-kick"
WISHES = (
    Wish(technique=KICK),
    Wish(technique=KICK, fault="low-chamber"),
    Wish(technique=KICK, level=2),
    Wish(technique=KICK, fault="loose-chamber", level=2),
)


@cache
def filmed() -> tuple[dict[str, Any], ...]:
    """Four films of a kick: two without a fault, two with. Their rows go with each test, the films stay."""
    with database.session() as db:
        db.execute(sa.delete(EyeTake))
        for wish in WISHES:
            pool.want(db, [wish])
            assert filming.film_next(db, 100)
        names = [column.name for column in EyeTake.__table__.columns]
        rows = db.scalars(sa.select(EyeTake).order_by(EyeTake.created_at, EyeTake.id))
        return tuple({name: getattr(take, name) for name in names} for take in rows)


def put_in(db: Session) -> list[uuid.UUID]:
    """The films' rows, in the order of `WISHES`."""
    rows = filmed()
    db.execute(sa.delete(EyeTake))
    db.execute(sa.insert(EyeTake), list(rows))
    db.commit()
    return [row["id"] for row in rows]
