"""What an academy teaches: each technique that its grades ask for, when it was taught and filmed, who holds it, what is next."""

from __future__ import annotations

import uuid
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.plan.layers import Next, what_next
from lacertus.core.progress.ledger import wilson
from lacertus.core.progress.rungs import LEAST_EXPOSURES, LEAST_SESSIONS, LOWER_BOUND, MET_SHARE, WINDOW_DAYS, Decided, passed_to
from lacertus.core.techniques.definition import Technique
from lacertus.services.people import people
from lacertus.services.people.rights import Right, needs
from lacertus.services.progress import grades
from lacertus.services.progress.ledger import COUNTS, EXPOSED, MISSED
from lacertus.services.progress.rungs import as_decided
from lacertus.services.techniques import catalogue, starts
from lacertus.store.tables import JudgementRow, LayerWord, Lesson, RungDecision, Student


@dataclass(frozen=True, kw_only=True)
class Row:
    """A technique that a grade asks for. `holding` of `students` who work towards the grade have passed the rung."""

    grade: str
    technique: Technique
    rung: str
    last_taught: date | None
    last_filmed: date | None
    students: int
    holding: int
    interval: tuple[float, float]
    next: Next


def table(db: Session, academy: uuid.UUID, today: date) -> list[Row]:
    """The curriculum, grade by grade, with what to teach next of each technique to those who work towards the grade."""
    shown = grades.curriculum(db, academy)
    by_grade = _towards(db, academy)
    techniques = {asked.technique.id: asked.technique for grade in shown for asked in grade.asked}
    everybody = [student for own in by_grade.values() for student in own]
    holding = held_layers(db, list(techniques.values()), everybody, today)
    taught = taught_layers(db, academy, techniques)
    made = starts.made(db, academy, techniques)
    rows = []
    for grade in shown:
        own = by_grade.get(grade.id, [])
        for asked in grade.asked:
            technique = starts.with_made(asked.technique, made.get(asked.technique.id, []))
            holds = {str(student.id): holding.get((student.id, technique.id), set()) for student in own}
            have = len(own) - len(asked.lacking)
            rows.append(
                Row(
                    grade=grade.name,
                    technique=technique,
                    rung=asked.rung,
                    last_taught=asked.last_taught,
                    last_filmed=asked.last_filmed,
                    students=len(own),
                    holding=have,
                    interval=wilson(have, len(own)) if own else (0.0, 1.0),
                    next=next_of(technique, taught.get(technique.id, ()), holds),
                )
            )
    return rows


def _towards(db: Session, academy: uuid.UUID) -> dict[uuid.UUID, list[Student]]:
    found: dict[uuid.UUID, list[Student]] = {}
    for student in people.students(db, academy, archived=True):
        if student.grade_id is not None:
            found.setdefault(student.grade_id, []).append(student)
    return found


def next_of(technique: Technique, taught: Sequence[tuple[str, str]], holds: Mapping[str, Collection[str]]) -> Next:
    """What to teach next of a technique. `taught` are the layers and starts of the classes so far, the latest last."""
    last = taught[-1][0] if taught else None
    used = [start for layer, start in taught if layer == last and start]
    return what_next([one.id for one in technique.layers], [one.id for one in technique.starts], last, used, holds, list(holds))


def taught_layers(db: Session, academy: uuid.UUID, techniques: Collection[str]) -> dict[str, list[tuple[str, str]]]:
    """By technique, which layers were taught in classes that were booked, and from which starts, the latest last."""
    booked = select(Lesson.units).where(Lesson.academy_id == academy, Lesson.booked_at.is_not(None))
    found: dict[str, list[tuple[str, str]]] = {}
    for units in db.scalars(booked.order_by(Lesson.held_on, Lesson.at)):
        for unit in units:
            if unit.kind == "technique" and unit.technique in techniques and unit.layer:
                found.setdefault(unit.technique, []).append((unit.layer, unit.start))
    return found


def held_layers(
    db: Session, techniques: Sequence[Technique], students: Sequence[Student], today: date
) -> dict[tuple[uuid.UUID, str], set[str]]:
    """By student and technique, the layers that they hold: by the rule for advancing on the layer's core checkpoints over the
    last 60 days (by its safety points where it has no core one), by a rung that was passed, or by the coach's word."""
    ids, names = [one.id for one in students], [one.id for one in techniques]
    counted = _counted(db, ids, names, today)
    passed = _passed(db, ids, techniques)
    words: dict[tuple[uuid.UUID, str, str], bool] = {}
    for row in db.scalars(select(LayerWord).where(LayerWord.student_id.in_(ids), LayerWord.technique.in_(names))):
        words[row.student_id, row.technique, row.layer] = row.holds
    found: dict[tuple[uuid.UUID, str], set[str]] = {}
    for student in ids:
        for technique in techniques:
            own = counted.get((student, technique.id), {})
            for layer in technique.layers:
                said = words.get((student, technique.id, layer.id))
                ruled = (student, technique.id) in passed or _holds(technique, layer.id, own)
                if ruled if said is None else said:
                    found.setdefault((student, technique.id), set()).add(layer.id)
    return found


