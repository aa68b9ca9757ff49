"""Corrections that tests begin from."""

from __future__ import annotations

import uuid
from typing import Any

from sqlalchemy.orm import Session

from lacertus.core.corrections.marks import Mark, Spot
from lacertus.services.corrections import correct
from lacertus.services.corrections.correct import Drawing
from lacertus.store.tables import Correction
from tests.halls import Hall

PUSH = Mark(kind="force", spots=(Spot(x=200, y=150), Spot(x=200, y=100)))


def drawing(**changes: Any) -> Drawing:
    base: dict[str, Any] = {
        "checkpoint": "thigh_lifted",
        "frame": 50,
        "first": 45,
        "last": 55,
        "marks": (PUSH,),
        "cue": "Knee first",
    }
    return Drawing(**(base | changes))


def default_of_rep(db: Session, where: Hall, rep: uuid.UUID, checkpoint: str = "thigh_lifted") -> Correction:
    found = correct.draw_default(db, where.academy, rep, checkpoint, uuid.uuid4())
    db.commit()
    return found
