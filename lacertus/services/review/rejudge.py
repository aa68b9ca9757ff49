"""Judging an old review by a technique's newer version: what would change, and doing it on request."""

from __future__ import annotations

import uuid
from dataclasses import dataclass

from sqlalchemy.orm import Session

from lacertus.core.review.judge import judge_rep
from lacertus.core.review.judgement import Judgement
from lacertus.services.errors import Conflict
from lacertus.services.people.rights import Right, needs
from lacertus.services.review import loading, recording
from lacertus.services.review import review as reviewing
from lacertus.services.techniques import catalogue
from lacertus.store.tables import RepRow, Review, TechniqueVersion


@dataclass(frozen=True, kw_only=True)
class Difference:
    """One verdict that a newer version changes. A checkpoint that is new has no verdict before, one that is gone none after."""

    rep: int
    technique: str
    checkpoint: str
    before: str | None
    after: str | None
    why: str | None


@dataclass(frozen=True, kw_only=True)
class Newer:
    """A technique of a review that has a newer version."""

    technique: str
    name: str
    judged_by: int
    newest: int


def newer(db: Session, academy: uuid.UUID, review_id: uuid.UUID) -> tuple[list[Newer], list[Difference]]:
    """The techniques of a review that have newer versions, and every verdict that would change, rep by rep."""
    review = loading.load(db, academy, review_id)
    found: dict[uuid.UUID, Newer] = {}
    differences: list[Difference] = []
    for number, rep in enumerate(review.reps, start=1):
        version = _newest(db, academy, rep)
        if version is None:
            continue
        after = catalogue.definition(version)
        found[version.id] = Newer(
            technique=after.id, name=after.names.main, judged_by=rep.technique_version.version, newest=version.version
        )
        differences += _differences(number, review, rep, version)
    return list(found.values()), differences


def _newest(db: Session, academy: uuid.UUID, rep: RepRow) -> TechniqueVersion | None:
    """The version that a new rep would be judged by, where it is another one."""
    version = catalogue.newest(db, academy, rep.technique_version.technique)
    return None if version.id == rep.technique_version_id else version


def _differences(number: int, review: Review, rep: RepRow, version: TechniqueVersion) -> list[Difference]:
    file, technique = loading.rep_file(review, rep), catalogue.definition(version)
    before = {j.id: j for j in judge_rep(catalogue.definition(rep.technique_version), file)}
    # What the newer version no longer knows is left out of the rep, as it will be.
    fits = loading.fitted_to(technique, file)
    after = {j.id: j for j in judge_rep(technique, fits)}
    names = dict.fromkeys((*after, *before))
    pairs = [(name, before.get(name), after.get(name)) for name in names]
    return [_difference(number, technique.id, *pair) for pair in pairs if _verdict(pair[1]) != _verdict(pair[2])]


def _verdict(judgement: Judgement | None) -> str | None:
    return None if judgement is None else judgement.verdict.value


def _difference(number: int, technique: str, name: str, before: Judgement | None, after: Judgement | None) -> Difference:
    why = after.reason if after is not None else "no longer asked for"
    return Difference(rep=number, technique=technique, checkpoint=name, before=_verdict(before), after=_verdict(after), why=why)


@needs(Right.FINISH)
def rejudge(db: Session, academy: uuid.UUID, review_id: uuid.UUID) -> int:
    """Judge all reps of a review by the newest versions; a finished one's ledger rows are written anew.

    Returns how many verdicts differ from before.

    Raises:
        Conflict: there is no newer version.
    """
    loading.lock(db, academy, review_id)
    _, differences = newer(db, academy, review_id)
    review = loading.load(db, academy, review_id)
    moved = False
    for rep in review.reps:
        version = _newest(db, academy, rep)
        if version is not None:
            reviewing.move_to(db, review, rep, version)
            moved = True
    if not moved:
        raise Conflict("This review is judged by the newest versions already.")
    db.flush()
    db.expire_all()
    if review.finished_at is not None:
        recording.judge_again(db, academy, review.clip_id)
    return len(differences)
