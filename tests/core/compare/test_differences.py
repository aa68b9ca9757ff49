"""What differs between reps: nothing between a rep and itself, what is shared cancels, and real only beyond 1.645 u."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest

from lacertus.core.compare.differences import Side, difference, table_of, timing_of
from lacertus.core.compare.mirror import mirrored
from lacertus.core.compare.overlay import lay_over
from lacertus.core.errors import NotSeen
from lacertus.core.measuring.measures.base import PointRef
from lacertus.core.measuring.repfile import RepFile, read_rep
from lacertus.core.measuring.scene import Scene
from lacertus.core.review.judge import judge_rep
from lacertus.core.techniques.definition import Technique
from lacertus.library import shipped_technique
from lacertus.studio.scene import truth
from lacertus.studio.script import read_script, shots_of
from tests.core.build import checkpoint, rep_data, return_time, technique
from tests.core.measuring.every_kind import FREE, scattered, truth_of

KICK = shipped_technique("front-kick")


def side(technique: Technique, rep: RepFile, clip: str = "a") -> Side:
    scene = Scene(rep, technique.edges)
    return Side(technique=technique, scene=scene, judged=judge_rep(technique, rep, scene), clip=clip)


@pytest.fixture(scope="module")
def kicks() -> tuple[RepFile, RepFile]:
    """A kick with a low knee and a late return, and a clean one, of one clip."""
    script = {
        "lacertus_script": 1, "id": "two-kicks", "technique": "front-kick", "scatter": 0.0,
        "reps": [{"faults": {"low-chamber": 48, "no-return": 200}}, {}],
        "camera": {"size": [854, 480]}, "recording": {"fps": 60},
    }  # fmt: skip
    one, two = truth(shots_of(read_script(script))[0])["reps"]
    return read_rep(one), read_rep(two)


# --- nothing where nothing differs -------------------------------------------------------------------


def test_a_rep_compared_with_itself_has_no_difference() -> None:
    rep = read_rep(truth_of())
    rows = table_of([side(FREE, rep), side(FREE, rep)])
    told = [row.differences[1] for row in rows if row.differences[1] is not None]
    assert len(told) >= 24
    assert all((one.value, one.u, one.is_real) == (0.0, 0.0, False) for one in told)
    for row in timing_of([side(FREE, rep), side(FREE, rep)], "full_reach"):
        assert row.differences[1] is None or (row.differences[1].value, row.differences[1].is_real) == (0.0, False)


def test_mirrored_twice_is_the_same_and_mirrored_once_is_measured_alike(kicks: tuple[RepFile, RepFile]) -> None:
    rep = kicks[0]
    turned = mirrored(rep)
    assert (turned.side, turned.heading) == ("left", "left")
    again = mirrored(turned)
    assert again.model_dump(exclude={"bodies", "floor"}) == rep.model_dump(exclude={"bodies", "floor"})
    assert np.array([(spot.x, spot.X) for spot in again.floor or ()]) == pytest.approx(
        np.array([(spot.x, spot.X) for spot in rep.floor or ()])
    )
    for name, body in rep.bodies.items():
        for mark, points in body.landmarks.items():
            back = again.bodies[name].landmarks[mark]
            assert [point.x for point in back] == pytest.approx([point.x for point in points])
    one, two = side(KICK, rep), side(KICK, turned, "b")
    compared = 0
    for row in table_of([one, two]):
        told = row.differences[1]
        if told is not None:
            # Left and right have draws of their own, so alike is within what those may scatter.
            assert abs(told.value) <= 0.5 * told.u + 1e-9, row.id
            assert not told.is_real
            compared += 1
    assert compared >= 8


@pytest.mark.parametrize(
    "motion",
    [((1.0, 0.0, 3.0), (0.0, 1.0, -2.0)), ((math.cos(0.02), -math.sin(0.02), 4.0), (math.sin(0.02), math.cos(0.02), 1.0))],
)
def test_a_moving_camera_is_mirrored_with_its_picture(motion: Any) -> None:
    rep = read_rep(truth_of())
    moving = rep.model_copy(update={"camera_motion": (motion,) * len(rep.pts_s)})
    turned = mirrored(moving)
    assert turned.camera_motion is not None
    width, x, y = rep.size[0], 312.0, 455.0
    (a, b, t), (c, d, s) = turned.camera_motion[0]
    (a0, b0, t0), (c0, d0, s0) = motion
    # The mirror of where a spot goes is where its mirror goes.
    assert (a * (width - x) + b * y + t, c * (width - x) + d * y + s) == pytest.approx(
        (width - (a0 * x + b0 * y + t0), c0 * x + d0 * y + s0)
    )


# --- by hand ------------------------------------------------------------------------------------------


def timed(reach: int, folded: int, rate: float) -> Side:
    found = technique(return_time())
    file = rep_data(None, events={"full_reach": [reach], "folded": [folded]}, bodies={})
    file |= {"pts_s": [k / rate for k in range(len(file["pts_s"]))]}
    return side(found, read_rep(file), f"{reach} {folded} {rate}")


def test_times_of_two_clips_differ_by_their_own_u_and_are_real_beyond_1_645_of_it() -> None:
    quick, late = timed(40, 52, 60.0), timed(40, 61, 60.0)
    told = difference(quick, late, "quick_return")
    assert told is not None
    # 12 and 21 frames at 60 a second: 200 and 350 ms. One instant: gap²/12 + (half a frame)², two instants each, two reps.
    gap = 1000 / 60
    u = 2 * math.sqrt(gap**2 / 12 + (gap / 2) ** 2)
    assert (told.value, told.u, told.is_real) == (pytest.approx(150.0), pytest.approx(u), True)
    near = difference(quick, timed(40, 53, 60.0), "quick_return")
    assert near is not None
    assert (near.value, near.is_real) == (pytest.approx(1000 / 60), False)


def test_when_each_event_came_is_told_from_the_anchor_and_as_a_share_of_the_rep() -> None:
    one, two = timed(40, 52, 60.0), timed(40, 52, 30.0)
    rows = {row.event: row for row in timing_of([one, two], "full_reach")}
    first, last = one.scene.rep.range
    assert rows["full_reach"].at_s == ((0.0, 0.0), (0.0, 0.0))
    assert [at and at[0] for at in rows["folded"].at_s] == [pytest.approx(0.2), pytest.approx(0.4)]
    assert rows["folded"].shares[0] == pytest.approx((52 - first) / (last - first))
    told = rows["folded"].differences[1]
    assert told is not None
    assert (told.value, told.is_real) == (pytest.approx(0.2), True)
    assert set(rows) == {"full_reach", "folded"}, "an event that no side has is no row"


def test_of_one_clip_the_shared_half_cancels_and_of_two_clips_nothing(kicks: tuple[RepFile, RepFile]) -> None:
    low, clean = (side(KICK, rep) for rep in kicks)
    elsewhere = side(KICK, kicks[1], "b")
    together, apart = difference(low, clean, "thigh_lifted"), difference(low, elsewhere, "thigh_lifted")
    assert together is not None
    assert apart is not None
    assert together.value == apart.value
    assert math.sqrt(0.5) * apart.u - 1e-9 <= together.u <= apart.u
    own = [one.by_id["thigh_lifted"].uncertainty or 0.0 for one in (low, clean)]
    assert apart.u == pytest.approx(math.hypot(*own))
    assert together.is_real
    assert together.value < -20, "the clean knee is folded higher: a smaller angle to the trunk"


def test_a_value_that_rests_on_unknown_lean_never_really_differs() -> None:
    asked = technique(checkpoint())
    file = rep_data()
    bent = rep_data()
    for mark in bent["bodies"]["performer"]["landmarks"]["right_ankle"]:
        mark["x"] -= 60
        mark["y"] -= 60
    for one in (file, bent):
        one["bodies"]["performer"].pop("height_px", None)
        for marks in one["bodies"]["performer"]["landmarks"].values():
            for mark in marks:
                mark["sigma"] = 0.5
    told = difference(side(asked, read_rep(file)), side(asked, read_rep(bent), "b"), "knee_angle")
    assert told is not None
    assert abs(told.value) > 5 * told.u
    assert not told.is_real


def test_scattered_points_of_the_same_movement_really_differ_in_few() -> None:
    """The same truth marked twice in two clips: what is told as really different is wrong, and must be rare."""
    chance = np.random.default_rng(21)
    wrong = told = 0
    sides = [side(FREE, read_rep(scattered(truth_of(), chance)), f"{number}") for number in range(12)]
    for one, two in zip(sides[::2], sides[1::2], strict=True):
        for row in table_of([one, two]):
            if row.differences[1] is not None:
                told += 1
                wrong += row.differences[1].is_real
    assert told >= 120
    assert wrong / told <= 0.12, f"{wrong} of {told}"


# --- one over the other ------------------------------------------------------------------------------


@pytest.mark.parametrize("turned_round", [False, True], ids=["same way", "mirrored"])
def test_two_cameras_lie_over_one_another_within_a_hundredth_of_the_height(turned_round: bool) -> None:
    base: dict[str, Any] = {
        "lacertus_script": 1, "technique": "front-kick", "scatter": 0.0, "reps": [{}], "recording": {"fps": 60},
    }  # fmt: skip
    near = read_script(base | {"id": "near", "camera": {"size": [854, 480]}})
    far = read_script(base | {"id": "far", "camera": {"size": [1280, 720], "distance_m": 6.5}})
    rep, other = (read_rep(truth(shots_of(script)[0])["reps"][0]) for script in (near, far))
    one, two = Scene(rep, KICK.edges), Scene(mirrored(other) if turned_round else other, KICK.edges)
    frames = [scene.rep.range[0] + 2 for scene in (one, two)]
    laid = lay_over(one, frames[0], two, frames[1])
    assert laid.mirrored is turned_round
    tall = one.height_px("performer")
    off = {}
    for mark in ("head_top", "other_heel", "working_toe", "mid_hip", "mid_shoulder"):
        here, there = (scene.point(PointRef(name=mark), frame) for scene, frame in zip((one, two), frames, strict=True))
        x, y = laid.place(there.x, there.y, two.rep.size[0])
        off[mark] = math.hypot(x - here.x, y - here.y) / tall
    # Of feet and crown; a nearer camera sees what is nearer to it a little larger.
    assert max(off["head_top"], off["other_heel"], off["working_toe"]) <= 0.01, off
    assert max(off.values()) <= 0.02, off


def test_without_feet_nothing_is_laid_over() -> None:
    rep = read_rep(truth_of())
    bare = rep.bodies["performer"].model_copy(update={"landmarks": {"nose": rep.bodies["performer"].landmarks["nose"]}})
    other = Scene(rep.model_copy(update={"bodies": rep.bodies | {"performer": bare}}), FREE.edges)
    with pytest.raises(NotSeen, match="place an ankle, heel or toe, or the hips"):
        lay_over(Scene(rep, FREE.edges), 44, other, 44)
