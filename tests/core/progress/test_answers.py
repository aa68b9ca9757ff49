"""Reaction → answer → outcome, latencies with their intervals, and success by option, start and choice."""

from __future__ import annotations

import pytest
from hypothesis import event as noted
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import binom

from lacertus.core.progress.answers import Answered, Ended, answer_tables, latency_of, success_by


def answered(answer: str | None, verdict: str = "met", latency: float | None = 300.0, completed: bool | None = None) -> Answered:
    return Answered(
        day=1, technique="arm-drag", reaction="turns", answer=answer, verdict=verdict, latency_ms=latency, completed=completed
    )


def test_a_reaction_lists_its_answers_with_times_latency_and_outcome() -> None:
    rows = [
        answered("circles", latency=200.0, completed=True),
        answered("circles", latency=400.0, completed=False),
        answered("circles", latency=300.0),
        answered("pulls", "missed", 250.0, completed=False),
        answered(None, "missed", None),
        answered(None, "not_seen", None),
    ]
    (table,) = answer_tables(rows)
    assert table.held is not None and (table.held.count, table.held.of) == (3, 5)
    by = {row.answer: row for row in table.answers}
    assert [row.answer for row in table.answers] == ["circles", None, "pulls"]
    assert (by["circles"].times.count, by["circles"].times.of) == (3, 6)
    assert by["circles"].latency is not None and by["circles"].latency.median_ms == 300.0
    assert by["circles"].completed is not None and (by["circles"].completed.count, by["circles"].completed.of) == (1, 2)
    assert by[None].latency is None and by[None].completed is None


def test_the_commonest_reaction_comes_first_and_techniques_stay_apart() -> None:
    rows = [answered("circles"), Answered(day=1, technique="duck-under", reaction="turns", answer="back", verdict="met")]
    rows += [Answered(day=2, technique="duck-under", reaction="turns", answer="back", verdict="met")]
    assert [(one.technique, one.answers[0].times.count) for one in answer_tables(rows)] == [("duck-under", 2), ("arm-drag", 1)]


def test_reps_of_one_day_are_alike_and_widen_the_interval() -> None:
    same = answer_tables([answered("a") for _ in range(8)])[0].held
    apart = answer_tables([Answered(day=day, technique="t", reaction="r", answer="a", verdict="met") for day in range(8)])[0].held
    assert same is not None and apart is not None
    assert same.rate == apart.rate == 1.0 and same.interval[0] < apart.interval[0]


@pytest.mark.parametrize(
    ("values", "middle", "interval"),
    [
        ([], None, None),
        ([300], 300, (300, 300)),
        ([100, 300], 200, (100, 300)),
        ([1, 2, 3, 4, 5], 3, (1, 5)),
        ([1, 2, 3, 4, 5, 6], 3.5, (1, 6)),
        (list(range(1, 21)), 10.5, (6, 15)),
    ],
)
def test_a_median_with_its_interval(values: list[float], middle: float | None, interval: tuple[float, float] | None) -> None:
    """Of 20 values the ranks 6 and 15 hold the median in 95.9 % of samples (binomial, by hand)."""
    found = latency_of(values)
    assert (found and found.median_ms, found and found.interval_ms) == (middle, interval)


@given(st.lists(st.floats(0, 5000), min_size=6, max_size=60))
def test_the_interval_holds_the_median_in_at_least_95_of_100_samples(values: list[float]) -> None:
    found = latency_of(values)
    assert found is not None
    low, high = (sorted(values).index(end) + 1 for end in found.interval_ms)
    noted(f"{len(values) // 10 * 10} values")
    assert found.interval_ms[0] <= found.median_ms <= found.interval_ms[1]
    n = len(values)
    if len(set(values)) == n:
        assert binom.cdf(high - 1, n, 0.5) - binom.cdf(low - 1, n, 0.5) >= 0.949


def test_success_is_told_by_what_differs() -> None:
    reps = [
        Ended(day=1, technique="t", completed=True, facts={"take": "back", "start": "the beginning"}),
        Ended(day=2, technique="t", completed=False, facts={"take": "leg", "start": "the beginning"}),
        Ended(day=3, technique="t", completed=True, facts={"take": "leg", "start": "the beginning"}),
    ]
    (found,) = success_by(reps)
    assert found.group == "take", "where all began alike there is nothing to hold against each other"
    assert [(name, share.count, share.of) for name, share in found.choices] == [("back", 1, 1), ("leg", 1, 2)]
