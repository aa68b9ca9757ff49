"""A class: its stations, what comes next, and its minutes filled around what is locked."""

from __future__ import annotations

from itertools import groupby

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.errors import BadInput
from lacertus.core.plan.filling import Locked, Wish, lay
from lacertus.core.plan.layers import what_next
from lacertus.core.plan.stations import FirstFix, stations_of


def fix(student: str, fault: str, family: str = "timing", technique: str = "kick") -> FirstFix:
    return FirstFix(student=student, technique=technique, fault=fault, family=family)


def test_the_same_fault_comes_before_the_same_family_and_nobody_is_alone_at_a_station() -> None:
    found = stations_of([fix("a", "late"), fix("b", "late"), fix("c", "early"), fix("d", "slow"), fix("e", "high", "reach")])
    assert [(one.fault, one.family, one.students) for one in found] == [
        ("late", "timing", ("a", "b")),
        ("", "timing", ("c", "d")),
    ]


def test_at_most_three_stations_and_the_largest_of_them() -> None:
    some = [fix(f"{fault}{n}", fault, fault) for fault, size in (("p", 2), ("q", 4), ("r", 3), ("s", 2)) for n in range(size)]
    assert [one.fault for one in stations_of(some)] == ["q", "r", "p"]


FIXES = st.lists(
    st.builds(
        FirstFix,
        student=st.sampled_from("abcdefghijkl"),
        technique=st.sampled_from(["kick", "throw"]),
        fault=st.sampled_from(["late", "low", "bent"]),
        family=st.sampled_from(["timing", "height"]),
    ),
    max_size=12,
    unique_by=lambda one: one.student,
)


@given(some=FIXES)
def test_stations_are_disjoint_of_two_at_least_and_of_one_kind(some: list[FirstFix]) -> None:
    found = stations_of(some)
    by_student = {one.student: one for one in some}
    at = [student for one in found for student in one.students]
    assert len(found) <= 3 and len(at) == len(set(at))
    for one in found:
        own = [by_student[student] for student in one.students]
        assert len(own) >= 2
        assert len({(x.technique, x.fault) if one.fault else x.family for x in own}) == 1
    if len(found) < 3:
        # Nobody is left out who shares a fault, or a family, with another who is left out.
        left = sorted(one.family for one in some if one.student not in at)
        assert all(len(list(group)) < 2 for _, group in groupby(left))


def test_the_next_layer_comes_when_seventy_of_a_hundred_hold_this_one() -> None:
    ten = [f"s{n}" for n in range(10)]

    def told(holding: int, taught: str | None = "gross") -> tuple[str | None, bool, str | None]:
        holds = {one: {"gross"} for one in ten[:holding]}
        found = what_next(["gross", "fine"], ["standing", "kneeling"], taught, ["standing"], holds, ten)
        return found.layer, found.is_new, found.start

    assert told(7) == ("fine", True, None)
    assert told(6) == ("gross", False, "kneeling")
    assert told(10, None) == ("gross", True, None)
    assert told(10, "gone") == ("gross", True, None)
    # The last layer is taught again, from the start that was used least lately.
    assert what_next(["gross"], ["a", "b"], "gross", ["b", "a"], {one: {"gross"} for one in ten}, ten).start == "b"
    assert what_next([], [], None, [], {}, []).layer is None


def wish(key: str, least: int = 5, usual: int = 10, most: int = 20, weight: float = 1.0) -> Wish:
    return Wish(key=key, least=least, usual=usual, most=most, weight=weight)


def laid(total: int, wishes: list[Wish], locked: list[Locked] | None = None) -> list[tuple[str | None, int, int]]:
    return [(one.key, one.at, one.minutes) for one in lay(total, wishes, locked or [])]


def test_units_are_stretched_or_shortened_and_the_lightest_is_left_out() -> None:
    assert laid(20, [wish("a"), wish("b")]) == [("a", 0, 10), ("b", 10, 10)]
    assert laid(24, [wish("a"), wish("b")]) == [("a", 0, 12), ("b", 12, 12)]
    assert laid(12, [wish("a"), wish("b")]) == [("a", 0, 6), ("b", 6, 6)]
    assert laid(9, [wish("a"), wish("b", weight=0.5)]) == [("a", 0, 9)]
    assert laid(50, [wish("a"), wish("b")]) == [("a", 0, 20), ("b", 20, 20), (None, 40, 10)]


def test_what_is_locked_stays_and_the_rest_comes_around_it() -> None:
    assert laid(40, [wish("a"), wish("b")], [Locked(key="x", at=12, minutes=8)]) == [
        ("a", 0, 12), ("x", 12, 8), ("b", 20, 20),
    ]  # fmt: skip
    assert laid(10, [wish("a")], [Locked(key="x", at=2, minutes=8)]) == [(None, 0, 2), ("x", 2, 8)]


@pytest.mark.parametrize("locked", [[(0, 10), (9, 5)], [(55, 10)], [(-3, 10)], [(5, 0)]])
def test_locked_units_that_cannot_be_kept_are_said(locked: list[tuple[int, int]]) -> None:
    with pytest.raises(BadInput, match="overlap or do not fit"):
        lay(60, [wish("a")], [Locked(key=str(n), at=at, minutes=minutes) for n, (at, minutes) in enumerate(locked)])


@st.composite
def classes(draw: st.DrawFn) -> tuple[int, list[Wish], list[Locked]]:
    total = draw(st.integers(1, 180))
    wishes = []
    for n in range(draw(st.integers(0, 7))):
        least = draw(st.integers(1, 15))
        usual = least + draw(st.integers(0, 15))
        most = usual + draw(st.integers(0, 20))
        wishes.append(Wish(key=f"w{n}", least=least, usual=usual, most=most, weight=draw(st.sampled_from([0.5, 1.0, 2.0]))))
    locked, at = [], 0
    for n in range(draw(st.integers(0, 3))):
        start = at + draw(st.integers(0, 40))
        minutes = draw(st.integers(1, 30))
        if start + minutes > total:
            break
        locked.append(Locked(key=f"l{n}", at=start, minutes=minutes))
        at = start + minutes
    return total, wishes, locked


@given(of=classes())
def test_the_minutes_are_filled_in_order_and_nothing_locked_moves(of: tuple[int, list[Wish], list[Locked]]) -> None:
    total, wishes, locked = of
    found = lay(total, wishes, locked)
    at = 0
    for one in found:
        assert one.at == at and one.minutes >= 1
        at += one.minutes
    assert at == total
    assert [(one.key, one.at, one.minutes) for one in found if any(one.key == lock.key for lock in locked)] == [
        (lock.key, lock.at, lock.minutes) for lock in locked
    ]
    own = [one for one in found if one.key and one.key.startswith("w")]
    limits = {one.key: one for one in wishes}
    assert [one.key for one in own] == sorted(one.key or "" for one in own)
    assert all(limits[one.key or ""].least <= one.minutes <= limits[one.key or ""].most for one in own)
    if not locked and wishes and sum(one.least for one in wishes) <= total:
        assert len(own) == len(wishes)
