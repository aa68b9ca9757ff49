"""What came back: a student's faults over the dates, and the corrections they were given."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date

from sqlalchemy import ColumnElement, and_, case, func, select
from sqlalchemy.orm import Session

from lacertus.core.history import Count, FaultHistory, Success, Tried, families, histories, success_of
from lacertus.core.ledger import State
from lacertus.core.technique import Technique
from lacertus.services import techniques
from lacertus.services.ledger import EXPOSED, MISSED
from lacertus.store.tables import Clip, Correction, JudgementRow, RepRow, Review, TechniqueVersion


@dataclass(frozen=True, kw_only=True)
class Filters:
    """Which reps are counted; None is all of them."""

    technique: str | None = None
    side: str | None = None
    pace: str | None = None
    rung: str | None = None


@dataclass(frozen=True, kw_only=True)
class ShownFault:
    """A fault's history with its words, and what came of it: success with and without it, the cue before it cleared."""

    history: FaultHistory
    technique_name: str
    ask: str
    success: tuple[Success, ...] = ()
    cleared_by: str | None = None


@dataclass(frozen=True, kw_only=True)
class StudentLedger:
    """Everything of a student's ledger: its sessions (ISO days), faults and families."""

    days: tuple[date, ...]
    faults: tuple[ShownFault, ...]
    families: tuple[FaultHistory, ...]


@dataclass(frozen=True, kw_only=True)
class RepBehind:
    """A rep behind a cell of the ledger."""

    clip: uuid.UUID
    clip_name: str
    rep: uuid.UUID
    first_frame: int
    checkpoint: str
    verdict: str
    value: float | None
    unit: str | None
    side: str
    rung: str | None


@dataclass(frozen=True, kw_only=True)
class Shown:
    """A correction as the student sees it."""

    correction: Correction
    clip: Clip
    ask: str
    why: str
    fault: str
    technique_name: str


def counts(db: Session, student_id: uuid.UUID, filters: Filters = Filters(), until: date | None = None) -> list[Count]:
    """How often each checkpoint was missed, by day and by how the reps were done; demonstrations never count.

    One query over one student's verdicts: it does not grow with the academy.
    """
    by = (
        JudgementRow.filmed_on,
        JudgementRow.technique,
        JudgementRow.checkpoint,
        JudgementRow.fault,
        JudgementRow.family,
        JudgementRow.safety,
        RepRow.side,
        RepRow.pace,
        RepRow.rung,
    )
    found = (
        select(
            *by,
            func.sum(case((EXPOSED, 1), else_=0)),
            func.sum(case((MISSED, 1), else_=0)),
            func.sum(case((and_(JudgementRow.verdict == "borderline", ~JudgementRow.safety), 1), else_=0)),
            func.sum(case((JudgementRow.verdict == "not_seen", 1), else_=0)),
        )
        .join(RepRow, RepRow.id == JudgementRow.rep_id)
        .where(JudgementRow.student_id == student_id, RepRow.purpose != "demonstration", *_where(filters))
        .group_by(*by)
    )
    if until is not None:
        found = found.where(JudgementRow.filmed_on <= until)
    names = ("technique", "checkpoint", "fault", "family", "safety", "side", "pace", "rung")
    sums = ("exposures", "misses", "borderline", "not_seen")
    return [Count(day=row[0].toordinal(), **dict(zip((*names, *sums), row[1:], strict=True))) for row in db.execute(found)]


def _where(filters: Filters) -> list[ColumnElement[bool]]:
    columns = {"technique": JudgementRow.technique, "side": RepRow.side, "pace": RepRow.pace, "rung": RepRow.rung}
    return [column == wanted for name, column in columns.items() if (wanted := getattr(filters, name)) is not None]


def ledger_page(db: Session, academy: uuid.UUID, student_id: uuid.UUID, filters: Filters = Filters()) -> StudentLedger:
    """A student's ledger, worked out anew from the verdicts."""
    found = counts(db, student_id, filters)
    known = techniques.known(db, academy, {count.technique for count in found})
    made = histories(found, {name: technique.ladder for name, technique in known.items()})
    tried, cues = _tried(db, student_id, filters), _cues(db, student_id)
    return StudentLedger(
        days=tuple(date.fromordinal(day) for day in sorted({count.day for count in found})),
        faults=tuple(_shown_fault(one, known.get(one.technique), tried, cues) for one in made),
        families=families(found),
    )


