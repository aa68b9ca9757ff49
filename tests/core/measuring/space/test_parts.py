"""What a body in space is made of: draws, lengths, leans, and how they go together over time."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray

from lacertus.core.measuring.measures.balance import outside_of
from lacertus.core.measuring.space.chain import ANY, Node, linked
from lacertus.core.measuring.space.draws import DRAWS, normal, uniform
from lacertus.core.measuring.space.lengths import part_lengths
from lacertus.core.measuring.space.order import right_is_nearer
from lacertus.core.measuring.space.reach import drawn_length, drawn_looks
from lacertus.core.measuring.space.steadied import drawn_through, steadied

Array = NDArray[np.float64]


def test_draws_are_even_and_each_unknown_has_its_own() -> None:
    row = uniform("a knee")
    assert sorted(row) == pytest.approx((np.arange(DRAWS) + 0.5) / DRAWS)
    assert (uniform("a knee") == row).all()
    assert not (uniform("another") == row).all()
    frames = np.array([3, 90, 91])
    alone = normal("a knee", np.array([90]))
    assert (normal("a knee", frames)[1] == alone[0]).all()
    assert abs(float(normal("x").mean())) < 1e-9 and float(normal("x").std()) == pytest.approx(1.0, abs=0.02)


def put_in_space(seen: float, sigma: float, px: float, u: float) -> tuple[Array, Array]:
    """Draws of how long a part is and how far it reaches in depth."""
    known = np.full(DRAWS, px)
    drawn = drawn_length(np.array([seen]), np.array([sigma]), known, u, uniform("length"), ANY, 1.0)
    looks = drawn_looks((seen + sigma * normal("scatter"))[None], sigma, normal("rest"), drawn, ANY)
    return drawn, np.sqrt(drawn**2 - looks[0] ** 2)


@given(st.floats(20, 300), st.floats(0.02, 0.1), st.floats(0.0, 1.1))
def test_a_part_is_as_long_as_is_known_and_reaches_no_further_than_that(px: float, share: float, looks: float) -> None:
    drawn, reach = put_in_space(looks * px, 0.02 * px, px, share * px)
    assert (reach >= 0).all() and (reach <= drawn).all()
    assert drawn.std() <= 1.3 * share * px
    if looks < 1 - 3 * share - 0.06:
        assert drawn.mean() == pytest.approx(px, rel=2 * share)


def test_how_deep_a_part_reaches_is_told_with_its_u_also_where_it_lies_across() -> None:
    """Parts that point any way, known to ±4 % and seen to ±2.8 %: 2 000 of them, by how far they truly reach."""
    chance = np.random.default_rng(1)
    errors, us, true = [], [], []
    for _ in range(2000):
        length, share = 100 + 4 * chance.normal(), chance.uniform()
        seen = length * np.sqrt(1 - share**2) + 2.8 * chance.normal()
        _, reach = put_in_space(seen, 2.8, 100.0, 4.0)
        errors.append(reach.mean() - share * length)
        us.append(reach.std())
        true.append(share)
    error, u, part = np.array(errors), np.array(us), np.array(true)
    assert abs(error.mean()) < 1.0
    assert np.sqrt((error**2).mean()) == pytest.approx(np.sqrt((u**2).mean()), rel=0.1)
    for low, high in ((0.0, 0.2), (0.2, 0.5), (0.5, 1.0)):
        here = (part >= low) & (part < high)
        assert here.sum() >= 300
        assert (np.abs(error[here]) <= 2 * u[here]).mean() >= 0.93


def test_a_point_drawn_through_keeps_its_way_and_loses_half_of_its_scatter() -> None:
    chance = np.random.default_rng(4)
    times = np.arange(60) / 60
    way = np.stack((200 * times, 60 * np.sin(2 * np.pi * times)))
    seen = way + 1.5 * chance.normal(size=way.shape)
    drawn, middles, left = drawn_through(seen[..., None] + 1.5 * chance.normal(size=(*way.shape, 5)), seen, times, 1.5)
    assert np.sqrt(((middles - way) ** 2).mean()) <= 0.75
    assert drawn.shape == (2, 60, 5)
    assert 0.2 <= left <= 0.75
    few = drawn_through(seen[:, ::20, None], seen[:, ::20], times[::20], 1.5)
    assert (few[1] == seen[:, ::20]).all() and few[2] == 1.5


def test_a_length_is_given_or_read_from_the_clip_or_stands_in_the_table() -> None:
    found = part_lengths({"right_shank": (130.0, 2.0)}, {"right_thigh": (126.0, 5.0), "hip_width": (20.0, 1.0)}, 520.0)
    assert (found["right_shank"].px, found["right_shank"].u, found["right_shank"].known) == (130.0, 2.0, True)
    assert (found["right_thigh"].px, found["right_thigh"].known) == (126.0, True)
    # Hips that never lay square to the camera look far too narrow: the table tells.
    assert found["hip_width"].px == pytest.approx(0.165 * 520)
    assert found["left_shank"].px == pytest.approx(0.246 * 520) and found["left_shank"].known
    unmarked = part_lengths({"right_shank": (128.0, 2.0)}, {}, None)
    assert unmarked["left_shank"].px == pytest.approx(128.0) and not unmarked["left_shank"].known
    assert "left_shank" not in part_lengths({}, {}, None)


def test_knees_and_toes_tell_which_hip_is_nearer() -> None:
    """A leg seen from the side that faces right: the knee folds to the left, the toes point right; so the right hip is nearer."""
    leg = {"right_hip": (0, 100), "right_knee": (10, 50), "right_ankle": (-15, 8), "right_heel": (-20, 0), "right_toe": (15, 0)}
    at = {name: np.array(place, dtype=float)[:, None] for name, place in leg.items()}
    assert right_is_nearer(at)[0] > 1.0
    turned = {name: place * np.array([[-1.0], [1.0]]) for name, place in at.items()}
    assert right_is_nearer(turned)[0] < -1.0
    assert right_is_nearer({"right_hip": at["right_hip"]})[0] == 0.0


def test_landmarks_hang_together_only_by_parts_of_known_length() -> None:
    nodes = {"hip": Node(None, True), "knee": Node("hip", True), "ankle": Node("knee", False), "other": Node(None, True)}
    assert linked(nodes, "hip", "knee")
    assert not linked(nodes, "hip", "ankle")
    assert linked(nodes, "knee", "knee")
    assert not linked(nodes, "hip", "other")


def test_depth_over_time_keeps_a_swing_and_loses_the_scatter() -> None:
    chance = np.random.default_rng(2)
    times = np.arange(60, dtype=np.float64) / 60
    angle = 0.9 * np.sin(2 * np.pi * 1.2 * times)
    true = 100 * np.sin(angle)
    across = np.stack((100 * np.cos(angle), np.zeros(60))).astype(np.float64)
    seen = true[:, None] + chance.normal(0, 6, (60, 40))
    smooth = steadied(seen, across, times, 100.0, 1.5)
    assert np.abs(smooth.mean(axis=1) - true)[3:-3].max() < 12
    assert (smooth - true[:, None]).std() < 0.7 * 6


def test_frames_that_lie_apart_are_left_as_they_are() -> None:
    seen = np.arange(20.0).reshape(10, 2)
    times = np.linspace(0.0, 4.5, 10)
    assert steadied(seen, np.zeros((2, 10)), times, 100.0, 1.0) is seen


@given(st.floats(-3, 3), st.floats(-3, 3))
def test_outside_of_a_square_is_the_way_to_its_edge(x: float, y: float) -> None:
    square = np.array([(-1, -1), (1, -1), (1, 1), (-1, 1)], dtype=float)[:, :, None]
    found = float(outside_of(np.array([[x], [y]]), square)[0])
    over = np.maximum(np.abs([x, y]) - 1, 0)
    wanted = float(np.hypot(*over)) if over.any() else -(1 - max(abs(x), abs(y)))
    assert found == pytest.approx(wanted, abs=1e-6)


def test_a_base_of_two_places_has_no_inside() -> None:
    foot = np.array([(0.0, 0.0), (10.0, 0.0)])[:, :, None]
    assert outside_of(np.array([[5.0], [3.0]]), foot)[0] == pytest.approx(3.0)
    assert outside_of(np.array([[14.0], [3.0]]), foot)[0] == pytest.approx(5.0)
