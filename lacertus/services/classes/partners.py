"""Who trains with whom in a class: what the rules of pairing need to know of each student, and the rules between two."""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from datetime import date

from sqlalchemy import delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.plan.lesson import PlannedAlone, PlannedPair, PlannedPairs
from lacertus.core.plan.pairs import Class, Pair, Trainee, pair_of, pairing_of
from lacertus.core.progress.ledger import BLOCK_EXPOSURES
from lacertus.core.techniques.definition import Technique
from lacertus.core.texts import checked_text
from lacertus.library.falls import falls_for
from lacertus.services.people import consents, people
from lacertus.services.people.rights import Right, needs
from lacertus.services.practice import known
from lacertus.services.progress import rungs
from lacertus.store.tables import Lesson, PartnerRule, Student, Tally, TrainedWith

THROWN_ON = "static_partner"
"""Whoever is thrown in class has passed a fall far enough for this rung at the least."""
LOOK_BACK = 2


def pairs_for(
    db: Session, academy: uuid.UUID, coming: Sequence[Student], techniques: Sequence[Technique], lesson: Lesson | None, on: date
) -> PlannedPairs:
    """Pairs of those who come, for the techniques that are practised. Of several throws the first decides who may be thrown."""
    thrown = next((one for one in techniques if falls_for(one)), None)
    group = Class(
        trainees=_trainees(db, academy, coming, techniques, on),
        throw=thrown.id if thrown else None,
        fits={thrown.id: frozenset(falls_for(thrown))} if thrown else {},
        together=_together(db, academy, coming, lesson, on),
        **_rules(db, coming),
    )
    found = pairing_of(group)
    names = {str(one.id): one.name for one in coming}
    thirds = {pair: student for student, pair in found.thirds}
    return PlannedPairs(
        throw=group.throw or "",
        pairs=tuple(
            PlannedPair(
                students=(uuid.UUID(pair[0]), uuid.UUID(pair[1])),
                score=score,
                third=uuid.UUID(thirds[pair]) if pair in thirds else None,
            )
            for pair, score in found.pairs
        ),
        alone=tuple(PlannedAlone(student=uuid.UUID(one.student), why=_named(one.why, names)) for one in found.alone),
    )


def _named(why: str, names: Mapping[str, str]) -> str:
    for key, name in names.items():
        why = why.replace(key, name)
    return why.replace("-", " ")


def _trainees(
    db: Session, academy: uuid.UUID, coming: Sequence[Student], techniques: Sequence[Technique], on: date
) -> tuple[Trainee, ...]:
    passed = rungs.passed_falls(db, academy, THROWN_ON)
    own = known.of_students(db, academy, coming)
    practised = {one.id for one in techniques}
    never = _never_missed(db, coming, practised)
    found = []
    for student in coming:
        faults = [one for one in own[student.id].faults if one.technique in practised]
        misses = frozenset(f"{one.technique}/{one.fault}" for one in faults if one.missed_since is not None)
        clean = frozenset(f"{one.technique}/{one.fault}" for one in faults if one.missed_since is None)
        found.append(
            Trainee(
                id=str(student.id),
                adult=not consents.is_child(student, on),
                weight_kg=student.weight_kg,
                height_cm=student.height_cm,
                falls=passed.get(student.id, frozenset()),
                clean=clean | never.get(student.id, frozenset()),
                misses=misses,
                safety=frozenset(f"{one.technique}/{one.fault}" for one in faults if one.safety and one.missed_since is not None),
            )
        )
    return tuple(found)


def _never_missed(db: Session, coming: Sequence[Student], techniques: set[str]) -> dict[uuid.UUID, frozenset[str]]:
    """By student, faults that they were judged in often enough and never made."""
    rows = (
        select(Tally.student_id, Tally.technique, Tally.fault)
        .where(Tally.student_id.in_([one.id for one in coming]), Tally.technique.in_(techniques))
        .group_by(Tally.student_id, Tally.technique, Tally.fault)
        .having(func.sum(Tally.exposures) >= BLOCK_EXPOSURES, func.sum(Tally.misses) == 0)
    )
    found: dict[uuid.UUID, set[str]] = {}
    for student, technique, fault in db.execute(rows):
        found.setdefault(student, set()).add(f"{technique}/{fault}")
    return {key: frozenset(faults) for key, faults in found.items()}


