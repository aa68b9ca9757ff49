"""Whole reps judged: values, verdicts, reasons, and what leaves a checkpoint out."""

from __future__ import annotations

import json
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.errors import BadRep
from lacertus.core.measuring.repfile import mirror_rep, read_rep
from lacertus.core.review.judge import judge_rep, needed_points
from tests.core.build import LEG, by_eye, checkpoint, judge_one, points, rep, rep_data, return_time, technique

STRAIGHT_U = 2.8069
"""Three points in a line, σ 2 px, arms of 100 px: √(2²+2²+4²)/100 rad."""


def test_a_straight_leg_is_met_with_its_u_and_frame() -> None:
    found = judge_one(checkpoint(), rep())
    assert (found.verdict, found.unit, found.frames) == ("met", "deg", (44,))
    assert found.value == pytest.approx(180.0)
    assert found.uncertainty == pytest.approx(STRAIGHT_U, abs=1e-3)


@pytest.mark.parametrize(
    ("ankle", "verdict", "reason"),
    [
        ((400.0, 400.0), "missed", "65° short of 155°"),
        ((490.63, 342.26), "borderline", "only 0.0° inside 155°, too near for ±2.8°"),
        ((484.8, 353.0), "missed", "7.0° short of 155°"),
    ],
)
def test_a_bent_leg(ankle: tuple[float, float], verdict: str, reason: str) -> None:
    found = judge_one(checkpoint(), rep(points(ankle=ankle)))
    assert found.verdict == verdict
    assert found.reason is not None
    assert found.reason.split(",")[0].split(" ")[1:] == reason.split(",")[0].split(" ")[1:] or reason in found.reason


def test_interval_is_real_time_with_both_instants_u() -> None:
    """12 frames at 60: 200 ms; u = √2 · 9.62 ms."""
    found = judge_one(return_time(), rep())
    assert found.value == pytest.approx(200.0)
    assert found.uncertainty == pytest.approx(13.608, abs=1e-3)
    assert (found.verdict, found.frames) == ("met", (44, 56))


def test_interval_of_a_slowed_capture_is_divided_by_its_rate() -> None:
    found = judge_one(return_time(), rep(capture_rate=[[0, 8.0]]))
    assert found.value == pytest.approx(25.0)


def test_interval_in_frames() -> None:
    found = judge_one(return_time(measure={"from": "full_reach", "to": "folded", "unit": "frames"}, within=[None, 15]), rep())
    assert (found.value, found.unit) == (12.0, "frames")
    assert found.uncertainty == pytest.approx(13.608 / (1000 / 60), abs=1e-3)


def test_interval_backwards_is_negative() -> None:
    found = judge_one(return_time(within=[0, None]), rep(events={"full_reach": [56], "folded": [44]}))
    assert found.value == pytest.approx(-200.0)
    assert found.verdict == "missed"


def test_interval_too_coarse_for_its_range_says_what_would_do() -> None:
    found = judge_one(return_time(within=[190, 210]), rep())
    assert found.verdict == "not_seen"
    assert "more frames a second" in (found.reason or "")


def test_last_frame_event_is_timed_by_the_gap_after_it() -> None:
    events = {
        "full_reach": {"phase": "extension", "mark": "Last frame in which the knee still straightens"},
        "folded": {"phase": "rechamber", "mark": "First frame in which it is folded"},
    }
    assert judge_one(return_time(), rep(), events=events).value == pytest.approx(1000 * 11 / 60)


@pytest.mark.parametrize(("yes", "verdict"), [(True, "met"), (False, "missed")])
def test_an_answer_by_eye_is_the_verdict(yes: bool, verdict: str) -> None:
    found = judge_one(by_eye(), rep(seen={"toes_back": {"coach": yes}}))
    assert (found.verdict, found.value, found.frames) == (verdict, float(yes), (44,))


def test_the_right_person_must_have_answered() -> None:
    found = judge_one(by_eye(measure={"at": "full_reach", "by": "partner"}), rep(seen={"toes_back": {"coach": True}}))
    assert (found.verdict, found.reason) == ("not_seen", "not answered yet: the partner says yes or no")


@pytest.mark.parametrize("check", [checkpoint(), return_time(), by_eye()], ids=["angle", "interval", "seen"])
def test_an_event_that_did_not_happen_is_missed(check: dict[str, Any]) -> None:
    found = judge_one(check, rep(events={"full_reach": [], "folded": [56]}))
    assert (found.verdict, found.reason, found.value) == ("missed", "“full reach” did not happen", None)


