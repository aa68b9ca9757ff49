"""Classes on a day: planned, changed, paired, run, and booked afterwards."""

from __future__ import annotations

import uuid
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime
from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, selectinload

from lacertus.core.errors import BadInput
from lacertus.core.plan.clock import Act, Where, after, where
from lacertus.core.plan.lesson import MOST_UNITS, PlannedPairs, Teach, Unit
from lacertus.core.plan.practice import amount_of
from lacertus.core.texts import checked_name
from lacertus.services.classes import calendar, curriculum, making, partners
from lacertus.services.days import checked_day, day_at
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.people import people
from lacertus.services.people.rights import Right, needs
from lacertus.store.tables import Academy, Attendance, Lesson, PracticeLog, Prescription, Student, Taught, TrainedWith

MOST_TAUGHT = 8
MOST_COMING = 300


@dataclass(frozen=True, kw_only=True)
class Change:
    """What is changed of a class; None leaves it as it is."""

    name: str | None = None
    held_on: date | None = None
    at: int | None = None
    minutes: int | None = None
    mats: int | None = None
    for_children: bool | None = None
    equipment: tuple[str, ...] | None = None
    teach: tuple[Teach, ...] | None = None
    coming: tuple[uuid.UUID, ...] | None = None
    units: tuple[Unit, ...] | None = None
    pairs: PlannedPairs | None = None


def lesson(db: Session, academy: uuid.UUID, lesson_id: uuid.UUID, *, lock: bool = False) -> Lesson:
    """A class with who is expected. Raises NotFound where there is none."""
    own = select(Lesson).where(Lesson.academy_id == academy, Lesson.id == lesson_id).options(selectinload(Lesson.attendance))
    found = db.scalar(own.with_for_update(of=Lesson) if lock else own)
    if found is None:
        raise NotFound("There is no such class in your academy.")
    return found


def between(db: Session, academy: uuid.UUID, first: date, last: date) -> list[Lesson]:
    """The classes that are planned or held from a day to another."""
    own = select(Lesson).where(Lesson.academy_id == academy, Lesson.held_on.between(first, last))
    return list(db.scalars(own.order_by(Lesson.held_on, Lesson.at, Lesson.name)))


@dataclass(frozen=True, kw_only=True)
class OnDay:
    """A class of the calendar, planned or not, or one that belongs to no weekly class (`weekly` is None)."""

    weekly: uuid.UUID | None
    planned_on: date | None
    lesson: uuid.UUID | None
    on: date
    at: int
    minutes: int
    name: str
    moved: bool
    units: int
    booked: bool


def on_days(db: Session, academy: uuid.UUID, first: date, last: date) -> list[OnDay]:
    """Everything that is held from a day to another, by day and time."""
    planned = between(db, academy, first, last)
    by_day = {(row.weekly_id, row.planned_on): row for row in planned if row.weekly_id is not None}
    found = []
    for one in calendar.between(db, academy, first, last):
        row = by_day.pop((one.weekly.id, one.planned_on), None)
        found.append(
            OnDay(
                weekly=one.weekly.id, planned_on=one.planned_on, lesson=row.id if row else None, on=one.on, at=one.at,
                minutes=one.minutes, name=one.weekly.name, moved=one.is_moved, units=len(row.units) if row else 0,
                booked=bool(row and row.booked_at),
            )
        )  # fmt: skip
    # What is left belongs to no weekly class, or to a day on which that is not held any more.
    rest = [row for row in planned if row.weekly_id is None or row in by_day.values()]
    found += [
        OnDay(
            weekly=row.weekly_id, planned_on=row.planned_on, lesson=row.id, on=row.held_on, at=row.at, minutes=row.minutes,
            name=row.name, moved=False, units=len(row.units), booked=row.booked_at is not None,
        )
        for row in rest
    ]  # fmt: skip
    return sorted(found, key=lambda one: (one.on, one.at, one.name))


