"""The audit trail: what somebody did that owners may have to look up. Nothing in it can be changed or deleted.

Of students it holds ids alone, so that it tells nothing of one who was deleted.
"""

from __future__ import annotations

import uuid

from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.services.people.rights import Right, needs
from lacertus.store.tables import AuditRow

PAGE = 100
_WHO = "lacertus.who"
OPERATOR = "the command line"


def act_for(db: Session, name: str) -> None:
    """From here on a session works for somebody of this name."""
    db.info[_WHO] = name


def write(db: Session, academy: uuid.UUID, what: str, about: str = "", who: str | None = None) -> None:
    """Note that something was done, by whoever the session works for."""
    db.add(AuditRow(academy_id=academy, who=who or db.info.get(_WHO, OPERATOR), what=what, about=about[:300]))


@needs(Right.ACADEMY)
def trail(db: Session, academy: uuid.UUID, before: int | None = None) -> list[AuditRow]:
    """The newest hundred entries, or the hundred before one of them."""
    found = select(AuditRow).where(AuditRow.academy_id == academy).order_by(AuditRow.id.desc()).limit(PAGE)
    return list(db.scalars(found if before is None else found.where(AuditRow.id < before)))
