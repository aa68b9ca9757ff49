"""The studio's figures and clips: limbs that do not stretch, feet that do not slide, truth on the picture."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.body import LANDMARKS, PROPORTIONS
from lacertus.core.judge import judge_rep
from lacertus.core.repfile import read_rep
from lacertus.library import shipped_technique
from lacertus.studio.camera import Camera
from lacertus.studio.clips import uneven_times
from lacertus.studio.demo_scenes import ILSE, SCENES, kicks, sweep
from lacertus.studio.figure import Look, pose, rest_channels
from lacertus.studio.flesh import Ellipsoid
from lacertus.studio.foot_sweep import FootSweep
from lacertus.studio.front_kick import FrontKick
from lacertus.studio.motion import Motion
from lacertus.studio.render import Stage
from lacertus.studio.scene import Scene, truth
from lacertus.studio.stamp import read_stamp, write_stamp

angles = st.floats(-60, 120)


def span(at: dict[str, np.ndarray], a: str, b: str) -> float:  # type: ignore[type-arg]
    return float(np.linalg.norm(at[a] - at[b]))


@given(angles, st.floats(0, 140), st.floats(-30, 60), st.floats(0, 1), st.floats(-0.6, 0.6))
def test_limbs_keep_their_length_in_any_pose(flex: float, bend: float, abd: float, plant: float, x: float) -> None:
    channels = rest_channels() | {"left_leg_flex": flex, "left_leg_bend": bend, "left_leg_abd": abd, "left_plant": plant}
    at = pose(channels | {"left_foot_x": x, "left_arm_flex": flex, "left_arm_bend": bend}, Look(stature_m=1.7)).at
    for segment, a, b in (("thigh", "hip", "knee"), ("shank", "knee", "ankle"), ("upper_arm", "shoulder", "elbow")):
        assert span(at, f"left_{a}", f"left_{b}") == pytest.approx(PROPORTIONS[segment] * 1.7, rel=1e-6)


def test_every_landmark_has_a_place() -> None:
    assert set(pose(rest_channels(), Look()).at) == LANDMARKS


def test_a_planted_foot_does_not_slide() -> None:
    scene = kicks(ILSE, [FrontKick()], lambda s: tuple(np.arange(0, s, 0.05)))
    places = np.array([scene.joints(t)["performer"].at["left_ankle"] for t in scene.times_s])
    assert np.ptp(places, axis=0).max() < 0.02


def test_motion_never_overshoots_its_keys() -> None:
    curve = Motion({"lean": [(0.0, 0.0), (1.0, 10.0), (1.1, 10.0), (3.0, 2.0)]})
    values = [curve.at(t)["lean"] for t in np.linspace(-1, 4, 200)]
    assert min(values) >= 0.0
    assert max(values) <= 10.0 + 1e-9


def test_an_unknown_channel_is_refused() -> None:
    with pytest.raises(KeyError, match="tail_wag"):
        Motion({"tail_wag": [(0.0, 1.0)]}).at(0.0)


@pytest.mark.parametrize("height", [270, 540, 720])
@pytest.mark.parametrize("number", [0, 1, 443, 65_535])
def test_the_stamp_can_be_read_at_any_size(number: int, height: int) -> None:
    assert read_stamp(write_stamp(np.full((height, height * 16 // 9, 3), 90, dtype=np.uint8), number)) == number


def test_a_picture_without_a_stamp_has_no_number() -> None:
    assert read_stamp(np.full((270, 480, 3), 200, dtype=np.uint8)) is None


@pytest.mark.parametrize("place", [(0.0, 0.0, 0.9), (0.8, 0.3, 1.5), (-0.9, -0.4, 0.1)])
def test_a_ball_is_drawn_where_the_camera_projects_it(place: tuple[float, float, float]) -> None:
    """A small marker rendered at a known joint: its pixels' centre is the truth within a pixel."""
    camera = Camera(width=640, height=360)
    centre = np.array(place)
    ball = Ellipsoid(centre=centre, frame=pose(rest_channels(), Look()).pelvis, size=(0.03, 0.03, 0.03), colour=(1.0, 0.0, 1.0))
    picture = Stage(camera).draw([[ball]]).astype(int)
    rows, columns = np.nonzero((picture[..., 0] - picture[..., 1] > 60) & (picture[..., 2] - picture[..., 1] > 60))
    x, y, _ = camera.project(centre)
    assert (columns.mean() + 0.5, rows.mean() + 0.5) == pytest.approx((x, y), abs=1.0)


def test_uneven_times_come_again_from_the_same_seed() -> None:
    assert uneven_times(2, 30, 4) == uneven_times(2, 30, 4)
    assert uneven_times(2, 30, 4) != uneven_times(2, 30, 5)


def test_truth_is_the_same_each_time() -> None:
    scene = SCENES[0].build()
    assert truth(scene) == truth(SCENES[0].build())


def verdicts(scene: Scene) -> dict[str, str]:
    the_rep = read_rep(truth(scene)["reps"][0])
    return {j.id: j.verdict.value for j in judge_rep(shipped_technique(scene.technique), the_rep)}


def sixty(seconds: float) -> tuple[float, ...]:
    return tuple(k / 60 for k in range(round(seconds * 60)))


def test_a_good_kick_meets_all_that_is_measured() -> None:
    found = verdicts(kicks(ILSE, [FrontKick()], sixty))
    measured = {key: verdict for key, verdict in found.items() if key not in ("hands_up", "toes_back", "lands_by_choice")}
    assert set(measured.values()) == {"met"}, measured


@pytest.mark.parametrize(
    ("kick", "fault"),
    [
        (FrontKick(thigh=60.0), "thigh_lifted"),
        (FrontKick(fold=80.0), "tight_chamber"),
        (FrontKick(reach=45.0), "leg_straight"),
        (FrontKick(return_s=0.45), "quick_return"),
        (FrontKick(refold=40.0), "refolded"),
        (FrontKick(lift_s=0.6), "lift_then_open"),
    ],
    ids=lambda value: value if isinstance(value, str) else "",
)
def test_a_fault_put_in_is_found(kick: FrontKick, fault: str) -> None:
    assert verdicts(kicks(ILSE, [kick], sixty))[fault] == "missed"


@pytest.mark.parametrize(
    ("how", "fault"),
    [
        (FootSweep(sweep_s=0.2), "swept_in_time"),
        (FootSweep(pull_s=-0.1), "pull_with_step"),
        (FootSweep(pull_s=0.44), "pull_with_step"),
    ],
)
def test_a_sweep_out_of_time_is_found(how: FootSweep, fault: str) -> None:
    assert verdicts(sweep(ILSE, FootSweep(), sixty))[fault] == "met"
    assert verdicts(sweep(ILSE, how, sixty))[fault] == "missed"
