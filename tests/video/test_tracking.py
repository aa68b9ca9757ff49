"""Bodies followed by the pose model: held against the studio's figures, and its known weaknesses against made-up ways."""

from __future__ import annotations

import zipfile
from pathlib import Path
from typing import Any, ClassVar

import numpy as np
import pytest

from lacertus.core.errors import BadInput
from lacertus.core.measuring.body import BodyName
from lacertus.core.measuring.repfile import Body
from lacertus.local.pose_model import build
from lacertus.settings import Settings
from lacertus.video.tracking.bodies import track_bodies
from lacertus.video.tracking.pose import BodySeed, Joint, TrackedBody, pose_points, seed_height, sides_settled, track_body

BUNDLE = Path(Settings().pose_model)
TRUNK = ("left_shoulder", "right_shoulder", "left_hip", "right_hip", "left_knee", "right_knee")
SEEN = ("left_hip", "right_hip", "left_knee", "right_knee", "left_ankle", "right_ankle", "left_shoulder", "right_shoulder")


def seeded(rep: dict[str, Any], frame: int, landmarks: tuple[str, ...] = TRUNK) -> dict[BodyName, Body]:
    found: dict[BodyName, Body] = {}
    for name, data in rep["bodies"].items():
        entries = {mark: [e for e in data["landmarks"][mark] if e["frame"] == frame] for mark in landmarks}
        placed = {mark: [e | {"by": "placed"} for e in es] for mark, es in entries.items() if es}
        found[name] = Body.model_validate({"height_px": data["height_px"], "landmarks": placed})
    return found


def errors(rep: dict[str, Any], body: BodyName, seen: dict[str, Any], of: BodyName | None = None) -> dict[int, float]:
    """By frame, how far the model's joints lie from a body's true ones, the median as share of its height."""
    data = rep["bodies"][of or body]
    true = {mark: {e["frame"]: (e["x"], e["y"]) for e in data["landmarks"][mark]} for mark in SEEN}
    off: dict[int, list[float]] = {}
    for mark in SEEN:
        for frame, x, y, _ in seen[mark].model:
            if frame in true[mark]:
                off.setdefault(frame, []).append(float(np.hypot(x - true[mark][frame][0], y - true[mark][frame][1])))
    return {frame: float(np.median(values)) / data["height_px"] for frame, values in off.items()}


def test_one_body_is_found_on_every_frame_where_it_truly_is(clips: dict[str, Path], truths: dict[str, Any]) -> None:
    """The figure is 200 px tall: it is enlarged for the model."""
    rep = truths["constant"]["reps"][0]
    first, last = rep["range"]
    found = track_bodies(clips["constant"], seeded(rep, first), (first, last), {"performer": set(SEEN)}, BUNDLE, rep["pts_s"])
    off = errors(rep, "performer", found.observed["performer"])
    assert len(off) >= 0.97 * (last - first + 1)
    assert np.median(list(off.values())) < 0.03 and max(off.values()) < 0.1


def test_each_of_two_stays_on_its_own_body_or_says_that_it_was_lost(clips: dict[str, Path], truths: dict[str, Any]) -> None:
    rep = truths["variable"]["reps"][0]
    first, last = rep["range"]
    wanted: dict[BodyName, set[str]] = {"performer": set(SEEN), "partner": set(SEEN)}
    found = track_bodies(clips["variable"], seeded(rep, first), (first, last), wanted, BUNDLE, rep["pts_s"])
    for body, other in (("performer", "partner"), ("partner", "performer")):
        own, theirs = (errors(rep, body, found.observed[body], of) for of in (body, other))  # type: ignore[arg-type,index]
        standing = [frame for frame in own if frame <= first + 0.6 * (last - first)]
        assert len(standing) > 0.5 * (last - first)
        assert all(own[frame] < theirs[frame] for frame in standing), body


def test_without_the_model_points_are_tracked_by_flow_alone(clips: dict[str, Path], truths: dict[str, Any]) -> None:
    rep = truths["constant"]["reps"][0]
    first, last = rep["range"]
    steps: list[tuple[int, int | None]] = []
    bodies = seeded(rep, first, ("left_hip",))
    found = track_bodies(
        clips["constant"],
        bodies,
        (first, last),
        {},
        None,
        rep["pts_s"],
        lambda done, of: steps.append((done, of)),
        tuple(rep["size"]),
    )
    seen = found.observed["performer"]["left_hip"]
    assert seen.model == () and seen.flow and steps[-1] == (last - first + 1, last - first + 1)
    told = track_bodies(clips["constant"], bodies, (first, last), {}, BUNDLE, rep["pts_s"])
    assert any("too few points" in words for words in told.lost)
    with pytest.raises(BadInput, match="no placed point"):
        track_bodies(clips["constant"], {"performer": Body()}, (first, last), {}, None, rep["pts_s"])