def _shown_fault(
    one: FaultHistory,
    technique: Technique | None,
    tried: Mapping[tuple[str, str], list[Tried]],
    cues: Mapping[tuple[str, str], list[tuple[date, str]]],
) -> ShownFault:
    asked = next((c for name in one.checkpoints if technique and (c := technique.checkpoint(name))), None)
    before = [
        cue
        for checkpoint in one.checkpoints
        for on, cue in cues.get((one.technique, checkpoint), ())
        if one.cleared_on is not None and on.toordinal() <= one.cleared_on
    ]
    return ShownFault(
        history=one,
        technique_name=technique.names.main if technique else one.technique,
        ask=asked.ask if asked else one.fault.replace("-", " "),
        success=success_of(tried.get((one.technique, one.fault), ())),
        cleared_by=before[-1] if before and one.ledger.state is State.CLEARED else None,
    )


def _tried(db: Session, student_id: uuid.UUID, filters: Filters) -> dict[tuple[str, str], list[Tried]]:
    """By technique and fault, every rep whose outcome was said and in which the fault was judged."""
    rows = (
        select(JudgementRow.technique, JudgementRow.fault, RepRow.id, RepRow.outcome, RepRow.reaction, func.bool_or(MISSED))
        .join(RepRow, RepRow.id == JudgementRow.rep_id)
        .where(
            JudgementRow.student_id == student_id, RepRow.purpose != "demonstration", RepRow.outcome.is_not(None), EXPOSED,
            *_where(filters),
        )
        .group_by(JudgementRow.technique, JudgementRow.fault, RepRow.id)
    )  # fmt: skip
    found: dict[tuple[str, str], list[Tried]] = {}
    for technique, fault, _, outcome, reaction, missed in db.execute(rows):
        tried = Tried(missed=missed, completed=outcome == "completed", reaction=reaction)
        found.setdefault((technique, fault), []).append(tried)
    return found


def _cues(db: Session, student_id: uuid.UUID) -> dict[tuple[str, str], list[tuple[date, str]]]:
    """By technique and checkpoint, the cues that the student was given and when, the oldest first."""
    rows = (
        select(TechniqueVersion.technique, Correction.checkpoint, Clip.filmed_on, Correction.cue)
        .join(Review, Review.id == Correction.review_id)
        .join(Clip, Clip.id == Review.clip_id)
        .join(RepRow, RepRow.id == Correction.rep_id)
        .join(TechniqueVersion, TechniqueVersion.id == RepRow.technique_version_id)
        .where(func.coalesce(RepRow.student_id, Review.student_id) == student_id, Review.finished_at.is_not(None))
        .order_by(Clip.filmed_on, Correction.created_at)
    )
    found: dict[tuple[str, str], list[tuple[date, str]]] = {}
    for technique, checkpoint, on, cue in db.execute(rows):
        found.setdefault((technique, checkpoint), []).append((on, cue))
    return found


def reps_behind(
    db: Session, student_id: uuid.UUID, on: date, technique: str, fault: str, filters: Filters = Filters()
) -> list[RepBehind]:
    """The reps that a cell of the ledger was counted from, in clip order; those too in which it was not seen."""
    rows = (
        select(JudgementRow, RepRow, Clip)
        .join(RepRow, RepRow.id == JudgementRow.rep_id)
        .join(Review, Review.id == JudgementRow.review_id)
        .join(Clip, Clip.id == Review.clip_id)
        .where(
            JudgementRow.student_id == student_id,
            JudgementRow.filmed_on == on,
            JudgementRow.technique == technique,
            JudgementRow.fault == fault,
            JudgementRow.verdict != "not_asked",
            RepRow.purpose != "demonstration",
            *_where(filters),
        )
        .order_by(Clip.created_at, RepRow.first_frame)
        .limit(500)
    )
    return [
        RepBehind(
            clip=clip.id,
            clip_name=clip.name,
            rep=rep.id,
            first_frame=rep.first_frame,
            checkpoint=judged.checkpoint,
            verdict=judged.verdict,
            value=judged.value,
            unit=judged.unit,
            side=rep.side,
            rung=rep.rung,
        )
        for judged, rep, clip in db.execute(rows)
    ]


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


def techniques_of(db: Session, academy: uuid.UUID, student_id: uuid.UUID) -> list[Technique]:
    """The techniques that a student was judged in, by name."""
    names = set(db.scalars(select(JudgementRow.technique).where(JudgementRow.student_id == student_id).distinct()))
    return sorted(techniques.known(db, academy, names).values(), key=lambda technique: technique.names.main)
