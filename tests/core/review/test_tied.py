"""Two views of one rep: which of them is read, and what they settle for each other."""

from __future__ import annotations

from typing import Any

import pytest

from lacertus.core.measuring.repfile import RepFile, read_rep
from lacertus.core.review.judgement import Judgement
from lacertus.core.review.views.tied import View, as_seen_from, judge_reps, judge_views
from tests.core.build import by_eye, checkpoint, leg_known, points, rep, rep_data, return_time, technique

SAME = tuple(range(121))
GAP = checkpoint(
    kind="gap", measure={"between": ["working_wrist", "working_elbow"], "unit": "px", "at": "full_reach"}, within=[None, 80]
)

NEARLY = checkpoint(within=[140, None])
"""So straight a leg is met also where thigh and shank may lean a little."""


def at(sigma: float = 1.0, frame: int = 44, **places: tuple[float, float]) -> dict[str, Any]:
    return {name: [{"frame": frame, "x": x, "y": y, "sigma": sigma}] for name, (x, y) in places.items()}


def seen(check: dict[str, Any], own: RepFile, other: RepFile, frames: tuple[int, ...] = SAME) -> Judgement:
    (found,) = judge_views(technique(check), own, [View(name="front.mp4", rep=other, frames=frames)])
    return found


class TestWhichIsRead:
    def test_what_this_picture_lacks_is_read_from_the_other_and_says_so(self) -> None:
        found = seen(NEARLY, rep({}), rep(bodies=leg_known(points(sigma=0.2))))
        assert (found.verdict, found.view, found.frames) == ("met", "front.mp4", (44,))

    def test_of_two_that_see_it_the_surer_is_read(self) -> None:
        sharp, blurred = rep(bodies=leg_known(points(sigma=1.0))), rep(bodies=leg_known(points(sigma=6.0, ankle=(490.0, 330.0))))
        assert seen(checkpoint(), sharp, blurred).view is None
        assert seen(checkpoint(), blurred, sharp).view == "front.mp4"

    def test_a_view_that_contradicts_is_told(self) -> None:
        bent = rep(bodies=leg_known(points(sigma=25.0, ankle=(400.0, 400.0))))
        found = seen(NEARLY, rep(bodies=leg_known(points(sigma=0.2))), bent)
        assert found.verdict == "met" and any("the other view" in note for note in found.notes)

    def test_events_are_marked_in_one_clip_and_read_at_the_same_instant_of_the_other(self) -> None:
        shifted = tuple(min(frame + 10, 120) for frame in range(121))
        found = seen(NEARLY, rep({}), rep(bodies=leg_known(points(frame=54, sigma=0.2))), shifted)
        assert (found.verdict, found.frames) == ("met", (44,))

    def test_times_and_answers_are_those_of_the_clip_that_they_were_marked_in(self) -> None:
        quick = rep(pts_s=[k / 240 for k in range(121)])
        here = seen(return_time(), rep(), quick)
        assert here.view is None and here.value == pytest.approx(200)
        answered = rep(seen={"toes_back": {"coach": True}})
        assert seen(by_eye(), answered, rep()).verdict == "met"

    def test_what_is_not_asked_stays_so(self) -> None:
        check = checkpoint(when={"extension": "push"})
        assert seen(check, rep(), rep(options={"extension": "push"})).verdict == "not_asked"

    def test_unknown_camera_motion_of_the_other_stays_unknown(self) -> None:
        still = [[[1, 0, 0], [0, 1, 0]]] * 121
        view = View(name="b", rep=rep(), frames=SAME)
        assert "camera_motion" not in as_seen_from(view, rep(camera_motion=still)).model_fields_set


class TestDepth:
    def own(self, x: float, view: str) -> RepFile:
        return rep(at(right_wrist=(300.0, 300.0), right_elbow=(300.0 + x, 300.0)), view=view)

    def test_a_small_gap_is_met_where_both_views_show_it_from_different_sides(self) -> None:
        found = seen(GAP, self.own(30, "side"), self.own(45, "front"))
        assert (found.verdict, found.value, found.view, found.unconfirmed) == ("met", 45, "front.mp4", False)

    def test_two_views_from_the_same_side_settle_nothing(self) -> None:
        assert seen(GAP, self.own(30, "side"), self.own(45, "side")).verdict == "not_seen"

    def test_where_one_view_shows_it_open_it_is_missed(self) -> None:
        found = seen(GAP, self.own(30, "side"), self.own(200, "front"))
        assert (found.verdict, found.view) == ("missed", "front.mp4")
        assert seen(GAP, self.own(200, "side"), self.own(30, "front")).verdict == "missed"

    def test_one_view_alone_is_left_as_it_was(self) -> None:
        assert seen(GAP, self.own(30, "side"), rep({}, view="front")).verdict == "not_seen"


def test_views_in_a_rep_file_settle_depth_on_the_reps_own_clock() -> None:
    """A knee close to the hip could be far in depth; from the front, on another clock, it is seen close too."""
    near = {"between": ["working_knee", "mid_hip"], "at": "full_reach", "unit": "px"}
    close = checkpoint(kind="gap", measure=near, within=[None, 200])
    body = {"landmarks": points() | points(side="left")}
    data = rep_data(bodies={"performer": body}, view="side")
    alone = judge_reps([technique(close)], [read_rep(data)])[0][0]
    assert alone.verdict == "not_seen" and alone.rests_on == ("picture",)
    half = {"pts_s": [k / 30 for k in range(70)], "offset_s": -0.5, "size": [1280, 720]}
    # The rep's frame 44 at 60 a second is 0.733 s; the other view shows it at 1.233 s, its frame 37 of 30 a second.
    front = half | {
        "view": "front",
        "bodies": {"performer": {"landmarks": points(37) | points(37, side="left")}},
    }
    both = judge_reps([technique(close)], [read_rep(data | {"views": [front]})])[0][0]
    assert both.verdict == "met" and both.rests_on == ("picture", "views") and both.frames == (44,)
    beside = front | {"offset_s": 0.5}
    assert judge_reps([technique(close)], [read_rep(data | {"views": [beside]})])[0][0].verdict == "not_seen"
