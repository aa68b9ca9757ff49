"""The drills for a fault: those of its technique, those that a coach of the academy wrote in a line, and starts of a technique."""

from __future__ import annotations

import uuid
from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.techniques.definition import Technique
from lacertus.core.techniques.practice import Dose, Drill, Start
from lacertus.core.techniques.vocabulary import Resistance
from lacertus.core.texts import checked_name, checked_text
from lacertus.services.errors import NotFound
from lacertus.services.people.rights import Right, needs
from lacertus.services.techniques import catalogue, starts
from lacertus.store.tables import OwnDrill

LONGEST_NAME, LONGEST_HOW = 120, 600
MOST_OWN = 2000
START = "start:"
START_DOSE = Dose(sets=3, reps=10)
_RESISTS: dict[Resistance, str] = {"none": "not at all", "fifth": "about a fifth", "half": "half", "full": "fully"}


@dataclass(frozen=True, kw_only=True)
class DrillChoice:
    """A drill that answers a fault. `id` is its id in the technique, or the key of the academy's own (`own`)."""

    technique: str
    id: str
    name: str
    how: str
    dose: Dose
    faults: tuple[str, ...]
    partner_task: str = ""
    start: str | None = None
    solo: str = ""
    own: bool = False
    is_start: bool = False


def choices(db: Session, academy: uuid.UUID, technique: Technique, fault: str) -> list[DrillChoice]:
    """What can be prescribed for a fault: its drills, then the positions that the technique is drilled from."""
    return [*for_faults(db, academy, technique, fault), *from_starts(db, academy, technique)]


def for_faults(db: Session, academy: uuid.UUID, technique: Technique, *faults: str) -> list[DrillChoice]:
    """The drills that answer one of some faults, the academy's own first: they were written because the others did not do."""
    own = select(OwnDrill).where(OwnDrill.academy_id == academy, OwnDrill.technique == technique.id, OwnDrill.fault.in_(faults))
    written = [_own(row) for row in db.scalars(own.order_by(OwnDrill.created_at.desc()))]
    shipped = [
        _of_technique(technique.id, one) for one in technique.drills if isinstance(one, Drill) and set(faults) & set(one.answers)
    ]
    return [*written, *(one for one in shipped if one is not None)]


def _own(row: OwnDrill) -> DrillChoice:
    return DrillChoice(
        technique=row.technique, id=str(row.id), name=row.name, how=row.how, dose=row.dose, faults=(row.fault,), own=True
    )


def _of_technique(technique: str, drill: Drill) -> DrillChoice | None:
    """A drill of a technique; one whose dose stands in words, as in old definitions, cannot be counted."""
    if not isinstance(drill.dose, Dose):
        return None
    return DrillChoice(
        technique=technique,
        id=drill.id,
        name=drill.name,
        how=drill.how,
        dose=drill.dose,
        faults=drill.answers,
        partner_task=drill.partner_task or "",
        start=drill.start,
        solo="; ".join(drill.alone.values()),
    )


def from_starts(db: Session, academy: uuid.UUID, technique: Technique) -> list[DrillChoice]:
    """The positions that a technique is drilled from, the academy's own among them, each as repetitions that begin there."""
    rows = [row for row in starts.made(db, academy, [technique.id]).get(technique.id, ()) if row.offered]
    return [_from_start(technique.id, one) for one in starts.with_made(technique, rows).starts]


def _from_start(technique: str, start: Start) -> DrillChoice:
    since = f" from “{start.resists_from.replace('_', ' ')}” on" if start.resists_from else ""
    return DrillChoice(
        technique=technique,
        id=f"{START}{start.id}",
        name=start.says,
        how=f"Begin at {start.phase.replace('_', ' ')}; go back there for each repetition.",
        dose=START_DOSE,
        faults=(),
        partner_task=f"Resist{since}: {_RESISTS[start.resistance]}." if start.resistance != "none" else "",
        start=start.id,
        is_start=True,
    )


def find(db: Session, academy: uuid.UUID, technique_id: str, drill: str) -> DrillChoice:
    """One drill of a technique, one of the academy's own, or a start (`start:` before its id).

    Raises:
        NotFound: no such technique or drill.
    """
    technique = catalogue.definition(catalogue.newest(db, academy, technique_id))
    for one in technique.drills:
        if isinstance(one, Drill) and one.id == drill and (choice := _of_technique(technique_id, one)) is not None:
            return choice
    for row in db.scalars(select(OwnDrill).where(OwnDrill.academy_id == academy, OwnDrill.technique == technique_id)):
        if str(row.id) == drill:
            return _own(row)
    for choice in from_starts(db, academy, technique) if drill.startswith(START) else ():
        if choice.id == drill:
            return choice
    raise NotFound("There is no such drill of this technique. Nothing was changed.")


@needs(Right.PLAN)
def write(
    db: Session, academy: uuid.UUID, technique_id: str, fault: str, name: str, how: str, dose: Dose, account: uuid.UUID | None
) -> DrillChoice:
    """Keep a drill of the academy's own for a fault; the same name again changes it.

    Raises:
        BadInput: no name, or too long.
        NotFound: no such technique, or it has no such fault.
    """
    technique = catalogue.definition(catalogue.newest(db, academy, technique_id))
    if fault not in {one.fault.code for one in technique.everything_asked}:
        raise NotFound("This technique has no such fault. Nothing was stored.")
    named = checked_name(name, "the drill’s name", LONGEST_NAME)
    told = checked_text(how, "how it is done", LONGEST_HOW) if how.strip() else ""
    same = (OwnDrill.academy_id == academy, OwnDrill.technique == technique_id, OwnDrill.fault == fault, OwnDrill.name == named)
    row = db.scalar(select(OwnDrill).where(*same))
    if row is None:
        if (db.scalar(select(func.count()).where(OwnDrill.academy_id == academy)) or 0) >= MOST_OWN:
            raise BadInput(f"your academy has {MOST_OWN} drills of its own; change one of them instead. Nothing was stored")
        row = OwnDrill(academy_id=academy, account_id=account, technique=technique_id, fault=fault, name=named, how=told, dose=dose)
        db.add(row)
    else:
        row.how, row.dose = told, dose
    db.flush()
    return _own(row)
