"""What came back: a student's faults over the dates, and the corrections they were given."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Literal

from sqlalchemy import ColumnElement, and_, case, func, select
from sqlalchemy.orm import Session

from lacertus.core.progress.history import Count, FaultHistory, Success, Tried, families, histories, success_of
from lacertus.core.progress.ledger import State
from lacertus.core.techniques.definition import Technique
from lacertus.services.errors import NotFound
from lacertus.services.people import people
from lacertus.services.progress.ledger import COUNTS, EXPOSED, MISSED
from lacertus.services.techniques import catalogue
from lacertus.store.queue import DRAW_STILL
from lacertus.store.tables import (
    Clip,
    Correction,
    JobRow,
    JudgementRow,
    Prescription,
    RepRow,
    Review,
    RungDecision,
    TechniqueVersion,
)


@dataclass(frozen=True, kw_only=True)
class Filters:
    """Which reps are counted; None is all of them."""

    technique: str | None = None
    side: str | None = None
    pace: str | None = None
    rung: str | None = None


@dataclass(frozen=True, kw_only=True)
class ShownFault:
    """A fault's history with its words."""

    history: FaultHistory
    technique_name: str
    ask: str


@dataclass(frozen=True, kw_only=True)
class Mark:
    """Something that was done about a fault: a drill that was prescribed, a decision on the rung, or a cue on a sheet."""

    on: date
    kind: Literal["drill", "rung", "cue"]
    words: str


@dataclass(frozen=True, kw_only=True)
class FaultDetail:
    """What is known of one fault besides: by side, pace and rung, success with and without it, the cue before it cleared."""

    history: FaultHistory
    success: tuple[Success, ...]
    cleared_by: str | None
    marks: tuple[Mark, ...] = ()
    """What was done about it meanwhile, the oldest first."""


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
    still_failed: str | None
    """Why its picture could not be drawn."""


def counts(db: Session, student_id: uuid.UUID, filters: Filters = Filters(), fault: str | None = None) -> list[Count]:
    """How often each checkpoint was missed, by day and by how the reps were done; demonstrations never count.

    One query over one student's verdicts: it does not grow with the academy. Of one fault alone it tells the options too.
    """
    by = [getattr(JudgementRow, name) for name in _COUNTED]
    if fault is not None:
        by.append(JudgementRow.options)
    found = (
        select(
            *by,
            func.sum(case((EXPOSED, 1), else_=0)).label("exposures"),
            func.sum(case((MISSED, 1), else_=0)).label("misses"),
            func.sum(case((and_(JudgementRow.verdict == "borderline", ~JudgementRow.safety), 1), else_=0)).label("borderline"),
            func.sum(case((JudgementRow.verdict == "not_seen", 1), else_=0)).label("not_seen"),
        )
        .where(JudgementRow.student_id == student_id, COUNTS, *_where(filters))
        .group_by(*by)
    )
    if fault is None:
        # In the order of `Count`.
        return [Count(row[0].toordinal(), *row[1:]) for row in db.execute(found)]
    rows = db.execute(found.where(JudgementRow.fault == fault)).all()
    at = len(_COUNTED)
    return [Count._make((row[0].toordinal(), *row[1:at], *row[at + 1 :], tuple(sorted(row[at].items())))) for row in rows]


_COUNTED = ("filmed_on", "technique", "checkpoint", "fault", "family", "safety", "entry", "side", "pace", "rung")


def _where(filters: Filters) -> list[ColumnElement[bool]]:
    names = ("technique", "side", "pace", "rung")
    return [getattr(JudgementRow, name) == wanted for name in names if (wanted := getattr(filters, name)) is not None]


def ledger_page(db: Session, academy: uuid.UUID, student_id: uuid.UUID, filters: Filters = Filters()) -> StudentLedger:
    """A student's ledger, worked out anew from the verdicts."""
    found = counts(db, student_id, filters)
    known = catalogue.known(db, academy, {count.technique for count in found})
    made = histories(found, {name: technique.ladder for name, technique in known.items()})
    return StudentLedger(
        days=tuple(date.fromordinal(day) for day in sorted({count.day for count in found})),
        faults=tuple(_shown_fault(one, known.get(one.technique)) for one in made),
        families=families(found),
    )


def _shown_fault(one: FaultHistory, technique: Technique | None) -> ShownFault:
    asked = next((a for name in one.checkpoints if technique and (a := technique.asked(name))), None)
    return ShownFault(
        history=one,
        technique_name=technique.names.main if technique else one.technique,
        ask=asked.ask if asked else one.fault.replace("-", " "),
    )


def fault_detail(
    db: Session, academy: uuid.UUID, student_id: uuid.UUID, technique: str, fault: str, filters: Filters = Filters()
) -> FaultDetail:
    """One fault of a technique in detail.

    Raises:
        NotFound: no such student, or the fault was never missed in these reps.
    """
    people.student(db, academy, student_id)
    known = catalogue.known(db, academy, {technique})
    ladders = {name: one.ladder for name, one in known.items()}
    own = counts(db, student_id, replace(filters, technique=technique), fault=fault)
    usual = {group: option.default for one in known.values() for group, option in one.options.items()}
    own = [count._replace(options=tuple(sorted((usual | dict(count.options)).items()))) for count in own]
    one = _only(histories(own, ladders))
    is_cleared = one.ledger.state is State.CLEARED
    cues = [cue for cue, _ in _cues(db, student_id, technique, one.checkpoints, one.cleared_on or 1)] if is_cleared else []
    success = success_of(_tried(db, student_id, technique, fault, filters))
    marks = _marks(db, student_id, technique, fault, one.checkpoints)
    return FaultDetail(history=one, success=success, cleared_by=cues[-1] if cues else None, marks=marks)


