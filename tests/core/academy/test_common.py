"""Faults common among students, hand-worked."""

from __future__ import annotations

import pytest

from lacertus.core.academy.common_faults import FaultCounts, StudentCounts, common_faults


def of(counts: list[tuple[str, int, int]], fault: str = "low") -> FaultCounts:
    """Each of `counts` is a student with misses and exposures."""
    return FaultCounts(
        technique="kick",
        fault=fault,
        family="half range",
        safety=False,
        asked=len([exposures for _, _, exposures in counts if exposures >= 2]),
        exposures=sum(exposures for _, _, exposures in counts),
        misses=sum(misses for _, misses, _ in counts),
        students=[StudentCounts(student, exposures, misses) for student, misses, exposures in counts if misses >= 2],
    )


@pytest.mark.parametrize(
    ("counts", "asked", "sharing", "teaching"),
    [
        pytest.param([("a", 2, 3), ("b", 2, 3), ("c", 2, 3)], 3, "abc", True, id="all three share it"),
        pytest.param([("a", 2, 3), ("b", 2, 3), ("c", 0, 3)], 3, "ab", False, id="two may be chance"),
        pytest.param([(s, 2, 3) for s in "abc"] + [(s, 0, 3) for s in "def"], 6, "abc", False, id="half are not most"),
        pytest.param([(s, 2, 3) for s in "abc"] + [(s, 0, 3) for s in "de"], 5, "abc", True, id="three of five are most"),
        pytest.param([("a", 1, 3), ("b", 2, 7), ("c", 3, 10)], 3, "c", False, id="once, or under 0.3, is not shared"),
    ],
)
def test_who_shares_a_fault_and_whether_the_teaching_is_asked(
    counts: list[tuple[str, int, int]], asked: int, sharing: str, teaching: bool
) -> None:
    (found,) = common_faults([of(counts)])
    assert (found.asked, "".join(found.sharing), found.teaching) == (asked, sharing, teaching)
    assert found.exposures == sum(n for _, _, n in counts)
    assert found.interval[0] <= len(sharing) / asked <= found.interval[1]


def test_what_is_shared_by_most_comes_first_and_what_nobody_missed_is_left_out() -> None:
    counts = [of([("a", 0, 9)], "never"), of([("a", 1, 9)], "rare")]
    counts += [of([(s, 3, 3) for s in "abcd"] + [(s, 0, 3) for s in "efgh"], "widespread")]
    counts += [of([(s, 2, 3) for s in "abc"], "shared")]
    assert [one.fault for one in common_faults(counts)] == ["shared", "widespread", "rare"]


def test_of_nothing_there_is_nothing() -> None:
    assert common_faults([]) == ()
