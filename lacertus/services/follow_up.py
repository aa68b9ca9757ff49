"""What came back: a student's faults over the dates, and the corrections they were given."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy import and_, case, func, select
from sqlalchemy.orm import Session

from lacertus.core.technique import Technique
from lacertus.services import techniques
from lacertus.services.ledger import EXPOSED, MISSED
from lacertus.store.tables import Clip, Correction, JudgementRow, RepRow, Review, TechniqueVersion


@dataclass(frozen=True, kw_only=True)
class DayCount:
    """Misses of exposures of a fault on one date, and what else was asked then."""

    on: date
    misses: int
    exposures: int
    borderline: int
    not_seen: int


@dataclass(frozen=True, kw_only=True)
class FaultRow:
    """A fault of a technique with its counts over the dates."""

    technique: str
    technique_name: str
    checkpoint: str
    fault: str
    family: str
    ask: str
    safety: bool
    days: tuple[DayCount, ...]

    @property
    def misses(self) -> int:
        return sum(day.misses for day in self.days)

    @property
    def exposures(self) -> int:
        return sum(day.exposures for day in self.days)


@dataclass(frozen=True, kw_only=True)
class Shown:
    """A correction as the student sees it."""

    correction: Correction
    clip: Clip
    ask: str
    why: str
    fault: str
    technique_name: str


def fault_rows(db: Session, academy: uuid.UUID, student_id: uuid.UUID) -> list[FaultRow]:
    """Every fault that was missed at least once, most missed first.

    Borderline counts only as a safety miss; demonstrations never count (domain section 5).
    """
    counts = (
        select(
            JudgementRow.technique,
            JudgementRow.checkpoint,
            JudgementRow.fault,
            JudgementRow.family,
            JudgementRow.safety,
            JudgementRow.filmed_on,
            func.sum(case((MISSED, 1), else_=0)),
            func.sum(case((EXPOSED, 1), else_=0)),
            func.sum(case((and_(JudgementRow.verdict == "borderline", ~JudgementRow.safety), 1), else_=0)),
            func.sum(case((JudgementRow.verdict == "not_seen", 1), else_=0)),
        )
        .join(RepRow, RepRow.id == JudgementRow.rep_id)
        .where(JudgementRow.student_id == student_id, RepRow.purpose != "demonstration")
        .group_by(
            JudgementRow.technique,
            JudgementRow.checkpoint,
            JudgementRow.fault,
            JudgementRow.family,
            JudgementRow.safety,
            JudgementRow.filmed_on,
        )
        .order_by(JudgementRow.filmed_on)
    )
    days: dict[tuple[str, str, str, str, bool], list[DayCount]] = {}
    for technique, checkpoint, fault, family, safety, on, misses, exposures, borderline, not_seen in db.execute(counts):
        day = DayCount(on=on, misses=misses, exposures=exposures, borderline=borderline, not_seen=not_seen)
        days.setdefault((technique, checkpoint, fault, family, safety), []).append(day)
    rows = [_row(db, academy, key, found) for key, found in days.items() if any(day.misses for day in found)]
    return sorted(rows, key=lambda row: (not row.safety, -row.misses, row.fault))


def _row(db: Session, academy: uuid.UUID, key: tuple[str, str, str, str, bool], days: Sequence[DayCount]) -> FaultRow:
    technique, checkpoint, fault, family, safety = key
    definition = techniques.definition(techniques.newest(db, academy, technique))
    asked = definition.checkpoint(checkpoint)
    return FaultRow(
        technique=technique,
        technique_name=definition.names.main,
        checkpoint=checkpoint,
        fault=fault,
        family=family,
        safety=safety,
        ask=asked.ask if asked else fault.replace("-", " "),
        days=tuple(days),
    )


def corrections(db: Session, student_id: uuid.UUID) -> list[Shown]:
    """The corrections of a student's finished reviews, newest first."""
    found = (
        select(Correction, Clip, TechniqueVersion)
        .join(Review, Review.id == Correction.review_id)
        .join(Clip, Clip.id == Review.clip_id)
        .join(RepRow, RepRow.id == Correction.rep_id)
        .join(TechniqueVersion, TechniqueVersion.id == RepRow.technique_version_id)
        .where(func.coalesce(RepRow.student_id, Review.student_id) == student_id, Review.finished_at.is_not(None))
        .order_by(Clip.filmed_on.desc(), Correction.created_at.desc())
    )
    return [_shown(correction, clip, techniques.definition(version)) for correction, clip, version in db.execute(found)]


def _shown(correction: Correction, clip: Clip, technique: Technique) -> Shown:
    asked = technique.checkpoint(correction.checkpoint)
    return Shown(
        correction=correction,
        clip=clip,
        ask=asked.ask if asked else correction.checkpoint,
        why=asked.why if asked else "",
        fault=asked.fault.code if asked else "",
        technique_name=technique.names.main,
    )


def cautions_of(db: Session, academy: uuid.UUID, technique_ids: Sequence[str]) -> list[str]:
    """The caution keys of several techniques, each once."""
    found = [techniques.definition(techniques.newest(db, academy, technique)).cautions for technique in technique_ids]
    return list(dict.fromkeys(caution for cautions in found for caution in cautions))
