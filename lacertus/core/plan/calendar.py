"""Weekly classes with their exceptions, and on which day somebody trains next. Days are ordinals, times minutes of the day."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

LOOK_AHEAD_DAYS = 60
"""A training day further off than this is not waited for: the day itself stands. A convention."""


def weekday(day: int) -> int:
    """The weekday of an ordinal, 0 being Monday: day 1 was one (proleptic Gregorian calendar)."""
    return (day - 1) % 7


@dataclass(frozen=True, kw_only=True)
class Weekly:
    """A class that is held every week: on a weekday (0 is Monday), at a time, from a day on, up to a last day or still."""

    id: str
    weekday: int
    at: int
    minutes: int
    since: int
    until: int | None = None


@dataclass(frozen=True, kw_only=True)
class Otherwise:
    """One day of a weekly class that is otherwise: called off, or moved to another day and time."""

    weekly: str
    on: int
    moved_to: int | None = None
    at: int | None = None


@dataclass(frozen=True, kw_only=True)
class Occurrence:
    """A class on a day. `planned_on` is the day on which it would be without an exception, by which it is known."""

    weekly: str
    on: int
    at: int
    minutes: int
    planned_on: int

    @property
    def is_moved(self) -> bool:
        return self.on != self.planned_on


def occurrences(weekly: Iterable[Weekly], exceptions: Iterable[Otherwise], first: int, last: int) -> tuple[Occurrence, ...]:
    """Every class from the first day to the last, both included, in order of day, time and id."""
    otherwise = {(one.weekly, one.on): one for one in exceptions}
    found = []
    for one in weekly:
        # A day that was moved may come from outside these days.
        moved = [day for (key, day), other in otherwise.items() if key == one.id and other.moved_to is not None]
        for day in {*_days(one, first, last), *(day for day in moved if _is_held(one, day))}:
            other = otherwise.get((one.id, day))
            if other is not None and other.moved_to is None:
                continue
            on = other.moved_to if other is not None and other.moved_to is not None else day
            at = other.at if other is not None and other.at is not None else one.at
            if first <= on <= last:
                found.append(Occurrence(weekly=one.id, on=on, at=at, minutes=one.minutes, planned_on=day))
    return tuple(sorted(found, key=lambda one: (one.on, one.at, one.weekly, one.planned_on)))


def _days(one: Weekly, first: int, last: int) -> Iterator[int]:
    """The days of a weekly class from one day to another."""
    start = max(first, one.since)
    end = min(last, one.until) if one.until is not None else last
    yield from range(start + (one.weekday - weekday(start)) % 7, end + 1, 7)


def _is_held(one: Weekly, day: int) -> bool:
    return weekday(day) == one.weekday and one.since <= day and (one.until is None or day <= one.until)


def next_training_day(days: Sequence[int], wanted: int) -> int:
    """The first class day on or after the day that is wanted; the day itself where there is none within 60 days.

    Args:
        days: a student's class days, in any order.
        wanted: the day of a recheck, or the day on which a prescription is looked at.
    """
    later = [day for day in days if wanted <= day <= wanted + LOOK_AHEAD_DAYS]
    return min(later, default=wanted)
