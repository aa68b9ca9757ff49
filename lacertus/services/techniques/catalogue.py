"""Techniques as stored versions: the shipped ones are taken in at start, and a review keeps its own."""

from __future__ import annotations

import hashlib
import json
import uuid
from collections.abc import Collection
from dataclasses import dataclass
from functools import cache
from typing import Any

from sqlalchemy import Select, Uuid, and_, bindparam, func, or_, select
from sqlalchemy.orm import Session

from lacertus.core.techniques.definition import Technique
from lacertus.core.techniques.reading import read_technique
from lacertus.library import retired_ids, shipped
from lacertus.services.errors import NotFound
from lacertus.store.tables import TechniqueVersion


def store_shipped(db: Session) -> None:
    """Add a version for every shipped technique that is new or has changed."""
    stored = select(TechniqueVersion.technique, TechniqueVersion.digest).where(TechniqueVersion.academy_id.is_(None))
    have = {(technique, digest) for technique, digest in db.execute(stored)}
    for technique, written in zip(shipped(), _shipped_written(), strict=True):
        if (technique.id, written.digest) not in have:
            _add(db, technique.id, written, None)


@dataclass(frozen=True)
class _Written:
    """A technique as it is stored, and what tells it from any other."""

    body: dict[str, Any]
    digest: str


def _write(technique: Technique) -> _Written:
    body = technique.model_dump(mode="json", by_alias=True, exclude_unset=True)
    return _Written(body, hashlib.sha256(json.dumps(body, sort_keys=True).encode()).hexdigest())


@cache
def _shipped_written() -> tuple[_Written, ...]:
    return tuple(_write(technique) for technique in shipped())


def store_version(db: Session, technique: Technique, academy: uuid.UUID | None) -> TechniqueVersion:
    """The stored version that equals a technique, added if there is none."""
    written = _write(technique)
    # SQLAlchemy writes “is null” where the academy is None.
    mine = (TechniqueVersion.academy_id == academy, TechniqueVersion.technique == technique.id)
    found = db.scalar(select(TechniqueVersion).where(*mine, TechniqueVersion.digest == written.digest))
    if found is not None:
        found.brought_in = False
    return found or _add(db, technique.id, written, academy)


def store_brought(db: Session, technique: Technique, academy: uuid.UUID) -> TechniqueVersion:
    """The version that equals a technique which came with a student's file: the shipped or own one, else added.

    One that is added does not take the place of a technique that the academy has; old reviews alone are judged by it.
    """
    written = _write(technique)
    here = or_(TechniqueVersion.academy_id.is_(None), TechniqueVersion.academy_id == academy)
    same = (TechniqueVersion.technique == technique.id, here)
    found = db.scalar(select(TechniqueVersion).where(*same, TechniqueVersion.digest == written.digest).limit(1))
    if found is not None:
        return found
    known = db.scalar(select(TechniqueVersion.id).where(*same, ~TechniqueVersion.brought_in).limit(1))
    added = _add(db, technique.id, written, academy)
    added.brought_in = known is not None
    return added


def _add(db: Session, technique: str, written: _Written, academy: uuid.UUID | None) -> TechniqueVersion:
    mine = (TechniqueVersion.academy_id == academy, TechniqueVersion.technique == technique)
    latest = db.scalar(select(func.max(TechniqueVersion.version)).where(*mine)) or 0
    version = TechniqueVersion(
        academy_id=academy, technique=technique, version=latest + 1, digest=written.digest, body=written.body
    )
    db.add(version)
    db.flush()
    return version


def techniques(db: Session, academy: uuid.UUID) -> list[TechniqueVersion]:
    """The newest version of every technique that an academy may use; a shipped one that was retired is not among them."""
    return list(db.scalars(_newest_of_all(), {"academy": academy}))


@cache
def _newest_of_all() -> Select[TechniqueVersion]:
    shipped_ones = and_(TechniqueVersion.academy_id.is_(None), TechniqueVersion.technique.not_in(retired_ids()))
    return (
        select(TechniqueVersion)
        .where(or_(TechniqueVersion.academy_id == bindparam("academy", type_=Uuid()), shipped_ones), ~TechniqueVersion.brought_in)
        .distinct(TechniqueVersion.technique, TechniqueVersion.academy_id)
        .order_by(TechniqueVersion.technique, TechniqueVersion.academy_id, TechniqueVersion.version.desc())
    )


def offered(db: Session, academy: uuid.UUID) -> list[TechniqueVersion]:
    """One version of each technique: the academy's own before the shipped one."""
    found: dict[str, TechniqueVersion] = {}
    for version in techniques(db, academy):
        if version.technique not in found or version.academy_id is not None:
            found[version.technique] = version
    return list(found.values())


def newest(db: Session, academy: uuid.UUID, technique: str) -> TechniqueVersion:
    """The version that a new rep is judged by: the academy's own before the shipped one.

    Raises:
        NotFound: no technique of that id.
    """
    found = _newest(db, academy, {technique})
    if technique not in found:
        raise NotFound(f"There is no technique “{technique}”.")
    return found[technique]


def known(db: Session, academy: uuid.UUID, names: Collection[str]) -> dict[str, Technique]:
    """What techniques of some ids ask now; those that are not there any more are left out."""
    return {name: definition(version) for name, version in _newest(db, academy, names).items()} if names else {}


def _newest(db: Session, academy: uuid.UUID, names: Collection[str]) -> dict[str, TechniqueVersion]:
    own_last = TechniqueVersion.academy_id.is_not(None)
    rows = (
        select(TechniqueVersion)
        .where(
            TechniqueVersion.technique.in_(names),
            or_(TechniqueVersion.academy_id.is_(None), TechniqueVersion.academy_id == academy),
            ~TechniqueVersion.brought_in,
        )
        .order_by(own_last, TechniqueVersion.version)
    )
    # Of several the last one stays: the academy's own before the shipped one, the newest of each.
    return {version.technique: version for version in db.scalars(rows)}


def version(db: Session, version_id: uuid.UUID) -> Technique:
    """The definition of a version by its id.

    Raises:
        NotFound: there is none.
    """
    found = db.get(TechniqueVersion, version_id)
    if found is None:
        raise NotFound("There is no such version of a technique.")
    return definition(found)


MOST_KEPT = 1000
_kept: dict[uuid.UUID, Technique] = {}


def definition(version: TechniqueVersion) -> Technique:
    """The checked definition of a stored version. A version never changes, so that it is read once."""
    found = _kept.get(version.id)
    if found is None:
        found = read_technique(version.body)
        if len(_kept) >= MOST_KEPT:
            _kept.clear()
        _kept[version.id] = found
    return found