@needs(Right.PLAN)
def plan_weekly(db: Session, academy: uuid.UUID, weekly_id: uuid.UUID, planned_on: date, account: uuid.UUID | None) -> Lesson:
    """The class of a weekly class on one of its days: as it is planned already, or begun with those who came last time.

    Raises:
        BadInput: the class is not held on that day.
        NotFound: no such class.
    """
    weekly = calendar.weekly_class(db, academy, weekly_id)
    found = db.scalar(select(Lesson.id).where(Lesson.weekly_id == weekly_id, Lesson.planned_on == planned_on))
    if found is not None:
        return lesson(db, academy, found)
    held = next((one for one in _held(db, academy, planned_on) if one.weekly.id == weekly_id), None)
    if held is None:
        raise BadInput(f"“{weekly.name}” is not held on {planned_on.isoformat()}; nothing was planned")
    put = insert(Lesson).values(
        id=uuid.uuid4(), academy_id=academy, account_id=account, weekly_id=weekly_id, planned_on=planned_on, held_on=held.on,
        at=held.at, minutes=held.minutes, name=weekly.name, mats=weekly.mats, for_children=weekly.for_children,
        equipment=list(weekly.equipment), teach=(), units=(), version=1,
    )  # fmt: skip
    # Two who open it at once plan one class.
    db.execute(put.on_conflict_do_nothing(index_elements=["weekly_id", "planned_on"]))
    key = db.scalar(select(Lesson.id).where(Lesson.weekly_id == weekly_id, Lesson.planned_on == planned_on))
    assert key is not None
    _expect(db, key, _usual(db, weekly_id, [member.student_id for member in weekly.members]))
    return lesson(db, academy, key)


def _held(db: Session, academy: uuid.UUID, planned_on: date) -> list[calendar.ClassOn]:
    """The classes that belong to a day, also those that were moved from it."""
    moved = [
        row.moved_to for row, _ in calendar.exceptions(db, academy, planned_on) if row.planned_on == planned_on and row.moved_to
    ]
    days = {planned_on, *moved}
    return [one for day in days for one in calendar.between(db, academy, day, day) if one.planned_on == planned_on]


def _usual(db: Session, weekly_id: uuid.UUID, members: Sequence[uuid.UUID]) -> set[uuid.UUID]:
    """Who is expected: who came to the last class of this weekly class that was booked, else its members."""
    last = select(Lesson.id).where(Lesson.weekly_id == weekly_id, Lesson.booked_at.is_not(None))
    booked = db.scalar(last.order_by(Lesson.held_on.desc()).limit(1))
    if booked is None:
        return set(members)
    came = select(Attendance.student_id).join(Student, Student.id == Attendance.student_id)
    return set(db.scalars(came.where(Attendance.lesson_id == booked, Attendance.came.is_(True), Student.archived_at.is_(None))))


def _expect(db: Session, lesson_id: uuid.UUID, students: Iterable[uuid.UUID]) -> None:
    for student in sorted(students):
        db.execute(insert(Attendance).values(lesson_id=lesson_id, student_id=student).on_conflict_do_nothing())
    db.flush()
    db.expire_all()


@needs(Right.PLAN)
def plan_once(
    db: Session, academy: uuid.UUID, name: str, on: date, at: int, minutes: int, mats: int, account: uuid.UUID | None
) -> Lesson:
    """A class that belongs to no weekly class. Raises BadInput where it cannot be."""
    row = Lesson(
        academy_id=academy,
        account_id=account,
        held_on=checked_day(on, "the day"),
        name=checked_name(name, "the class’s name", 120),
        **_checked({"at": at, "minutes": minutes, "mats": mats}),
    )
    db.add(row)
    db.flush()
    return lesson(db, academy, row.id)


def _checked(values: dict[str, int]) -> dict[str, int]:
    limits = {"at": (0, 1439), "minutes": (1, calendar.LONGEST_MINUTES), "mats": (1, calendar.MOST_MATS)}
    words = {"at": "the time", "minutes": "the length in minutes", "mats": "how many pairs train at once"}
    for key, value in values.items():
        low, high = limits[key]
        if not low <= value <= high:
            raise BadInput(f"{words[key]} lies outside {low} to {high}; nothing was stored")
    return values


@needs(Right.PLAN)
def remove(db: Session, academy: uuid.UUID, lesson_id: uuid.UUID) -> None:
    """Delete a class with its attendance and what was logged in it.

    Raises:
        NotFound: no such class.
    """
    row = lesson(db, academy, lesson_id, lock=True)
    _take_back(db, row)
    db.delete(row)
    db.flush()


