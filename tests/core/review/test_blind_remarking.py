"""A coach's own scatter from a rep marked twice."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from lacertus.core.measuring.body import SHARED_SHARE, SIGMA_SHARE
from lacertus.core.measuring.repfile import read_rep
from lacertus.core.review.blind_remarking import Remark, remark_of, scatter_of
from tests.core.build import checkpoint, judge_one, points, rep, rep_data, technique

TALL = 500.0


def body(landmarks: dict[str, Any]) -> dict[str, Any]:
    return {"performer": {"landmarks": landmarks, "height_px": TALL}}


def leg(frames: range, scatter: float, seed: int, start: float = 300.0) -> dict[str, Any]:
    """A leg placed on frames with scatter, pixels."""
    rng = np.random.default_rng(seed)
    truth = {"right_hip": 300.0, "right_knee": 400.0, "right_ankle": 500.0}
    return {
        name: [{"frame": f, "x": x + rng.normal(0, scatter), "y": start + rng.normal(0, scatter)} for f in frames]
        for name, x in truth.items()
    }


def pair(scatter: float, events: tuple[int, int] = (0, 0), seed: int = 1) -> Remark:
    a, b = ({"full_reach": [44 + shift], "folded": [56]} for shift in events)
    first = rep(bodies=body(leg(range(30, 60), scatter, seed)), events=a)
    second = rep(bodies=body(leg(range(30, 60), scatter, seed + 1000)), events=b)
    return remark_of(technique(), first, second)


def test_by_hand() -> None:
    first = rep(bodies=body(points(sigma=None)), events={"full_reach": [44]})
    second = rep(bodies=body(points(sigma=None, knee=(403.0, 304.0))), events={"full_reach": [46]})
    found = scatter_of([remark_of(technique(), first, second)])
    # Three points on one frame, one of them 3 and 4 px off: √((9 + 16) / (2 · 6)).
    assert (found.point_pairs, found.px) == (3, pytest.approx((25 / 12) ** 0.5))
    assert (found.event_pairs, found.frames, found.ms) == (1, pytest.approx(2**0.5), pytest.approx(1000 * 2**0.5 / 60))
    assert found.degree_pairs == 1 and found.deg is not None and found.deg > 0
    assert found.marking.own == {} and found.marking.events_s is None


@pytest.mark.parametrize("scatter", [1.0, 2.5, 6.0])
def test_the_scatter_put_in_is_found(scatter: float) -> None:
    remarks = [pair(scatter, seed=seed) for seed in range(8)]
    found = scatter_of(remarks)
    assert found.px == pytest.approx(scatter, rel=0.1)
    assert found.marking.own["knee"] * TALL == pytest.approx(scatter, rel=0.15)
    # A joint that was not placed twice follows what all the others show against their defaults.
    shown = found.marking.own["shoulder"] / (SIGMA_SHARE["shoulder"] * (1 - SHARED_SHARE) ** 0.5)
    ratios = [found.marking.own[j] / (SIGMA_SHARE[j] * (1 - SHARED_SHARE) ** 0.5) for j in ("hip", "knee", "ankle")]
    assert min(ratios) <= shown <= max(ratios)


def test_ten_equal_markings_claim_no_certainty() -> None:
    found = scatter_of([pair(0.0) for _ in range(5)]).marking
    assert found.events_s is not None and 0 < found.events_s < 1 / 120
    assert all(share > 0 for share in found.own.values())


def test_what_was_tracked_is_no_marking_of_the_coach() -> None:
    landmarks = points(sigma=None)
    tracked = {name: [entry | {"by": "tracked"} for entry in entries] for name, entries in landmarks.items()}
    found = remark_of(technique(), rep(bodies=body(landmarks)), rep(bodies=body(tracked)))
    assert found.points == ()


def test_the_judge_takes_the_coachs_own_scatter_in_place_of_the_convention() -> None:
    data = rep_data(bodies=body(points(sigma=None)))
    plain, close = read_rep(data), read_rep(data | {"marking": {"own": {"hip": 0.001, "knee": 0.001, "ankle": 0.001}}})
    usual, own = (judge_one(checkpoint(), one).uncertainty for one in (plain, close))
    assert usual is not None and own is not None and own < usual
    # What the coach means by a joint is the same both times: the shared part stays.
    shared_only = read_rep(data | {"marking": {"own": dict.fromkeys(SIGMA_SHARE, 1e-09)}})
    left = judge_one(checkpoint(), shared_only).uncertainty
    assert left is not None and left == pytest.approx(usual * SHARED_SHARE**0.5, rel=0.02)
