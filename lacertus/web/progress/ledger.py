"""A student's page: the fault ledger, the reps behind its cells, and the corrections that were given."""

from __future__ import annotations

import uuid
from datetime import date
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Depends, Query

from lacertus.core.progress.history import FaultHistory
from lacertus.core.progress.ledger import Block, wilson
from lacertus.services.people import people
from lacertus.services.progress import answers, follow_up
from lacertus.services.progress.follow_up import Filters, Shown, ShownFault
from lacertus.web import schemas as s
from lacertus.web.corrections.presenters import correction_out
from lacertus.web.progress import ledger_schemas as led
from lacertus.web.progress import presenters
from lacertus.web.session import Db, SignedIn
from lacertus.web.techniques import presenters as technique_presenters

router = APIRouter(tags=["ledger"])


def filters(
    technique: Annotated[str | None, Query(max_length=100)] = None,
    side: Literal["left", "right"] | None = None,
    pace: Literal["slow", "full"] | None = None,
    rung: Annotated[str | None, Query(max_length=100)] = None,
) -> Filters:
    return Filters(technique=technique, side=side, pace=pace, rung=rung)


Filtered = Annotated[Filters, Depends(filters)]


@router.get("/students/{student_id}")
def read_student(student_id: uuid.UUID, coach: SignedIn, db: Db, wanted: Filtered) -> led.StudentPageOut:
    """A student's fault ledger, session by session, and the corrections that were given. Filters choose which reps count."""
    student = people.student(db, coach.academy_id, student_id)
    page = follow_up.ledger_page(db, coach.academy_id, student_id, wanted)
    done = follow_up.techniques_of(db, coach.academy_id, student_id)
    return led.StudentPageOut(
        student=s.StudentOut.model_validate(student),
        dates=list(page.days),
        faults=[_fault_out(fault) for fault in page.faults],
        families=[_history_out(family) for family in page.families],
        techniques=[led.TechniqueNameOut(id=one.id, name=one.names.main, rungs=list(one.ladder)) for one in done],
        corrections=[_shown_out(shown) for shown in follow_up.corrections(db, student_id)],
        cautions=technique_presenters.cautions_out(dict.fromkeys(caution for one in done for caution in one.cautions)),
    )


@router.get("/students/{student_id}/reps")
def read_reps_behind(
    student_id: uuid.UUID,
    on: date,
    of: Annotated[str, Query(max_length=100)],
    fault: Annotated[str, Query(max_length=100)],
    coach: SignedIn,
    db: Db,
    wanted: Filtered,
) -> list[led.RepBehindOut]:
    """The reps behind a cell of the ledger: of a technique (`of`), a fault and a day."""
    people.student(db, coach.academy_id, student_id)
    found = follow_up.reps_behind(db, student_id, on, of, fault, wanted)
    return [led.RepBehindOut.model_validate(one) for one in found]


@router.get("/students/{student_id}/fault")
def read_fault(
    student_id: uuid.UUID,
    coach: SignedIn,
    db: Db,
    wanted: Filtered,
    of: Annotated[str, Query(max_length=100, description="A technique; none for a family over all techniques")] = "",
    fault: Annotated[str, Query(max_length=100, description="Its fault, or the family")] = "",
) -> led.FaultDetailOut:
    """A fault of the ledger by side, pace and rung, success with and without it, and the cue before it cleared."""
    found = (
        follow_up.fault_detail(db, coach.academy_id, student_id, of, fault, wanted)
        if of
        else follow_up.family_detail(db, coach.academy_id, student_id, fault, wanted)
    )
    parts = {name: getattr(found.history, name) for name in ("sides", "paces", "rungs", "options")}
    more = {"success": found.success, "cleared_by": found.cleared_by, "marks": found.marks}
    blocks = [_block(one) for one in found.history.ledger.blocks if one.exposures]
    return led.FaultDetailOut.model_validate(parts | more | {"blocks": blocks})


def _block(one: Block) -> led.BlockOut:
    return led.BlockOut(
        on=date.fromordinal(one.day),
        exposures=one.exposures,
        misses=one.misses,
        rate=one.misses / one.exposures,
        interval=list(wilson(one.misses, one.exposures)),
        state=one.state,
    )


@router.get("/students/{student_id}/answers")
def read_answers(student_id: uuid.UUID, coach: SignedIn, db: Db, wanted: Filtered) -> led.AnswersOut:
    """What partners did, how it was answered and what came of it; how often reps came through by option, start and choice."""
    found = answers.page(db, coach.academy_id, student_id, wanted)
    return presenters.answers_out(found)


def _history_out(one: FaultHistory) -> led.FaultHistoryOut:
    """A fault's history with days as dates."""
    return led.FaultHistoryOut.model_validate(_history(one))


def _fault_out(shown: ShownFault) -> led.FaultOut:
    more = {"technique_name": shown.technique_name, "ask": shown.ask, "checkpoints": list(shown.history.checkpoints)}
    return led.FaultOut.model_validate(_history(shown.history) | more)


def _history(one: FaultHistory) -> dict[str, Any]:
    ledger = one.ledger
    own = {name: getattr(one, name) for name in ("technique", "fault", "family", "safety", "entry", "under_load", "lately")}
    own |= {
        name: getattr(ledger, name)
        for name in ("misses", "exposures", "rate", "interval", "recurrence", "first_seen", "missed_again")
    }
    cells = [cell._asdict() | {"on": date.fromordinal(cell.day), "state": cell.state.value} for cell in one.cells]
    recheck = None if ledger.recheck is None else date.fromordinal(ledger.recheck)
    return own | {"state": ledger.state.value, "recheck": recheck, "days": cells}


def _shown_out(shown: Shown) -> led.ShownCorrectionOut:
    own = correction_out(shown.correction, shown.fault).model_dump()
    more = {
        "shapes": shown.correction.drawn,
        "filmed_on": shown.clip.filmed_on,
        "technique_name": shown.technique_name,
        "still_failed": shown.still_failed,
        "ask": shown.ask,
        "why": shown.why,
        "width": shown.clip.width or 1,
        "height": shown.clip.height or 1,
    }
    return led.ShownCorrectionOut.model_validate(own | more)