@needs(Right.PLAN)
def change(db: Session, academy: uuid.UUID, lesson_id: uuid.UUID, version: int, what: Change) -> Lesson:
    """Change a class.

    Raises:
        BadInput: something cannot be.
        Conflict: somebody else changed it since `version`; nothing was changed.
        NotFound: no such class, or a student who is not of the academy.
    """
    row = _for_change(db, academy, lesson_id, version)
    numbers = {key: value for key in ("at", "minutes", "mats") if (value := getattr(what, key)) is not None}
    for key, value in _checked(numbers).items():
        setattr(row, key, value)
    if what.name is not None:
        row.name = checked_name(what.name, "the class’s name", 120)
    if what.held_on is not None:
        row.held_on = checked_day(what.held_on, "the day")
    if what.for_children is not None:
        row.for_children = what.for_children
    if what.equipment is not None:
        row.equipment = [checked_name(one, "a piece of equipment", 60) for one in what.equipment[: people.MOST_WORDS]]
    if what.teach is not None:
        row.teach = _checked_teaching(db, academy, what.teach)
    if what.units is not None:
        row.units = _checked_units(what.units)
    if what.coming is not None:
        _set_coming(db, academy, row, what.coming)
    if what.pairs is not None:
        row.pairs = _checked_pairs(db, academy, row, what.pairs)
    row.version += 1
    db.flush()
    return lesson(db, academy, lesson_id)


def _for_change(db: Session, academy: uuid.UUID, lesson_id: uuid.UUID, version: int) -> Lesson:
    row = lesson(db, academy, lesson_id, lock=True)
    if row.version != version:
        raise Conflict("Somebody else has changed this class meanwhile. Nothing was changed; load the page again.")
    return row


def _checked_teaching(db: Session, academy: uuid.UUID, teach: Sequence[Teach]) -> tuple[Teach, ...]:
    if len(teach) > MOST_TAUGHT:
        raise BadInput(f"a class teaches at most {MOST_TAUGHT} things; nothing was changed")
    for one in teach:
        technique = curriculum.find_technique(db, academy, one.technique)
        if one.layer and technique.layer(one.layer) is None:
            raise BadInput(f"“{technique.names.main}” has no such layer; nothing was changed")
        if one.start and technique.start(one.start) is None:
            raise BadInput(f"“{technique.names.main}” has no such start; nothing was changed")
    return tuple(teach)


def _checked_units(units: Sequence[Unit]) -> tuple[Unit, ...]:
    if len(units) > MOST_UNITS or len({one.key for one in units}) < len(units):
        raise BadInput(f"a class has at most {MOST_UNITS} units, each once; nothing was changed")
    return tuple(units)


def _set_coming(db: Session, academy: uuid.UUID, row: Lesson, coming: Collection[uuid.UUID]) -> None:
    wanted = set(coming)
    known = set(db.scalars(select(Student.id).where(Student.academy_id == academy, Student.id.in_(wanted))))
    if known != wanted:
        raise NotFound("One of these students is not in your academy. Nothing was changed.")
    if len(wanted) > MOST_COMING:
        raise BadInput(f"at most {MOST_COMING} students come to a class; nothing was changed")
    here = {one.student_id for one in row.attendance}
    db.execute(delete(Attendance).where(Attendance.lesson_id == row.id, Attendance.student_id.in_(here - wanted)))
    if row.pairs is not None and not _named_in(row.pairs) <= wanted:
        # Somebody in a pair does not come: pairs are made anew.
        row.pairs = None
    key = row.id
    db.flush()
    _expect(db, key, wanted - here)


def _named_in(pairs: PlannedPairs) -> set[uuid.UUID]:
    return {student for pair in pairs.pairs for student in (*pair.students, pair.third) if student is not None}


def _checked_pairs(db: Session, academy: uuid.UUID, row: Lesson, pairs: PlannedPairs) -> PlannedPairs:
    """Pairs as a coach arranged them: whoever has passed no fall is still not thrown."""
    named = [one for pair in pairs.pairs for one in (*pair.students, pair.third) if one is not None]
    here = {one.student_id for one in lesson(db, academy, row.id).attendance}
    if len(named) != len(set(named)) or not set(named) <= here:
        raise BadInput("each of those who come is in one pair at most; nothing was changed")
    wrong = partners.not_fit_to_be_thrown(db, academy, pairs, row_techniques(db, academy, row))
    if wrong:
        raise BadInput(f"{', '.join(wrong)}: has passed no fall that fits, and is not thrown. Nothing was changed")
    return pairs