@pytest.mark.parametrize("check", [checkpoint(), return_time()], ids=["angle", "interval"])
def test_an_unmarked_event_is_not_seen(check: dict[str, Any]) -> None:
    found = judge_one(check, rep(events={"folded": [56]}))
    assert (found.verdict, found.reason) == ("not_seen", "event “full reach” is not marked")


def test_every_missing_landmark_is_named() -> None:
    landmarks = points()
    del landmarks["right_hip"], landmarks["right_ankle"]
    found = judge_one(checkpoint(), rep(landmarks))
    assert found.verdict == "not_seen"
    assert found.reason == "right hip has no point; place it at frame 44; right ankle has no point; place it at frame 44"


def test_two_points_on_one_spot_are_not_seen_with_the_reason() -> None:
    found = judge_one(checkpoint(), rep(points(knee=LEG["hip"])))
    assert found.verdict == "not_seen"
    assert "same spot" in (found.reason or "")


def test_default_sigma_comes_from_standing_height() -> None:
    """Height 500: hip 9, knee 5, ankle 4 px; u = √(9² + 4² + 10²)/100 rad."""
    body = {"height_px": 500, "landmarks": points(sigma=None)}
    found = judge_one(checkpoint(), rep(bodies={"performer": body}))
    assert found.uncertainty == pytest.approx(8.0418, abs=1e-3)
    loose = judge_one(checkpoint(), rep(bodies={"performer": body | {"loose_cloth": True}}))
    assert loose.uncertainty == pytest.approx(1.5 * 8.0418, abs=2e-3)


def test_without_sigma_and_height_nothing_is_invented() -> None:
    found = judge_one(checkpoint(), rep(points(sigma=None)))
    assert found.verdict == "not_seen"
    assert "height_px" in (found.reason or "")


def lengths(thigh: float, shank: float, u: float = 0.5) -> dict[str, Any]:
    return {"right_thigh": {"px": thigh, "u": u}, "right_shank": {"px": shank, "u": u}}


def leaning_rep(thigh: float, shank: float, ankle: tuple[float, float] = (400.0, 400.0)) -> dict[str, Any]:
    return {"performer": {"reference_lengths_px": lengths(thigh, shank), "landmarks": points(sigma=0.2, ankle=ankle)}}


def test_without_reference_lengths_the_lean_is_unknown_and_nothing_is_firm() -> None:
    for ankle, looks in (((500.0, 300.0), "it looks met"), ((400.0, 400.0), "it looks missed (65° short of 155°)")):
        found = judge_one(checkpoint(), rep(points(ankle=ankle)), flat=False)
        assert found.verdict == "borderline"
        assert str(found.reason).startswith(f"{looks}, but how far the limbs lean out of the picture is not known")
        assert found.notes == ("lean unknown: no reference length for right hip to right knee and right ankle to right knee",)
        assert found.rests_on == ("picture",)


def test_a_right_angle_in_the_picture_may_be_wider_or_narrower_as_its_arms_lean() -> None:
    """Both arms 94 % seen: if both lean, the angle is acos(±0.1185) = 83.2° or 96.8°; nobody knows which."""
    found = judge_one(checkpoint(within=[60, 120]), rep(bodies=leaning_rep(106.4, 106.4)), flat=False)
    assert found.value == pytest.approx(90.0, abs=2.0)
    assert found.uncertainty == pytest.approx(6.8, abs=2.0)
    assert (found.verdict, found.rests_on) == ("met", ("picture", "lengths"))


def test_the_more_an_arm_leans_the_less_its_angle_is_known() -> None:
    us = [judge_one(checkpoint(), rep(bodies=leaning_rep(thigh, 100)), flat=False).uncertainty for thigh in (100, 110, 130, 160)]
    assert all(u is not None for u in us)
    assert us == sorted(us)  # type: ignore[type-var]
    assert us[-1] > 10  # type: ignore[operator]


def test_a_rep_is_read_alike_each_time() -> None:
    one, other = (judge_one(checkpoint(), rep(bodies=leaning_rep(120, 120)), flat=False) for _ in range(2))
    assert one == other


