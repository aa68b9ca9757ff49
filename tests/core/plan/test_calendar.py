"""Weekly classes and their exceptions, and the next training day, held against a walk over every day."""

from __future__ import annotations

from datetime import date

from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.plan.calendar import Otherwise, Weekly, next_training_day, occurrences

MONDAY = date(2026, 11, 30).toordinal()


def weekly(id: str = "m", weekday: int = 0, since: int = MONDAY, until: int | None = None) -> Weekly:
    return Weekly(id=id, weekday=weekday, at=18 * 60, minutes=90, since=since, until=until)


def days(*args: object, **more: object) -> list[int]:
    return [one.on for one in occurrences(*args, **more)]  # type: ignore[arg-type]


def test_a_class_is_on_its_weekday_from_its_first_day_to_its_last() -> None:
    assert days([weekly()], [], MONDAY - 20, MONDAY + 14) == [
        MONDAY, MONDAY + 7, MONDAY + 14,
    ]  # fmt: skip
    assert days([weekly(until=MONDAY + 6)], [], MONDAY, MONDAY + 30) == [MONDAY]


def test_one_is_called_off_and_one_moved_out_of_and_into_the_days_asked_for() -> None:
    second, third = MONDAY + 7, MONDAY + 14
    off = [Otherwise(weekly="m", on=MONDAY), Otherwise(weekly="m", on=second, moved_to=second + 2, at=600)]
    assert days([weekly()], off, MONDAY, third) == [second + 2, third]
    (moved,) = occurrences([weekly()], off, second + 1, second + 3)
    assert (moved.at, moved.planned_on, moved.is_moved) == (600, second, True)
    assert days([weekly()], off, second, second) == []


def test_what_is_due_waits_for_the_next_class_but_not_for_months() -> None:
    some = [MONDAY, MONDAY + 3, MONDAY + 200]
    assert next_training_day(some, MONDAY) == MONDAY
    assert next_training_day(some, MONDAY + 1) == MONDAY + 3
    assert next_training_day(some, MONDAY + 10) == MONDAY + 10
    assert next_training_day([], MONDAY) == MONDAY


NEAR = st.integers(-20, 40).map(lambda n: MONDAY + n)
WEEKLY = st.builds(
    Weekly,
    id=st.sampled_from("abcd"),
    weekday=st.integers(0, 6),
    at=st.integers(0, 1439),
    minutes=st.just(60),
    since=NEAR,
    until=st.none() | NEAR,
)
OTHERWISE = st.builds(
    Otherwise, weekly=st.sampled_from("abcd"), on=NEAR, moved_to=st.none() | NEAR, at=st.none() | st.integers(0, 1439)
)


@given(
    some=st.lists(WEEKLY, max_size=3, unique_by=lambda one: one.id),
    other=st.lists(OTHERWISE, max_size=4, unique_by=lambda one: (one.weekly, one.on)),
    first=NEAR,
    length=st.integers(0, 30),
)
def test_every_day_looked_at_one_by_one_gives_the_same(some: list[Weekly], other: list[Otherwise], first: int, length: int) -> None:
    last = first + length
    wanted = []
    for one in some:
        for n in range(-60, 120):
            day = MONDAY + n
            if date.fromordinal(day).weekday() != one.weekday or day < one.since or (one.until is not None and day > one.until):
                continue
            rule = next((o for o in other if (o.weekly, o.on) == (one.id, day)), None)
            if rule is None:
                wanted.append((day, one.at, one.id))
            elif rule.moved_to is not None:
                wanted.append((rule.moved_to, one.at if rule.at is None else rule.at, one.id))
    found = [(one.on, one.at, one.weekly) for one in occurrences(some, other, first, last)]
    assert found == sorted(row for row in wanted if first <= row[0] <= last)