def row_techniques(db: Session, academy: uuid.UUID, row: Lesson) -> list[Any]:
    """The techniques that a class teaches, in their order."""
    names = dict.fromkeys(one.technique for one in row.teach)
    return [curriculum.find_technique(db, academy, name) for name in names]


# --- making it -------------------------------------------------------------------------------------


def coming(db: Session, row: Lesson) -> list[Student]:
    """Who is expected, or came, by name."""
    ids = [one.student_id for one in row.attendance if one.came is not False]
    return list(db.scalars(select(Student).where(Student.id.in_(ids)).order_by(Student.name, Student.id)))


def everybody(db: Session, row: Lesson) -> list[Student]:
    """Everybody on the list of a class, also who did not come, by name."""
    ids = [one.student_id for one in row.attendance]
    return list(db.scalars(select(Student).where(Student.id.in_(ids)).order_by(Student.name, Student.id)))


@needs(Right.PLAN)
def make(db: Session, academy: uuid.UUID, lesson_id: uuid.UUID, version: int) -> Lesson:
    """Make the plan of a class anew: units that are locked stay where they are. Raises as `change`."""
    row = _for_change(db, academy, lesson_id, version)
    at, locked = 0, []
    for unit in row.units:
        if unit.locked:
            locked.append((at, unit))
        at += unit.minutes
    today = day_at(db.get_one(Academy, academy))
    plan = making.Plan(
        minutes=row.minutes, teach=row.teach, coming=tuple(coming(db, row)), for_children=row.for_children, locked=tuple(locked)
    )
    row.units = making.make(db, academy, plan, today)
    row.version += 1
    db.flush()
    return lesson(db, academy, lesson_id)


@needs(Right.PLAN)
def pair(db: Session, academy: uuid.UUID, lesson_id: uuid.UUID, version: int) -> Lesson:
    """Pair those who come. Raises as `change`."""
    row = _for_change(db, academy, lesson_id, version)
    row.pairs = partners.pairs_for(db, academy, coming(db, row), row_techniques(db, academy, row), row, row.held_on)
    row.version += 1
    db.flush()
    return lesson(db, academy, lesson_id)


# --- running it ------------------------------------------------------------------------------------


def lengths_s(row: Lesson) -> list[float]:
    return [60.0 * unit.minutes for unit in row.units]


def now_in(row: Lesson, now: float | None = None) -> Where:
    """Where a running class is at a moment (seconds since the epoch), or now."""
    return where(row.clock, lengths_s(row), datetime.now(UTC).timestamp() if now is None else now)


@needs(Right.FLOOR)
def run(db: Session, academy: uuid.UUID, lesson_id: uuid.UUID, act: Act, unit: int | None = None) -> Lesson:
    """Start, pause, skip, go back or stop the clock of a class.

    `unit` is where whoever acts believes the class to be: to skip a unit that is over already changes nothing.

    Raises:
        BadInput: it has no units, or is over.
        NotFound: no such class.
    """
    row = lesson(db, academy, lesson_id, lock=True)
    now = datetime.now(UTC).timestamp()
    if act in ("skip", "back") and unit is not None and where(row.clock, lengths_s(row), now).unit != unit:
        return row
    row.clock = after(row.clock, act, lengths_s(row), now)
    db.flush()
    return row


@needs(Right.FLOOR)
def tick_off(db: Session, academy: uuid.UUID, lesson_id: uuid.UUID, student_id: uuid.UUID, came: bool | None) -> Lesson:
    """Say whether somebody came; None is not known. Who was not expected is added.

    Raises:
        NotFound: no such class or student.
    """
    row = lesson(db, academy, lesson_id, lock=True)
    student = people.student(db, academy, student_id)
    put = insert(Attendance).values(lesson_id=row.id, student_id=student.id, came=came)
    db.execute(put.on_conflict_do_update(index_elements=["lesson_id", "student_id"], set_={"came": came}))
    db.expire_all()
    return lesson(db, academy, lesson_id)


# --- booking it ------------------------------------------------------------------------------------


