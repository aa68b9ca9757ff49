"""The academy over months: rates and paces by hand, and what holds of them whatever the numbers."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st
from pytest import approx

from lacertus.core.academy.over_months import Missed, Worked, paces, rates
from lacertus.core.progress.ledger import wilson

JANUARY, FEBRUARY = 1000, 1031


def missed(month: int, students: int, misses: int, exposures: int) -> Missed:
    return Missed(month=month, students=students, misses=misses, exposures=exposures)


def test_reps_of_one_student_count_less() -> None:
    first, second = rates([missed(FEBRUARY, 1, 1, 4), missed(JANUARY, 2, 6, 15)])
    assert (first.month, first.misses, first.exposures, first.rate) == (JANUARY, 6, 15, 0.4)
    # Two students with seven and a half reps each: 1 + 0.2 × 6.5.
    assert first.interval == approx(wilson(6, 15, 2.3))
    assert (second.month, second.rate, second.interval) == (FEBRUARY, 0.25, approx(wilson(1, 4, 1.6)))


def test_a_month_in_which_nothing_was_asked_is_a_gap() -> None:
    assert rates([missed(JANUARY, 0, 0, 0)]) == ()


@given(st.dictionaries(st.integers(0, 9), st.tuples(st.integers(1, 40), st.integers(0, 400), st.integers(0, 400))))
def test_the_rate_lies_in_its_interval_and_more_students_tell_more(months: dict[int, tuple[int, int, int]]) -> None:
    rows = [missed(month, min(students, n), min(m, n), n) for month, (students, m, n) in months.items()]
    found = rates(rows)
    assert [point.month for point in found] == sorted(one.month for one in rows if one.exposures)
    assert all(0 <= point.interval[0] <= point.rate <= point.interval[1] <= 1 for point in found)
    # The order in which rows come tells nothing.
    assert rates(rows[::-1]) == found
    apart = rates([missed(one.month, one.exposures, one.misses, one.exposures) for one in rows])
    widths = [point.interval[1] - point.interval[0] for point in found]
    assert all(far.interval[1] - far.interval[0] <= width + 1e-9 for far, width in zip(apart, widths, strict=True))


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
