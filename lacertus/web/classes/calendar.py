"""The week, its exceptions and members, private calendars, and the curriculum."""

from __future__ import annotations

import uuid
from datetime import UTC, date, datetime, timedelta
from typing import Annotated

from fastapi import APIRouter, Path, Query, Request, Response

from lacertus.outputs.calendar import feed_calendar
from lacertus.services.classes import calendar, curriculum, feeds, lessons
from lacertus.services.classes.calendar import WeeklyWish
from lacertus.services.people import academies, consents, people
from lacertus.web import schemas as s
from lacertus.web.classes import presenters
from lacertus.web.classes import schemas as c
from lacertus.web.session import Db, SignedIn, site_of

router = APIRouter(tags=["calendar"])
public = APIRouter(prefix="/calendar", include_in_schema=False)
TechniqueId = Annotated[str, Path(max_length=200)]
SHOWN_DAYS = 28


@router.get("/calendar")
def read_calendar(
    coach: SignedIn, db: Db, first: date | None = None, days: Annotated[int, Query(ge=1, le=120)] = SHOWN_DAYS
) -> c.CalendarOut:
    """Weekly classes, their exceptions, and every class of some days, from Monday of this week unless said."""
    today = academies.today(db, coach.academy_id)
    since = first or today - timedelta(days=today.weekday())
    until = since + timedelta(days=days - 1)
    return c.CalendarOut(
        today=today,
        weekly=[_weekly(row) for row in calendar.weekly_classes(db, coach.academy_id)],
        exceptions=[
            c.ExceptionOut(
                weekly=row.weekly_id, name=name, planned_on=row.planned_on, moved_to=row.moved_to, at=row.at, why=row.why
            )
            for row, name in calendar.exceptions(db, coach.academy_id, since)
        ],
        classes=[c.OnDayOut.model_validate(one) for one in lessons.on_days(db, coach.academy_id, since, until)],
        people=[
            c.MemberOut(id=one.id, name=one.name, is_child=consents.is_child(one, today))
            for one in people.students(db, coach.academy_id)
        ],
    )


def _weekly(row: object) -> c.WeeklyOut:
    own = {key: getattr(row, key) for key in c.WeeklyOut.model_fields}
    return c.WeeklyOut.model_validate(own | {"members": [one.student_id for one in own["members"]]})


def _wish(form: c.WeeklyIn) -> WeeklyWish:
    values = {key: getattr(form, key) for key in c.WeeklyIn.model_fields}
    return WeeklyWish(**values | {"equipment": tuple(form.equipment)})


@router.post("/classes/weekly", status_code=201)
def add_weekly(form: c.WeeklyIn, coach: SignedIn, db: Db) -> c.WeeklyOut:
    """Add a class that is held every week."""
    return _weekly(calendar.add(db, coach.academy_id, _wish(form)))


@router.put("/classes/weekly/{weekly_id}")
def change_weekly(weekly_id: uuid.UUID, form: c.WeeklyIn, coach: SignedIn, db: Db) -> c.WeeklyOut:
    """Change a weekly class; classes that are planned or held stay as they are."""
    return _weekly(calendar.change(db, coach.academy_id, weekly_id, _wish(form)))


@router.delete("/classes/weekly/{weekly_id}")
def remove_weekly(weekly_id: uuid.UUID, coach: SignedIn, db: Db) -> s.Done:
    """Delete a weekly class; what was planned and held stays."""
    calendar.remove(db, coach.academy_id, weekly_id)
    return s.Done()


@router.put("/classes/weekly/{weekly_id}/members")
def set_members(weekly_id: uuid.UUID, form: c.MembersIn, coach: SignedIn, db: Db) -> c.WeeklyOut:
    """Say who belongs to a weekly class."""
    return _weekly(calendar.set_members(db, coach.academy_id, weekly_id, form.students))


@router.put("/classes/weekly/{weekly_id}/days/{planned_on}")
def except_on(weekly_id: uuid.UUID, planned_on: date, form: c.ExceptionIn, coach: SignedIn, db: Db) -> s.Done:
    """Call a class off on a day, or move it."""
    calendar.except_on(db, coach.academy_id, weekly_id, planned_on, form.moved_to, form.at, form.why)
    return s.Done()


@router.delete("/classes/weekly/{weekly_id}/days/{planned_on}")
def as_usual(weekly_id: uuid.UUID, planned_on: date, coach: SignedIn, db: Db) -> s.Done:
    """Hold the class on that day as usual."""
    calendar.as_usual(db, coach.academy_id, weekly_id, planned_on)
    return s.Done()


# --- the curriculum --------------------------------------------------------------------------------


@router.get("/curriculum")
def read_curriculum(coach: SignedIn, db: Db) -> list[c.CurriculumRowOut]:
    """Each technique that a grade asks for: taught, filmed, who holds it, and what is next."""
    return [
        c.CurriculumRowOut(
            grade=row.grade, technique=row.technique.id, name=row.technique.names.main, rung=row.rung,
            last_taught=row.last_taught, last_filmed=row.last_filmed, students=row.students, holding=row.holding,
            interval=list(row.interval), next=presenters.next_out(row.next, row.technique),
        )
        for row in curriculum.table(db, coach.academy_id, academies.today(db, coach.academy_id))
    ]  # fmt: skip


@router.put("/students/{student_id}/layers/{technique}/{layer}")
def say_holds(
    student_id: uuid.UUID, technique: TechniqueId, layer: TechniqueId, form: c.LayerWordIn, coach: SignedIn, db: Db
) -> s.Done:
    """Keep the coach’s word that a student holds a layer, or does not; null leaves it to the rule."""
    on = academies.today(db, coach.academy_id)
    curriculum.say_holds(db, coach.academy_id, student_id, technique, layer, form.holds, coach.id, on)
    return s.Done()


# --- private calendars -----------------------------------------------------------------------------


def _address(request: Request, token: str) -> c.FeedOut:
    return c.FeedOut(address=f"{site_of(request)}/calendar/{token}.ics")


@router.post("/calendar/feed")
def read_feed(request: Request, coach: SignedIn, db: Db) -> c.FeedOut:
    """The secret address of one’s own calendar."""
    return _address(request, feeds.of_coach(db, coach.academy_id, coach.id))


@router.post("/calendar/feed/renew")
def renew_feed(request: Request, coach: SignedIn, db: Db) -> c.FeedOut:
    """A new address for one’s own calendar; the old one tells nothing any more."""
    return _address(request, feeds.renew_coach(db, coach.academy_id, coach.id))


@router.post("/students/{student_id}/feed")
def read_student_feed(student_id: uuid.UUID, request: Request, coach: SignedIn, db: Db) -> c.FeedOut:
    """The secret address of a student’s calendar, to pass on to them."""
    return _address(request, feeds.of_student(db, coach.academy_id, student_id))


@router.post("/students/{student_id}/feed/renew")
def renew_student_feed(student_id: uuid.UUID, request: Request, coach: SignedIn, db: Db) -> c.FeedOut:
    """A new address for a student’s calendar."""
    return _address(request, feeds.renew_student(db, coach.academy_id, student_id))


@public.get("/{token}.ics")
def read_ics(token: str, db: Db) -> Response:
    """A private calendar, for programs that read it again by themselves."""
    found = feeds.read(db, token)
    made = feed_calendar(found.name, found.time_zone, found.entries, datetime.now(UTC))
    return Response(made, media_type="text/calendar", headers={"Cache-Control": "private, no-store"})
