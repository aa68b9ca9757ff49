"""What belongs to the site as a whole: its secret, and what one process tells of itself for others."""

from __future__ import annotations

import secrets
import uuid

from itsdangerous import BadSignature, URLSafeSerializer
from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lacertus.confined.probe import Held
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


def token_of(db: Session, salt: str, link: uuid.UUID) -> str:
    """The token of a link: its random id, signed, so that none can be made up or altered. `salt` says what kind of link."""
    return str(URLSafeSerializer(secret(db), salt=salt).dumps(link.hex))


def link_of(db: Session, salt: str, token: str) -> uuid.UUID | None:
    """The id that a token stands for; None where it was made up, altered, or spelled otherwise than it was written."""
    try:
        link = uuid.UUID(hex=str(URLSafeSerializer(secret(db), salt=salt).loads(token[:500])))
    except (BadSignature, ValueError):
        return None
    # What is decoded leniently has several spellings.
    as_written = secrets.compare_digest(token_of(db, salt, link).encode(), token.encode("utf-8", "replace"))
    return link if as_written else None


def note_readers(db: Session, held: Held) -> None:
    """Keep how confined work is held on the worker's machine, in place of what was found out before."""
    put = insert(SiteFact).values(name=READER_FACT, value=held)
    db.execute(put.on_conflict_do_update(index_elements=["name"], set_={"value": held, "at": func.now()}))


def readers_held(db: Session) -> Held | None:
    """How confined work is held, as its worker found out last; None where none did."""
    return db.scalar(select(SiteFact.value).where(SiteFact.name == READER_FACT))
