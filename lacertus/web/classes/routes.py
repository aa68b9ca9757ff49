"""Classes: planned, changed, paired, run and booked; notes from the floor; rounds."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime
from typing import Any

from fastapi import APIRouter

from lacertus.services.classes import curriculum, floor, lessons, partners, rounds
from lacertus.services.classes.lessons import Change
from lacertus.services.people import academies, consents
from lacertus.services.progress import grades
from lacertus.services.techniques import catalogue, starts
from lacertus.web import schemas as s
from lacertus.web.classes import presenters
from lacertus.web.classes import schemas as c
from lacertus.web.session import Db, SignedIn

router = APIRouter(tags=["classes"])


def _now() -> float:
    return datetime.now(UTC).timestamp()


def _lesson(db: Db, academy: uuid.UUID, row: Any) -> c.ClassOut:
    now = _now()
    came = {one.student_id: one.came for one in row.attendance}
    who = lessons.everybody(db, row)
    own = {key: getattr(row, key) for key in c.ClassOut.model_fields if hasattr(row, key)}
    more = {
        "weekly": row.weekly_id,
        "clock": presenters.clock_out(lessons.now_in(row, now), now),
        "coming": [
            c.AttendingOut(id=one.id, name=one.name, is_child=consents.is_child(one, row.held_on), came=came[one.id]) for one in who
        ],
        "today": academies.today(db, academy),
    }
    return c.ClassOut.model_validate(own | more)


@router.post("/classes/planned", status_code=201)
def plan_weekly(form: c.PlanWeeklyIn, coach: SignedIn, db: Db) -> c.ClassOut:
    """The class of a weekly class on a day: as it is planned, or begun with those who came last time."""
    row = lessons.plan_weekly(db, coach.academy_id, form.weekly, form.planned_on, coach.id)
    return _lesson(db, coach.academy_id, row)


@router.post("/classes", status_code=201)
def plan_once(form: c.PlanOnceIn, coach: SignedIn, db: Db) -> c.ClassOut:
    """A class that belongs to no weekly class."""
    row = lessons.plan_once(db, coach.academy_id, form.name, form.on, form.at, form.minutes, form.mats, coach.id)
    return _lesson(db, coach.academy_id, row)


@router.get("/classes/{lesson_id}")
def read_class(lesson_id: uuid.UUID, coach: SignedIn, db: Db) -> c.ClassOut:
    """A class with its plan, its pairs and its clock."""
    return _lesson(db, coach.academy_id, lessons.lesson(db, coach.academy_id, lesson_id))


@router.patch("/classes/{lesson_id}")
def change_class(lesson_id: uuid.UUID, form: c.LessonChange, coach: SignedIn, db: Db) -> c.ClassOut:
    """Change a class; refused where somebody else changed it meanwhile."""
    lists = ("equipment", "teach", "coming", "units")
    values = {key: getattr(form, key) for key in c.LessonChange.model_fields if key != "version"}
    what = Change(**values | {key: tuple(values[key]) for key in lists if values[key] is not None})
    return _lesson(db, coach.academy_id, lessons.change(db, coach.academy_id, lesson_id, form.version, what))


@router.delete("/classes/{lesson_id}")
def remove_class(lesson_id: uuid.UUID, coach: SignedIn, db: Db) -> s.Done:
    """Delete a class with its attendance and what was logged in it."""
    lessons.remove(db, coach.academy_id, lesson_id)
    return s.Done()


@router.post("/classes/{lesson_id}/make")
def make_class(lesson_id: uuid.UUID, form: c.VersionIn, coach: SignedIn, db: Db) -> c.ClassOut:
    """Make the plan anew; what is locked stays where it is."""
    return _lesson(db, coach.academy_id, lessons.make(db, coach.academy_id, lesson_id, form.version))


@router.post("/classes/{lesson_id}/pairs")
def pair_class(lesson_id: uuid.UUID, form: c.VersionIn, coach: SignedIn, db: Db) -> c.ClassOut:
    """Pair those who come."""
    return _lesson(db, coach.academy_id, lessons.pair(db, coach.academy_id, lesson_id, form.version))


@router.get("/classes/{lesson_id}/teachable")
def read_teachable(lesson_id: uuid.UUID, coach: SignedIn, db: Db) -> list[c.TeachableOut]:
    """What can be taught to those who come, each with what is next for them."""
    row = lessons.lesson(db, coach.academy_id, lesson_id)
    who = lessons.coming(db, row)
    known = [catalogue.definition(version) for version in catalogue.techniques(db, coach.academy_id)]
    made = starts.made(db, coach.academy_id, [one.id for one in known])
    known = [starts.with_made(one, made.get(one.id, [])) for one in known]
    holds = curriculum.held_layers(db, known, who, row.held_on)
    taught = curriculum.taught_layers(db, coach.academy_id, [one.id for one in known])
    last = grades.last_taught(db, coach.academy_id)
    return [
        presenters.teachable_out(
            one,
            curriculum.next_of(one, taught.get(one.id, ()), {str(key.id): holds.get((key.id, one.id), set()) for key in who}),
            last,
        )
        for one in sorted(known, key=lambda one: one.names.main)
    ]


# --- running and booking ---------------------------------------------------------------------------


@router.post("/classes/{lesson_id}/clock")
def run_class(lesson_id: uuid.UUID, form: c.ActIn, coach: SignedIn, db: Db) -> c.ClassOut:
    """Start, pause, skip, go back or stop the clock of a class."""
    lessons.run(db, coach.academy_id, lesson_id, form.act, form.unit)
    return read_class(lesson_id, coach, db)


@router.put("/classes/{lesson_id}/came/{student_id}")
def tick_off(lesson_id: uuid.UUID, student_id: uuid.UUID, form: c.CameIn, coach: SignedIn, db: Db) -> c.ClassOut:
    """Say whether somebody came; null is not known."""
    return _lesson(db, coach.academy_id, lessons.tick_off(db, coach.academy_id, lesson_id, student_id, form.came))


@router.post("/classes/{lesson_id}/book")
def book_class(lesson_id: uuid.UUID, form: c.BookIn, coach: SignedIn, db: Db) -> c.ClassOut:
    """Book a class that was held: who came, and what was done."""
    row = lessons.book(db, coach.academy_id, lesson_id, form.came, form.done, coach.id)
    return _lesson(db, coach.academy_id, row)


# --- partners --------------------------------------------------------------------------------------


@router.get("/partners")
def read_rules(coach: SignedIn, db: Db) -> list[c.RuleOut]:
    """Who is kept apart, and who is allowed together against the rules."""
    return [
        c.RuleOut(one=row.student_id, one_name=one, other=row.other_id, other_name=other, rule=row.rule, why=row.why)
        for row, one, other in partners.rules(db, coach.academy_id)
    ]


@router.put("/partners")
def set_rule(form: c.RuleIn, coach: SignedIn, db: Db) -> list[c.RuleOut]:
    """Keep two apart, allow them together, or take the rule between them back."""
    partners.set_rule(db, coach.academy_id, form.one, form.other, form.rule, form.why, coach.id)
    return read_rules(coach, db)


# --- the floor -------------------------------------------------------------------------------------


@router.post("/floor", status_code=201)
def note_floor(form: c.FloorIn, coach: SignedIn, db: Db) -> s.Done:
    """Keep a note from the floor, for each of the students that it is about."""
    what = floor.Noted(
        **{key: getattr(form, key) for key in c.FloorIn.model_fields if key != "students"}, students=tuple(form.students)
    )
    floor.note(db, coach.academy_id, what, coach.id)
    return s.Done()


@router.get("/classes/{lesson_id}/floor")
def read_class_floor(lesson_id: uuid.UUID, coach: SignedIn, db: Db) -> list[c.FloorOut]:
    """The notes of a class, the newest first."""
    return [presenters.floor_out(one) for one in floor.of_lesson(db, coach.academy_id, lesson_id)]


@router.get("/students/{student_id}/floor")
def read_floor(student_id: uuid.UUID, coach: SignedIn, db: Db) -> list[c.FloorOut]:
    """The notes about a student, the newest first."""
    return [presenters.floor_out(one) for one in floor.of_student(db, coach.academy_id, student_id)]


@router.put("/floor/{note_id}/done")
def settle_floor(note_id: uuid.UUID, coach: SignedIn, db: Db) -> s.Done:
    """A question was answered, or a wish to film fulfilled."""
    floor.settle(db, coach.academy_id, note_id, True)
    return s.Done()


@router.delete("/floor/{note_id}/done")
def reopen_floor(note_id: uuid.UUID, coach: SignedIn, db: Db) -> s.Done:
    floor.settle(db, coach.academy_id, note_id, False)
    return s.Done()


@router.delete("/floor/{note_id}")
def remove_floor(note_id: uuid.UUID, coach: SignedIn, db: Db) -> s.Done:
    """Delete a note."""
    floor.remove(db, coach.academy_id, note_id)
    return s.Done()


# --- rounds ----------------------------------------------------------------------------------------


@router.get("/rounds")
def read_rounds(coach: SignedIn, db: Db, student: uuid.UUID | None = None) -> list[c.RoundOut]:
    """Rounds of the academy, or of one student, the newest first."""
    now = _now()
    return [presenters.round_out(one, now) for one in rounds.rounds(db, coach.academy_id, student)]


@router.get("/rounds/{round_id}")
def read_round(round_id: uuid.UUID, coach: SignedIn, db: Db) -> c.RoundOut:
    """A round with its numbers."""
    return presenters.round_out(rounds.one(db, coach.academy_id, round_id), _now())


@router.post("/rounds", status_code=201)
def add_round(form: c.RoundIn, coach: SignedIn, db: Db) -> c.RoundOut:
    """Keep a round: live, or a range of a clip."""
    values = {key: getattr(form, key) for key in c.RoundIn.model_fields}
    wish = rounds.Wish(**values, held_on=rounds.day_of(db, coach.academy_id, form.clip))
    return read_round(rounds.add(db, coach.academy_id, wish, coach.id).id, coach, db)


@router.delete("/rounds/{round_id}")
def remove_round(round_id: uuid.UUID, coach: SignedIn, db: Db) -> s.Done:
    """Delete a round with its tally; the clip stays."""
    rounds.remove(db, coach.academy_id, round_id)
    return s.Done()


@router.post("/rounds/{round_id}/clock")
def run_round(round_id: uuid.UUID, form: c.ActIn, coach: SignedIn, db: Db) -> c.RoundOut:
    """Start, pause, skip, go back or stop the clock of a live round."""
    rounds.run(db, coach.academy_id, round_id, form.act)
    return read_round(round_id, coach, db)


@router.post("/rounds/{round_id}/taps")
def tap_round(round_id: uuid.UUID, form: c.TapsIn, coach: SignedIn, db: Db) -> c.RoundOut:
    """Add taps to the tally, and take some back; what is sent twice counts once."""
    rounds.tap(db, coach.academy_id, round_id, form.taps, form.undo)
    return read_round(round_id, coach, db)
