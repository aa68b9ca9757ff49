"""The coach's day, and practice: drills, prescriptions, what was done of them."""

from __future__ import annotations

import uuid
from datetime import date
from typing import Annotated

from fastapi import APIRouter, Path, Query

from lacertus.services.academy import today, working_time
from lacertus.services.academy.today import ShownTask
from lacertus.services.classes import calendar
from lacertus.services.people import academies
from lacertus.services.practice import drills, log, prescriptions, proposals, together
from lacertus.services.practice.drills import DrillChoice
from lacertus.services.practice.prescriptions import Followed, Wish
from lacertus.services.techniques import catalogue
from lacertus.web import schemas as s
from lacertus.web.classes.schemas import OnDayOut
from lacertus.web.practice import schemas as p
from lacertus.web.session import Db, SignedIn

router = APIRouter(tags=["practice"])
TechniqueId = Annotated[str, Path(max_length=200)]


# --- the day ---------------------------------------------------------------------------------------


@router.get("/today")
def read_today(coach: SignedIn, db: Db, minutes: Annotated[float | None, Query(ge=0, le=1440)] = None) -> p.DayOut:
    """The queue for the minutes at hand, what came in, and the classes of today and tomorrow."""
    found = today.day(db, coach.academy_id, coach.id, minutes)
    return p.DayOut(
        on=found.on,
        minutes=found.minutes,
        chosen=[_task(one) for one in found.chosen],
        left=[_task(one) for one in found.left],
        more_chosen=found.more_chosen,
        more_left=found.more_left,
        classes=[OnDayOut.model_validate(one) for one in found.classes],
        waiting=found.came_in,
        arrived=found.arrived,
        looking=found.looking,
    )


def _task(shown: ShownTask) -> p.DayTaskOut:
    item = shown.task.item
    return p.DayTaskOut(
        id=item.id,
        safety=item.safety,
        severity=item.severity,
        minutes=item.halves / 2,
        priority=shown.priority,
        since=date.fromordinal(item.since),
        overdue_days=shown.overdue_days,
        path=shown.path,
        reasons=[
            p.DayReasonOut(kind=one.reason.kind.value, student=one.student, words=one.words, path=one.path) for one in shown.reasons
        ],
    )


@router.get("/reviews/{review_id}/worked")
def read_worked(review_id: uuid.UUID, coach: SignedIn, db: Db) -> p.WorkedOut:
    """How long a review took so far."""
    return p.WorkedOut(worked_s=working_time.read(db, coach.academy_id, review_id))


@router.put("/reviews/{review_id}/worked")
def note_worked(review_id: uuid.UUID, form: p.WorkedIn, coach: SignedIn, db: Db) -> p.WorkedOut:
    """Add to how long a review took, or correct it."""
    return p.WorkedOut(worked_s=working_time.change(db, coach.academy_id, review_id, form.add_s, form.total_s))


# --- drills ----------------------------------------------------------------------------------------


def _drill(one: DrillChoice) -> p.DrillChoiceOut:
    return p.DrillChoiceOut(
        technique=one.technique, id=one.id, name=one.name, how=one.how, dose=one.dose, dose_words=one.dose.words,
        minutes=one.dose.minutes, partner_task=one.partner_task, start=one.start, own=one.own, is_start=one.is_start,
    )  # fmt: skip


@router.get("/techniques/{technique}/drills")
def read_drills(
    technique: TechniqueId, fault: Annotated[str, Query(max_length=200)], coach: SignedIn, db: Db
) -> list[p.DrillChoiceOut]:
    """The drills that answer a fault, the academy's own first, and then the positions that the technique is drilled from."""
    found = catalogue.definition(catalogue.newest(db, coach.academy_id, technique))
    return [_drill(one) for one in drills.choices(db, coach.academy_id, found, fault)]


@router.post("/techniques/{technique}/drills", status_code=201)
def write_drill(technique: TechniqueId, form: p.DrillIn, coach: SignedIn, db: Db) -> p.DrillChoiceOut:
    """Write a drill of the academy's own for a fault; the same name again changes it."""
    return _drill(drills.write(db, coach.academy_id, technique, form.fault, form.name, form.how, form.dose, coach.id))


@router.get("/reviews/{review_id}/practice")
def read_proposals(review_id: uuid.UUID, coach: SignedIn, db: Db) -> list[p.ProposalOut]:
    """What to practise after a review: its things to fix first, each with its drills."""
    return [
        p.ProposalOut(
            technique=one.technique, technique_name=one.technique_name, fault=one.fault, ask=one.ask, reason=one.reason,
            drills=[_drill(drill) for drill in one.drills], prescribed=list(one.prescribed),
        )
        for one in proposals.of_review(db, coach.academy_id, review_id)
    ]  # fmt: skip


