"""The rules of the job by hand-worked cases: guard bands, event times, and what a verdict is worth in the long run."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.measuring.timebase import TimeBase
from lacertus.core.measuring.uncertainty import FIRM, Limits, Verdict, judge_value
from tests.core.build import checkpoint, judge_one, points, rep, return_time

CASES = [
    # lo, hi, value, u, safety, verdict
    (None, 250, 200, 20, False, "met"),
    (None, 250, 230, 20, False, "met"),
    (None, 250, 231, 20, False, "borderline"),
    (None, 250, 282.9, 20, False, "borderline"),
    (None, 250, 283, 20, False, "missed"),
    (None, 250, 217.1, 20, True, "met"),
    (None, 250, 217.2, 20, True, "borderline"),
    (60, 330, 93, 20, False, "met"),
    (60, 330, 27.0, 20, False, "missed"),
    (60, 330, 27.2, 20, False, "borderline"),
    (190, 210, 200, 13, False, "not_seen"),
    (190, 210, 240, 13, False, "missed"),
    (190, 210, 200, 10, False, "met"),
]


@pytest.mark.parametrize(("lo", "hi", "value", "u", "safety", "verdict"), CASES)
def test_guard_bands_by_hand(lo: float | None, hi: float | None, value: float, u: float, safety: bool, verdict: str) -> None:
    assert judge_value(value, u, Limits(lo=lo, hi=hi), safety=safety) == verdict


@pytest.mark.parametrize(
    ("hi", "u", "value", "verdict"),
    [(0.05, 0.06, 0.0, "not_seen"), (0.05, 0.06, 0.2, "missed"), (0.05, 0.04, 0.01, "met")],
    ids=["cannot be told", "told all the same", "fine enough"],
)
def test_a_quantity_that_cannot_be_negative(hi: float, u: float, value: float, verdict: str) -> None:
    assert judge_value(value, u, Limits(hi=hi, least=0.0)) == verdict


@given(st.floats(-50, 50), st.floats(0.1, 20), st.floats(-50, 50), st.floats(0.1, 60))
def test_a_safety_point_is_never_judged_more_kindly(value: float, u: float, lo: float, width: float) -> None:
    limits = Limits(lo=lo, hi=lo + width)
    plain, safe = (judge_value(value, u, limits, safety=safety) for safety in (False, True))
    assert not (safe is Verdict.MET and plain is not Verdict.MET)
    assert (safe is Verdict.MISSED) == (plain is Verdict.MISSED)


@given(st.floats(-50, 50), st.floats(0.1, 20), st.floats(-50, 50), st.floats(0.1, 60), st.floats(-100, 100))
def test_a_verdict_does_not_depend_on_where_zero_is(value: float, u: float, lo: float, width: float, by: float) -> None:
    here = judge_value(value, u, Limits(lo=lo, hi=lo + width))
    edges = (lo, lo + width)
    near = min(abs(abs(value - edge) - k * u) for edge in edges for k in (1, FIRM))
    if near > 1e-6 and abs(width - 2 * u) > 1e-6:
        assert judge_value(value + by, u, Limits(lo=lo + by, hi=lo + width + by)) == here


@pytest.mark.parametrize("edge", [0.0, -0.5, -1.0, 0.5, 1.5])
def test_a_firm_verdict_is_wrong_in_at_most_one_of_twenty(edge: float) -> None:
    """True values at and around the limit, read with u = 1: a *missed* that should have been met is rare."""
    true, chance = 10.0 + edge, np.random.default_rng(4)
    found = [judge_value(true + float(chance.normal()), 1.0, Limits(hi=10.0)) for _ in range(4000)]
    wrong = Verdict.MISSED if true <= 10.0 else Verdict.MET
    share = sum(verdict is wrong for verdict in found) / len(found)
    assert share <= (0.055 if wrong is Verdict.MISSED else 0.16 * math.exp(-edge / 2) + 0.01)


@pytest.mark.parametrize(
    ("fps", "event_ms"),
    [
        (30, math.hypot(1000 / 30 / math.sqrt(12), 1000 / 60)),
        (60, math.hypot(1000 / 60 / math.sqrt(12), 1000 / 120)),
        (240, math.hypot(1000 / 240 / math.sqrt(12), 6)),
    ],
)
def test_the_uncertainty_of_an_event(fps: float, event_ms: float) -> None:
    """gap²/12 + s², s the larger of half a frame and 6 ms."""
    time = TimeBase(tuple(k / fps for k in range(20)))
    assert time.instant(10).u_s * 1000 == pytest.approx(event_ms)
    assert time.instant(10).time_s == pytest.approx(9.5 / fps)
    assert time.instant(10, "last").time_s == pytest.approx(10.5 / fps)


def test_a_coachs_own_marking_scatter_replaces_the_default() -> None:
    time = TimeBase(tuple(k / 60 for k in range(20)), marking_s=0.002)
    assert time.instant(10).u_s == pytest.approx(math.hypot(1 / 60 / math.sqrt(12), 0.002))


def test_a_capture_rate_that_changes_within_the_clip() -> None:
    """30 file frames a second; from frame 30 on slowed eightfold: 20 frames across the change are 10/30 + 10/240 s."""
    events = {"full_reach": [20], "folded": [40]}
    found = judge_one(return_time(), rep(fps=30.0, capture_rate=[[0, 1.0], [30, 8.0]], events=events))
    start, end = 19.5 / 30, 30 / 30 + 9.5 / 240
    assert found.value == pytest.approx((end - start) * 1000)


def test_a_point_placed_on_a_small_picture_is_the_less_sure_the_more_a_screen_pixel_covers() -> None:
    def u(grain: float | None) -> float:
        landmarks = {name: [entry | {"grain": grain} for entry in es] for name, es in points(sigma=None).items()}
        found = judge_one(checkpoint(), rep(bodies={"performer": {"landmarks": landmarks, "height_px": 200.0}}))
        assert found.uncertainty is not None
        return found.uncertainty

    assert u(None) < u(0.5) < u(1.5) < u(4.0)
    assert u(0.2) < 1.02 * u(None)
