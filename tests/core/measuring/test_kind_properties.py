"""What holds for every kind, whatever the body does: a mirror, another place, size or tilt of the picture changes nothing."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lacertus.core.measuring.repfile import RepFile, mirror_rep, read_rep
from lacertus.core.review.judge import Judgement, judge_rep
from tests.core.bodies import body
from tests.core.build import rep_data
from tests.core.measuring.every_kind import ASKED, EVERY, FREE, TILE, scattered, truth_of


@st.composite
def reps(draw: st.DrawFn) -> dict[str, Any]:
    """A body that kicks about by chance, smoothly, and a partner beside it."""
    chance = np.random.default_rng(draw(st.integers(0, 10**6)))
    names: dict[str, tuple[Any, ...]] = {}

    def move(frame: int, name: str) -> tuple[float, float]:
        if name not in names:
            names[name] = (chance.uniform(-25, 25, 2), chance.uniform(0.5, 2.0), chance.uniform(0, 6))
        size, rate, phase = names[name]
        # An ellipse, so that the way of a point has no cusp at which its turning cannot be told.
        wave, later = (math.sin(2 * math.pi * rate * frame / 60 + phase + shift) for shift in (0.0, 1.3))
        rise = 120 * math.exp(-(((frame - 46) / 12) ** 2)) if name in ("right_toe", "right_heel", "right_ankle") else 0.0
        return float(size[0] * wave), float(size[1] * later + rise)

    performer = body(range(15, 90), move=move, sigma=draw(st.floats(0.3, 3.0)))
    partner = body([44], foot=(850.0, 610.0), move=move)
    return rep_data(
        None,
        bodies={"performer": performer, "partner": partner},
        events={"knee_top": [20], "full_reach": [draw(st.integers(40, 50))], "folded": [80]},
        camera_motion=None,
        floor=TILE,
    )


def changed(data: dict[str, Any], place: Any, scale: float = 1.0, **more: Any) -> RepFile:
    """The rep with every pixel put elsewhere."""
    new = dict(data) | more
    new["bodies"] = {
        name: {
            "height_px": whole["height_px"] * scale,
            "landmarks": {
                mark: [
                    entry | {"sigma": entry["sigma"] * scale} | dict(zip("xy", place(entry["x"], entry["y"]), strict=True))
                    for entry in entries
                ]
                for mark, entries in whole["landmarks"].items()
            },
        }
        for name, whole in data["bodies"].items()
    }
    new["floor"] = [corner | dict(zip("xy", place(corner["x"], corner["y"]), strict=True)) for corner in data["floor"]]
    return read_rep(new)


def same(one: tuple[Judgement, ...], other: tuple[Judgement, ...]) -> None:
    for a, b in zip(one, other, strict=True):
        assert a.verdict == b.verdict, (a, b)
        if a.value is not None and a.verdict != "not_seen":
            assert b.value == pytest.approx(a.value, rel=1e-4, abs=1e-4), (a, b)
            assert b.uncertainty == pytest.approx(a.uncertainty, rel=0.05, abs=1e-3), (a, b)


@given(data=reps())
@settings(max_examples=15)
def test_seen_in_a_mirror_on_the_other_side_nothing_changes(data: dict[str, Any]) -> None:
    rep = read_rep(data)
    same(judge_rep(EVERY, rep), judge_rep(EVERY, mirror_rep(rep)))


@given(data=reps(), dx=st.floats(-300, 300), dy=st.floats(-300, 300))
@settings(max_examples=10)
def test_another_place_in_the_picture_changes_nothing(data: dict[str, Any], dx: float, dy: float) -> None:
    same(judge_rep(EVERY, read_rep(data)), judge_rep(EVERY, changed(data, lambda x, y: (x + dx, y + dy))))


@given(data=reps(), scale=st.floats(0.5, 3.0))
@settings(max_examples=10)
def test_another_size_changes_nothing(data: dict[str, Any], scale: float) -> None:
    same(judge_rep(FREE, read_rep(data)), judge_rep(FREE, changed(data, lambda x, y: (x * scale, y * scale), scale)))


@given(data=reps(), deg=st.floats(-20, 20))
@settings(max_examples=10)
def test_a_tilted_picture_with_its_vertical_changes_nothing(data: dict[str, Any], deg: float) -> None:
    c, s = math.cos(math.radians(deg)), math.sin(math.radians(deg))

    def turned(x: float, y: float) -> tuple[float, float]:
        return 640 + c * (x - 640) - s * (y - 360), 360 + s * (x - 640) + c * (y - 360)

    level = judge_rep(FREE, read_rep(data | {"upright": {"deg": 0.0, "u": 2.0}}))
    same(level, judge_rep(FREE, changed(data, turned, upright={"deg": deg, "u": 2.0})))


COVERED = [i for i, (kind, *_) in enumerate(ASKED) if kind not in ("interval", "facing", "dwell")]
FREE_CHECKS = [i for i in COVERED if not (ASKED[i][0] == "peak" and "than" in ASKED[i][1])]


def test_two_u_hold_the_truth_and_firm_verdicts_are_right() -> None:
    """Points scattered by their σ around a body whose every value is known, 25 times over 26 measures."""
    chance = np.random.default_rng(11)
    truth = truth_of()
    true = {j.id: j.value for j in judge_rep(FREE, read_rep(truth))}
    limits = {f"c{i}": ASKED[i][2] for i in FREE_CHECKS}
    inside, firm, wrong, squares = 0, 0, 0, []
    for _ in range(25):
        for judgement in judge_rep(FREE, read_rep(scattered(truth, chance))):
            if judgement.id not in limits or judgement.value is None or true[judgement.id] is None:
                continue
            assert judgement.uncertainty is not None
            off = judgement.value - float(true[judgement.id] or 0.0)
            inside += abs(off) <= 2 * judgement.uncertainty
            squares.append(off / judgement.uncertainty)
            lo, hi = limits[judgement.id]
            ok = (lo is None or true[judgement.id] >= lo) and (hi is None or true[judgement.id] <= hi)
            if judgement.verdict in ("met", "missed"):
                firm += 1
                wrong += (judgement.verdict == "met") != ok
    assert inside / len(squares) >= 0.93
    assert float(np.sqrt(np.mean(np.square(squares)))) <= 1.05
    assert wrong / firm <= 0.05
