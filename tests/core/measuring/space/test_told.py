"""What a coach sees of depth by eye, and the bodies as they are believed to be."""

from __future__ import annotations

from functools import cache
from typing import Any

import numpy as np
import pytest

from lacertus.core.errors import BadRep
from lacertus.core.measuring.body import LEANING, SEGMENTS
from lacertus.core.measuring.repfile import mirror_rep, read_rep
from lacertus.core.review.judge import judge_rep
from lacertus.core.review.judgement import Judgement
from lacertus.core.review.views.believed import believed
from lacertus.core.review.views.tied import judge_reps
from lacertus.core.techniques.definition import Technique
from tests.bench import posed
from tests.bench.in_depth import ASKED, EVENTS, FPS, Motion, PosedInSpace, in_picture, technique_of, truths_of
from tests.core.measuring.space.films import MIDDLE, TECHNIQUE, filmed

FRAME = EVENTS["middle"]
FACING = f"c{list(ASKED).index('hips to target')}"
AGAINST = {
    "hip": "hip", "shoulder": "shoulder", "knee": "hip", "ankle": "knee", "elbow": "shoulder", "wrist": "elbow", "hand": "wrist",
    "heel": "ankle", "toe": "ankle",
}  # fmt: skip
JOINTS = [f"{side}_{joint}" for side in ("left", "right") for joint in AGAINST]


def other_of(joint: str) -> str:
    side, bare = joint.split("_")
    if AGAINST[bare] != bare:
        return f"{side}_{AGAINST[bare]}"
    return f"{'left' if side == 'right' else 'right'}_{bare}"


def truly_nearer(motion: Motion, eye: posed.Eye, joint: str) -> bool:
    at = motion.at("performer", FRAME / FPS)
    away = [float(np.linalg.norm(at[name] - eye.at)) for name in (joint, other_of(joint))]
    return away[0] < away[1]


def told(motion: Motion, eye: posed.Eye, joints: list[str], lie: bool = False) -> list[dict[str, Any]]:
    return [
        {"body": "performer", "landmark": joint, "frame": FRAME, "nearer": truly_nearer(motion, eye, joint) != lie}
        for joint in joints
    ]


@cache
def alone(checkpoint: str) -> Technique:
    return technique_of({}, [list(ASKED)[int(checkpoint.removeprefix("c"))]])


def named(rep: dict[str, Any], checkpoint: str) -> Judgement:
    (found,) = judge_rep(alone(checkpoint), read_rep(rep))
    assert found.id == checkpoint
    return found


def true_knee(motion: Motion) -> float:
    at = motion.at("performer", FRAME / FPS)
    a, b = at["right_hip"] - at["right_knee"], at["right_ankle"] - at["right_knee"]
    return float(np.degrees(np.arccos(a @ b / np.linalg.norm(a) / np.linalg.norm(b))))


def test_what_is_told_of_depth_narrows_an_angle_and_keeps_it_right() -> None:
    plain, sure, held = [], [], []
    for seed in range(24):
        rep, motion, eye = filmed(seed)
        before = named(rep, "c0")
        after = named(rep | {"nearer": told(motion, eye, ["right_knee", "right_ankle"])}, "c0")
        if before.uncertainty is None or after.uncertainty is None or after.value is None:
            continue
        plain.append(before.uncertainty)
        sure.append(after.uncertainty)
        held.append(abs(after.value - true_knee(motion)) <= 2 * after.uncertainty)
    assert len(held) >= 20
    assert np.mean(sure) <= 0.7 * np.mean(plain)
    assert np.mean(held) >= 0.9


def test_the_same_is_read_in_a_mirror() -> None:
    rep, motion, eye = filmed(3)
    file = read_rep(rep | {"nearer": told(motion, eye, JOINTS), "target_turn": {"deg": -15.0}})
    here, there = judge_rep(TECHNIQUE, file), judge_rep(TECHNIQUE, mirror_rep(file))
    assert [one.verdict for one in here] == [one.verdict for one in there]
    values = [(one.value, other.value) for one, other in zip(here, there, strict=True) if one.value is not None]
    assert len(values) > 25
    assert all(a == pytest.approx(b, rel=1e-6, abs=1e-6) for a, b in values)


def test_where_the_target_lies_once_told_narrows_what_faces_it_and_keeps_it_right() -> None:
    plain, sure, held = [], [], []
    for seed in range(24):
        rep, motion, _ = filmed(seed, 30.0)
        truth = PosedInSpace(scene=motion, events={name: frame / FPS for name, frame in EVENTS.items()})  # type: ignore[arg-type]
        true = truths_of(truth)["hips to target"]
        # The camera stands thirty degrees towards the target, so that the line to it comes towards the camera.
        before, after = named(rep, FACING), named(rep | {"target_turn": {"deg": -30.0}}, FACING)
        if before.uncertainty is None or after.uncertainty is None or after.value is None:
            continue
        plain.append(before.uncertainty)
        sure.append(after.uncertainty)
        held.append(abs(after.value - true) <= 2 * after.uncertainty)
    assert len(held) >= 20
    assert np.mean(sure) <= 0.75 * np.mean(plain)
    assert np.mean(held) >= 0.9


