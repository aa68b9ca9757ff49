"""What is left in a rep: the order of work, each thing asked for once, and nothing once it is done."""

from __future__ import annotations

from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.measuring.repfile import RepFile
from lacertus.core.review.asking import asked_events
from lacertus.core.review.guiding.left import GUIDING, Left, left_in
from lacertus.core.review.guiding.tracks import poor_places, seeds_wanted
from lacertus.core.review.judge import Need, judge_rep, needed_points
from tests.core.build import by_eye, checkpoint, points, rep, return_time, technique

CHECKS = (checkpoint(), return_time(), by_eye())
EVENTS = ("knee_top", "full_reach", "folded")


def found(landmarks: dict[str, Any] | None = None, family: str = "kick", **changes: Any) -> tuple[Left, ...]:
    asked = technique(*CHECKS, family=family)
    the_rep = rep(landmarks, **changes)
    judged = judge_rep(asked, the_rep)
    return left_in(asked, the_rep, judged, needed_points(asked, the_rep), asked_events(asked, the_rep))


def kinds(left: tuple[Left, ...]) -> list[str]:
    return [one.kind for one in left]


def test_an_empty_rep_asks_for_its_events_first_then_for_what_is_answered_by_eye() -> None:
    left = found({}, events={})
    assert [one.event for one in left if one.kind == "event"] == ["full_reach", "folded"]
    assert kinds(left)[:2] == ["event", "event"]
    # Points are asked for at a frame, which only an event tells.
    assert "points" not in kinds(left)


def test_points_are_counted_at_the_frame_of_the_event() -> None:
    (asked,) = [one for one in found({}) if one.kind == "points"]
    assert (asked.checkpoint, asked.frame, asked.count, asked.body) == ("knee_angle", 44, 3, "performer")


def test_points_that_are_placed_by_hand_elsewhere_are_tracked_before_more_are_placed() -> None:
    left = kinds(found(points(frame=30)))
    assert left.index("track") < left.index("points")
    tracked = {name: [entry | {"by": "tracked", "sigma": 3.0} for entry in own] for name, own in points(frame=30).items()}
    assert "track" not in kinds(found(tracked))


def test_a_standing_height_is_asked_for_in_a_kick_and_a_still_frame_on_the_ground() -> None:
    (standing,) = [one for one in found({}) if one.kind == "height"]
    assert "standing height" in standing.words
    (lying,) = [one for one in found(points(frame=30), family="guard work") if one.kind in ("height", "lengths")]
    assert lying.kind == "lengths"
    assert "height" not in kinds(found({}, family="guard work"))
    known = {"performer": {"height_px": 500.0, "landmarks": {}}}
    assert "height" not in kinds(found(bodies=known))


def test_an_answer_settles_its_question() -> None:
    assert "answer" in kinds(found())
    assert "answer" not in kinds(found(seen={"toes_back": {"coach": True}}))


def test_what_no_act_here_settles_is_told_last_with_its_reason() -> None:
    left = found({}, events={"full_reach": [44], "folded": []})
    assert left[-1].kind == "not_seen"
    assert all(one.kind in (*GUIDING, "not_seen", "undecided") for one in left)


@given(marked=st.sets(st.sampled_from(EVENTS)), placed=st.booleans(), answered=st.booleans())
def test_doing_more_never_adds_an_event_an_answer_or_a_height(marked: set[str], placed: bool, answered: bool) -> None:
    frames = {"knee_top": [30], "full_reach": [44], "folded": [56]}
    events = {key: frames[key] for key in marked}
    before = found({}, events=events)
    seen = {"toes_back": {"coach": True}} if answered else {}
    after = found(points() if placed else {}, events=frames, seen=seen)
    for kind in ("event", "answer", "height"):
        assert kinds(after).count(kind) <= kinds(before).count(kind)
    assert "event" not in kinds(after)