def test_reference_from_the_clip_is_the_75th_percentile_over_ten_frames_never_the_longest() -> None:
    """Shank and thigh of 100 px in eleven frames of twelve and 140 in one: by the percentile they lie in the picture's plane."""
    landmarks: dict[str, Any] = {"right_hip": [], "right_knee": [], "right_ankle": []}
    for i, frame in enumerate(range(36, 48)):
        far = 140.0 if i == 0 else 100.0
        for joint, x in (("hip", 400 - far), ("knee", 400.0), ("ankle", 400 + far)):
            landmarks[f"right_{joint}"].append({"frame": frame, "x": x, "y": 300.0, "sigma": 0.5})
    found = judge_one(checkpoint(within=[135, None]), rep(landmarks), flat=False)
    assert found.rests_on == ("picture", "lengths")
    assert found.verdict == "met"


SIGNED = {"points": ["right_hip", "right_knee", "right_ankle"], "at": "full_reach", "signed": True}


@pytest.mark.parametrize(("x", "heading", "sign"), [(450, "right", 1), (350, "right", -1), (450, "left", -1)])
def test_signed_angle_is_positive_towards_the_target(x: float, heading: str, sign: int) -> None:
    places = points(hip=(400, 200), knee=(400, 300), ankle=(x, 390))
    found = judge_one(checkpoint(measure=SIGNED, within=[-180, 170]), rep(places, heading=heading))
    assert found.value == pytest.approx(sign * 150.945, abs=1e-2)


def test_a_signed_angle_wraps_round_where_straight() -> None:
    """A hair past straight reads −179°, which lies one degree beyond 180 and not far below 150."""
    places = points(sigma=3.0, hip=(400, 200), knee=(400, 300), ankle=(398.3, 400))
    assert judge_one(checkpoint(measure=SIGNED, within=[150, 175]), rep(places)).verdict == "borderline"


@pytest.mark.parametrize(
    ("x", "within", "verdict"),
    [
        (450, [100, None], "met"),  # +151
        (350, [100, None], "missed"),  # −151: bent the other way
        (450, [None, 100], "missed"),
        (350, [None, -100], "met"),
        (499, [155, None], "missed"),  # +135
    ],
)
def test_an_open_side_of_a_signed_range_ends_where_the_limb_is_straight(x: float, within: list[float | None], verdict: str) -> None:
    places = points(sigma=0.5, hip=(400, 200), knee=(400, 300), ankle=(x, 390))
    assert judge_one(checkpoint(measure=SIGNED, within=within), rep(places)).verdict == verdict


def test_signed_without_heading_is_not_seen() -> None:
    found = judge_one(checkpoint(measure=SIGNED, within=[0, 170]), rep(heading=None))
    assert "heading" in (found.reason or "")


@pytest.mark.parametrize(
    ("check", "changes", "words"),
    [
        (checkpoint(when={"extension": "snap"}), {"options": {"extension": "push"}}, "only when extension is snap"),
        (checkpoint(from_rung="moving"), {"rung": "solo"}, "from rung moving"),
        (checkpoint(), {"start_at": "rechamber"}, "starts at rechamber"),
        (checkpoint(), {"end_at": "chamber"}, "ends with chamber"),
        (return_time(within_by={"pace": {"slow": None}}), {"pace": "slow"}, "not asked at this pace"),
        (
            checkpoint(measure={"points": ["partner.left_hip", "partner.left_knee", "partner.left_ankle"], "at": "full_reach"}),
            {"partner": "none"},
            "asks for a partner",
        ),
    ],
    ids=["option", "rung", "starts midway", "ends early", "pace", "no partner"],
)
def test_what_is_not_asked(check: dict[str, Any], changes: dict[str, Any], words: str) -> None:
    found = judge_one(check, rep(**changes))
    assert found.verdict == "not_asked"
    assert words in (found.reason or "")


def test_a_range_may_differ_by_pace() -> None:
    check = return_time(within_by={"pace": {"slow": [None, 150]}})
    assert judge_one(check, rep()).verdict == "met"
    assert judge_one(check, rep(pace="slow")).verdict == "missed"


def test_a_borderline_safety_point_counts_as_missed_and_says_so() -> None:
    found = judge_one(return_time(within=[None, 210], safety=True), rep())
    assert (found.verdict, found.counts_as_missed, found.is_exposure) == ("borderline", True, True)
    assert "counts as missed" in (found.reason or "")


def test_a_hidden_joint_is_said() -> None:
    landmarks = points()
    landmarks["right_knee"][0]["hidden"] = True
    assert "guessed" in " ".join(judge_one(checkpoint(), rep(landmarks)).notes)