@needs(Right.PLAN)
def book(
    db: Session,
    academy: uuid.UUID,
    lesson_id: uuid.UUID,
    came: Collection[uuid.UUID],
    done: Collection[str],
    account: uuid.UUID | None,
) -> Lesson:
    """Book a class that was held: who came, which units were done. Booked again it takes the place of what was booked before.

    It notes what was taught, writes the practice log of everyone present, and remembers who trained with whom.

    Raises:
        BadInput: it lies in the future.
        NotFound: no such class, or a student who is not of the academy.
    """
    row = lesson(db, academy, lesson_id, lock=True)
    today = day_at(db.get_one(Academy, academy))
    if row.held_on > today:
        raise BadInput("this class has not been held yet; nothing was booked")
    _take_back(db, row)
    here = set(came)
    known = set(db.scalars(select(Student.id).where(Student.academy_id == academy, Student.id.in_(here))))
    if known != here:
        raise NotFound("One of these students is not in your academy. Nothing was booked.")
    for student in sorted(here | {one.student_id for one in row.attendance}):
        put = insert(Attendance).values(lesson_id=row.id, student_id=student, came=student in here)
        db.execute(put.on_conflict_do_update(index_elements=["lesson_id", "student_id"], set_={"came": student in here}))
    units = [unit for unit in row.units if unit.key in set(done)]
    for technique in dict.fromkeys(unit.technique for unit in units if unit.technique and unit.kind in ("technique", "fall")):
        noted = insert(Taught).values(academy_id=academy, technique=technique, taught_on=row.held_on, account_id=account)
        db.execute(noted.on_conflict_do_nothing())
    _log(db, row, units, here, account)
    for one, other in sorted(partners.trained_pairs(row.pairs, here)):
        db.execute(insert(TrainedWith).values(lesson_id=row.id, student_id=one, other_id=other).on_conflict_do_nothing())
    row.booked_at = datetime.now(UTC)
    row.clock = row.clock.model_copy(update={"running": False, "over": True})
    row.version += 1
    db.flush()
    db.expire_all()
    return lesson(db, academy, lesson_id)


def _take_back(db: Session, row: Lesson) -> None:
    """Delete what an earlier booking wrote. What was noted as taught stays where another class taught it that day."""
    db.execute(delete(PracticeLog).where(PracticeLog.lesson_id == row.id))
    db.execute(delete(TrainedWith).where(TrainedWith.lesson_id == row.id))
    if row.booked_at is None:
        return
    others = select(Lesson).where(
        Lesson.academy_id == row.academy_id, Lesson.held_on == row.held_on, Lesson.id != row.id, Lesson.booked_at.is_not(None)
    )
    elsewhere = {unit.technique for other in db.scalars(others) for unit in other.units}
    own = {unit.technique for unit in row.units if unit.technique} - elsewhere
    db.execute(
        delete(Taught).where(
            Taught.academy_id == row.academy_id, Taught.taught_on == row.held_on, Taught.technique.in_(sorted(own))
        )
    )


def _log(db: Session, row: Lesson, units: Sequence[Unit], came: set[uuid.UUID], account: uuid.UUID | None) -> None:
    """The practice log of everyone present: the units of a technique, and the drills of the stations that they were at."""
    own = select(Prescription).where(Prescription.student_id.in_(came), Prescription.since <= row.held_on)
    open_then = [one for one in db.scalars(own) if one.ended_on is None or one.ended_on >= row.held_on]

    def write(student: uuid.UUID, technique: str, name: str, amount: int) -> None:
        match = next((one for one in open_then if (one.student_id, one.name) == (student, name)), None)
        db.add(
            PracticeLog(
                student_id=student, prescription_id=match.id if match else None, lesson_id=row.id, account_id=account,
                done_on=row.held_on, technique=match.technique if match else technique, drill=match.drill if match else "",
                name=name, amount=amount, place="class", said_by="class",
            )
        )  # fmt: skip

    for unit in units:
        at_station = {student for station in unit.stations for student in station.students}
        for station in unit.stations:
            for student in sorted(came & set(station.students)):
                write(student, unit.technique, station.drill, amount_of(station.dose) if station.dose else 0)
        if unit.kind in ("technique", "fall", "round") or (unit.kind == "drill" and not unit.stations):
            for student in sorted(came - at_station):
                write(student, unit.technique, unit.name, amount_of(unit.dose) if unit.dose else 0)
    db.flush()
