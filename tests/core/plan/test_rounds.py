"""Rounds in numbers: counts, mix, the first and the last third, and games."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.plan.rounds import OUTCOMES, SIDES, Attempt, Side, Tap, game_of, poisson_interval, summary_of
from lacertus.core.progress.ledger import wilson


def attempt(at: float, side: str = "right", outcome: str = "completed", seconds: float = 2.0) -> Attempt:
    return Attempt(at_s=at, seconds=seconds, side=side, outcome=outcome)  # type: ignore[arg-type]


SIX = [
    attempt(5), attempt(12, "left", "blocked"), attempt(31, outcome="countered"), attempt(44, "left"),
    attempt(70, outcome="unknown", seconds=4), attempt(89.9, outcome="blocked", seconds=3),
]  # fmt: skip


def test_a_round_of_six_attempts_by_hand() -> None:
    found = summary_of(SIX, 90)
    assert (found.over_all.attempts, found.over_all.completed, found.over_all.blocked, found.over_all.countered) == (6, 2, 2, 1)
    assert found.completed is not None
    assert (found.completed.count, found.completed.of) == (2, 5)
    assert (found.mix["left"].rate, found.mix["left"].interval) == (2 / 6, wilson(2, 6))
    assert found.by_side["left"].completed == 1
    assert (found.first.attempts, found.first.a_minute, found.last.attempts, found.last.median_s) == (2, 4.0, 2, 3.5)
    assert found.first.interval == pytest.approx((2 * 0.2422, 2 * 7.2247), abs=1e-3)


def test_nothing_tried_is_told_as_nothing() -> None:
    found = summary_of([], 90)
    assert (found.completed, found.mix, found.first.median_s, found.first.a_minute) == (None, {}, None, 0.0)
    assert found.first.interval[0] == 0 and found.first.interval[1] == pytest.approx(2 * 3.6889, abs=1e-3)


@given(count=st.integers(0, 60))
def test_the_interval_of_a_count_cuts_off_a_fortieth_on_each_side(count: int) -> None:
    low, high = poisson_interval(count)

    def at_most(n: int, mean: float) -> float:
        return math.fsum(math.exp(-mean + k * math.log(mean) - math.lgamma(k + 1)) for k in range(n + 1))

    assert at_most(count, high) == pytest.approx(0.025, abs=1e-6)
    if count:
        assert 1 - at_most(count - 1, low) == pytest.approx(0.025, abs=1e-6)


ATTEMPT = st.builds(
    Attempt,
    at_s=st.floats(-5, 130),
    seconds=st.floats(0.1, 9),
    side=st.sampled_from(SIDES),
    outcome=st.sampled_from(OUTCOMES),
)


@given(some=st.lists(ATTEMPT, max_size=20), seconds=st.integers(1, 120))
def test_sides_add_up_and_no_attempt_is_in_two_thirds(some: list[Attempt], seconds: int) -> None:
    found = summary_of(some, seconds)
    inside = [one for one in some if 0 <= one.at_s < seconds]
    assert found.over_all.attempts == len(inside) == sum(own.attempts for own in found.by_side.values())
    assert sum(own.count for own in found.mix.values()) == len(inside)
    middle = [one for one in inside if seconds / 3 <= one.at_s < 2 * (seconds / 3)]
    assert found.first.attempts + found.last.attempts + len(middle) == len(inside)


def tap(key: str, round: int, by: str, side: Side = "right", outcome: str = "completed") -> Tap:
    return Tap.model_validate({"key": key, "round": round, "at_s": 1, "by": by, "side": side, "outcome": outcome})


def test_a_game_is_won_round_by_round_and_a_draw_is_nobodys() -> None:
    taps = [tap("1", 1, "a"), tap("2", 1, "a", "left"), tap("3", 1, "b"), tap("4", 2, "b", outcome="blocked"), tap("5", 3, "b")]
    found = game_of([*taps, tap("6", 3, "stranger")], ["a", "b"], 3)
    assert found.rounds == ({"a": 2, "b": 1}, {"a": 0, "b": 0}, {"a": 0, "b": 1})
    assert (found.wins, found.draws) == ({"a": 1, "b": 1}, 1)
    assert found.by_side["a"] == {"left": 1, "right": 1, "middle": 0}