_Counted = dict[tuple[uuid.UUID, str], dict[str, tuple[int, int, int]]]


def _counted(db: Session, students: Sequence[uuid.UUID], techniques: Sequence[str], today: date) -> _Counted:
    """By student and technique, each checkpoint's exposures, misses and sessions of the last 60 days."""
    exposures = func.count().filter(EXPOSED)
    rows = (
        select(
            JudgementRow.student_id,
            JudgementRow.technique,
            JudgementRow.checkpoint,
            exposures,
            func.count().filter(MISSED),
            func.count(func.distinct(JudgementRow.filmed_on)).filter(EXPOSED),
        )
        .where(
            JudgementRow.student_id.in_(students),
            JudgementRow.technique.in_(techniques),
            JudgementRow.filmed_on.between(today - timedelta(days=WINDOW_DAYS), today),
            COUNTS,
        )
        .group_by(JudgementRow.student_id, JudgementRow.technique, JudgementRow.checkpoint)
    )
    found: _Counted = {}
    for student, technique, checkpoint, n, m, days in db.execute(rows):
        found.setdefault((student, technique), {})[checkpoint] = (n, m, days)
    return found


def _holds(technique: Technique, layer: str, counted: Mapping[str, tuple[int, int, int]]) -> bool:
    found = technique.layer(layer)
    assert found is not None
    listed = [one for one in technique.checkpoints if found.lists(one.id) and one.switched_off is None]
    wanted = [one for one in listed if one.core] or [one for one in listed if one.safety] or listed
    return bool(wanted) and all(_is_held(*counted.get(one.id, (0, 0, 0))) for one in wanted)


def _is_held(exposures: int, misses: int, sessions: int) -> bool:
    """As the rule for advancing asks of a core checkpoint."""
    if exposures < LEAST_EXPOSURES or sessions < LEAST_SESSIONS:
        return False
    met = exposures - misses
    return met / exposures >= MET_SHARE and wilson(met, exposures)[0] >= LOWER_BOUND


def _passed(db: Session, students: Sequence[uuid.UUID], techniques: Sequence[Technique]) -> set[tuple[uuid.UUID, str]]:
    """Students who have passed a rung of a technique with a partner: they hold all of its layers."""
    ladders = {one.id: one.ladder for one in techniques}
    rows = select(RungDecision).where(RungDecision.student_id.in_(students), RungDecision.technique.in_(ladders))
    decided: dict[tuple[uuid.UUID, str], list[Decided]] = {}
    for row in db.scalars(rows.order_by(RungDecision.decided_on, RungDecision.created_at)):
        decided.setdefault((row.student_id, row.technique), []).append(as_decided(row))
    return {key for key, own in decided.items() if passed_to(ladders[key[1]], own) >= 1}


@needs(Right.TEACH)
def say_holds(
    db: Session,
    academy: uuid.UUID,
    student_id: uuid.UUID,
    technique_id: str,
    layer: str,
    holds: bool | None,
    account: uuid.UUID | None,
    on: date,
) -> None:
    """Keep the coach's word that a student holds a layer, or does not; None leaves it to the rule again.

    Raises:
        BadInput: the technique has no such layer.
        NotFound: no such student or technique.
    """
    people.student(db, academy, student_id)
    technique = catalogue.definition(catalogue.newest(db, academy, technique_id))
    if technique.layer(layer) is None:
        raise BadInput("this technique has no such layer; nothing was changed")
    if holds is None:
        found = db.get(LayerWord, (student_id, technique_id, layer))
        if found is not None:
            db.delete(found)
            db.flush()
        return
    values = {"holds": holds, "said_on": on, "account_id": account}
    put = insert(LayerWord).values(student_id=student_id, technique=technique_id, layer=layer, **values)
    db.execute(put.on_conflict_do_update(index_elements=["student_id", "technique", "layer"], set_=values))
    db.expire_all()


def find_technique(db: Session, academy: uuid.UUID, technique_id: str) -> Technique:
    """A technique with the academy's own starts. Raises NotFound where there is none."""
    technique = catalogue.definition(catalogue.newest(db, academy, technique_id))
    return starts.with_made(technique, starts.made(db, academy, [technique_id]).get(technique_id, []))
