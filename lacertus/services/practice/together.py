"""Over the academy: with which drills and cues a fault went away within six weeks, beside those who did without."""

from __future__ import annotations

import uuid
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from typing import Literal

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lacertus.core.plan.practice import Followed, WentTogether, went_together
from lacertus.core.progress import ledger
from lacertus.core.progress.ledger import FaultLedger, State, ledger_of
from lacertus.core.techniques.definition import Technique
from lacertus.services.techniques import catalogue
from lacertus.store.tables import Clip, Correction, Prescription, RepRow, Review, Student, Tally, TechniqueVersion

MOST_SHOWN = 30


@dataclass(frozen=True, kw_only=True)
class Shown:
    """What went together, with the words for it."""

    found: WentTogether
    kind: Literal["drill", "cue"]
    technique_name: str
    ask: str


_Key = tuple[uuid.UUID, str, str]
"""A student, a technique, a fault."""


def over_the_academy(db: Session, academy: uuid.UUID, on: date) -> list[Shown]:
    """For each drill and each cue, in how many students the fault cleared, those shown in most students first."""
    used: dict[Literal["drill", "cue"], dict[_Key, list[tuple[str, int]]]] = {
        "drill": _drills(db, academy),
        "cue": _cues(db, academy),
    }
    faults = {(technique, fault) for own in used.values() for _, technique, fault in own}
    if not faults:
        return []
    ledgers = _ledgers(db, academy, faults)
    known = catalogue.known(db, academy, {technique for technique, _ in faults})
    shown = []
    for kind, own in used.items():
        followed = [one for key, book in ledgers.items() if (one := _followed(key, book, own.get(key, []))) is not None]
        shown += [_shown(one, kind, known.get(one.technique)) for one in went_together(followed, on.toordinal())]
    return sorted(shown, key=lambda one: -one.found.of)[:MOST_SHOWN]


def _shown(found: WentTogether, kind: Literal["drill", "cue"], technique: Technique | None) -> Shown:
    asks = [one.ask for one in technique.everything_asked if one.fault.code == found.fault] if technique else []
    return Shown(
        found=found,
        kind=kind,
        technique_name=technique.names.main if technique else found.technique,
        ask=asks[0] if asks else found.fault.replace("-", " "),
    )


def _drills(db: Session, academy: uuid.UUID) -> dict[_Key, list[tuple[str, int]]]:
    """What was prescribed to whom for which fault, and since when (an ordinal)."""
    rows = select(Prescription).join(Student, Student.id == Prescription.student_id).where(Student.academy_id == academy)
    found: dict[_Key, list[tuple[str, int]]] = {}
    for row in db.scalars(rows):
        for fault in row.faults:
            found.setdefault((row.student_id, row.technique, fault), []).append((row.name, row.since.toordinal()))
    return found


def _cues(db: Session, academy: uuid.UUID) -> dict[_Key, list[tuple[str, int]]]:
    """Which cue was given to whom about which fault, and when."""
    whose = func.coalesce(RepRow.student_id, Review.student_id)
    rows = (
        select(whose, TechniqueVersion, Correction.checkpoint, Correction.cue, Clip.filmed_on)
        .join(Review, Review.id == Correction.review_id)
        .join(Clip, Clip.id == Review.clip_id)
        .join(RepRow, RepRow.id == Correction.rep_id)
        .join(TechniqueVersion, TechniqueVersion.id == RepRow.technique_version_id)
        .where(Review.academy_id == academy, Review.finished_at.is_not(None))
    )
    found: dict[_Key, list[tuple[str, int]]] = {}
    for student, version, checkpoint, cue, on in db.execute(rows):
        asked = catalogue.definition(version).asked(checkpoint)
        if asked is not None and cue:
            found.setdefault((student, version.technique, asked.fault.code), []).append((cue, on.toordinal()))
    return found


def _ledgers(db: Session, academy: uuid.UUID, faults: Iterable[tuple[str, str]]) -> dict[_Key, FaultLedger]:
    """The ledgers of some faults of all students, from the tally."""
    wanted = set(faults)
    rows = (
        select(
            Tally.student_id, Tally.technique, Tally.fault, Tally.filmed_on, func.sum(Tally.exposures), func.sum(Tally.misses),
            func.bool_or(Tally.safety),
        )
        .where(Tally.academy_id == academy, Tally.technique.in_({technique for technique, _ in wanted}))
        .group_by(Tally.student_id, Tally.technique, Tally.fault, Tally.filmed_on)
    )  # fmt: skip
    sessions: dict[_Key, list[ledger.Session]] = {}
    safe: dict[_Key, bool] = {}
    for student, technique, fault, on, n, m, safety in db.execute(rows):
        if (technique, fault) in wanted:
            sessions.setdefault((student, technique, fault), []).append(ledger.Session(on.toordinal(), n, m))
            safe[student, technique, fault] = safety
    made = {key: ledger_of(own, safety=safe[key]) for key, own in sessions.items()}
    return {key: book for key, book in made.items() if book is not None and book.misses}


def _followed(key: _Key, book: FaultLedger, used: list[tuple[str, int]]) -> Followed | None:
    """A student's fault from the first drill or cue for it, or else from its first miss."""
    student, technique, fault = key
    first = next(day.day for day in book.days if day.misses)
    since = min((day for _, day in used), default=first)
    cleared = next((block.day for block in book.blocks if block.day > since and block.state is State.CLEARED), None)
    return Followed(
        student=str(student),
        technique=technique,
        fault=fault,
        with_what=frozenset(what for what, _ in used),
        since=since,
        cleared_on=cleared,
    )