def test_a_stretch_too_long_is_refused_also_where_nothing_is_placed(clips: dict[str, Path]) -> None:
    like = {"performer": {"left_hip": (10.0, 10.0), "left_knee": (10.0, 60.0)}}
    with pytest.raises(BadInput, match="at most 900 frames"):
        track_bodies(clips["constant"], {"performer": Body(height_px=200)}, (0, 5000), {}, BUNDLE, [0.0], like=like)  # type: ignore[arg-type]


def legs(swapped: range, frames: int = 40, placed: tuple[int, ...] = ()) -> TrackedBody:
    """Two legs that pass each other in the middle; the model takes them for each other on some frames."""
    found = TrackedBody(
        seed=BodySeed(body="performer", frame=0, points={}, height_px=400.0, placed={f: true_legs(f) for f in placed})
    )
    for frame in range(frames):
        joints = true_legs(frame)
        if frame in swapped:
            joints = {name: joints[_other(name)] for name in joints}
        found.frames[frame] = {name: Joint(x=x, y=y, visibility=0.9) for name, (x, y) in joints.items()}
    return found


def _other(name: str) -> str:
    return name.replace("left", "LEFT").replace("right", "left").replace("LEFT", "right")


def true_legs(frame: int) -> dict[str, tuple[float, float]]:
    left, right = 300 + 4.0 * frame, 460 - 4.0 * frame
    joints = {f"{side}_{joint}": (x, 300.0 + 60 * i) for i, joint in enumerate(("hip", "knee", "ankle", "heel", "toe"))
              for side, x in (("left", left), ("right", right))}  # fmt: skip
    arms = {
        f"{side}_{joint}": (x, 150.0)
        for joint in ("shoulder", "elbow", "wrist", "hand")
        for side, x in (("left", 350), ("right", 400))
    }
    return joints | arms


@pytest.mark.parametrize(
    ("swapped", "placed"), [(range(5, 9), ()), (range(20, 40), (35,)), (range(0, 20), (2,)), (range(0, 40), (5, 30))]
)
def test_left_and_right_are_settled_by_the_whole_way_and_the_coachs_points(swapped: range, placed: tuple[int, ...]) -> None:
    """From frame 20 on, where the legs lie upon each other, only a placed point can tell."""
    settled = sides_settled(legs(swapped, placed=placed))
    for frame, joints in settled.frames.items():
        assert joints["left_ankle"].x == pytest.approx(true_legs(frame)["left_ankle"][0]), frame


class Dots:
    """Stands in for the model: finds a body by where its picture is red."""

    def __init__(self, gone: range = range(0)) -> None:
        self.gone, self.looked = gone, 0

    def find(self, picture: np.ndarray) -> dict[str, Joint] | None:
        red = (picture[..., 0] > 170) & (picture[..., 2] < 90)
        if red.sum() < 20:
            return None
        (top, left), (low, right) = np.argwhere(red).min(axis=0), np.argwhere(red).max(axis=0)
        spots = {
            "shoulder": 0.1,
            "elbow": 0.3,
            "wrist": 0.45,
            "hand": 0.5,
            "hip": 0.5,
            "knee": 0.75,
            "ankle": 0.95,
            "heel": 1.0,
            "toe": 1.0,
        }
        return {
            f"{side}_{joint}": Joint(
                x=left + (0.3 if side == "left" else 0.7) * (right - left), y=top + share * (low - top), visibility=1
            )
            for joint, share in spots.items()
            for side in ("left", "right")
        }


def picture(x: float, other: float | None = None) -> np.ndarray:
    found = np.full((400, 900, 3), 60, dtype=np.uint8)
    for at in (x, other):
        if at is not None:
            found[100:300, int(at) - 30 : int(at) + 30] = (220, 30, 30)
    return found


def at(x: float) -> dict[str, tuple[float, float]]:
    return {
        "left_shoulder": (x - 12, 120.0),
        "right_shoulder": (x + 12, 120.0),
        "left_hip": (x - 12, 200.0),
        "right_hip": (x + 12, 200.0),
    }


def test_another_body_in_the_picture_is_greyed_out() -> None:
    seed = BodySeed(body="performer", frame=3, points=at(200), height_px=210.0)
    (found,) = track_body(Dots(), lambda frame: picture(200 + 3 * frame - 9, 600), [seed], range(0, 30))  # type: ignore[arg-type]
    assert sorted(found.frames) == list(range(30)) and found.lost is None
    assert all(abs(found.frames[f]["left_hip"].x - (200 + 3 * f - 9 - 12)) < 8 for f in found.frames)


