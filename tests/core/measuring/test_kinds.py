"""Every kind by value, on cases worked by hand."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

import numpy as np
import pytest

from lacertus.core.measuring.measures import KINDS
from lacertus.core.measuring.repfile import read_rep
from lacertus.core.review.judgement import Judgement
from lacertus.core.review.rep_set import judge_set
from lacertus.core.review.views.tied import judge_reps
from tests.core.bodies import body
from tests.core.build import checkpoint, judge_one, rep, rep_data, technique

P = Mapping[str, tuple[float, float]]


def at(places: P, frame: int = 44, sigma: float = 1.0, **more: Any) -> dict[str, Any]:
    """Landmarks on one frame."""
    return {name: [{"frame": frame, "x": x, "y": y, "sigma": sigma} | more] for name, (x, y) in places.items()}


def judged(kind: str, measure: dict[str, Any], landmarks: dict[str, Any] | None, within: Any, **changes: Any) -> Judgement:
    check = {key: changes.pop(key) for key in ("safety", "confirm", "any_of", "only_if", "when", "id") if key in changes}
    data = checkpoint(kind=kind, measure=measure, within=within, **check)
    height = changes.pop("height", 500.0)
    bodies = changes.pop("bodies", None) or {"performer": {"height_px": height, "landmarks": landmarks or {}}}
    events = {"knee_top": [20], "full_reach": [44], "folded": [80]} | changes.pop("events", {})
    return judge_one(data, rep(None, bodies=bodies, events=events, camera_motion=None, **changes))


AT = {"at": "full_reach"}


class TestInclination:
    TRUNK = {"from_point": "working_hip", "to_point": "working_shoulder"}

    def leaning(self, x: float, **measure: Any) -> Judgement:
        places = {"right_hip": (300, 400), "right_shoulder": (300 + x, 300)}
        return judged("inclination", self.TRUNK | AT | measure, at(places), [None, 90], upright={"deg": 0, "u": 2})

    def test_upright_is_nothing_and_forty_five_is_forty_five(self) -> None:
        assert self.leaning(0).value == pytest.approx(0, abs=1e-6)
        assert self.leaning(100).value == pytest.approx(45)

    def test_signed_is_positive_towards_the_target(self) -> None:
        places = {"right_hip": (300, 400), "right_shoulder": (250, 300)}
        measure = self.TRUNK | AT | {"signed": True}
        assert judged("inclination", measure, at(places), [0, 90]).value == pytest.approx(-26.57, abs=0.01)
        assert judged("inclination", measure, at(places), [0, 90], heading="left").value == pytest.approx(26.57, abs=0.01)

    def test_the_verticals_own_u_counts(self) -> None:
        """Both ends ±1 px at 100 px: √2/100 rad = 0.81°, and 2° of the vertical."""
        assert self.leaning(0).uncertainty == pytest.approx(math.hypot(2.0, math.degrees(math.sqrt(2) / 100)), rel=1e-3)

    def test_a_turned_picture_is_turned_back(self) -> None:
        places = {"right_hip": (300, 400), "right_shoulder": (300, 300)}
        found = judged("inclination", self.TRUNK | AT, at(places), [None, 90], upright={"deg": 10, "u": 0})
        assert found.value == pytest.approx(10)

    def test_against_the_mat_and_against_another_line(self) -> None:
        places = {"right_hip": (300, 400), "right_shoulder": (400, 300), "right_knee": (300, 500), "right_ankle": (400, 500)}
        mat = judged("inclination", self.TRUNK | AT | {"against": "mat"}, at(places), [None, 90])
        shank = judged("inclination", self.TRUNK | AT | {"against": ["working_knee", "working_ankle"]}, at(places), [None, 90])
        assert mat.value == pytest.approx(45) and shank.value == pytest.approx(45)


class TestLine:
    def test_a_share_is_the_widest_distance_over_the_length(self) -> None:
        places = {"head_top": (100, 100), "right_hip": (200, 120), "right_heel": (300, 100)}
        found = judged("line", {"points": ["head_top", "working_hip", "working_heel"]} | AT, at(places), [None, 0.2])
        assert found.value == pytest.approx(0.1)

    def test_three_points_in_degrees_are_what_is_missing_to_straight(self) -> None:
        places = {"head_top": (100, 100), "right_hip": (200, 100), "right_heel": (200, 200)}
        found = judged("line", {"points": ["head_top", "working_hip", "working_heel"], "unit": "deg"} | AT, at(places), [None, 20])
        assert found.value == pytest.approx(90) and found.verdict == "missed"

    def test_signed_towards_the_target(self) -> None:
        places = {"head_top": (100, 100), "right_hip": (120, 200), "right_heel": (100, 300)}
        measure = {"points": ["head_top", "working_hip", "working_heel"], "signed": True} | AT
        assert judged("line", measure, at(places), [-0.3, 0.3]).value == pytest.approx(0.1)
        assert judged("line", measure, at(places), [-0.3, 0.3], heading="left").value == pytest.approx(-0.1)

    def test_straight_is_met_only_where_the_depth_is_confirmed(self) -> None:
        places = {"head_top": (100, 100), "right_hip": (200, 100), "right_heel": (300, 100)}
        measure = {"points": ["head_top", "working_hip", "working_heel"]} | AT
        assert judged("line", measure, at(places), [None, 0.2]).verdict == "not_seen"
        assert judged("line", measure, at(places), [None, 0.2], seen={"knee_angle": {"coach": True}}).verdict == "met"
        assert judged("line", measure, at(places), [None, 0.2], seen={"knee_angle": {"coach": False}}).verdict == "missed"


class TestRelation:
    def value(self, places: P, unit: str = "px", **measure: Any) -> float:
        found = judged("relation", {"point": "working_knee", "unit": unit} | AT | measure, at(places), [0, None])
        assert found.value is not None, found.reason
        return found.value

    def test_above_and_below(self) -> None:
        places = {"right_knee": (300, 280), "left_hip": (290, 300), "right_hip": (310, 310)}
        assert self.value(places, above="mid_hip") == pytest.approx(25)
        assert self.value(places, below="mid_hip") == pytest.approx(-25)

    def test_towards_and_behind(self) -> None:
        places = {"right_knee": (300, 280), "right_toe": (330, 300)}
        assert self.value(places, towards="working_toe") == pytest.approx(-30)
        assert self.value(places, behind="working_toe") == pytest.approx(30)

    def test_along_is_a_share_and_between_a_distance_from_the_nearer_end(self) -> None:
        places = {"right_knee": (325, 290), "left_hip": (300, 300), "right_hip": (400, 300)}
        assert self.value(places, along=["other_hip", "working_hip"]) == pytest.approx(0.25)
        assert self.value(places, between=["other_hip", "working_hip"]) == pytest.approx(25)

    def test_over_the_mat_is_over_the_lowest_sole(self) -> None:
        places = {"right_knee": (325, 500), "right_heel": (300, 610), "left_toe": (310, 600)}
        assert self.value(places, above="mat") == pytest.approx(110)

    def test_in_units_of_the_body_that_the_point_lies_on(self) -> None:
        places = {"right_knee": (300, 280), "right_hip": (310, 303)}
        assert self.value(places, unit="shank", above="working_hip") == pytest.approx(23 / (0.246 * 500))
        assert self.value(places, unit="height", above="working_hip") == pytest.approx(23 / 500)

    def test_inside_is_nearer_the_other_bodys_midline(self) -> None:
        own = at({"right_toe": (420, 600)})
        partner = at({"left_toe": (380, 600), "left_hip": (390, 400), "right_hip": (410, 400)})
        bodies = {"performer": {"landmarks": own}, "partner": {"landmarks": partner}}
        measure = {"point": "working_toe", "inside": "partner.left_toe", "unit": "px"} | AT
        assert judged("relation", measure, None, [0, None], bodies=bodies).value == pytest.approx(0)
        bodies["performer"]["landmarks"] = at({"right_toe": (405, 600)})
        assert judged("relation", measure, None, [0, None], bodies=bodies).value == pytest.approx(15)
        outside = {"point": "working_toe", "outside": "partner.left_toe", "unit": "px"} | AT
        assert judged("relation", outside, None, [0, None], bodies=bodies).value == pytest.approx(-15)

    def test_without_a_heading_towards_is_not_seen(self) -> None:
        places = at({"right_knee": (300, 280), "right_toe": (330, 300)})
        found = judged(
            "relation", {"point": "working_knee", "towards": "working_toe", "unit": "px"} | AT, places, [0, None], heading=None
        )
        assert found.verdict == "not_seen" and "heading" in str(found.reason)

    @pytest.mark.parametrize(
        ("view", "word"), [("front", "towards"), ("behind", "behind"), ("side", "inside"), ("side", "outside")]
    )
    def test_what_lies_in_depth_is_not_seen(self, view: str, word: str) -> None:
        own = at({"right_knee": (300, 280), "right_toe": (330, 300)})
        hips = at({"left_hip": (390, 400), "right_hip": (410, 400)})
        bodies = {"performer": {"landmarks": own}, "partner": {"landmarks": hips}}
        found = judged(
            "relation", {"point": "working_knee", word: "working_toe", "unit": "px"} | AT, None, [0, None], bodies=bodies, view=view
        )
        assert found.verdict == "not_seen" and "depth" in str(found.reason)

    def test_a_unit_that_is_not_known_is_named(self) -> None:
        places = at({"right_knee": (300, 280), "right_hip": (310, 303)})
        found = judged(
            "relation", {"point": "working_knee", "above": "working_hip", "unit": "foot"} | AT, places, [0, None], height=None
        )
        assert found.verdict == "not_seen" and "foot" in str(found.reason)


class TestGap:
    def test_two_points_and_a_point_from_a_segment(self) -> None:
        places = at({"right_wrist": (300, 300), "right_elbow": (330, 340), "right_hip": (300, 400), "right_shoulder": (300, 200)})
        between = judged("gap", {"between": ["working_wrist", "working_elbow"], "unit": "px"} | AT, places, [None, 60])
        segment = judged(
            "gap", {"point": "working_elbow", "segment": ["working_hip", "working_shoulder"], "unit": "px"} | AT, places, [None, 60]
        )
        assert between.value == pytest.approx(50) and segment.value == pytest.approx(30)
        assert between.uncertainty == pytest.approx(math.sqrt(2), rel=1e-3)

    def test_beyond_the_end_of_a_segment_it_is_the_end_that_counts(self) -> None:
        places = at({"right_elbow": (330, 440), "right_hip": (300, 400), "right_shoulder": (300, 200)})
        measure = {"point": "working_elbow", "segment": ["working_hip", "working_shoulder"], "unit": "px"} | AT
        assert judged("gap", measure, places, [None, 60]).value == pytest.approx(50)

    def test_an_open_gap_is_missed_a_small_one_is_not_seen_until_confirmed_and_room_is_met(self) -> None:
        places = at({"right_wrist": (300, 300), "right_elbow": (330, 340)})
        measure = {"between": ["working_wrist", "working_elbow"], "unit": "px"} | AT
        assert judged("gap", measure, places, [None, 20]).verdict == "missed"
        assert judged("gap", measure, places, [None, 80]).verdict == "not_seen"
        assert judged("gap", measure, places, [None, 80], confirm=True, seen={"knee_angle": {"partner": True}}).verdict == "met"
        assert judged("gap", measure, places, [None, 80], confirm="deep", seen={"deep": {"coach": True}}).verdict == "met"
        assert judged("gap", measure, places, [40, None]).verdict == "met"
        assert judged("gap", measure, places, [70, None]).verdict == "missed"

    def test_with_an_event_for_each_point_the_camera_is_taken_out(self) -> None:
        marks = {
            "right_toe": [{"frame": 20, "x": 300, "y": 300, "sigma": 1}],
            "left_toe": [{"frame": 44, "x": 300, "y": 300, "sigma": 1}],
        }
        measure = {"between": ["working_toe", "other_toe"], "at": ["knee_top", "full_reach"], "unit": "px"}
        still = [[[1, 0, 0], [0, 1, 0]]] * 121
        moving = [[[1, 0, 10.0 * (frame >= 30)], [0, 1, 0]] for frame in range(121)]
        checks = checkpoint(kind="gap", measure=measure, within=[0, 40])
        values = [
            judge_one(checks, rep(marks, camera_motion=motion, events={"knee_top": [20], "full_reach": [44]})).value
            for motion in (still, moving)
        ]
        assert values == pytest.approx([0, 10])


class TestTime:
    def test_together_is_the_latest_less_the_earliest(self) -> None:
        found = judged("together", {"events": ["knee_top", "full_reach"]}, None, [None, 100], events={"full_reach": [23]})
        assert found.value == pytest.approx(50)
        assert found.uncertainty == pytest.approx(math.sqrt(2) * 1000 / 60 * math.sqrt(1 / 12 + 1 / 4))

    def test_three_are_missed_only_beyond_their_own_quantile(self) -> None:
        """u of one instant 9.62 ms: three are missed from 3.31 × 9.62 = 31.9 ms over the limit on."""
        measure = {"events": ["knee_top", "full_reach", "folded"]}

        def verdict(last: int) -> str:
            events = {"knee_top": [20], "full_reach": [21], "folded": [last]}
            return judged("together", measure, None, [None, 35], events=events).verdict

        assert verdict(24) == "borderline" and verdict(25) == "missed"

    def test_order(self) -> None:
        measure = {"events": ["knee_top", "full_reach", "folded"]}
        assert judged("order", measure, None, None).verdict == "met"
        assert judged("order", measure, None, None, events={"folded": [43]}).verdict == "borderline"
        late = judged("order", measure, None, None, events={"folded": [30]})
        assert late.verdict == "missed" and late.value == 1

    def test_an_absent_event_is_missed_unless_it_is_optional(self) -> None:
        measure = {"events": ["knee_top", "full_reach", "folded"]}
        assert judged("order", measure, None, None, events={"full_reach": []}).verdict == "missed"
        assert judged("order", measure | {"optional": ["full_reach"]}, None, None, events={"full_reach": []}).verdict == "met"

    def test_count_counts_between_the_events(self) -> None:
        measure = {"event": "full_reach", "from": "knee_top", "to": "folded"}
        assert judged("count", measure, None, [2, None], events={"full_reach": [15, 30, 40]}).value == 2
        assert judged("count", measure, None, [1, None], events={"full_reach": []}).verdict == "missed"
        unmarked = judge_one(checkpoint(kind="count", measure={"event": "knee_top"}, within=[1, None]), rep())
        assert unmarked.verdict == "not_seen"

    def test_window_takes_the_first_answer_and_refuses_the_wrong_one(self) -> None:
        measure = {"cue": "knee_top", "answers": ["full_reach"], "wrong": ["folded"]}
        assert judged("window", measure, None, [None, 500]).value == pytest.approx(400)
        assert judged("window", measure, None, [None, 500], events={"folded": [30]}).verdict == "missed"
        assert judged("window", measure, None, [None, 500], events={"full_reach": []}).verdict == "missed"

    def test_each_time_the_slowest_answer_counts(self) -> None:
        measure = {"cue": "knee_top", "answers": ["full_reach"], "each": True}
        found = judged("window", measure, None, [None, 500], events={"knee_top": [20, 50], "full_reach": [26, 80]})
        assert found.value == pytest.approx(500)
        assert judged("window", measure, None, [None, 500], events={"knee_top": [20, 50], "full_reach": [26]}).verdict == "missed"


def bent(angles: dict[int, float]) -> dict[str, Any]:
    """A right leg with the knee at an angle on each frame."""
    found: dict[str, Any] = {"right_hip": [], "right_knee": [], "right_ankle": []}
    for frame, deg in angles.items():
        turn = math.radians(180 - deg)
        places = {
            "right_hip": (300, 300),
            "right_knee": (400, 300),
            "right_ankle": (400 + 100 * math.cos(turn), 300 + 100 * math.sin(turn)),
        }
        for name, (x, y) in places.items():
            found[name].append({"frame": frame, "x": x, "y": y, "sigma": 0.5})
    return found


KNEE = {"kind": "angle", "points": ["working_hip", "working_knee", "working_ankle"]}


class TestOverAStretch:
    @pytest.mark.parametrize(
        "of",
        [
            KNEE,
            {"angle": {"points": KNEE["points"]}},
            {"points": KNEE["points"]},
            {"kind": "angle", "measure": {"points": KNEE["points"]}},
        ],
    )
    def test_change_is_after_less_before_in_every_spelling(self, of: dict[str, Any]) -> None:
        found = judged("change", {"of": of, "from": "knee_top", "to": "full_reach"}, bent({20: 90, 44: 150}), [50, None])
        assert found.value == pytest.approx(60) and found.frames == (20, 44)

    def test_what_is_shared_cancels_in_a_change(self) -> None:
        """A shift of a landmark that is the same in both frames changes nothing where the pose is the same."""
        shared = {name: [entry | {"shared": 1.0} for entry in entries] for name, entries in bent({20: 90, 44: 90}).items()}
        found = judged("change", {"of": KNEE, "from": "knee_top", "to": "full_reach"}, shared, [-5, 5])
        assert found.uncertainty == pytest.approx(0, abs=1e-6)

    def test_compare_two_times_that_share_an_event(self) -> None:
        out, back = ({"kind": "interval", "from": a, "to": b} for a, b in (("knee_top", "full_reach"), ("full_reach", "folded")))
        found = judged("compare", {"of": back, "with": out}, None, [None, 0])
        assert found.value == pytest.approx((36 - 24) * 1000 / 60)
        one = 1000 / 60 * math.sqrt(1 / 12 + 1 / 4)
        assert found.uncertainty == pytest.approx(one * math.sqrt(1 + 4 + 1))
        assert judged("compare", {"of": back, "with": out, "as": "ratio"}, None, [None, 1]).value == pytest.approx(1.5)

    def test_dwell_longest_total_and_share(self) -> None:
        """Straight in frames 30–49 and 60–64 of 20–80; an outlier of two frames does not end it."""
        angles = {frame: 170.0 if 30 <= frame < 50 or 60 <= frame < 65 else 90.0 for frame in range(20, 81)} | {
            40: 100.0,
            41: 100.0,
        }
        measure = {"while": KNEE | {"within": [160, None]}, "from": "knee_top", "to": "folded"}
        values = [
            judged("dwell", measure | {"pick": pick}, bent(angles), [0, None]).value for pick in ("longest", "total", "share")
        ]
        assert values == pytest.approx([20 * 1000 / 60, 25 * 1000 / 60, 25 / 60], rel=1e-6)

    def test_a_state_held_to_the_end_lasts_until_the_event(self) -> None:
        measure = {"while": KNEE | {"within": [160, None]}, "from": "knee_top", "to": "folded"}
        found = judged("dwell", measure | {"pick": "share"}, bent(dict.fromkeys(range(20, 81), 170.0)), [0.9, None])
        assert found.value == pytest.approx(1.0) and found.verdict == "met"

    def test_any_of_two_states_holds_where_one_does(self) -> None:
        angles = {frame: 170.0 if frame < 50 else 60.0 for frame in range(20, 81)}
        states = [KNEE | {"within": [160, None]}, KNEE | {"within": [None, 70]}]
        found = judged("dwell", {"any": states, "from": "knee_top", "to": "folded", "pick": "share"}, bent(angles), [0.9, None])
        assert found.value == pytest.approx(1.0)

    def test_peak_size_and_time(self) -> None:
        """150 − 400·(t − 0.7)² degrees: 150 at frame 42, three frames before full reach, marked between 43 and 44."""
        angles = {frame: 150 - 400 * (frame / 60 - 0.7) ** 2 for frame in range(20, 81)}
        size = judged("peak", {"of": KNEE, "from": "knee_top", "to": "folded"}, bent(angles), [140, None])
        time = judged("peak", {"of": KNEE, "from": "knee_top", "to": "folded", "than": "full_reach"}, bent(angles), [None, 0])
        assert size.value == pytest.approx(150, abs=0.01) and size.frames == (42,)
        assert time.value == pytest.approx(-1000 * 1.5 / 60, abs=0.1) and time.unit == "ms"

    def test_a_peak_at_the_end_has_no_time(self) -> None:
        angles = {frame: 60.0 + frame for frame in range(20, 81)}
        measure = {"of": KNEE, "from": "knee_top", "to": "folded", "than": "full_reach"}
        assert judged("peak", measure, bent(angles), [None, 0]).verdict == "not_seen"

    def test_a_kick_reaches_a_zone_of_the_body(self) -> None:
        whole = body(range(20, 81), move=lambda frame, name: (0, 265 - abs(frame - 50)) if name == "right_toe" else (0, 0))
        measure = {"point": "working_toe", "zone": "performer", "from": "knee_top", "to": "folded"}
        found = judged("peak", measure, None, [3, None], bodies={"performer": whole})
        assert found.value == pytest.approx(3.0, abs=0.05) and found.unit == "zone"

    def test_without_the_cameras_motion_path_speed_and_peak_are_not_seen(self) -> None:
        whole = body(range(20, 81))
        for kind, measure in (
            ("path", {"point": "working_toe", "from": "knee_top", "to": "folded", "pick": "length"}),
            ("speed", {"point": "working_toe", "from": "knee_top", "to": "folded"}),
            ("peak", {"point": "working_toe", "from": "knee_top", "to": "folded"}),
        ):
            data = rep_data(None, bodies={"performer": whole}, events={"knee_top": [20], "folded": [80]})
            found = judge_one(checkpoint(kind=kind, measure=measure, within=[0, None]), read_rep(data))
            assert found.verdict == "not_seen" and "camera" in str(found.reason)


def moved(xy: Any, **changes: Any) -> dict[str, Any]:
    frames = range(20, 81)
    points = [{"frame": frame, "x": xy(frame)[0], "y": xy(frame)[1], "sigma": 0.5} for frame in frames]
    return {"right_toe": points, "left_toe": [{"frame": f, "x": 500, "y": 600, "sigma": 0.5} for f in frames]}


class TestPathAndSpeed:
    def pick(self, pick: str, xy: Any, **changes: Any) -> Judgement:
        measure = {"point": "working_toe", "from": "knee_top", "to": "folded", "pick": pick} | changes.pop("measure", {})
        return judged("path", measure, moved(xy), [0, None], **changes)

    def test_a_straight_way(self) -> None:
        straight = lambda f: (100 + 5 * f, 300)  # noqa: E731
        assert self.pick("straightness", straight).value == pytest.approx(1.0, abs=1e-6)
        assert self.pick("chord", straight).value == pytest.approx(300 / 500)
        assert self.pick("length", straight, measure={"unit": "px"}).value == pytest.approx(300, rel=1e-3)
        assert self.pick("bulge", straight).value == pytest.approx(0, abs=1e-6)

    def test_a_half_circle(self) -> None:
        """Radius 100: length π·100, chord 200, bulge 100, turned by half a turn against the clock in the picture."""
        circle = lambda f: (400 + 100 * math.cos(math.pi * (f - 20) / 60), 300 - 100 * math.sin(math.pi * (f - 20) / 60))  # noqa: E731
        assert self.pick("straightness", circle).value == pytest.approx(2 / math.pi, rel=0.01)
        assert self.pick("bulge", circle, measure={"unit": "px"}).value == pytest.approx(100, rel=0.01)
        turn = self.pick("turn", circle)
        assert turn.value == pytest.approx(-180, abs=6)
        assert self.pick("turn", circle, side="left", measure={"point": "right_toe"}).value == pytest.approx(180, abs=6)

    def test_relative_to_another_point(self) -> None:
        way = lambda f: (500 + 2 * f, 600)  # noqa: E731
        assert self.pick("chord", way, measure={"relative_to": "other_toe", "unit": "px"}).value == pytest.approx(120)
        assert self.pick("travel", way, measure={"unit": "px"}).value == pytest.approx(60, rel=0.01)

    def test_straight_is_met_only_when_the_depth_is_confirmed(self) -> None:
        straight = lambda f: (100 + 5 * f, 300)  # noqa: E731
        measure = {"point": "working_toe", "from": "knee_top", "to": "folded", "pick": "straightness"}
        assert judged("path", measure, moved(straight), [0.9, None]).verdict == "not_seen"
        assert judged("path", measure, moved(straight), [0.9, None], seen={"knee_angle": {"coach": True}}).verdict == "met"

    def test_the_cut_off_is_stated(self) -> None:
        assert any("residual analysis" in note for note in self.pick("length", lambda f: (100 + 5 * f, 300)).notes)

    def test_speed_in_heights_and_degrees_a_second(self) -> None:
        """5 px a frame at 60 a second and 500 px height: 0.6 heights a second."""
        point = {"point": "working_toe", "from": "knee_top", "to": "folded"}
        fast = moved(lambda f: (100 + 5 * f, 300))
        for pick in ("highest", "mean"):
            assert judged("speed", point | {"pick": pick}, fast, [0, None]).value == pytest.approx(0.6, rel=1e-3)
        assert judged("speed", {"point": "working_toe", "at": "full_reach"}, fast, [0, None]).value == pytest.approx(0.6, rel=1e-3)
        opening = bent({frame: 60 + (frame - 20) for frame in range(20, 81)})
        turning = {"angle": KNEE["points"], "from": "knee_top", "to": "folded", "pick": "mean"}
        assert judged("speed", turning, opening, [0, None]).value == pytest.approx(60, rel=0.01)

    def test_fewer_than_ten_frames_give_no_speed(self) -> None:
        measure = {"point": "working_toe", "from": "knee_top", "to": "full_reach"}
        found = judged("speed", measure, moved(lambda f: (100 + 5 * f, 300)), [0, None], events={"full_reach": [28]})
        assert found.verdict == "not_seen" and "frames a second" in str(found.reason)


class TestBalance:
    def lean(self, measure: dict[str, Any], frames: Any = (44,), **changes: Any) -> Judgement:
        move = changes.pop("move", lambda frame, name: (0.0, 0.0))
        whole = body(list(frames), move=move, **changes.pop("places", {}))
        return judged("balance", {"at": "full_reach"} | measure, None, [None, 1], bodies={"performer": whole}, **changes)

    def test_between_two_feet_the_mass_lies_half_way(self) -> None:
        """The body is the same on both sides, the feet are both turned 30 px to the right: −30/120 short of half."""
        found = self.lean({"of": "working_ankle"})
        assert found.value == pytest.approx((0.5 * 120 - 24 + 1) / 120, abs=0.03)

    def test_shifted_over_one_foot(self) -> None:
        shift = lambda frame, name: (0.0, 0.0) if name.endswith(("heel", "toe")) else (60.0, 0.0)  # noqa: E731
        assert self.lean({"of": "working_toe"}, move=shift).value == pytest.approx(0.8, abs=0.05)
        assert self.lean({"of": "other_toe"}, move=shift).value == pytest.approx(0.2, abs=0.05)

    def test_outside_the_base_in_feet(self) -> None:
        shift = lambda frame, name: (0.0, 0.0) if name.endswith(("heel", "toe")) else (200.0, 0.0)  # noqa: E731
        found = self.lean({"pick": "outside"}, move=shift)
        assert found.value == pytest.approx((200 - 114) / (0.152 * 400), abs=0.1) and found.unit == "foot"

    def test_airborne_close_footed_or_hanging_on_a_grip_it_is_not_seen(self) -> None:
        rise = lambda frame, name: (0.0, 80.0 if frame == 44 else 0.0)  # noqa: E731
        assert "off the mat" in str(self.lean({}, range(40, 49), move=rise).reason)
        close = {"left_heel": (-8.0, 0.0), "left_toe": (52.0, 0.0), "right_heel": (4.0, 0.0), "right_toe": (64.0, 0.0)}
        assert "half a foot" in str(self.lean({}, places=close).reason)
        assert "grip" in str(self.lean({}, seen={"loaded_grip": {"coach": True}}).reason)

    def test_while_moving_the_mass_is_carried_forward(self) -> None:
        """1 px a frame at 60 a second, mass 0.57 of 1.7 m high: ahead by 60·√(0.97/9.81) = 19 px of 120."""
        walk = lambda frame, name: (float(frame - 44), 0.0)  # noqa: E731
        still, moving = self.lean({"of": "working_ankle"}), self.lean({"of": "working_ankle"}, range(20, 70), move=walk)
        assert moving.value is not None
        assert still.value is not None
        assert moving.value - still.value == pytest.approx(19 / 120, abs=0.01)

    def test_missing_hands_are_stood_in_for_and_a_missing_knee_is_named(self) -> None:
        whole = body([44])
        del whole["landmarks"]["left_hand"], whole["landmarks"]["head_top"]
        assert judged("balance", {"at": "full_reach"}, None, [None, 1], bodies={"performer": whole}).value is not None
        del whole["landmarks"]["left_knee"]
        found = judged("balance", {"at": "full_reach"}, None, [None, 1], bodies={"performer": whole})
        assert found.verdict == "not_seen" and "left knee" in str(found.reason)


class TestFacing:
    def shoulders(self, half: float, toes: float, towards: str, **changes: Any) -> Judgement:
        places: dict[str, Any] = {"left_shoulder": (half, 325.0), "right_shoulder": (-half, 325.0)}
        for side in ("left", "right"):
            places |= {f"{side}_heel": (0.0, 0.0), f"{side}_toe": (toes, 0.0)}
        whole = body([44], **places) | {"reference_lengths_px": {"shoulder_width": {"px": 100, "u": 1}}}
        return judged(
            "facing", {"line": "shoulders", "towards": towards} | AT, None, [0.5, None], bodies={"performer": whole}, **changes
        )

    def test_towards_the_camera_is_the_width_over_its_reference(self) -> None:
        assert self.shoulders(25, 0, "camera").value == pytest.approx(0.5)
        assert self.shoulders(-25, 0, "camera").value == pytest.approx(-0.5)

    def test_towards_the_target_side_on_is_squarely(self) -> None:
        assert self.shoulders(0, 50, "target").value == pytest.approx(1.0)
        assert self.shoulders(0, -50, "target").value == pytest.approx(-1.0)
        assert self.shoulders(30, 50, "target").value == pytest.approx(0.8)

    def test_a_turn_between_two_events_is_as_unsure_as_both_headings(self) -> None:
        """Side on, then 80 of 100 px wide: 53° further. Ends of ±1 px, and ±1 % of the width, over how fast the width changes."""
        places: dict[str, Any] = {"left_shoulder": (0.0, 325.0), "right_shoulder": (0.0, 325.0)}
        for side in ("left", "right"):
            places |= {f"{side}_heel": (0.0, 0.0), f"{side}_toe": (50.0, 0.0)}

        def opens(frame: int, name: str) -> tuple[float, float]:
            out = {"left_shoulder": 40.0, "right_shoulder": -40.0}
            return (out.get(name, 0.0) if frame == 44 else 0.0, 0.0)

        whole = body([12, 20, 44], move=opens, **places) | {"reference_lengths_px": {"shoulder_width": {"px": 100, "u": 1}}}
        turn = {"of": {"facing": {"line": "shoulders", "towards": "start"}}, "from": "knee_top", "to": "full_reach"}
        found = judged("change", turn, None, [None, 180], bodies={"performer": whole})
        assert abs(found.value or 0) == pytest.approx(53.1, abs=0.1)
        then, now = math.sqrt(2) / 100, math.hypot(math.sqrt(2), 0.8) / 60
        assert found.uncertainty == pytest.approx(math.degrees(math.hypot(then, now)), rel=0.05)

    @pytest.mark.parametrize(("square", "reason"), [(20, "too coarse"), (40, "fewer than half")])
    def test_how_long_it_faces_is_no_shorter_for_frames_that_cannot_be_read(self, square: int, reason: str) -> None:
        """Side on all the way, but for the last frames, in which shoulders square to the camera could be turned either way."""
        places: dict[str, Any] = {"left_shoulder": (0.0, 325.0), "right_shoulder": (0.0, 325.0)}
        for side in ("left", "right"):
            places |= {f"{side}_heel": (0.0, 0.0), f"{side}_toe": (50.0, 0.0)}

        def opens(frame: int, name: str) -> tuple[float, float]:
            out = {"left_shoulder": 49.5, "right_shoulder": -49.5}
            return (out.get(name, 0.0) if frame > 80 - square else 0.0, 0.0)

        whole = body(range(20, 81), move=opens, **places) | {"reference_lengths_px": {"shoulder_width": {"px": 100, "u": 1}}}
        state = {"facing": {"line": "shoulders", "towards": "target"}, "within": [0.5, None]}
        measure = {"while": state, "from": "knee_top", "to": "folded", "pick": "share", "unit": "share"}
        found = judged("dwell", measure, None, [0.9, None], bodies={"performer": whole})
        assert found.verdict == "not_seen"
        assert reason in str(found.reason)

    def test_toes_that_point_nowhere_cannot_tell(self) -> None:
        assert self.shoulders(30, 0.5, "target").verdict == "not_seen"
        assert self.shoulders(49.5, 50, "target").verdict == "not_seen"

    def test_seen_from_the_front_the_target_is_the_camera(self) -> None:
        assert self.shoulders(40, 0, "target", view="front").value == pytest.approx(0.8)
        assert self.shoulders(40, 0, "target", view="behind").value == pytest.approx(-0.8)


CORNERS = ((400, 600, 0, 0), (600, 600, 1, 0), (560, 500, 1, 1), (440, 500, 0, 1))
TILE = [dict(zip(("x", "y", "X", "Y"), corner, strict=True)) for corner in CORNERS]


class TestFloor:
    def foot(self, frames: dict[int, tuple[float, float]], side: str = "right") -> dict[str, Any]:
        return {
            f"{side}_{part}": [{"frame": f, "x": x, "y": y, "sigma": 0.5} for f, (x, y) in frames.items()]
            for part in ("heel", "toe")
        }

    def test_a_step_along_the_edge_of_a_tile(self) -> None:
        marks = self.foot({20: (400, 600), 44: (600, 600)})
        measure = {"from": "knee_top", "to": "full_reach"}
        length = judged("floor", measure | {"pick": "step_length"}, marks, [0, None], floor=TILE)
        assert length.value == pytest.approx(1.0) and length.unit == "m"
        direction = judged("floor", measure | {"pick": "step_direction"}, marks, [-10, 10], floor=TILE)
        assert direction.value == pytest.approx(0, abs=1e-6)

    def test_a_step_over_the_corner_is_forty_five_degrees_to_the_left(self) -> None:
        marks = self.foot({20: (400, 600), 44: (560, 500)})
        measure = {"from": "knee_top", "to": "full_reach", "pick": "step_direction"}
        assert judged("floor", measure, marks, [-90, 0], floor=TILE).value == pytest.approx(-45)
        length = judged("floor", measure | {"pick": "step_length"}, marks, [0, None], floor=TILE)
        assert length.value == pytest.approx(math.sqrt(2))

    def test_base_width(self) -> None:
        marks = self.foot({44: (400, 600)}) | self.foot({44: (440, 500)}, "left")
        assert judged("floor", {"pick": "base_width"} | AT, marks, [0, None], floor=TILE).value == pytest.approx(1.0)

    def test_without_four_mat_points_it_is_not_seen(self) -> None:
        marks = self.foot({44: (400, 600)}) | self.foot({44: (440, 500)}, "left")
        assert judged("floor", {"pick": "base_width"} | AT, marks, [0, None]).verdict == "not_seen"
        flat = [corner | {"y": 600} for corner in TILE]
        assert judged("floor", {"pick": "base_width"} | AT, marks, [0, None], floor=flat).verdict == "not_seen"


class TestSet:
    def over(self, angles: list[tuple[str, float]], **measure: Any) -> Judgement:
        knee = checkpoint(within=[0, 180])
        over = checkpoint(id="over", kind="set", measure={"of": "knee_angle"} | measure, within=[None, 10])
        tech = technique(knee, over)
        reps = []
        for side, deg in angles:
            marks = {name.replace("right", side): entries for name, entries in bent({44: deg}).items()}
            reps.append(rep(marks, side=side, events={"full_reach": [44]}))
        return judge_set(tech, reps, judge_reps([tech] * len(reps), reps))[0]

    def test_sides_spread_and_trend(self) -> None:
        sides = self.over([("left", 100), ("left", 104), ("right", 120), ("right", 124)], pick="side_difference")
        assert sides.value == pytest.approx(20) and sides.verdict == "missed"
        assert self.over([("right", a) for a in (100, 110, 120)], pick="spread").value == pytest.approx(10)
        trend = self.over([("right", 100 + 3 * i) for i in range(5)], pick="trend")
        assert trend.value == pytest.approx(3) and trend.unit == "deg a rep"

    def test_too_few_reps_and_one_side_alone(self) -> None:
        assert self.over([("right", 100)], pick="spread").verdict == "not_seen"
        assert "left" in str(self.over([("right", 100), ("right", 110)], pick="side_difference").reason)

    def test_mix_of_choices(self) -> None:
        over = checkpoint(id="over", kind="set", measure={"of": {"option": "extension"}, "pick": "mix"}, within=[0.5, None])
        tech = technique(checkpoint(), over)
        reps = [rep(options={"extension": choice}) for choice in ("snap", "push", "snap", "push")]
        assert judge_set(tech, reps, judge_reps([tech] * 4, reps))[0].value == pytest.approx(1.0)

    def test_in_a_rep_by_itself_it_is_not_asked(self) -> None:
        over = checkpoint(kind="set", measure={"of": "other", "pick": "spread"}, within=[None, 10])
        assert judge_one(over, rep()).verdict == "not_asked"


def test_the_masses_of_a_body_add_up_and_lie_where_the_table_puts_them() -> None:
    from lacertus.core.measuring.mass import mass_weights, segments

    assert sum(mass for _, _, mass, _ in segments("male")) == pytest.approx(1.0)
    weights = mass_weights(lambda landmark: True)
    assert sum(weights.values()) == pytest.approx(1.0)
    places = body([0])["landmarks"]
    x, y = (sum(w * places[name][0][axis] for name, w in weights.items()) for axis in "xy")
    # A standing body's centre of mass lies at 0.55 to 0.58 of its height.
    assert 0.54 < (600 - y) / 400 < 0.60 and abs(x - 600) < 10


def test_residual_analysis_keeps_the_signal_and_takes_the_noise() -> None:
    from lacertus.core.measuring.smoothing import residual_cutoff

    chance = np.random.default_rng(3)
    times = np.arange(120) / 120
    signal = np.stack((100 * np.sin(2 * np.pi * 2 * times), 60 * np.cos(2 * np.pi * 3 * times)))
    noisy = signal + chance.normal(0, 1.0, signal.shape)
    low_pass = residual_cutoff(noisy, 120.0)
    assert 4 < low_pass.cutoff_hz < 30
    inner = slice(10, -10)
    assert np.std((low_pass(noisy) - signal)[:, inner]) < 0.7


def test_every_kind_is_here() -> None:
    assert len(KINDS) == 21
