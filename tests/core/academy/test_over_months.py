"""The academy over months: rates and paces by hand, and what holds of them whatever the numbers."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st
from pytest import approx

from lacertus.core.academy.over_months import Missed, Worked, paces, rates
from lacertus.core.progress.ledger import wilson

JANUARY, FEBRUARY = 1000, 1031


def missed(month: int, student: str, misses: int, exposures: int) -> Missed:
    return Missed(month=month, student=student, misses=misses, exposures=exposures)


def test_a_month_is_added_up_over_students_and_reps_of_one_student_count_less() -> None:
    first, second = rates(
        [missed(FEBRUARY, "a", 1, 4), missed(JANUARY, "a", 3, 5), missed(JANUARY, "b", 1, 5), missed(JANUARY, "a", 2, 5)]
    )
    assert (first.month, first.misses, first.exposures, first.rate) == (JANUARY, 6, 15, 0.4)
    # Two students with seven and a half reps each: 1 + 0.2 × 6.5.
    assert first.interval == approx(wilson(6, 15, 2.3))
    assert (second.month, second.rate, second.interval) == (FEBRUARY, 0.25, approx(wilson(1, 4, 1.6)))


def test_a_month_in_which_nothing_was_asked_is_a_gap() -> None:
    assert rates([missed(JANUARY, "a", 0, 0)]) == ()


@given(st.lists(st.tuples(st.integers(0, 4), st.sampled_from("abc"), st.integers(0, 9), st.integers(0, 9)), max_size=40))
def test_every_rep_is_counted_once_and_the_rate_lies_in_its_interval(rows: list[tuple[int, str, int, int]]) -> None:
    given_rows = [missed(month, student, min(m, n), n) for month, student, m, n in rows]
    found = rates(given_rows)
    assert [point.month for point in found] == sorted({one.month for one in given_rows if one.exposures})
    assert sum(point.exposures for point in found) == sum(one.exposures for one in given_rows)
    assert sum(point.misses for point in found) == sum(one.misses for one in given_rows)
    assert all(0 <= point.interval[0] <= point.rate <= point.interval[1] <= 1 for point in found)
    # The order in which rows come tells nothing.
    assert rates(given_rows[::-1]) == found


def test_a_coachs_pace_is_the_median_of_the_reviews_of_a_month() -> None:
    found = paces(
        [
            Worked(month=JANUARY, minutes=10, reps=5),
            Worked(month=JANUARY, minutes=3, reps=1),
            Worked(month=JANUARY, minutes=8, reps=2),
            Worked(month=JANUARY, minutes=0, reps=4),
            Worked(month=FEBRUARY, minutes=4, reps=0),
        ]
    )
    (only,) = found
    assert (only.month, only.reviews, only.minutes, only.low, only.high) == (JANUARY, 3, 3.0, 2.5, 3.5)
