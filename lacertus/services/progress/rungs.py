"""Rungs of a student: where they stand, what is recommended by what number, falls first, and what the coach decided."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Literal

from sqlalchemy import Uuid, bindparam, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.progress.rungs import (
    FALL_FOR_RUNG,
    WINDOW_DAYS,
    Advice,
    Asked,
    Decided,
    Passed,
    Recommendation,
    RungRep,
    asked_of_fall,
    may_fall,
    passed_on,
    recommend,
    rung_asked,
)
from lacertus.core.techniques.definition import Technique
from lacertus.core.texts import checked_text
from lacertus.library import shipped_technique
from lacertus.library.falls import FORMER_LADDER, falls, falls_for
from lacertus.services.people import people
from lacertus.services.people.rights import Right, needs
from lacertus.services.progress import follow_up
from lacertus.services.progress.ledger import COUNTS, WHOLE
from lacertus.services.techniques import catalogue
from lacertus.store.tables import Feeling, JudgementRow, RungDecision, Student

LONGEST_WHY = 400
Who = Literal["performer", "partner"]


@dataclass(frozen=True, kw_only=True)
class RungSession:
    """So many reps on a rung on a day; no rung was said where it is None."""

    on: date
    rung: str | None
    reps: int


@dataclass(frozen=True, kw_only=True)
class Standing:
    """A student on a technique's ladder.

    `falls` are the falls that fit, where the rung asks for one; `may_be_thrown` the classmates who have passed one of them.
    """

    technique: Technique
    rung: str
    recommendation: Recommendation
    sure: dict[str, bool | None]
    reps: int
    falls: tuple[str, ...]
    may_be_thrown: tuple[str, ...]
    decisions: tuple[RungDecision, ...]
    sessions: tuple[RungSession, ...]

    @property
    def withheld(self) -> bool:
        """The rung asks for a partner who can fall, and nobody has passed a fall that fits."""
        return bool(self.falls) and not self.may_be_thrown


def standings(db: Session, academy: uuid.UUID, student_id: uuid.UUID, on: date) -> list[Standing]:
    """Where a student stands in every technique that they were judged in.

    Raises:
        NotFound: no such student.
    """
    people.student(db, academy, student_id)
    done = follow_up.techniques_of(db, academy, student_id)
    passed = _passed(db, academy)
    return [_standing(db, student_id, technique, on, passed) for technique in done]


def standing(db: Session, academy: uuid.UUID, student_id: uuid.UUID, technique: str, on: date) -> Standing:
    """Where a student stands in one technique.

    Raises:
        NotFound: no such student or technique.
    """
    people.student(db, academy, student_id)
    found = catalogue.definition(catalogue.newest(db, academy, technique))
    return _standing(db, student_id, found, on, _passed(db, academy))


def _standing(
    db: Session, student_id: uuid.UUID, technique: Technique, on: date, passed: dict[uuid.UUID, tuple[str, list[Passed]]]
) -> Standing:
    decisions = _decisions(db, student_id, technique.id)
    rung = _rung_now(db, student_id, technique, decisions, on)
    reps = _reps(db, student_id, technique.id, rung, on)
    sure = _sure(db, student_id, technique, rung)
    asked = [Asked(id=c.id, ask=c.ask, core=c.core, safety=c.safety) for c in technique.in_phase_order if c.core or c.safety]
    told = recommend(reps, asked, on.toordinal(), sure)
    fits = falls_for(technique) if asked_of_fall(rung) is not None else ()
    others = [name for key, (name, own) in passed.items() if key != student_id and may_fall(rung, own, fits)]
    found = Standing(
        technique=technique,
        rung=rung,
        recommendation=told,
        sure=sure,
        reps=len(reps),
        falls=fits,
        may_be_thrown=tuple(sorted(others)) if fits else (),
        decisions=tuple(decisions),
        sessions=_sessions(db, student_id, technique.id),
    )
    return replace(found, recommendation=_falls_first(found, passed, student_id))


def _falls_first(found: Standing, passed: dict[uuid.UUID, tuple[str, list[Passed]]], student_id: uuid.UUID) -> Recommendation:
    """No advance to a rung on which nobody in the academy can be thrown yet."""
    told, ladder = found.recommendation, found.technique.ladder
    fits = falls_for(found.technique)
    if told.advice is not Advice.ADVANCE or not fits or found.rung == ladder[-1]:
        return told
    after = ladder[ladder.index(found.rung) + 1]
    if any(key != student_id and may_fall(after, own, fits) for key, (_, own) in passed.items()):
        return told
    wanted = asked_of_fall(after) or 0.0
    names = " or ".join(f"a {fall.replace('-', ' ')} at “{_rung_of(fall, wanted)}”" for fall in fits)
    because = f"falls first: nobody has passed {names} yet, so nobody can be thrown on the next rung"
    return replace(told, advice=Advice.HOLD, because=because)


def _rung_of(fall: str, share: float) -> str:
    return rung_asked(shipped_technique(fall).ladder, share).replace("_", " ")


def _decisions(db: Session, student_id: uuid.UUID, technique: str) -> list[RungDecision]:
    """What was decided, the newest first."""
    mine = select(RungDecision).where(RungDecision.student_id == student_id, RungDecision.technique == technique)
    return list(db.scalars(mine.order_by(RungDecision.decided_on.desc(), RungDecision.created_at.desc())))


def _rung_now(db: Session, student_id: uuid.UUID, technique: Technique, decisions: Sequence[RungDecision], on: date) -> str:
    """The rung that was decided last, else the one last filmed on by that day, else the lowest."""
    if decisions and decisions[0].to_rung in technique.ladder:
        return decisions[0].to_rung
    last = (
        select(JudgementRow.rung)
        .where(
            JudgementRow.student_id == student_id,
            JudgementRow.technique == technique.id,
            JudgementRow.rung.is_not(None),
            JudgementRow.filmed_on <= on,
        )
        .order_by(JudgementRow.filmed_on.desc())
        .limit(1)
    )
    filmed = db.scalar(last)
    return filmed if filmed in technique.ladder else technique.ladder[0]


def _reps(db: Session, student_id: uuid.UUID, technique: str, rung: str, on: date) -> list[RungRep]:
    rows = select(
        JudgementRow.filmed_on,
        JudgementRow.rep_id,
        JudgementRow.first_frame,
        JudgementRow.pace,
        JudgementRow.checkpoint,
        JudgementRow.verdict,
    ).where(
        JudgementRow.student_id == student_id,
        JudgementRow.technique == technique,
        JudgementRow.filmed_on.between(on - timedelta(days=WINDOW_DAYS), on),
        JudgementRow.verdict != "not_asked",
        JudgementRow.rung == rung,
        JudgementRow.counts,
        COUNTS,
        WHOLE,
    )
    found: dict[uuid.UUID, tuple[date, int, str, dict[str, Verdict]]] = {}
    for filmed_on, rep, frame, pace, checkpoint, verdict in db.execute(rows):
        found.setdefault(rep, (filmed_on, frame, pace, {}))[3][checkpoint] = Verdict(verdict)
    return [RungRep(day=day.toordinal(), order=frame, pace=pace, verdicts=told) for day, frame, pace, told in found.values()]


def _sessions(db: Session, student_id: uuid.UUID, technique: str) -> tuple[RungSession, ...]:
    """On which rungs a technique was filmed when, the oldest first."""
    rows = (
        select(JudgementRow.filmed_on, JudgementRow.rung, func.count(func.distinct(JudgementRow.rep_id)))
        .where(JudgementRow.student_id == student_id, JudgementRow.technique == technique, COUNTS)
        .group_by(JudgementRow.filmed_on, JudgementRow.rung)
        .order_by(JudgementRow.filmed_on)
    )
    return tuple(RungSession(on=on, rung=rung, reps=reps) for on, rung, reps in db.execute(rows))


def _sure(db: Session, student_id: uuid.UUID, technique: Technique, rung: str) -> dict[str, bool | None]:
    """Who is asked whether they feel sure: the performer, and the partner where there is one on this rung."""
    said = db.get(Feeling, (student_id, technique.id, rung))
    alone = rung == "solo" or technique.family == "fall"
    asked: tuple[Who, ...] = ("performer",) if alone else ("performer", "partner")
    return {who: getattr(said, who) if said else None for who in asked}


def _passed(db: Session, academy: uuid.UUID) -> dict[uuid.UUID, tuple[str, list[Passed]]]:
    """By student, the falls that they have passed, and up to which rung; who was sent back since has not passed it any more."""
    rows = (
        select(Student.id, Student.name, RungDecision)
        .join(RungDecision, RungDecision.student_id == Student.id)
        .where(Student.academy_id == academy, RungDecision.technique.in_(falls()))
        .order_by(RungDecision.decided_on, RungDecision.created_at)
    )
    decided: dict[tuple[uuid.UUID, str, str], list[Decided]] = {}
    for key, name, row in db.execute(rows):
        decided.setdefault((key, name, row.technique), []).append(as_decided(row))
    found: dict[uuid.UUID, tuple[str, list[Passed]]] = {}
    ladders = {fall: one.ladder for fall, one in catalogue.known(db, academy, falls()).items()}
    for (key, name, fall), own in decided.items():
        passed = passed_on(fall, (ladders[fall], FORMER_LADDER), own)
        if passed is not None:
            found.setdefault(key, (name, []))[1].append(passed)
    return found


def passed_falls(db: Session, academy: uuid.UUID, rung: str) -> dict[uuid.UUID, frozenset[str]]:
    """By student, the falls that were passed far enough for a rung of a throw."""
    wanted = asked_of_fall(rung) or 0.0
    return {key: frozenset(one.fall for one in own if one.share >= wanted - 1e-9) for key, (_, own) in _passed(db, academy).items()}


@dataclass(frozen=True, kw_only=True)
class AsPartner:
    """A student as the partner of a throw: the falls passed, and the rungs of throws that they are enough for."""

    passed: tuple[Passed, ...]
    rungs: tuple[str, ...]


def as_partner(db: Session, academy: uuid.UUID, student_id: uuid.UUID) -> AsPartner:
    """Which falls a student has passed, and on which rungs they may be thrown where one of those falls fits the throw.

    Raises:
        NotFound: no such student.
    """
    people.student(db, academy, student_id)
    _, own = _passed(db, academy).get(student_id, ("", []))
    asking = (rung for rung, share in FALL_FOR_RUNG.items() if share is not None)
    return AsPartner(passed=tuple(own), rungs=tuple(rung for rung in asking if may_fall(rung, own, falls())))


def thrown_on(db: Session, academy: uuid.UUID) -> dict[uuid.UUID, tuple[str, ...]]:
    """By student, the rungs of throws on which they may be thrown; who has passed no fall is not in it."""
    asking = [rung for rung, share in FALL_FOR_RUNG.items() if share is not None]
    passed = _passed(db, academy)
    return {key: tuple(rung for rung in asking if may_fall(rung, own, falls())) for key, (_, own) in passed.items()}


def decisions_of(db: Session, academy: uuid.UUID) -> list[RungDecision]:
    """Every decision on a student of an academy, the oldest first."""
    return list(db.scalars(_DECISIONS, {"academy": academy}))


_DECISIONS = (
    select(RungDecision)
    .join(Student, Student.id == RungDecision.student_id)
    .where(Student.academy_id == bindparam("academy", type_=Uuid()))
    .order_by(RungDecision.decided_on, RungDecision.created_at)
)


def as_decided(row: RungDecision) -> Decided:
    return Decided(advice=Advice(row.decision), from_rung=row.from_rung, to_rung=row.to_rung)


@needs(Right.TEACH)
def say_sure(db: Session, academy: uuid.UUID, student_id: uuid.UUID, technique: str, who: Who, sure: bool | None, on: date) -> None:
    """Keep whether performer or partner says that they feel sure on the rung that the student is on.

    Raises:
        NotFound: no such student or technique.
    """
    here = standing(db, academy, student_id, technique, on)
    put = insert(Feeling).values(student_id=student_id, technique=technique, rung=here.rung, **{who: sure})
    db.execute(put.on_conflict_do_update(index_elements=["student_id", "technique", "rung"], set_={who: sure}))
    db.flush()
    db.expire_all()


@needs(Right.TEACH)
def decide(
    db: Session,
    academy: uuid.UUID,
    student_id: uuid.UUID,
    technique: str,
    decision: str,
    why: str,
    account: uuid.UUID | None,
    on: date,
) -> RungDecision:
    """Keep what the coach decides: advance, hold or step back; otherwise than recommended only with a reason.

    Raises:
        BadInput: there is no rung to go to, or the reason is missing.
        NotFound: no such student or technique.
    """
    here = standing(db, academy, student_id, technique, on)
    ladder, chosen = here.technique.ladder, Advice(decision)
    at = ladder.index(here.rung)
    # On the last rung to advance is to have passed it.
    to = min(at + {Advice.ADVANCE: 1, Advice.HOLD: 0, Advice.STEP_BACK: -1}[chosen], len(ladder) - 1)
    if to < 0:
        raise BadInput(f"“{here.rung.replace('_', ' ')}” is the first rung of this ladder")
    reason = why.strip()
    if chosen is not here.recommendation.advice and not reason:
        raise BadInput("you decide otherwise than is recommended: say why")
    kept = RungDecision(
        student_id=student_id,
        account_id=account,
        technique=technique,
        from_rung=here.rung,
        to_rung=ladder[to],
        decision=chosen.value,
        advice=here.recommendation.advice.value,
        because=here.recommendation.because,
        why=checked_text(reason, "the reason", LONGEST_WHY) if reason else "",
        decided_on=on,
    )
    db.add(kept)
    db.flush()
    return kept
