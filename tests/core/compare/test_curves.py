"""A checkpoint's quantity over the rep: the same value where it is read, gaps where nothing is known, and every kind."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest

from lacertus.core.compare.curves import curves_of, spread_of
from lacertus.core.compare.quantity import NO_CURVE, quantities_of, why_none
from lacertus.core.measuring.measures import KINDS
from lacertus.core.measuring.repfile import read_rep
from lacertus.core.measuring.scene import Scene
from lacertus.library import shipped_technique
from tests.core.build import checkpoint, technique
from tests.core.measuring.every_kind import ASKED, EVERY, FLOOR

KICK = shipped_technique("front-kick")


@pytest.fixture(scope="module")
def kick(truths: dict[str, Any]) -> Scene:
    return Scene(read_rep(truths["constant"]["reps"][0]), KICK.edges)


def test_where_it_is_read_the_curve_has_the_value_of_the_checkpoint(kick: Scene) -> None:
    held = 0
    for asked in KICK.checkpoints:
        kind = KINDS[asked.kind]
        if kind.frame_rule is None or asked.measure.at is None:  # type: ignore[attr-defined]
            continue
        frame = kick.frame_of(asked.measure.at)  # type: ignore[attr-defined]
        reading = kind.read(asked.measure, kick, asked.id)
        (curve,) = curves_of(asked, KICK, kick)
        at = frame - kick.rep.range[0]
        # Put in space over the whole rep, a frame's neighbours tell of it too.
        assert curve.values[at] == pytest.approx(reading.value, abs=0.5 * reading.u)
        assert 0.6 < curve.u[at] / reading.u < 1.1
        assert curve.quantity.unit == reading.unit
        held += 1
    assert held >= 5


def test_a_curve_covers_the_rep_and_has_its_wanted_range(kick: Scene) -> None:
    asked = KICK.checkpoint("thigh_lifted")
    assert asked is not None
    (curve,) = curves_of(asked, KICK, kick)
    assert (curve.frames[0], curve.frames[-1]) == kick.rep.range
    assert curve.quantity.wanted is not None
    assert np.isfinite(curve.values).all()


def opening(placed: range) -> Scene:
    """A knee that opens evenly from 90° at frame 10 to 180° at frame 40, in the picture's plane; placed in some frames only."""

    def ankle(frame: int) -> tuple[float, float]:
        bent = math.radians(180 - min(max(90 + 3 * (frame - 10), 90), 180))
        return 500 + 100 * math.sin(bent), 300 + 100 * math.cos(bent)

    def point(frame: int, x: float, y: float) -> dict[str, float]:
        return {"frame": frame, "x": x, "y": y, "sigma": 1.0}

    marks = {
        "right_hip": [point(frame, 500.0, 200.0) for frame in placed],
        "right_knee": [point(frame, 500.0, 300.0) for frame in placed],
        "right_ankle": [point(frame, *ankle(frame)) for frame in placed],
    }
    found = technique(checkpoint())
    file = {
        "lacertus_rep": 1, "technique": found.id, "side": "right", "heading": "right", "size": [1280, 720], "view": "side",
        "pts_s": [k / 60 for k in range(61)], "range": [5, 55], "camera_motion": None, "events": {"full_reach": [40]},
        "bodies": {"performer": {"landmarks": marks}},
    }  # fmt: skip
    return Scene(read_rep(file), found.edges, flat=True)


def test_by_hand_a_knee_opens_evenly_and_what_was_never_placed_is_a_gap() -> None:
    scene = opening(range(10, 46))
    found = technique(checkpoint())
    (curve,) = curves_of(found.checkpoints[0], found, scene)
    known = ~np.isnan(curve.values)
    assert (curve.frames[known][0], curve.frames[known][-1]) == (10, 45)
    assert np.isnan(curve.u[~known]).all()
    at = {int(frame): value for frame, value in zip(curve.frames, curve.values, strict=True)}
    assert (at[10], at[25], at[40]) == (pytest.approx(90), pytest.approx(135), pytest.approx(180))


def test_how_fast_an_angle_opens_is_three_degrees_a_frame() -> None:
    fast = checkpoint(
        kind="speed", measure={"angle": ["working_hip", "working_knee", "working_ankle"], "at": "full_reach"}, within=[100, None]
    )
    found = technique(fast)
    (curve,) = curves_of(found.checkpoints[0], found, opening(range(10, 46)))
    assert (curve.quantity.name, curve.quantity.unit) == ("turning", "deg/s")
    # Half way through the opening: 3° in a sixtieth of a second.
    assert curve.values[25 - 5] == pytest.approx(180, rel=0.03)


def test_every_kind_has_a_curve_or_says_why_not() -> None:
    told = {"interval", "together", "order", "window", "count", "seen", "set", "floor"}
    assert told == set(NO_CURVE)
    counted = 0
    for asked in EVERY.checkpoints:
        own = quantities_of(asked, asked.within)
        assert bool(own) != (asked.kind in told), asked.kind
        counted += bool(own)
        if not own:
            assert "look at" in why_none(asked)
    assert counted == len(ASKED) - 1
    assert len(EVERY.checkpoints) == len(ASKED + FLOOR)


def test_three_reps_spread_by_hand_and_two_do_not() -> None:
    clock = np.array([-0.1, 0.0, 0.1])
    reps = [(clock, np.array([1.0, 2.0, np.nan])), (clock * 2, np.array([3.0, 4.0, 5.0])), (clock, np.array([5.0, 6.0, 7.0]))]
    mean, deviation = spread_of(clock, reps)
    # The second rep is half as quick: at −0.1 it lies half way between 3 and 4.
    assert mean[:2] == pytest.approx([(1 + 3.5 + 5) / 3, 4.0])
    assert deviation[1] == pytest.approx(2.0)
    assert np.isnan(mean[2])
    assert np.isnan(spread_of(clock, reps[:2])[0]).all()
