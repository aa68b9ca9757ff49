"""The coach's queue: hand-worked cases, and every set of items tried."""

from __future__ import annotations

from fractions import Fraction
from itertools import combinations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lacertus.core.plan.queue import Item, Queue, queue_of

ON = 1000


def item(id: str, severity: float = 1.0, days: int = 0, minutes: float = 1.0, safety: bool = False) -> Item:
    return Item(id=id, severity=severity, since=ON - days, minutes=minutes, safety=safety)


def ids(queue: Queue) -> tuple[list[str], list[str]]:
    return [one.id for one in queue.chosen], [one.id for one in queue.left]


def test_a_week_overdue_counts_twice_and_nothing_counts_less_before_its_day() -> None:
    assert float(item("a", 2.5, 7).priority(ON)) == 5.0
    assert float(item("a", 2.0, 14).priority(ON)) == 6.0
    assert float(item("a", 2.0, -30).priority(ON)) == 2.0


def test_without_minutes_all_is_chosen_safety_first_then_by_priority() -> None:
    found = queue_of([item("b"), item("a"), item("c", 3), item("s", 0.5, safety=True)], ON)
    assert ids(found) == (["s", "c", "a", "b"], [])
    assert (found.minutes, found.priority) == (4.0, 5.5)


def test_of_equal_priority_the_older_comes_first_then_the_smaller_id() -> None:
    old = Item(id="z", severity=1.0, since=ON - 7, minutes=1)
    new = Item(id="a", severity=2.0, since=ON, minutes=1)
    same = Item(id="b", severity=2.0, since=ON, minutes=1)
    assert ids(queue_of([same, new, old], ON))[0] == ["z", "a", "b"]


def test_the_set_that_is_worth_most_fits_and_not_the_one_thing_worth_most() -> None:
    found = queue_of([item("big", 5, minutes=5), item("one", 3, minutes=3), item("two", 3, minutes=3)], ON, 6)
    assert ids(found) == (["one", "two"], ["big"])


def test_safety_is_chosen_before_anything_else_and_what_does_not_fit_is_passed_over() -> None:
    some = [item("long", 6, 70, 20, True), item("short", 6, 0, 2, True), item("other", 50, minutes=9)]
    assert ids(queue_of(some, ON, 10)) == (["short"], ["long", "other"])
    assert ids(queue_of(some, ON, 11)) == (["short", "other"], ["long"])


def test_minutes_are_rounded_up_to_halves() -> None:
    found = queue_of([item("a", minutes=1.1), item("b", minutes=1.5)], ON, 3)
    assert (ids(found)[0], found.minutes) == (["a", "b"], 3.0)
    assert ids(queue_of([item("a", minutes=1.1)], ON, 1.4))[0] == []


def test_equal_sums_take_fewer_minutes_then_the_smallest_ids() -> None:
    assert ids(queue_of([item("slow", 2, minutes=3), item("x", minutes=1), item("y", minutes=1)], ON, 3))[0] == ["x", "y"]
    assert ids(queue_of([item("c"), item("b"), item("a")], ON, 2))[0] == ["a", "b"]
    # As they are written, 0.1 + 0.2 is 0.3.
    assert ids(queue_of([item("t", 0.3, minutes=2), item("u", 0.1), item("v", 0.2)], ON, 2))[0] == ["t"]


def slowly(some: list[Item], minutes: float) -> tuple[list[str], list[str]]:
    """The rules again, by trying every set."""
    halves = {one.id: -(-Fraction(str(one.minutes)) * 2 // 1) for one in some}
    worth = {one.id: Fraction(str(one.severity)) * (1 + Fraction(max(0, ON - one.since), 7)) for one in some}
    room = Fraction(str(minutes)) * 2 // 1
    taken = []
    for one in sorted((one for one in some if one.safety), key=lambda one: (-worth[one.id], one.since, one.id)):
        if halves[one.id] <= room:
            taken.append(one.id)
            room -= halves[one.id]
    rest = sorted(one.id for one in some if not one.safety)
    every = (chosen for count in range(len(rest) + 1) for chosen in combinations(rest, count))
    sets = [chosen for chosen in every if sum(halves[i] for i in chosen) <= room]
    taken += min(sets, key=lambda chosen: (-sum(worth[i] for i in chosen), sum(halves[i] for i in chosen), chosen))
    order = sorted(some, key=lambda one: (not one.safety, -worth[one.id], one.since, one.id))
    return [one.id for one in order if one.id in taken], [one.id for one in order if one.id not in taken]


ITEMS = st.lists(
    st.builds(
        Item,
        id=st.sampled_from("abcdefgh"),
        severity=st.sampled_from([0.5, 1.0, 2.0, 2.5, 3.0, 5.0, 6.0]),
        since=st.integers(ON - 30, ON + 5),
        minutes=st.sampled_from([0.5, 1.0, 1.2, 2.0, 3.5, 7.0]),
        safety=st.booleans(),
    ),
    max_size=8,
    unique_by=lambda one: one.id,
)


@given(ITEMS, st.sampled_from([0.0, 0.9, 2.0, 5.5, 9.0, 30.0]))
@settings(max_examples=300, deadline=None)
def test_it_chooses_as_one_who_tries_every_set(some: list[Item], minutes: float) -> None:
    found = queue_of(some, ON, minutes)
    assert ids(found) == slowly(some, minutes)
    assert found.minutes <= minutes


@pytest.mark.parametrize("minutes", [0.0, 0.4])
def test_with_no_time_nothing_is_chosen(minutes: float) -> None:
    assert ids(queue_of([item("a"), item("s", safety=True)], ON, minutes)) == ([], ["s", "a"])