def test_in_two_views_one_is_asked_where_the_target_lies_until_it_is_told() -> None:
    rep, motion, _ = filmed(1)
    chance = np.random.default_rng(1)
    other = in_picture(motion, posed.drawn_eye(chance, -60.0, MIDDLE), chance)
    both = rep | {"views": [other | {"offset_s": 0.0, "view": "angle"}]}
    (plain,) = judge_reps((TECHNIQUE,), (read_rep(both),))
    value = next(one for one in plain if one.id == FACING).value
    assert value is not None
    technique = technique_of({"hips to target": (value, None)})

    def to_settle(rep: dict[str, Any]) -> str | None:
        (judged,) = judge_reps((technique,), (read_rep(rep),))
        return next(one for one in judged if one.id == FACING).to_settle

    assert to_settle(both) == "say beside the bodies in space how the line to the target lies"
    assert "line to the target" not in (to_settle(both | {"target_turn": {"deg": -20.0}}) or "")


@pytest.mark.parametrize("wrong", [{"deg": 80.0}, {"deg": 0.0, "u": 0.0}, {"u": 5.0}, {"deg": "left"}])
def test_a_target_behind_the_camera_is_refused(wrong: dict[str, Any]) -> None:
    rep, _, _ = filmed(0)
    with pytest.raises(BadRep, match="target_turn"):
        read_rep(rep | {"target_turn": wrong})


@pytest.mark.parametrize("lie", [False, True])
def test_what_is_told_is_believed_in_its_frame(lie: bool) -> None:
    rep, motion, eye = filmed(5)
    file = read_rep(rep | {"nearer": told(motion, eye, JOINTS, lie)})
    performer = next(one for one in believed(TECHNIQUE, file) if one.body == "performer")
    near = next(one for one in performer.frames if one.frame == FRAME).near
    shares = dict(zip((lean.joint for lean in performer.leaning), near, strict=True))
    assert {lean.joint: lean.hangs_on for lean in performer.leaning if lean.joint != "mid_shoulder"} == {
        joint: other_of(joint) for joint in JOINTS
    }
    wanted = {joint: truly_nearer(motion, eye, joint) != lie for joint in JOINTS if joint.split("_")[1] not in ("hip", "shoulder")}
    # What hangs on another joint is nearer or farther than that; along a slanting line of sight a short one may not be.
    right = [share is not None and (share >= 50) == wanted[joint] for joint in wanted if (share := shares[joint]) is not None]
    assert len(right) == len(wanted)
    assert sum(right) >= len(right) - 1


def test_bodies_believed_have_the_size_of_bodies() -> None:
    rep, _, _ = filmed(1)
    bodies = believed(TECHNIQUE, read_rep(rep))
    assert [one.body for one in bodies] == ["performer", "partner"]
    for one in bodies:
        assert len(one.frames) == 46
        at = np.array(one.frames[FRAME].places, dtype=float).reshape(-1, 3)
        place = dict(zip(one.joints, at, strict=True))
        for part, share in (("shank", 0.246), ("thigh", 0.245), ("forearm", 0.146)):
            a, b = SEGMENTS[f"right_{part}"]
            assert np.linalg.norm(place[a] - place[b]) == pytest.approx(1000 * share, rel=0.35)
        assert at[:, 2].min() >= 0


def test_a_body_of_which_no_length_is_known_is_not_shown() -> None:
    rep, _, _ = filmed(1)
    for data in rep["bodies"].values():
        data["reference_lengths_px"], data["height_px"] = {}, None
        for name, entries in data["landmarks"].items():
            data["landmarks"][name] = [entry for entry in entries if entry["frame"] == FRAME]
    assert believed(TECHNIQUE, read_rep(rep)) == ()


@pytest.mark.parametrize(
    ("wrong", "says"),
    [
        ([{"body": "performer", "landmark": "nose", "frame": 3, "nearer": True}], "not one of"),
        ([{"body": "performer", "landmark": "left_knee", "frame": 46, "nearer": True}], "past the clip’s last"),
        ([{"body": "performer", "landmark": "left_knee", "frame": 3, "nearer": near} for near in (True, False)], "told twice"),
        ([{"body": "performer", "landmark": LEANING[1], "frame": f, "nearer": True} for f in range(3)] * 100, "at most 200"),
    ],
)
def test_what_no_body_has_is_refused(wrong: list[dict[str, Any]], says: str) -> None:
    rep, _, _ = filmed(1)
    with pytest.raises(BadRep, match=says):
        read_rep(rep | {"nearer": wrong})


def test_of_a_long_rep_not_every_frame_is_shown() -> None:
    rep, _, _ = filmed(1)
    rep |= {"pts_s": [i / 60 for i in range(600)], "range": [0, 599]}
    performer = next(one for one in believed(TECHNIQUE, read_rep(rep)) if one.body == "performer")
    assert [one.frame for one in performer.frames] == list(range(0, 46, 3))
