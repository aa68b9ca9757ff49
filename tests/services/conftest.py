"""A hall with a clip that has been read."""

from __future__ import annotations

import uuid
from pathlib import Path

import pytest
from sqlalchemy.orm import Session

from tests.services.academy import Hall, read_in


@pytest.fixture
def clip(db: Session, where: Hall, clips: dict[str, Path], tmp_path: Path) -> uuid.UUID:
    return read_in(db, where, clips["constant"], tmp_path)