def _marks(db: Session, student_id: uuid.UUID, technique: str, fault: str, checkpoints: Sequence[str]) -> tuple[Mark, ...]:
    """What was done about a fault meanwhile: drills that were prescribed for it, cues, decisions on the rung; the oldest first."""
    drills = select(Prescription).where(Prescription.student_id == student_id, Prescription.technique == technique)
    decided = select(RungDecision).where(RungDecision.student_id == student_id, RungDecision.technique == technique)
    found = [Mark(on=row.since, kind="drill", words=row.name) for row in db.scalars(drills) if fault in row.faults]
    found += [Mark(on=row.decided_on, kind="rung", words=row.to_rung.replace("_", " ")) for row in db.scalars(decided)]
    found += [Mark(on=on, kind="cue", words=cue) for cue, on in _cues(db, student_id, technique, checkpoints)]
    return tuple(sorted(dict.fromkeys(found), key=lambda one: (one.on, one.kind, one.words)))


def family_detail(db: Session, academy: uuid.UUID, student_id: uuid.UUID, family: str, filters: Filters = Filters()) -> FaultDetail:
    """A family over all techniques in detail.

    Raises:
        NotFound: no such student, or nothing of it was missed in these reps.
    """
    people.student(db, academy, student_id)
    own = [one for one in counts(db, student_id, filters) if one.family == family]
    return FaultDetail(history=_only(families(own)), success=(), cleared_by=None)


def _only(found: Sequence[FaultHistory]) -> FaultHistory:
    if not found:
        raise NotFound("Nothing of this was missed in these reps.")
    return found[0]


def _tried(db: Session, student_id: uuid.UUID, technique: str, fault: str, filters: Filters) -> list[Tried]:
    """Every rep whose outcome was said and in which the fault was judged."""
    of_rep = (JudgementRow.rep_id, JudgementRow.outcome, JudgementRow.reaction)
    rows = (
        select(*of_rep, func.bool_or(MISSED))
        .where(
            JudgementRow.student_id == student_id,
            JudgementRow.technique == technique,
            JudgementRow.fault == fault,
            JudgementRow.outcome.is_not(None),
            COUNTS,
            EXPOSED,
            *_where(filters),
        )
        .group_by(*of_rep)
    )
    return [
        Tried(missed=missed, completed=outcome == "completed", reaction=reaction)
        for _, outcome, reaction, missed in db.execute(rows)
    ]


def _cues(
    db: Session, student_id: uuid.UUID, technique: str, checkpoints: Sequence[str], until: int | None = None
) -> list[tuple[str, date]]:
    """The cues that the student was given about some checkpoints (up to a day, an ordinal), the oldest first."""
    rows = (
        select(Correction.cue, Clip.filmed_on)
        .join(Review, Review.id == Correction.review_id)
        .join(Clip, Clip.id == Review.clip_id)
        .join(RepRow, RepRow.id == Correction.rep_id)
        .join(TechniqueVersion, TechniqueVersion.id == RepRow.technique_version_id)
        .where(
            func.coalesce(RepRow.student_id, Review.student_id) == student_id,
            Review.finished_at.is_not(None),
            TechniqueVersion.technique == technique,
            Correction.checkpoint.in_(checkpoints),
        )
        .order_by(Clip.filmed_on, Correction.created_at)
    )
    if until is not None:
        rows = rows.where(Clip.filmed_on <= date.fromordinal(until))
    return list(db.execute(rows).tuples())


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
            JudgementRow.counts,
            COUNTS,
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
        select(Correction, Clip, TechniqueVersion, JobRow.reason)
        .join(Review, Review.id == Correction.review_id)
        .join(Clip, Clip.id == Review.clip_id)
        .join(RepRow, RepRow.id == Correction.rep_id)
        .join(TechniqueVersion, TechniqueVersion.id == RepRow.technique_version_id)
        .outerjoin(JobRow, and_(JobRow.task == DRAW_STILL, JobRow.about == Correction.id))
        .where(func.coalesce(RepRow.student_id, Review.student_id) == student_id, Review.finished_at.is_not(None))
        .order_by(Clip.filmed_on.desc(), Correction.created_at.desc())
    )
    rows = db.execute(found)
    return [_shown(correction, clip, catalogue.definition(version), why) for correction, clip, version, why in rows]


def _shown(correction: Correction, clip: Clip, technique: Technique, still_failed: str | None) -> Shown:
    asked = technique.asked(correction.checkpoint)
    return Shown(
        correction=correction,
        clip=clip,
        ask=asked.ask if asked else correction.checkpoint,
        why=asked.why if asked else "",
        fault=asked.fault.code if asked else "",
        technique_name=technique.names.main,
        still_failed=still_failed,
    )


def techniques_of(db: Session, academy: uuid.UUID, student_id: uuid.UUID) -> list[Technique]:
    """The techniques that a student was judged in, by name."""
    names = set(db.scalars(select(JudgementRow.technique).where(JudgementRow.student_id == student_id).distinct()))
    return sorted(catalogue.known(db, academy, names).values(), key=lambda technique: technique.names.main)
