"""Guard bands and lean."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.measuring.uncertainty import Limits, Verdict, judge_value

ANGLE = {"least": 0.0, "most": 180.0}


@pytest.mark.parametrize(
    ("value", "u", "lo", "hi", "wanted"),
    [
        (160.0, 3.0, 155.0, None, "met"),
        (158.0, 3.0, 155.0, None, "met"),
        (157.9, 3.0, 155.0, None, "borderline"),
        (150.1, 3.0, 155.0, None, "borderline"),
        (150.0, 3.0, 155.0, None, "missed"),
        (200.0, 30.0, None, 250.0, "met"),
        (230.0, 30.0, None, 250.0, "borderline"),
        (300.0, 30.0, None, 250.0, "missed"),
        (50.0, 12.0, 40.0, 60.0, "not_seen"),
        (90.0, 12.0, 40.0, 60.0, "missed"),
    ],
    ids=["in", "touching", "in the band", "in the outer band", "out", "under", "near", "over", "too coarse", "coarse but far"],
)
def test_verdict_by_hand(value: float, u: float, lo: float | None, hi: float | None, wanted: str) -> None:
    assert judge_value(value, u, Limits(lo=lo, hi=hi)).value == wanted


def test_safety_needs_the_wider_band_to_be_met() -> None:
    limits = Limits(lo=100.0)
    assert judge_value(104.0, 3.0, limits) is Verdict.MET
    assert judge_value(104.0, 3.0, limits, safety=True) is Verdict.BORDERLINE
    assert judge_value(105.0, 3.0, limits, safety=True) is Verdict.MET


def test_a_quantity_that_cannot_be_negative_is_not_seen_where_u_is_above_its_limit() -> None:
    assert judge_value(2.0, 6.0, Limits(hi=5.0, least=0.0)) is Verdict.NOT_SEEN
    assert judge_value(20.0, 6.0, Limits(hi=5.0, least=0.0)) is Verdict.MISSED


def test_a_limit_at_what_the_quantity_can_be_at_most_binds_nothing() -> None:
    """A straight leg, 179 ± 3°, against 155–180: nothing can be straighter than straight."""
    assert judge_value(179.0, 3.0, Limits(lo=155.0, hi=180.0, **ANGLE)) is Verdict.MET


@given(st.floats(-100, 100), st.floats(0.01, 20), st.floats(-50, 0), st.floats(0, 50))
def test_a_firm_verdict_never_turns_into_the_other_when_u_shrinks(value: float, u: float, lo: float, hi: float) -> None:
    firm = {judge_value(value, scale * u, Limits(lo=lo, hi=hi)) for scale in (1.0, 0.5, 0.1)}
    assert not {Verdict.MET, Verdict.MISSED} <= firm


@given(st.floats(-200, 200), st.floats(0.1, 30), st.floats(-100, 100), st.booleans())
def test_turning_the_axis_round_changes_no_verdict(value: float, u: float, limit: float, safety: bool) -> None:
    up = judge_value(value, u, Limits(lo=limit), safety=safety)
    assert judge_value(-value, u, Limits(hi=-limit), safety=safety) is up


@pytest.mark.parametrize("true", [150.0, 153.0, 154.9, 155.1, 157.0, 160.0])
def test_firm_verdicts_are_wrong_in_at_most_five_percent_missed_and_a_sixth_met(true: float) -> None:
    """Missed is held to 1.645 u and so wrong in ≤ 5 %; met to one u, so ≤ 16 % just at the limit."""
    seen = np.random.default_rng(5).normal(true, 3.0, 20_000)
    verdicts = [judge_value(float(value), 3.0, Limits(lo=155.0)) for value in seen]
    share = {v: verdicts.count(v) / len(verdicts) for v in (Verdict.MET, Verdict.MISSED)}
    if true >= 155:
        assert share[Verdict.MISSED] <= 0.055
    else:
        assert share[Verdict.MET] <= 0.165