def tracked(sigma: float, frames: range = range(26, 60), gap: range = range(0)) -> dict[str, Any]:
    """The points of a knee on every frame, tracked with this σ, but for a gap in which there are none."""
    return {
        name: [
            entry | {"frame": frame, "by": "tracked", "sigma": sigma} for entry in own[:1] for frame in frames if frame not in gap
        ]
        for name, own in points(frame=30).items()
    }


def tall_rep(landmarks: dict[str, Any]) -> RepFile:
    return rep(bodies={"performer": {"height_px": 500.0, "landmarks": landmarks}})


class TestTracking:
    def test_it_says_which_points_it_needs_of_a_body_before_it_begins(self) -> None:
        one = {name: own for name, own in points(frame=30).items() if name.endswith("hip")}
        (asked,) = [left for left in found(one) if left.kind == "seed"]
        assert (asked.body, asked.landmark, asked.frame) == ("performer", "right_knee", 30)
        assert "right knee" in asked.words
        assert kinds(found(one)).index("seed") < kinds(found(one)).index("track")

    def test_a_limb_or_a_height_with_two_points_is_enough(self) -> None:
        assert "seed" not in kinds(found(points(frame=30)))
        two = {name: own for name, own in points(frame=30).items() if name != "right_knee"}
        assert "seed" in kinds(found(two))
        tall = {"performer": {"height_px": 500.0, "landmarks": two}}
        assert "seed" not in kinds(found(bodies=tall))

    def test_a_body_of_which_nothing_is_placed_is_asked_for_where_the_other_one_is(self) -> None:
        rep_ = rep(points(frame=30), bodies={"performer": {"landmarks": points(frame=30)}, "partner": {"landmarks": {}}})
        needs = [Need(checkpoint="c", body="partner", landmark=name, frame=44) for name in ("left_knee", "left_ankle")]
        (asked,) = seeds_wanted(rep_, needs)
        assert (asked.body, asked.frame, asked.count) == ("partner", 30, 2)
        assert asked.landmark in ("left_knee", "left_ankle")

    def test_a_poor_place_is_offered_at_the_event_first(self) -> None:
        needs = [Need(checkpoint="c", body="performer", landmark="right_knee", frame=frame) for frame in (30, 44)]
        unsure = tall_rep(tracked(60.0))
        asked = poor_places(unsure, needs)
        assert asked is not None and (asked.landmark, asked.frame) == ("right_knee", 30)
        assert poor_places(tall_rep(tracked(5.0)), needs) is None

    def test_then_in_the_middle_of_what_is_missing_until_it_holds(self) -> None:
        needs = [Need(checkpoint="c", body="performer", landmark="right_knee", frame=frame) for frame in (30, 44)]
        holed = tracked(5.0, gap=range(31, 44))
        placed = 0
        while (asked := poor_places(tall_rep(holed), needs)) is not None:
            assert asked.frame in range(31, 44)
            # A placed point mends the frames on either side of it.
            new = [{"frame": asked.frame + i, "x": 1.0, "y": 1.0, "sigma": 5.0, "by": "tracked"} for i in (-1, 0, 1)]
            there = {entry["frame"] for entry in holed["right_knee"]}
            holed["right_knee"] += [entry for entry in new if entry["frame"] not in there]
            placed += 1
        assert placed == 3

    def test_frames_that_no_event_frames_are_left_alone(self) -> None:
        needs = [Need(checkpoint="c", body="performer", landmark="right_knee", frame=frame) for frame in (30, 44)]
        assert poor_places(tall_rep(tracked(5.0, gap=range(46, 58))), needs) is None
        assert poor_places(tall_rep(tracked(5.0, gap=range(35, 37))), needs) is None

    def test_it_is_offered_for_a_checkpoint_that_is_not_firm_alone(self) -> None:
        assert "poor" in kinds(found(bodies={"performer": {"height_px": 500.0, "landmarks": tracked(60.0)}}))
        assert "poor" not in kinds(found(bodies={"performer": {"height_px": 500.0, "landmarks": tracked(1.0)}}))
