"""The academy's week: weekly classes, days on which one is called off or moved, who belongs to which, and training days."""

from __future__ import annotations

import uuid
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from functools import cache
from typing import Any

from sqlalchemy import Select, Uuid, bindparam, delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, selectinload

from lacertus.core.errors import BadInput
from lacertus.core.plan.calendar import LOOK_AHEAD_DAYS, Occurrence, Otherwise, Weekly, next_training_day, occurrences
from lacertus.core.texts import checked_name, checked_text
from lacertus.services.days import checked_day
from lacertus.services.errors import NotFound
from lacertus.services.people import people
from lacertus.services.people.rights import Right, needs
from lacertus.store.tables import ClassException, ClassMember, Student, WeeklyClass

MOST_CLASSES = 200
LONGEST_MINUTES = 600
MOST_MATS = 200
LONGEST_SPAN = 400


@dataclass(frozen=True, kw_only=True)
class WeeklyWish:
    """What a weekly class is to be. `at` is the minute of the day, `weekday` 0 is Monday, `mats` are pairs at once."""

    name: str
    weekday: int
    at: int
    minutes: int
    mats: int
    since: date
    until: date | None = None
    for_children: bool = False
    equipment: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class ClassOn:
    """A class of the calendar on a day."""

    weekly: WeeklyClass
    on: date
    at: int
    minutes: int
    planned_on: date
    is_moved: bool


def weekly_classes(db: Session, academy: uuid.UUID) -> list[WeeklyClass]:
    """The weekly classes of an academy by day and time, with their members."""
    return list(db.scalars(_weekly_of(), {"academy": academy}))


@cache
def _weekly_of() -> Select[WeeklyClass]:
    own = select(WeeklyClass).where(WeeklyClass.academy_id == bindparam("academy", type_=Uuid()))
    own = own.options(selectinload(WeeklyClass.members))
    return own.order_by(WeeklyClass.weekday, WeeklyClass.at, WeeklyClass.name)


def weekly_class(db: Session, academy: uuid.UUID, weekly_id: uuid.UUID) -> WeeklyClass:
    """One weekly class with its members. Raises NotFound where there is none."""
    own = select(WeeklyClass).where(WeeklyClass.academy_id == academy, WeeklyClass.id == weekly_id)
    found = db.scalar(own.options(selectinload(WeeklyClass.members)))
    if found is None:
        raise NotFound("There is no such class in your academy.")
    return found


def _checked(wish: WeeklyWish) -> dict[str, Any]:
    checked_day(wish.since, "the first day")
    if wish.until is not None and checked_day(wish.until, "the last day") < wish.since:
        raise BadInput("the last day comes before the first; nothing was stored")
    for value, low, high, what in (
        (wish.weekday, 0, 6, "the weekday"),
        (wish.at, 0, 1439, "the time"),
        (wish.minutes, 1, LONGEST_MINUTES, "the length in minutes"),
        (wish.mats, 1, MOST_MATS, "how many pairs train at once"),
    ):
        if not low <= value <= high:
            raise BadInput(f"{what} lies outside {low} to {high}; nothing was stored")
    if len(wish.equipment) > people.MOST_WORDS:
        raise BadInput(f"at most {people.MOST_WORDS} pieces of equipment; nothing was stored")
    return {
        "name": checked_name(wish.name, "the class’s name", 120),
        "equipment": [checked_name(one, "a piece of equipment", 60) for one in wish.equipment],
        **{key: getattr(wish, key) for key in ("weekday", "at", "minutes", "mats", "since", "until", "for_children")},
    }


@needs(Right.PLAN)
def add(db: Session, academy: uuid.UUID, wish: WeeklyWish) -> WeeklyClass:
    """Add a weekly class. Raises BadInput where it cannot be."""
    values = _checked(wish)
    if (db.scalar(select(func.count()).where(WeeklyClass.academy_id == academy)) or 0) >= MOST_CLASSES:
        raise BadInput(f"an academy has at most {MOST_CLASSES} weekly classes; nothing was stored")
    row = WeeklyClass(academy_id=academy, **values)
    db.add(row)
    db.flush()
    return weekly_class(db, academy, row.id)


@needs(Right.PLAN)
def change(db: Session, academy: uuid.UUID, weekly_id: uuid.UUID, wish: WeeklyWish) -> WeeklyClass:
    """Change a weekly class; classes that are planned or held stay as they are. Raises as `add`, or NotFound."""
    row = weekly_class(db, academy, weekly_id)
    for name, value in _checked(wish).items():
        setattr(row, name, value)
    db.flush()
    return row


@needs(Right.PLAN)
def remove(db: Session, academy: uuid.UUID, weekly_id: uuid.UUID) -> None:
    """Delete a weekly class; what was planned and held stays."""
    db.delete(weekly_class(db, academy, weekly_id))
    db.flush()


@needs(Right.PLAN)
def set_members(db: Session, academy: uuid.UUID, weekly_id: uuid.UUID, students: Collection[uuid.UUID]) -> WeeklyClass:
    """Say who belongs to a weekly class. Raises NotFound where one is not of the academy."""
    row = weekly_class(db, academy, weekly_id)
    wanted = set(students)
    known = set(db.scalars(select(Student.id).where(Student.academy_id == academy, Student.id.in_(wanted))))
    if known != wanted:
        raise NotFound("One of these students is not in your academy. Nothing was changed.")
    here = {member.student_id for member in row.members}
    db.execute(delete(ClassMember).where(ClassMember.weekly_id == weekly_id, ClassMember.student_id.in_(here - wanted)))
    for student in sorted(wanted - here):
        db.execute(insert(ClassMember).values(weekly_id=weekly_id, student_id=student).on_conflict_do_nothing())
    db.expire_all()
    return weekly_class(db, academy, weekly_id)


