"""Techniques as stored versions: the shipped ones are taken in at start, and a review keeps its own."""

from __future__ import annotations

import hashlib
import json
import uuid
from functools import lru_cache

from sqlalchemy import func, or_, select
from sqlalchemy.orm import Session

from lacertus.core.technique import Technique, read_technique
from lacertus.library import shipped
from lacertus.services.errors import NotFound
from lacertus.store.tables import TechniqueVersion


def store_shipped(db: Session) -> None:
    """Add a version for every shipped technique that is new or has changed."""
    for technique in shipped():
        store_version(db, technique, None)


def store_version(db: Session, technique: Technique, academy: uuid.UUID | None) -> TechniqueVersion:
    """The stored version that equals a technique, added if there is none."""
    body = technique.model_dump(mode="json", by_alias=True, exclude_unset=True)
    digest = hashlib.sha256(json.dumps(body, sort_keys=True).encode()).hexdigest()
    # SQLAlchemy writes “is null” where the academy is None.
    mine = (TechniqueVersion.academy_id == academy, TechniqueVersion.technique == technique.id)
    found = db.scalar(select(TechniqueVersion).where(*mine, TechniqueVersion.digest == digest))
    if found is not None:
        return found
    latest = db.scalar(select(func.max(TechniqueVersion.version)).where(*mine)) or 0
    version = TechniqueVersion(academy_id=academy, technique=technique.id, version=latest + 1, digest=digest, body=body)
    db.add(version)
    db.flush()
    return version


def techniques(db: Session, academy: uuid.UUID) -> list[TechniqueVersion]:
    """The newest version of every technique that an academy may use."""
    newest = (
        select(TechniqueVersion)
        .where(or_(TechniqueVersion.academy_id.is_(None), TechniqueVersion.academy_id == academy))
        .distinct(TechniqueVersion.technique, TechniqueVersion.academy_id)
        .order_by(TechniqueVersion.technique, TechniqueVersion.academy_id, TechniqueVersion.version.desc())
    )
    return list(db.scalars(newest))


def newest(db: Session, academy: uuid.UUID, technique: str) -> TechniqueVersion:
    """The version that a new rep is judged by: the academy's own before the shipped one.

    Raises:
        NotFound: no technique of that id.
    """
    fits = [version for version in techniques(db, academy) if version.technique == technique]
    if not fits:
        raise NotFound(f"There is no technique “{technique}”.")
    return max(fits, key=lambda version: version.academy_id is not None)


def definition(version: TechniqueVersion) -> Technique:
    """The checked definition of a stored version."""
    return _definition(version.id, json.dumps(version.body))


@lru_cache(maxsize=256)
def _definition(_version: uuid.UUID, body: str) -> Technique:
    return read_technique(json.loads(body))
