"""Angles in the picture, their invariances, and their uncertainty against simulation."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from lacertus.core.errors import Coincident
from lacertus.core.measuring.geometry import angle, bends_towards, distance, standard_uncertainty
from lacertus.core.measuring.tracks import Position, Source

place = st.tuples(st.floats(-800, 800), st.floats(-800, 800))


def at(name: str, x: float, y: float, sigma: float = 1.0) -> Position:
    return Position(
        name=name, owner=("performer", name), frame=0, x=x, y=y, sources=(Source(name=(name,), sigma=sigma, weight=1.0),)
    )


def degrees(a: tuple[float, float], v: tuple[float, float], b: tuple[float, float]) -> float:
    return angle(at("a", *a), at("v", *v), at("b", *b)).value


@pytest.mark.parametrize(
    ("b", "wanted"),
    [((0, -5), 90), ((7, 0), 0), ((-3, 0), 180), ((4, -4), 45), ((-4, 4), 135)],
    ids=["right", "closed", "straight", "half", "obtuse"],
)
def test_angle_by_value(b: tuple[float, float], wanted: float) -> None:
    assert degrees((5, 0), (0, 0), b) == pytest.approx(wanted)


def spread(a: tuple[float, float], v: tuple[float, float], b: tuple[float, float]) -> None:
    assume(min(math.dist(a, v), math.dist(b, v)) > 5)


@given(place, place, place, st.floats(0, 360), place, st.floats(0.1, 10))
def test_angle_is_unchanged_by_turning_moving_and_scaling(a, v, b, turn, shift, scale) -> None:  # type: ignore[no-untyped-def]
    spread(a, v, b)
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))

    def moved(p: tuple[float, float]) -> tuple[float, float]:
        return scale * (c * p[0] - s * p[1]) + shift[0], scale * (s * p[0] + c * p[1]) + shift[1]

    assert degrees(moved(a), moved(v), moved(b)) == pytest.approx(degrees(a, v, b), abs=1e-4)


@given(place, place, place)
def test_angle_is_unchanged_by_a_mirror(a, v, b) -> None:  # type: ignore[no-untyped-def]
    spread(a, v, b)
    assert degrees(*((-x, y) for x, y in (a, v, b))) == pytest.approx(degrees(a, v, b), abs=1e-6)


@pytest.mark.parametrize("pair", [("a", "v"), ("v", "b")])
def test_points_on_one_spot_have_no_angle(pair: tuple[str, str]) -> None:
    places = {"a": (0.0, 0.0), "v": (10.0, 0.0), "b": (10.0, 10.0)}
    places[pair[0]] = places[pair[1]]
    with pytest.raises(Coincident, match="same spot"):
        degrees(places["a"], places["v"], places["b"])


@pytest.mark.parametrize("b", [(40.0, -80.0), (-90.0, 10.0), (90.0, 30.0)])
def test_u_of_an_angle_is_the_scatter_of_noisy_points(b: tuple[float, float]) -> None:
    """20,000 draws of the three points with σ 1, 2 and 3 pixels, no model of ours in between."""
    sigmas = {"a": 1.0, "v": 2.0, "b": 3.0}
    true = {"a": (100.0, 0.0), "v": (0.0, 0.0), "b": b}
    measured = angle(*(at(name, *true[name], sigmas[name]) for name in ("a", "v", "b")))
    chance = np.random.default_rng(1)
    drawn = {name: np.array(true[name]) + chance.normal(0, sigmas[name], (20_000, 2)) for name in true}
    first, second = drawn["a"] - drawn["v"], drawn["b"] - drawn["v"]
    cosine = (first * second).sum(1) / np.linalg.norm(first, axis=1) / np.linalg.norm(second, axis=1)
    scatter = np.degrees(np.arccos(cosine)).std()
    assert standard_uncertainty(measured.gradients) == pytest.approx(scatter, rel=0.06)


def test_u_of_a_distance_by_hand() -> None:
    assert standard_uncertainty(distance(at("a", 0, 0, 3), at("b", 100, 0, 4)).gradients) == pytest.approx(5)


@pytest.mark.parametrize(("end", "wanted"), [(130.0, True), (70.0, False)])
@pytest.mark.parametrize("down", [1.0, -1.0], ids=["leg hanging", "arm raised"])
def test_a_bend_towards_the_target_is_told_whichever_way_the_limb_points(end: float, wanted: bool, down: float) -> None:
    limb = (at("a", 100, 0), at("v", 100, down * 100), at("b", end, down * 180))
    assert bends_towards(*limb, direction_x=1.0) is wanted
    assert bends_towards(*limb, direction_x=-1.0) is not wanted
