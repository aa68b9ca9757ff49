"""Poses on the mat are solved: what is wanted holds, and nothing sinks in."""

from __future__ import annotations

import numpy as np
import pytest

from lacertus.core.measuring.body import BODIES
from lacertus.studio.authoring.solve import Figures, Pair, limits_of, place, solve_pose, touch
from lacertus.studio.authoring.stretch import Stretch
from lacertus.studio.body.contact import NAMES, gaps
from lacertus.studio.moves import MOVES
from lacertus.studio.moves.on_the_mat import read_poses
from lacertus.studio.script import read_script, scene_of

LYING = {"z": 0.075, "lean": -90.0}
TRUNK = ("x", "y", "z", "lean", "bow")


def figures() -> Figures:
    return Figures(looks=scene_of(read_script({"lacertus_script": 1, "id": "solve", "technique": "triangle"})).looks)


def test_a_body_that_lies_in_another_is_solved_onto_it() -> None:
    made = figures()
    start: Pair = {"performer": {"z": 0.12, "lean": 84.0, "yaw": 180.0, "x": -0.1}, "partner": dict(LYING)}
    wants = [touch(made, "chest", "chest"), place("performer", "left_hip", (None, None, 0.42))]
    found = solve_pose(made, start, {"performer": TRUNK}, wants)
    before, after = (
        made.joints({body: {k: np.array([v]) for k, v in pair[body].items()} for body in BODIES}) for pair in (start, found)
    )
    assert np.abs(made.sunk(before)).max() > 1.0
    assert np.abs(made.sunk(after)).max() < 0.35
    chest = NAMES.index("chest")
    assert -0.02 < gaps(*made.solids(after))[0][0, chest, chest] < 0.015
    assert after["performer"].at["left_hip"][0, 2] == pytest.approx(0.42, abs=0.04)
    assert found["partner"] == start["partner"]


def test_a_joint_goes_no_further_than_it_can() -> None:
    made = figures()
    start: Pair = {"performer": {"z": 0.53}, "partner": {"x": 2.0, "z": 0.53}}
    behind_the_back = place("performer", "left_knee", (-0.6, 0.1, 0.9))
    found = solve_pose(made, start, {"performer": ("left_leg_flex", "left_leg_abd", "left_leg_bend", "bow")}, [behind_the_back])
    for channel, value in found["performer"].items():
        low, high = limits_of(channel)
        assert low <= value <= high, channel


def test_a_stretch_between_two_steps_is_solved_until_the_bodies_pass_each_other() -> None:
    scene = scene_of(read_script({"lacertus_script": 1, "id": "solve", "technique": "cross-armlock-from-back", "scatter": 0.0}))
    stretch = Stretch(scene=scene, after="taken", before="pushed", count=1)
    (between,) = stretch.solve(most=4)
    assert (between.after, between.before, between.share) == ("taken", "pushed", 0.5)
    assert not {name for name in between.performer if name.startswith("right_arm")}, "the hand that holds the wrist stays"
    keyed = stretch.channels(np.array([0.825]))
    moved = {body: keyed[body] | {name: np.array([v]) for name, v in getattr(between, body).items()} for body in BODIES}
    sunk = [np.abs(stretch.figures.sunk(stretch.figures.joints(pair))).max() for pair in (keyed, moved)]
    assert sunk[1] <= sunk[0] + 1e-6


@pytest.mark.parametrize("technique", [name for name, move in MOVES.items() if move.gives])
def test_the_poses_of_a_move_lie_within_what_joints_can(technique: str) -> None:
    poses = read_poses(technique)
    for told in (*poses.me.values(), *poses.other.values()):
        for channel, value in told.items():
            low, high = limits_of(channel)
            assert low - 0.5 <= value <= high + 0.5, (channel, value)