def test_a_point_between_two_keyed_frames_is_read_from_the_curve() -> None:
    landmarks = points()
    first = landmarks["right_ankle"][0]
    landmarks["right_ankle"] = [first | {"frame": 40, "y": 280.0}, first | {"frame": 48, "y": 320.0}]
    assert judge_one(checkpoint(), rep(landmarks)).value == pytest.approx(180.0)


def test_a_share_along_a_segment_can_be_a_point() -> None:
    half = {"on": ["working_knee", "working_ankle"], "share": 0.5}
    found = judge_one(checkpoint(measure={"points": ["working_hip", "working_knee", half], "at": "full_reach"}), rep())
    assert found.value == pytest.approx(180.0)


def test_relative_words_follow_the_side() -> None:
    left = rep(points(side="left"), side="left")
    assert judge_one(checkpoint(), left).value == pytest.approx(180.0)
    assert judge_one(
        checkpoint(measure={"points": ["other_hip", "other_knee", "other_ankle"], "at": "full_reach"}), left
    ).verdict == ("not_seen")


@given(st.floats(20, 700), st.floats(20, 700), st.floats(20, 700), st.floats(20, 700))
def test_a_mirrored_rep_of_the_other_side_has_the_same_verdicts(x: float, y: float, u: float, v: float) -> None:
    checks = (checkpoint(), checkpoint(id="signed", measure=SIGNED | {"points": ["working_hip", "working_knee", "working_ankle"]}))
    original = rep(points(knee=(x, y), ankle=(u, v)))
    judged, mirrored = (judge_rep(technique(*checks), one) for one in (original, mirror_rep(original)))
    for a, b in zip(judged, mirrored, strict=True):
        assert a.verdict == b.verdict
        # A bend across a level limb has no side; all others keep theirs.
        assert (a.value is None) == (b.value is None)
        assert a.value is None or b.value is None or abs(a.value) == pytest.approx(abs(b.value), abs=1e-6)


def test_mirroring_twice_gives_the_rep_itself() -> None:
    assert mirror_rep(mirror_rep(rep())) == rep()


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"events": {"full_reach": [97]}}, "lies outside the rep’s range 12–96"),
        ({"events": {"full_reach": [50, 50]}}, "in order, each once"),
        ({"range": [12, 121]}, "does not fit the clip"),
        ({"range": [50, 40]}, "does not fit the clip"),
        ({"side": "middle"}, "side"),
        ({"surprise": 1}, "surprise: this key is not known here"),
        ({"bodies": {"performer": {"landmarks": {"tail": []}}}}, "“tail” is not a landmark"),
        ({"bodies": {"performer": {"landmarks": points(frame=400)}}}, "past the clip’s last, 120"),
        ({"bodies": {"performer": {"landmarks": {"nose": [{"frame": 1, "x": float("nan"), "y": 0}]}}}}, "finite"),
        ({"bodies": {"performer": {"landmarks": {"nose": [{"frame": 1, "x": 0, "y": 0}] * 2}}}}, "two points on one frame"),
        ({"bodies": {"performer": {"reference_lengths_px": {"tail": {"px": 1, "u": 1}}}}}, "“tail” is no segment"),
        ({"lacertus_rep": 2}, "lacertus_rep"),
    ],
)
def test_a_rep_that_makes_no_sense_is_refused_with_the_place(changes: dict[str, Any], words: str) -> None:
    with pytest.raises(BadRep, match=words):
        read_rep(rep_data(**changes), "rep.json")


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"technique": "side-kick"}, "but the technique given is “front-kick”"),
        ({"options": {"colour": "red"}}, "no option “colour”"),
        ({"options": {"extension": "slap"}}, "the choices are snap, push"),
        ({"rung": "champion"}, "not in the ladder"),
        ({"start_at": "breakfast"}, "no phase"),
    ],
)
def test_a_rep_that_does_not_fit_its_technique_is_refused(changes: dict[str, Any], words: str) -> None:
    with pytest.raises(BadRep, match=words):
        judge_rep(technique(), rep(**changes))


def test_needs_name_each_landmark_with_the_frame_of_its_event() -> None:
    needs = needed_points(technique(checkpoint(), by_eye()), rep(events={"full_reach": [44]}))
    assert [(n.checkpoint, n.body, n.landmark, n.frame) for n in needs] == [
        ("knee_angle", "performer", landmark, 44) for landmark in ("right_hip", "right_knee", "right_ankle")
    ]
    assert {n.frame for n in needed_points(technique(), rep(events={}))} == {None}


def test_a_rep_survives_json() -> None:
    original = rep()
    assert read_rep(json.loads(original.model_dump_json())) == original