def test_a_body_that_jumps_is_refused_and_given_up_after_a_while() -> None:
    seed = BodySeed(body="performer", frame=0, points=at(200), height_px=210.0)
    (found,) = track_body(Dots(), lambda frame: picture(200 if frame < 10 else 330), [seed], range(0, 60))  # type: ignore[arg-type]
    assert max(found.frames) == 9 and found.lost == 9


def test_two_that_are_found_as_one_are_not_both_believed() -> None:
    """The partner's picture vanishes beside the performer: what is found in its place is the performer."""
    seeds = [
        BodySeed(body="performer", frame=0, points=at(300), height_px=210.0),
        BodySeed(body="partner", frame=0, points=at(320), height_px=210.0),
    ]
    found = track_body(Dots(), lambda _: picture(300), seeds, range(0, 40))  # type: ignore[arg-type]
    assert len(found[0].frames) == 40 and not found[1].frames and found[1].lost is not None


def test_offsets_come_off_and_what_is_hidden_is_unsure() -> None:
    joints = {name: Joint(x=x, y=y, visibility=0.2 if "left" in name else 0.99) for name, (x, y) in true_legs(0).items()}
    found = pose_points(
        TrackedBody(seed=BodySeed(body="performer", frame=0, points={}, height_px=400.0), frames={0: joints}), [0.0]
    )
    assert found["left_ankle"][0][2] > 3 * found["right_ankle"][0][2]
    # The hip was set too low by the model: it goes up, towards the shoulders.
    assert found["right_hip"][0][1] < joints["right_hip"].y
    seed = BodySeed(body="performer", frame=0, points={}, height_px=400.0)
    tangled = pose_points(TrackedBody(seed=seed, frames={0: joints}, tangled={0}), [0.0])
    assert tangled["right_hip"][0][2] == pytest.approx(2 * found["right_hip"][0][2])


def test_a_height_that_was_not_marked_is_taken_from_a_leg() -> None:
    assert seed_height({"left_hip": (0, 0), "left_knee": (0, 100)}, None) == pytest.approx(100 / 0.245)
    assert seed_height({"left_hip": (0, 0)}, None) is None and seed_height({}, 300.0) == 300.0


def test_the_bundle_holds_both_models_and_a_folder_without_them_is_told(tmp_path: Path) -> None:
    with zipfile.ZipFile(BUNDLE) as archive:
        assert sorted(archive.namelist()) == ["pose_detector.tflite", "pose_landmarks_detector.tflite"]
        assert {entry.compress_type for entry in archive.infolist()} == {zipfile.ZIP_STORED}
    with pytest.raises(BadInput, match="does not hold the pose models"):
        build(tmp_path, tmp_path / "pose.task")


class TestHiddenJoints:
    """What the model does not see it puts onto the trunk."""

    BODY: ClassVar[dict[str, tuple[float, float]]] = {
        "left_shoulder": (90, 100), "right_shoulder": (130, 100), "left_hip": (95, 180), "right_hip": (125, 180), "nose": (110, 70),
    }  # fmt: skip

    def seen(self, wrist: tuple[float, float], visibility: float) -> dict[str, dict[int, tuple[float, float, float]]]:
        joints = {name: Joint(x=x, y=y, visibility=0.99) for name, (x, y) in self.BODY.items()}
        joints["left_wrist"] = Joint(x=wrist[0], y=wrist[1], visibility=visibility)
        seed = BodySeed(body="performer", frame=0, points={}, height_px=300.0)
        return pose_points(TrackedBody(seed=seed, frames={0: joints}), [0.0])

    def test_a_guess_on_the_belly_is_no_observation(self) -> None:
        assert "left_wrist" not in self.seen((110, 140), 0.1)
        assert "left_hip" in self.seen((110, 140), 0.1)

    def test_a_guess_where_the_joint_was_just_seen_counts(self) -> None:
        body = {name: Joint(x=x, y=y, visibility=0.99) for name, (x, y) in self.BODY.items()}
        frames = {at: body | {"left_wrist": Joint(x=110, y=140, visibility=0.9 if at == 0 else 0.1)} for at in (0, 6, 60)}
        seed = BodySeed(body="performer", frame=0, points={}, height_px=300.0)
        times = [at / 60 for at in range(61)]
        assert sorted(pose_points(TrackedBody(seed=seed, frames=frames), times)["left_wrist"]) == [0, 6]

    def test_a_wrist_that_is_seen_there_is_one_and_so_is_a_guess_beside_it(self) -> None:
        assert "left_wrist" in self.seen((110, 140), 0.9)
        assert "left_wrist" in self.seen((60, 140), 0.1)
