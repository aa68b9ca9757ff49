"""Keyed points and the curve between them."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.errors import NotSeen
from lacertus.core.measuring.geometry import distance, standard_uncertainty
from lacertus.core.measuring.tracks import Key, Track, combine, hermite_weights

TIMES = tuple(k / 30 for k in range(60))


def track(*keys: tuple[int, float, float], own: float = 2.0, shared: float = 1.5, landmark: str = "left_hip") -> Track:
    return Track("performer", landmark, tuple(Key(frame=f, x=x, y=y, own=own, shared=shared) for f, x, y in keys), TIMES)


def test_a_keyed_frame_gives_the_point_itself() -> None:
    position = track((10, 5.0, 7.0)).at(10)
    assert (position.x, position.y) == (5.0, 7.0)
    assert position.sigma == pytest.approx(2.5)


@pytest.mark.parametrize("frame", [9, 21])
def test_nothing_is_extrapolated(frame: int) -> None:
    with pytest.raises(NotSeen, match=f"no point at frame {frame}"):
        track((10, 0, 0), (20, 1, 1)).at(frame)


def test_a_landmark_without_points_says_which_to_place() -> None:
    with pytest.raises(NotSeen, match="left hip has no point; place it at frame 3"):
        track().at(3)


def test_two_points_are_joined_by_a_straight_line() -> None:
    position = track((10, 0.0, 0.0), (20, 10.0, 30.0)).at(15)
    assert (position.x, position.y) == pytest.approx((5.0, 15.0))


def test_a_parabola_is_kept_between_inner_points() -> None:
    """Time-weighted differences are the parabola's own tangents, also at uneven spacing."""
    frames = (2, 5, 12, 20, 31)
    parabola = track(*((f, 100 * TIMES[f] ** 2, -40 * TIMES[f] ** 2 + TIMES[f]) for f in frames))
    for frame in range(6, 20):
        t = TIMES[frame]
        position = parabola.at(frame)
        assert (position.x, position.y) == pytest.approx((100 * t**2, -40 * t**2 + t))


def test_between_points_the_own_part_averages_and_the_curve_adds_its_doubt() -> None:
    straight = track((10, 0, 0), (20, 10, 0)).at(15)
    assert straight.sigma == pytest.approx(np.hypot(2.0 / np.sqrt(2), 1.5))
    bent = track((0, 0, 0), (10, 0, 0), (20, 10, 0), (30, 40, 0)).at(15)
    assert bent.sigma > straight.sigma


def test_the_shared_part_cancels_in_a_movement() -> None:
    moving = track((10, 0, 0), (20, 100, 0))
    moved = distance(moving.at(10), moving.at(20))
    assert standard_uncertainty(moved.gradients) == pytest.approx(2.0 * np.sqrt(2))


def test_two_landmarks_share_nothing() -> None:
    hip, knee = track((10, 0, 0)), track((10, 100, 0), landmark="left_knee")
    apart = distance(hip.at(10), knee.at(10))
    assert standard_uncertainty(apart.gradients) == pytest.approx(2.5 * np.sqrt(2))


def test_the_middle_of_two_points_is_surer_than_either() -> None:
    left, right = track((10, 0, 0)), track((10, 10, 0), landmark="right_hip")
    middle = combine("mid hip", [(left.at(10), 0.5), (right.at(10), 0.5)])
    assert middle.x == 5.0
    assert middle.sigma == pytest.approx(2.5 / np.sqrt(2))


@given(st.lists(st.integers(1, 9), min_size=1, max_size=8), st.data())
def test_weights_add_up_to_one(gaps: list[int], data: st.DataObject) -> None:
    times = np.cumsum([0, *gaps]) / 30
    left = data.draw(st.integers(0, len(gaps) - 1))
    share = data.draw(st.floats(0, 1))
    weights = hermite_weights(list(times), left, times[left] + share * (times[left + 1] - times[left]))
    assert sum(weights.values()) == pytest.approx(1.0)