# --- prescriptions ---------------------------------------------------------------------------------


@router.get("/students/{student_id}/practice")
def read_practice(student_id: uuid.UUID, coach: SignedIn, db: Db) -> p.PracticeOut:
    """What is prescribed to a student, what was done of it, and whether it helped."""
    on = academies.today(db, coach.academy_id)
    found = prescriptions.page(db, coach.academy_id, student_id, on)
    names = {one.technique: catalogue.definition(one).names.main for one in catalogue.techniques(db, coach.academy_id)}
    return p.PracticeOut(
        open=[_prescription(one, names) for one in found.open],
        ended=[_prescription(one, names) for one in found.ended],
        adherence=p.KeptOut.model_validate(found.adherence) if found.adherence else None,
        weeks=[p.WeekOut(until=date.fromordinal(one.until), kept=p.KeptOut.model_validate(one.kept)) for one in found.weeks],
        log=[
            p.LogOut.model_validate({**{key: getattr(row, key) for key in p.LogOut.model_fields if key != "by"}, "by": by})
            for row, by in found.log
        ],
        next_day=calendar.TrainingDays(db, coach.academy_id, on).next(student_id),
    )


def _prescription(one: Followed, names: dict[str, str]) -> p.PrescriptionOut:
    row = one.row
    own = {key: getattr(row, key) for key in p.PrescriptionOut.model_fields if hasattr(row, key)}
    told = [
        p.HelpedOut.model_validate({**vars(found), "fault": fault, "ask": one.asks[fault]}) for fault, found in one.helped.items()
    ]
    more = {
        "technique_name": names.get(row.technique, row.technique),
        "dose_words": row.dose.words,
        "minutes": one.minutes,
        "by": one.by,
        "kept": one.kept,
        "helped": told,
        "clips": [p.DrillClipOut.model_validate(clip) for clip in one.clips],
    }
    return p.PrescriptionOut.model_validate(own | more)


@router.post("/students/{student_id}/prescriptions", status_code=201)
def prescribe(student_id: uuid.UUID, form: p.PrescribeIn, coach: SignedIn, db: Db) -> p.PrescribedOut:
    """Prescribe a drill. Where three are open, the one whose fault is lowest in fix first makes room."""
    wish = Wish(**{key: getattr(form, key) for key in p.PrescribeIn.model_fields if key != "faults"}, faults=tuple(form.faults))
    done = prescriptions.prescribe(db, coach.academy_id, student_id, wish, coach.id, academies.today(db, coach.academy_id))
    return p.PrescribedOut(id=done.row.id, name=done.row.name, replaced=done.replaced.name if done.replaced else None)


@router.patch("/prescriptions/{prescription_id}")
def change_prescription(prescription_id: uuid.UUID, form: p.PrescriptionChange, coach: SignedIn, db: Db) -> s.Done:
    """Change how much, how often, on which side, or what the partner does."""
    changes = {key: getattr(form, key) for key in p.PrescriptionChange.model_fields}
    prescriptions.change(db, coach.academy_id, prescription_id, **changes)
    return s.Done()


@router.post("/prescriptions/{prescription_id}/end")
def end_prescription(prescription_id: uuid.UUID, form: p.EndIn, coach: SignedIn, db: Db) -> s.Done:
    """End a prescription."""
    prescriptions.end(db, coach.academy_id, prescription_id, form.why, academies.today(db, coach.academy_id))
    return s.Done()


@router.post("/students/{student_id}/practice", status_code=201)
def enter_practice(student_id: uuid.UUID, form: p.PracticeIn, coach: SignedIn, db: Db) -> s.Done:
    """Enter that a prescribed drill was practised. Pain ends the prescription and stands in the inbox."""
    entry = log.Entry(**{key: getattr(form, key) for key in p.PracticeIn.model_fields})
    log.enter(db, coach.academy_id, student_id, entry, "coach", coach.id, academies.today(db, coach.academy_id))
    return s.Done()


@router.delete("/students/{student_id}/practice/{entry_id}")
def remove_practice(student_id: uuid.UUID, entry_id: uuid.UUID, coach: SignedIn, db: Db) -> s.Done:
    """Take an entry back that was made by mistake."""
    log.remove(db, coach.academy_id, student_id, entry_id)
    return s.Done()


@router.get("/academy/practice")
def read_together(coach: SignedIn, db: Db) -> list[p.TogetherOut]:
    """With which drills and cues faults went away within six weeks, beside those who did without."""
    return [
        p.TogetherOut.model_validate({**vars(one.found), "kind": one.kind, "technique_name": one.technique_name, "ask": one.ask})
        for one in together.over_the_academy(db, coach.academy_id, academies.today(db, coach.academy_id))
    ]
