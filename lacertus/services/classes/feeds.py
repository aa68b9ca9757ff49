"""Private calendars: a coach's and a student's, each behind a secret address that can be renewed."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from lacertus.core.plan.practice import WINDOW_DAYS
from lacertus.outputs.calendar import Entry
from lacertus.services import site
from lacertus.services.classes import calendar
from lacertus.services.days import day_at
from lacertus.services.errors import NotFound
from lacertus.services.people import people
from lacertus.services.people.rights import Right, needs
from lacertus.services.practice import known, prescriptions
from lacertus.store import apart
from lacertus.store.tables import Academy, Account, CalendarFeed, ClassMember, Lesson, Student

SALT = "lacertus-calendar"
AHEAD_DAYS, BACK_DAYS = 120, 14


@dataclass(frozen=True, kw_only=True)
class Feed:
    """A calendar with its name, its academy's time zone, and its entries."""

    name: str
    time_zone: str
    entries: tuple[Entry, ...]


def of_coach(db: Session, academy: uuid.UUID, account: uuid.UUID) -> str:
    """The token of a coach's calendar, made the first time that it is asked for."""
    return _token(db, academy, account=account)


@needs(Right.SHARE)
def of_student(db: Session, academy: uuid.UUID, student_id: uuid.UUID) -> str:
    """The token of a student's calendar, for a coach who passes it on. Raises NotFound where there is no such student."""
    people.student(db, academy, student_id)
    return _token(db, academy, student=student_id)


def of_own_page(db: Session, student: Student) -> str:
    """The token of a student's calendar, as their own page shows it."""
    return _token(db, student.academy_id, student=student.id)


def _token(db: Session, academy: uuid.UUID, account: uuid.UUID | None = None, student: uuid.UUID | None = None) -> str:
    own = select(CalendarFeed).where(
        CalendarFeed.academy_id == academy,
        CalendarFeed.account_id == account,
        CalendarFeed.student_id == student,
        CalendarFeed.revoked_at.is_(None),
    )
    row = db.scalar(own.order_by(CalendarFeed.created_at, CalendarFeed.id).limit(1))
    if row is None:
        row = CalendarFeed(academy_id=academy, account_id=account, student_id=student)
        db.add(row)
        db.flush()
    return site.token_of(db, SALT, row.id)


def renew_coach(db: Session, academy: uuid.UUID, account: uuid.UUID) -> str:
    """A new address for a coach's calendar; the old one tells nothing any more."""
    _revoke(db, CalendarFeed.account_id == account)
    return _token(db, academy, account=account)


@needs(Right.SHARE)
def renew_student(db: Session, academy: uuid.UUID, student_id: uuid.UUID) -> str:
    """A new address for a student's calendar. Raises NotFound where there is no such student."""
    people.student(db, academy, student_id)
    _revoke(db, CalendarFeed.student_id == student_id)
    return _token(db, academy, student=student_id)


def _revoke(db: Session, whose: object) -> None:
    live = update(CalendarFeed).where(whose, CalendarFeed.revoked_at.is_(None))  # type: ignore[arg-type]
    db.execute(live.values(revoked_at=datetime.now(UTC)))
    db.flush()


def read(db: Session, token: str) -> Feed:
    """What stands in a calendar.

    Raises:
        NotFound: the address was renewed, or was never one.
    """
    key = site.link_of(db, SALT, token)
    row = db.get(CalendarFeed, key) if key is not None else None
    if row is None or row.revoked_at is not None:
        raise NotFound("There is no calendar at this address any more. Ask for the new one.")
    apart.work_for(db, row.academy_id)
    academy = db.get_one(Academy, row.academy_id)
    today = day_at(academy)
    if row.account_id is not None:
        account = db.get_one(Account, row.account_id)
        if account.left_at is not None:
            raise NotFound("There is no calendar at this address any more. Ask for the new one.")
        entries = [*_classes(db, academy, today, None), *_rechecks(db, academy, today, people.students(db, academy.id), named=True)]
        return Feed(name=f"{academy.name}: {account.name}", time_zone=academy.time_zone, entries=tuple(entries))
    assert row.student_id is not None
    student = people.student(db, academy.id, row.student_id)
    entries = [
        *_classes(db, academy, today, student.id),
        *_rechecks(db, academy, today, [student], named=False),
        *_practice(db, student, today),
    ]
    return Feed(name=f"{academy.name}: {student.name}", time_zone=academy.time_zone, entries=tuple(entries))


def _classes(db: Session, academy: Academy, today: date, student: uuid.UUID | None) -> list[Entry]:
    """The classes of the academy, or those that a student belongs to; and those that belong to no weekly class, for coaches."""
    first, last = today - timedelta(days=BACK_DAYS), today + timedelta(days=AHEAD_DAYS)
    own = None
    if student is not None:
        own = set(db.scalars(select(ClassMember.weekly_id).where(ClassMember.student_id == student)))
    found = [
        Entry(
            key=f"class-{one.weekly.id}-{one.planned_on.isoformat()}", on=one.on, at=one.at, minutes=one.minutes,
            summary=one.weekly.name, words="Moved from its usual day" if one.is_moved else "",
        )
        for one in calendar.between(db, academy.id, first, last)
        if own is None or one.weekly.id in own
    ]  # fmt: skip
    if student is None:
        once = select(Lesson).where(
            Lesson.academy_id == academy.id, Lesson.weekly_id.is_(None), Lesson.held_on.between(first, last)
        )
        found += [
            Entry(key=f"lesson-{row.id}", on=row.held_on, at=row.at, minutes=row.minutes, summary=row.name)
            for row in db.scalars(once)
        ]
    return found


def _rechecks(db: Session, academy: Academy, today: date, students: list[Student], *, named: bool) -> list[Entry]:
    """When faults are to be looked at again, each on the student's training day; one entry a student and technique and day."""
    days = calendar.TrainingDays(db, academy.id, today)
    last = (today + timedelta(days=AHEAD_DAYS)).toordinal()
    found: dict[tuple[uuid.UUID, str, int], list[str]] = {}
    known_now = known.of_students(db, academy.id, students)
    names = {one.id: one.name for one in students}
    for student, own in known_now.items():
        for one in own.faults:
            if one.recheck is not None:
                due = max(days.due(student, one.recheck), today.toordinal())
                if due <= last:
                    found.setdefault((student, one.technique_name, due), []).append(one.ask)
    return [
        Entry(
            key=f"recheck-{student}-{technique}",
            on=date.fromordinal(due),
            summary=f"{f'{names[student]}: ' if named else ''}film {technique} again",
            words="To look at: " + "; ".join(asks),
        )
        for (student, technique, due), asks in found.items()
    ]


def _practice(db: Session, student: Student, today: date) -> list[Entry]:
    """What is prescribed, on each of the days of the next four weeks on which it is to be done, spread over the week."""
    found = []
    for row in prescriptions.open_of(db, student.id):
        for ahead in range(WINDOW_DAYS):
            day = today + timedelta(days=ahead)
            times = min(7, row.times_a_week)
            # So many of the seven days, as evenly as they go.
            is_on = (day.weekday() * times) // 7 != ((day.weekday() - 1) * times) // 7 if times < 7 else True
            if is_on and (row.until is None or day <= row.until):
                found.append(
                    Entry(
                        key=f"practice-{row.id}-{day.isoformat()}", on=day, summary=f"Practise: {row.name}",
                        words=f"{row.dose.words}. {row.how}",
                    )
                )  # fmt: skip
    return found
