"""What belongs to the site as a whole: its secret, and what one process tells of itself for others."""

from __future__ import annotations

import secrets
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lacertus.store.tables import SiteFact, SiteKey

READER_FACT = "reader"
"""How confined work is held on the worker's machine."""


def secret(db: Session) -> str:
    """The site's secret, made the first time that it is needed."""
    found = db.scalar(select(SiteKey.secret).where(SiteKey.id == 1))
    if found is None:
        made = insert(SiteKey).values(id=1, secret=secrets.token_urlsafe(48)).on_conflict_do_nothing(index_elements=["id"])
        db.execute(made)
        found = db.scalar(select(SiteKey.secret).where(SiteKey.id == 1))
        assert found is not None
    return found


def note_fact(db: Session, name: str, value: dict[str, Any]) -> None:
    """Keep what a process found out, in place of what was found before."""
    put = insert(SiteFact).values(name=name, value=value)
    db.execute(put.on_conflict_do_update(index_elements=["name"], set_={"value": value, "at": func.now()}))


def fact(db: Session, name: str) -> dict[str, Any] | None:
    """What a process found out last; None where none did."""
    return db.scalar(select(SiteFact.value).where(SiteFact.name == name))
