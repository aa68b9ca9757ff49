"""Placed, model and flow points made into one path."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.measuring.repfile import Body
from lacertus.core.review.reconcile import ERROR_LASTS_S, MOST_GAP_S, Observed, Seen, Spot, Step, path_of, reconciled

TIMES = tuple(k / 60 for k in range(240))
TALL = 500.0


def way(frame: int) -> tuple[float, float]:
    """A foot that swings up and comes down: some three heights a second at its fastest."""
    s = TIMES[frame]
    return 400 + 220 * math.sin(2.2 * s), 600 - 180 * math.sin(4 * s) ** 2


def seen(frames: range, sigma: float, seed: int) -> dict[int, Seen]:
    """What a model sees: its errors fade into others within a quarter of a second, and jitter a little besides."""
    rng = np.random.default_rng(seed)
    kept = math.exp(-(TIMES[1] - TIMES[0]) / ERROR_LASTS_S)
    error, found = rng.normal(0, sigma, 2), {}
    for f in frames:
        error = kept * error + rng.normal(0, sigma * math.sqrt(1 - kept**2), 2)
        x, y = np.array(way(f)) + error + rng.normal(0, 0.15 * sigma, 2)
        found[f] = Seen(x=float(x), y=float(y), sigma=sigma)
    return found


def off(spots: tuple[Spot, ...]) -> np.ndarray:
    return np.array([(spot.x - way(spot.frame)[0], spot.y - way(spot.frame)[1]) for spot in spots])


@pytest.mark.parametrize("sigma", [2.0, 8.0, 20.0])
def test_the_stated_sigma_holds(sigma: float) -> None:
    errors, zs = [], []
    for seed in range(8):
        spots = reconciled(TIMES, seen(range(20, 140), sigma, seed), {}, TALL)
        assert [spot.frame for spot in spots] == list(range(20, 140))
        errors.append(off(spots))
        zs.append(errors[-1] / np.array([[spot.sigma] for spot in spots]))
    error, z = np.concatenate(errors), np.concatenate(zs)
    assert np.sqrt((error**2).mean()) < 1.1 * sigma
    # What a model gets wrong it gets wrong for a while: its σ is not averaged away.
    assert 0.9 < (np.abs(z) < 2).mean() < 0.99


def test_flow_between_two_places_is_followed() -> None:
    ends = {f: Seen(x=way(f)[0], y=way(f)[1], sigma=1.0, ruled=True) for f in (30, 90)}
    steps = {f: Step(dx=way(f)[0] - way(f - 1)[0], dy=way(f)[1] - way(f - 1)[1], sigma=0.4) for f in range(31, 91)}
    with_flow, without = (np.abs(off(reconciled(TIMES, ends, which, TALL))).max() for which in (steps, {}))
    assert with_flow < 6 and without > 25


def test_placed_points_stay_as_they_are_and_one_mends_the_frames_around_it() -> None:
    wrong = {f: Seen(x=way(f)[0] + 25, y=way(f)[1], sigma=15.0) for f in range(20, 140)}
    before = {spot.frame: spot for spot in reconciled(TIMES, wrong, {}, TALL)}
    placed = wrong | {80: Seen(x=way(80)[0], y=way(80)[1], sigma=2.0, ruled=True)}
    after = {spot.frame: spot for spot in reconciled(TIMES, placed, {}, TALL)}
    assert (after[80].x, after[80].y) == way(80)
    for frame in (76, 78, 82, 84):
        was, now = (np.hypot(*(np.array((spots[frame].x, spots[frame].y)) - way(frame))) for spots in (before, after))
        assert now < was and after[frame].sigma < before[frame].sigma
    assert after[25].x == pytest.approx(before[25].x, abs=1.0)


def test_a_model_point_that_jumps_away_is_believed_little_a_placed_one_wholly() -> None:
    model = seen(range(20, 140), 4.0, 5)
    far = Seen(x=way(80)[0] + 150, y=way(80)[1], sigma=4.0)
    at = {spot.frame: spot for spot in reconciled(TIMES, model | {80: far}, {}, TALL)}
    assert abs(at[80].x - way(80)[0]) < 15
    ruled = Seen(x=far.x, y=far.y, sigma=4.0, ruled=True)
    at = {spot.frame: spot for spot in reconciled(TIMES, model | {80: ruled}, {}, TALL)}
    assert at[80].x == far.x


def test_nothing_is_said_far_from_what_was_seen() -> None:
    few = {f: Seen(x=way(f)[0], y=way(f)[1], sigma=2.0) for f in (40, 41, 42, 120, 121)}
    frames = [spot.frame for spot in reconciled(TIMES, few, {}, TALL)]
    most = round(MOST_GAP_S * 60)
    assert min(frames) == 40 and max(frames) == 121
    assert not any(42 + most < f < 120 - most for f in frames) and 42 + most in frames
    assert reconciled(TIMES, {}, {}, TALL) == ()


@given(shift=st.tuples(st.floats(-300, 300), st.floats(-300, 300)), scale=st.floats(0.3, 4), seed=st.integers(0, 50))
def test_a_picture_moved_or_grown_moves_and_grows_the_path(shift: tuple[float, float], scale: float, seed: int) -> None:
    plain = seen(range(30, 60), 5.0, seed)
    moved = {f: Seen(x=scale * s.x + shift[0], y=scale * s.y + shift[1], sigma=scale * s.sigma) for f, s in plain.items()}
    a, b = reconciled(TIMES, plain, {}, TALL), reconciled(TIMES, moved, {}, scale * TALL)
    for one, other in zip(a, b, strict=True):
        assert other.x == pytest.approx(scale * one.x + shift[0], abs=0.05 * scale)
        assert other.sigma == pytest.approx(scale * one.sigma, rel=0.02)


def test_a_landmarks_path_keeps_the_coachs_points_and_marks_the_rest_as_tracked() -> None:
    rows = tuple((f, way(f)[0], way(f)[1], 6.0) for f in range(20, 100))
    reached = tuple((f, way(f)[0], way(f)[1], 9.0) for f in range(100, 110))
    placed = {"frame": 50, "x": way(50)[0], "y": way(50)[1], "by": "placed", "hidden": True}
    data = Body.model_validate({"height_px": TALL, "landmarks": {"left_toe": [placed]}})
    path = path_of(TIMES, "left_toe", data, Observed(model=rows, reached=reached), TALL)
    assert [point.frame for point in path] == list(range(20, 110))
    assert [point.frame for point in path if point.by == "placed"] == [50] and path[30].hidden
    assert all(point.by == "tracked" and point.sigma and point.sigma > 0 for point in path if point.frame != 50)
    unsure = Observed(model=tuple((f, 5.0, 5.0, TALL) for f in range(20, 24)))
    assert path_of(TIMES, "left_toe", Body(), unsure, TALL) == ()


def test_what_an_earlier_version_tracked_is_still_read() -> None:
    row = (3, 10.0, 20.0, 2.0)
    assert Observed.model_validate({"flow": [row], "carried": [row]}) == Observed(flow=(row,), reached=(row,))
