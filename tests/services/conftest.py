"""A review with one measured kick: its chamber is low and its foot comes back late."""

from __future__ import annotations

import uuid
from typing import Any

import pytest
from sqlalchemy.orm import Session

from lacertus.services import review as reviewing
from tests.services.academy import Hall, cut


@pytest.fixture
def review(db: Session, where: Hall, clip: uuid.UUID) -> uuid.UUID:
    found = reviewing.open_review(db, where.academy, clip).id
    db.commit()
    return found


@pytest.fixture
def rep(db: Session, where: Hall, review: uuid.UUID, truths: dict[str, Any]) -> uuid.UUID:
    return cut(db, where, review, truths["constant"]["reps"][0])