@needs(Right.PLAN)
def except_on(
    db: Session, academy: uuid.UUID, weekly_id: uuid.UUID, planned_on: date, moved_to: date | None, at: int | None, why: str = ""
) -> None:
    """Call a class off on a day, or move it to another day or time.

    Raises:
        BadInput: the class is not held on that day anyway.
        NotFound: no such class.
    """
    row = weekly_class(db, academy, weekly_id)
    checked_day(planned_on, "the day")
    held = occurrences([_weekly(row)], (), planned_on.toordinal(), planned_on.toordinal())
    if not held:
        raise BadInput(f"“{row.name}” is not held on {planned_on.isoformat()}; nothing was changed")
    if moved_to is not None:
        checked_day(moved_to, "the new day")
    if at is not None and not 0 <= at <= 1439:
        raise BadInput("the time lies outside the day; nothing was changed")
    told = checked_text(why, "the reason", 200) if why.strip() else ""
    values = {"moved_to": moved_to, "at": at if moved_to is not None else None, "why": told}
    put = insert(ClassException).values(weekly_id=weekly_id, planned_on=planned_on, **values)
    db.execute(put.on_conflict_do_update(index_elements=["weekly_id", "planned_on"], set_=values))
    db.expire_all()


@needs(Right.PLAN)
def as_usual(db: Session, academy: uuid.UUID, weekly_id: uuid.UUID, planned_on: date) -> None:
    """Take an exception back. Raises NotFound where there is no such class."""
    weekly_class(db, academy, weekly_id)
    gone = (ClassException.weekly_id == weekly_id, ClassException.planned_on == planned_on)
    db.execute(delete(ClassException).where(*gone))
    db.expire_all()


def exceptions(db: Session, academy: uuid.UUID, since: date) -> list[tuple[ClassException, str]]:
    """The exceptions from a day on, with the names of their classes."""
    own = select(ClassException, WeeklyClass.name).join(WeeklyClass, WeeklyClass.id == ClassException.weekly_id)
    later = own.where(WeeklyClass.academy_id == academy, ClassException.planned_on >= since).order_by(ClassException.planned_on)
    return [(row, name) for row, name in db.execute(later)]


def _weekly(row: WeeklyClass) -> Weekly:
    until = row.until.toordinal() if row.until else None
    return Weekly(id=str(row.id), weekday=row.weekday, at=row.at, minutes=row.minutes, since=row.since.toordinal(), until=until)


def _otherwise(db: Session, rows: Iterable[WeeklyClass]) -> list[Otherwise]:
    ids = [row.id for row in rows]
    if not ids:
        return []
    return [
        Otherwise(
            weekly=str(one.weekly_id),
            on=one.planned_on.toordinal(),
            moved_to=one.moved_to.toordinal() if one.moved_to else None,
            at=one.at,
        )
        for one in db.scalars(select(ClassException).where(ClassException.weekly_id.in_(ids)))
    ]


def between(db: Session, academy: uuid.UUID, first: date, last: date) -> list[ClassOn]:
    """Every class of an academy from a day to another, both included.

    Raises:
        BadInput: more than some four hundred days are asked for.
    """
    checked_day(first, "the first day")
    checked_day(last, "the last day")
    if (last - first).days > LONGEST_SPAN:
        raise BadInput(f"at most {LONGEST_SPAN} days can be looked at once")
    rows = weekly_classes(db, academy)
    by_id = {str(row.id): row for row in rows}
    found = occurrences([_weekly(row) for row in rows], _otherwise(db, rows), first.toordinal(), last.toordinal())
    return [_class_on(by_id[one.weekly], one) for one in found]


def _class_on(row: WeeklyClass, one: Occurrence) -> ClassOn:
    return ClassOn(
        weekly=row,
        on=date.fromordinal(one.on),
        at=one.at,
        minutes=one.minutes,
        planned_on=date.fromordinal(one.planned_on),
        is_moved=one.is_moved,
    )


class TrainingDays:
    """On which days the students of an academy train, from a day on: asked of the database once for all of them."""

    def __init__(self, db: Session, academy: uuid.UUID, today: date) -> None:
        held = between(db, academy, today, today + timedelta(days=2 * LOOK_AHEAD_DAYS))
        self._today = today
        self._days: dict[uuid.UUID, list[int]] = {}
        for one in held:
            for member in one.weekly.members:
                self._days.setdefault(member.student_id, []).append(one.on.toordinal())

    def of(self, student: uuid.UUID) -> tuple[int, ...]:
        """The student's class days that are known, ordinals."""
        return tuple(self._days.get(student, ()))

    def due(self, student: uuid.UUID, wanted: int) -> int:
        """The student's first class day on or after a day (an ordinal); a day that is past stands as it is."""
        return wanted if wanted < self._today.toordinal() else next_training_day(self._days.get(student, ()), wanted)

    def next(self, student: uuid.UUID) -> date | None:
        """The student's next class day, today included; None where they belong to no class."""
        days = self._days.get(student)
        return date.fromordinal(min(days)) if days else None


def classes_of(db: Session, academy: uuid.UUID) -> Mapping[uuid.UUID, Sequence[WeeklyClass]]:
    """By student, the weekly classes that they belong to."""
    found: dict[uuid.UUID, list[WeeklyClass]] = {}
    for row in weekly_classes(db, academy):
        for member in row.members:
            found.setdefault(member.student_id, []).append(row)
    return found
