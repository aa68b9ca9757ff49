"""Bias, scatter and rates with their intervals: known ones are found within them as often as they say."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.eye.spread import LEAST_EVENTS, alarms_of, own_events_s, rate_of, spread_of
from lacertus.core.measuring.timebase import MARKING_SCATTER_S

RUNS = 2000


def test_by_hand() -> None:
    """Errors −20, 0, 10, 30 ms: mean 5, s = √(1300 ÷ 3) = 20.817; t(3) = 3.182, χ²(3) = 9.348 and 0.216."""
    found = spread_of([-20.0, 0.0, 10.0, 30.0])
    assert (found.n, found.bias) == (4, 5.0)
    assert found.scatter == pytest.approx(20.817, abs=1e-3)
    assert found.bias_within == pytest.approx((5 - 3.1824 * 20.8167 / 2, 5 + 3.1824 * 20.8167 / 2), abs=0.01)
    assert found.scatter_within == pytest.approx(((3 * 433.333 / 9.3484) ** 0.5, (3 * 433.333 / 0.21580) ** 0.5), abs=0.02)
    assert spread_of([3.0]).bias is None and spread_of([]).n == 0


@pytest.mark.parametrize("n", [5, 20, 60])
def test_a_learner_whose_bias_and_scatter_are_known_is_found_within_the_intervals(n: int) -> None:
    chance = np.random.default_rng(24)
    bias, scatter = -35.0, 22.0
    held = np.zeros(2)
    for _ in range(RUNS):
        found = spread_of((bias + scatter * chance.standard_normal(n)).tolist())
        assert found.bias_within is not None and found.scatter_within is not None
        held += [
            found.bias_within[0] <= bias <= found.bias_within[1],
            found.scatter_within[0] <= scatter <= found.scatter_within[1],
        ]
    # 95 % of 2,000 runs, give or take three standard errors of the count.
    assert np.all(np.abs(held / RUNS - 0.95) < 3 * np.sqrt(0.95 * 0.05 / RUNS)), held / RUNS


@given(st.lists(st.floats(-500, 500), min_size=2, max_size=40), st.floats(-100, 100))
def test_all_later_by_so_much_moves_the_bias_alone(errors: list[float], later: float) -> None:
    before, after = spread_of(errors), spread_of([error + later for error in errors])
    assert before.bias is not None and after.bias is not None
    assert after.bias - before.bias == pytest.approx(later, abs=1e-6)
    assert after.scatter == pytest.approx(before.scatter, abs=1e-6)


def test_hits_and_false_alarms_by_checkpoint() -> None:
    answers = [("knee", "knee", ("knee", "hip")), ("hip", "knee", ("knee", "hip")), ("knee", "none", ("knee", "hip"))]
    hip, knee = alarms_of(answers)
    assert (hip.checkpoint, hip.hits.n, hip.hits.of, hip.false_alarms.n, hip.false_alarms.of) == ("hip", 0, 0, 1, 3)
    assert (knee.hits.n, knee.hits.of, knee.false_alarms.n, knee.false_alarms.of) == (1, 2, 1, 1)
    assert hip.hits.within == (0.0, 1.0)
    assert rate_of(8, 10).within == pytest.approx((0.490, 0.943), abs=1e-3)


def test_the_own_scatter_of_events_is_offered_from_twenty_answers_on_and_counts_the_bias() -> None:
    assert own_events_s([0.02] * (LEAST_EVENTS - 1)) is None
    found = own_events_s([0.03] * LEAST_EVENTS)
    expected = ((20 * 0.03**2 + MARKING_SCATTER_S**2) / 21) ** 0.5
    assert found == pytest.approx(expected, abs=1e-6)
    assert own_events_s([0.0] * 40) == pytest.approx(MARKING_SCATTER_S / 41**0.5, abs=1e-6)
