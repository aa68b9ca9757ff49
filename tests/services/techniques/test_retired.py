"""A technique that was shipped before and is not any more: not offered, and known to what was judged by it."""

from __future__ import annotations

from sqlalchemy.orm import Session

from lacertus.library import shipped_technique
from lacertus.services.techniques import catalogue
from tests.halls import Hall


def test_it_is_not_offered_and_stays_readable(db: Session, where: Hall) -> None:
    before = catalogue.store_version(db, shipped_technique("snap-down-counter"), None)
    offered = {version.technique for version in catalogue.offered(db, where.academy)}
    assert "seated-counter" in offered
    assert "snap-down-counter" not in offered
    assert catalogue.definition(before).names.main == "Snap-down counter to a standing pass"
    assert "snap-down-counter" in catalogue.known(db, where.academy, ["snap-down-counter"])


def test_an_academys_own_version_of_it_stays_offered(db: Session, where: Hall) -> None:
    catalogue.store_version(db, shipped_technique("snap-down-counter"), where.academy)
    assert "snap-down-counter" in {version.technique for version in catalogue.offered(db, where.academy)}