def _together(db: Session, academy: uuid.UUID, coming: Sequence[Student], lesson: Lesson | None, on: date) -> dict[Pair, int]:
    """How many classes ago two trained together, of the last two booked classes: of the same weekly one, if there is one."""
    before = select(Lesson.id).where(Lesson.academy_id == academy, Lesson.booked_at.is_not(None), Lesson.held_on <= on)
    if lesson is not None:
        before = before.where(Lesson.id != lesson.id)
        if lesson.weekly_id is not None:
            before = before.where(Lesson.weekly_id == lesson.weekly_id)
    last = list(db.scalars(before.order_by(Lesson.held_on.desc(), Lesson.at.desc()).limit(LOOK_BACK)))
    ids = {one.id for one in coming}
    found: dict[Pair, int] = {}
    for row in db.scalars(select(TrainedWith).where(TrainedWith.lesson_id.in_(last))):
        if row.student_id in ids and row.other_id in ids:
            pair, ago = pair_of(str(row.student_id), str(row.other_id)), last.index(row.lesson_id) + 1
            found[pair] = min(ago, found.get(pair, ago))
    return found


def _rules(db: Session, coming: Sequence[Student]) -> dict[str, frozenset[Pair]]:
    ids = [one.id for one in coming]
    found: dict[str, set[Pair]] = {"apart": set(), "allowed": set()}
    for row in db.scalars(select(PartnerRule).where(PartnerRule.student_id.in_(ids), PartnerRule.other_id.in_(ids))):
        found[row.rule].add(pair_of(str(row.student_id), str(row.other_id)))
    return {name: frozenset(pairs) for name, pairs in found.items()}


def rules(db: Session, academy: uuid.UUID) -> list[tuple[PartnerRule, str, str]]:
    """Every rule between two students of an academy, with their names."""
    names = {one.id: one.name for one in people.students(db, academy, archived=True)}
    rows = db.scalars(select(PartnerRule).where(PartnerRule.student_id.in_(names)).order_by(PartnerRule.created_at))
    return [(row, names[row.student_id], names.get(row.other_id, "")) for row in rows]


@needs(Right.PLAN)
def set_rule(
    db: Session, academy: uuid.UUID, one: uuid.UUID, other: uuid.UUID, rule: str | None, why: str, account: uuid.UUID | None
) -> None:
    """Keep two apart, allow them together, or take the rule between them back (None).

    Raises:
        BadInput: it is one and the same student.
        NotFound: one of them is not in this academy.
    """
    if one == other:
        raise BadInput("choose two students; this is one and the same")
    first, second = sorted((people.student(db, academy, one).id, people.student(db, academy, other).id))
    if rule is None:
        db.execute(delete(PartnerRule).where(PartnerRule.student_id == first, PartnerRule.other_id == second))
    else:
        told = checked_text(why, "the reason", 200) if why.strip() else ""
        values = {"rule": rule, "why": told, "account_id": account}
        put = insert(PartnerRule).values(student_id=first, other_id=second, **values)
        db.execute(put.on_conflict_do_update(index_elements=["student_id", "other_id"], set_=values))
    db.expire_all()


def trained_pairs(pairs: PlannedPairs | None, came: set[uuid.UUID]) -> set[tuple[uuid.UUID, uuid.UUID]]:
    """Who trained with whom, of those who came: a third with both of the pair."""
    found = set()
    for one in pairs.pairs if pairs else ():
        here = [student for student in (*one.students, one.third) if student is not None and student in came]
        found |= {(min(a, b), max(a, b)) for i, a in enumerate(here) for b in here[i + 1 :]}
    return found


def not_fit_to_be_thrown(db: Session, academy: uuid.UUID, pairs: PlannedPairs, techniques: Sequence[Technique]) -> list[str]:
    """The names of those in some pairs who have passed no fall that fits the first throw among some techniques."""
    thrown = next((one for one in techniques if falls_for(one)), None)
    if thrown is None:
        return []
    passed, fits = rungs.passed_falls(db, academy, THROWN_ON), set(falls_for(thrown))
    ids = {student for one in pairs.pairs for student in (*one.students, one.third) if student is not None}
    lacking = [one for one in ids if not passed.get(one, frozenset()) & fits]
    return list(db.scalars(select(Student.name).where(Student.id.in_(lacking)).order_by(Student.name)))
