"""Marks that hang on landmarks, the shapes they are drawn as, and the default correction of every kind."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from lacertus.core.corrections.default_corrections import default_correction, nearest_wanted
from lacertus.core.corrections.marks import Mark, Spot, check_drawable, drawn, snapped
from lacertus.core.corrections.shapes import Label, Ring, Stroke, heads
from lacertus.core.errors import BadInput
from lacertus.core.measuring.repfile import read_rep
from lacertus.core.measuring.scene import Scene
from lacertus.core.review.judge import judge_rep
from lacertus.library import shipped, shipped_technique
from lacertus.library.sample import faultless, faulty

SIZE = (1000, 800)


def scene(points: dict[str, list[tuple[int, float, float]]], frames: int = 30, **more: Any) -> Scene:
    landmarks = {name: [{"frame": f, "x": x, "y": y, "sigma": 1.0} for f, x, y in entries] for name, entries in points.items()}
    data = {
        "lacertus_rep": 1, "technique": "front-kick", "side": "right", "heading": "right", "size": list(SIZE),
        "pts_s": [f / 30 for f in range(frames)], "range": [0, frames - 1], "bodies": {"performer": {"landmarks": landmarks}},
    }  # fmt: skip
    return Scene(read_rep(data | more), {})


def on(landmark: str) -> Spot:
    return Spot(body="performer", landmark=landmark)


def at(x: float, y: float) -> Spot:
    return Spot(x=x, y=y)


LEG = {"right_hip": [(10, 500.0, 400.0)], "right_knee": [(10, 600.0, 400.0)], "right_ankle": [(10, 600.0, 500.0)]}


class TestSpots:
    @pytest.mark.parametrize(
        "spot", [{}, {"x": 1.0}, {"landmark": "right_knee"}, {"body": "performer", "landmark": "third_knee"}, {"body": "performer"}]
    )
    def test_a_spot_is_a_landmark_or_a_place(self, spot: dict[str, Any]) -> None:
        with pytest.raises(ValidationError, match=r"a spot is a landmark|is not a landmark"):
            Spot(**spot)

    def test_a_line_by_hand_stands_where_it_was_drawn_about_its_frame_only(self) -> None:
        spots = tuple(at(100 + 5 * i, 200 + 3 * i) for i in range(40))
        mark = snapped(Mark(kind="freehand", spots=spots), scene(LEG), 10)
        assert mark.spots == spots
        shapes = drawn([mark], scene(LEG), range(30), at=10)
        shown = [frame for frame, found in enumerate(shapes) if found]
        assert 10 in shown
        assert 0 < len(shown) < 30
        assert shapes[10][0].points == tuple((float(spot.x), float(spot.y)) for spot in spots)  # type: ignore[union-attr,arg-type]

    @pytest.mark.parametrize(
        ("kind", "count"), [("force", 1), ("angle", 4), ("look", 2), ("path", 0), ("weight", 1), ("freehand", 1), ("line", 7)]
    )
    def test_a_mark_hangs_on_as_many_spots_as_it_needs(self, kind: Any, count: int) -> None:
        with pytest.raises(ValidationError, match="hangs on"):
            Mark(kind=kind, spots=tuple(at(1, i) for i in range(count)))

    def test_words_without_words_are_refused(self) -> None:
        with pytest.raises(ValidationError, match="needs words"):
            Mark(kind="words", spots=(at(1, 1),), words=" ")

    def test_a_place_at_a_landmark_snaps_to_it_and_one_far_off_stays(self) -> None:
        mark = Mark(kind="force", spots=(at(604, 395), at(700, 300)))
        found = snapped(mark, scene(LEG), 10)
        assert found.spots == (on("right_knee"), at(700, 300))

    @pytest.mark.parametrize("spot", [at(-1, 5), at(5, 801), Spot(body="performer", landmark="nose", dx=1200)])
    def test_marks_outside_the_picture_are_refused(self, spot: Spot) -> None:
        with pytest.raises(BadInput, match="nothing was stored"):
            check_drawable([Mark(kind="look", spots=(spot,))], SIZE)

    def test_an_arrow_without_length_is_refused(self) -> None:
        with pytest.raises(BadInput, match="no length"):
            check_drawable([Mark(kind="force", spots=(at(5, 5), at(6, 5)))], SIZE)


class TestDrawn:
    def test_a_mark_moves_with_its_landmark_and_stays_a_moment_where_it_was_last_seen(self) -> None:
        moving = {"right_knee": [(f, 100.0 + 10 * f, 300.0) for f in range(5, 11)]}
        shapes = drawn([Mark(kind="look", spots=(on("right_knee"),))], scene(moving), range(30))
        places = {frame: found[0].at[0] for frame, found in enumerate(shapes) if found and isinstance(found[0], Ring)}
        seen = {5: 150, 6: 160, 7: 170, 8: 180, 9: 190, 10: 200}
        assert places == {2: 150, 3: 150, 4: 150, **seen, 11: 200, 12: 200, 13: 200}

    def test_a_mark_on_what_is_never_seen_is_not_drawn(self) -> None:
        marks = [Mark(kind="look", spots=(on("left_wrist"),)), Mark(kind="look", spots=(at(5, 5),))]
        assert [len(found) for found in drawn(marks, scene(LEG), [10])] == [1]

    @pytest.mark.parametrize("wanted", [30.0, 90.0, 150.0])
    def test_the_wanted_limb_stands_at_the_wanted_angle_on_the_side_of_the_seen_one(self, wanted: float) -> None:
        mark = Mark(kind="angle", spots=tuple(on(f"right_{joint}") for joint in ("hip", "knee", "ankle")), wanted=wanted)
        (shapes,) = drawn([mark], scene(LEG), [10])
        limb = next(s for s in shapes if isinstance(s, Stroke) and s.role == "wanted")
        (jx, jy), (ex, ey) = limb.points
        cosine = (-100 * (ex - jx)) / (100 * math.hypot(ex - jx, ey - jy))
        assert math.degrees(math.acos(cosine)) == pytest.approx(wanted, abs=0.2)
        assert math.hypot(ex - jx, ey - jy) == pytest.approx(100, abs=0.2)
        assert ey > jy

    def test_how_a_limb_is_wanted_is_drawn_about_its_frame_alone(self) -> None:
        swing = {name: [(f, x, y + 3 * f) for f in range(30)] for name, [(_, x, y)] in LEG.items()}
        mark = Mark(kind="angle", spots=tuple(on(f"right_{joint}") for joint in ("hip", "knee", "ankle")), wanted=90.0)
        shapes = drawn([mark], scene(swing), range(30), at=10)
        wanted = [f for f, found in enumerate(shapes) if any(isinstance(s, Stroke) and s.role == "wanted" for s in found)]
        assert wanted == [7, 8, 9, 10, 11, 12, 13], "a tenth of a second before and after, 30 frames a second"
        assert all(any(isinstance(s, Stroke) and s.role == "seen" for s in found) for found in shapes)

    def test_an_inclination_is_wanted_against_where_up_is(self) -> None:
        mark = Mark(kind="angle", spots=(at(500, 400), at(520, 300)), wanted=30.0)
        for turned in (0.0, 10.0):
            (shapes,) = drawn([mark], scene(LEG, upright={"deg": turned, "u": 1.0}), [10])
            (jx, jy), (ex, ey) = next(s for s in shapes if isinstance(s, Stroke) and s.role == "wanted").points
            lean = math.degrees(math.atan2(ex - jx, jy - ey))
            assert abs(lean - turned) == pytest.approx(30.0, abs=0.2)

    def test_the_way_taken_is_drawn_over_the_frames_that_the_mark_is_shown_in(self) -> None:
        moving = {"right_toe": [(f, 100.0 + 10 * f, 300.0 + (f - 10) ** 2) for f in range(30)]}
        (taken, wanted), *_ = drawn([Mark(kind="path", spots=(on("right_toe"),))], scene(moving), range(5, 16))
        assert isinstance(taken, Stroke) and isinstance(wanted, Stroke)
        assert (taken.points[0], taken.points[-1]) == (wanted.points[0], wanted.points[-1]) == ((150, 325), (250, 325))
        assert len(taken.points) == 11

    def test_space_closes_from_both_ends_and_words_stand_in_its_middle(self) -> None:
        mark = Mark(kind="space", spots=(at(100, 100), at(300, 100)), words="close")
        (shapes,) = drawn([mark], scene(LEG), [10])
        one, other, words = shapes
        assert isinstance(one, Stroke) and isinstance(other, Stroke) and isinstance(words, Label)
        assert one.points[0][0] < one.points[1][0] < other.points[1][0] < other.points[0][0]
        assert words.at == (200, 100)

    def test_weight_is_wanted_at_a_share_of_the_base(self) -> None:
        mark = Mark(kind="weight", spots=(at(150, 100), at(100, 500), at(300, 500)), wanted=0.75)
        (shapes,) = drawn([mark], scene(LEG), [10])
        wanted = next(s for s in shapes if isinstance(s, Ring) and s.role == "wanted")
        plumb = next(s for s in shapes if isinstance(s, Stroke) and s.head == "end")
        assert wanted.at == (250, 500)
        assert plumb.points == ((150, 100), (150, 500))

    @given(st.floats(-900, 900), st.floats(-900, 900), st.floats(3, 60))
    def test_arrowheads_point_back_from_the_tip_and_lie_evenly_about_the_line(self, dx: float, dy: float, size: float) -> None:
        if math.hypot(dx, dy) < 1:
            return
        (head,) = heads(Stroke(role="push", points=((0.0, 0.0), (dx, dy)), head="end"), size)
        a, tip, b = (np.array(p) for p in head)
        assert np.hypot(*(a - tip)) == pytest.approx(size) == np.hypot(*(b - tip))
        back = -np.array([dx, dy]) / math.hypot(dx, dy)
        assert (a - tip) @ back == pytest.approx((b - tip) @ back)
        assert (a - tip) @ back > 0


class TestUsual:
    @pytest.mark.parametrize(
        ("within", "value", "wanted"),
        [
            ((90.0, None), 60.0, 90.0),
            ((None, 40.0), 60.0, 40.0),
            ((10.0, 20.0), 5.0, 10.0),
            ((10.0, 20.0), 25.0, 20.0),
            ((10.0, 20.0), 15.0, 15.0),
            (None, 3.0, None),
            ((1.0, 2.0), None, None),
        ],
    )
    def test_wanted_is_the_end_of_the_range_that_the_value_lies_beyond(
        self, within: Any, value: float | None, wanted: float | None
    ) -> None:
        assert nearest_wanted(within, value) == wanted

    @pytest.mark.parametrize("technique", [t.id for t in shipped()])
    def test_every_checkpoint_of_every_technique_has_a_correction_that_can_be_drawn(self, technique: str) -> None:
        found = shipped_technique(technique)
        rep = faultless(found)
        here = Scene(rep, found.edges)
        for judgement in judge_rep(found, rep):
            asked = found.asked(judgement.id)
            assert asked is not None
            made = default_correction(found, asked, judgement, here)
            assert rep.range[0] <= made.first <= made.frame <= made.last <= rep.range[1]
            assert made.cue == asked.cues[0]
            (shapes,) = drawn(made.marks, here, [made.frame])
            assert len(shapes) >= len(made.marks)
            if made.marks:
                check_drawable(made.marks, rep.size)

    def test_a_limb_of_a_body_without_points_is_corrected_by_words_alone(self) -> None:
        found = shipped_technique("triangle")
        rep = faultless(found)
        alone = rep.model_copy(update={"bodies": {name: body for name, body in rep.bodies.items() if name == "performer"}})
        judgement = next(j for j in judge_rep(found, alone) if j.id == "posture_broken")
        asked = found.checkpoint("posture_broken")
        assert asked is not None and judgement.value is None
        assert default_correction(found, asked, judgement, Scene(alone, found.edges)).marks == ()

    def test_an_angle_is_corrected_by_its_wanted_limb_and_a_height_by_an_arrow_up(self) -> None:
        kick = shipped_technique("front-kick")
        rep = faulty(kick, "thigh_lifted")
        here = Scene(rep, kick.edges)
        judgement = next(j for j in judge_rep(kick, rep) if j.id == "thigh_lifted")
        asked = kick.checkpoint("thigh_lifted")
        assert asked is not None and judgement.value is not None
        (mark,) = default_correction(kick, asked, judgement, here).marks
        assert mark.kind == "angle"
        assert mark.wanted in (asked.within or ())
        assert {spot.landmark for spot in mark.spots} >= {f"{rep.side}_knee", f"{rep.side}_hip"}

    @pytest.mark.parametrize(
        ("technique", "checkpoint", "last"),
        [
            ("front-kick", "tight_chamber", "{side}_ankle"),  # a leg in the air: the shin
            ("front-kick", "thigh_lifted", "{side}_knee"),  # trunk and thigh: the thigh
            ("front-kick", "support_knee_soft", "{other}_hip"),  # its foot stands: the thigh
            ("back-fall", "chin_tucked", "nose"),  # written from the nose on: the head, not the trunk
        ],
    )
    def test_the_wanted_line_is_of_the_limb_that_is_to_change(self, technique: str, checkpoint: str, last: str) -> None:
        found = shipped_technique(technique)
        rep = faultless(found)
        here = Scene(rep, found.edges)
        judgement = next(j for j in judge_rep(found, rep) if j.id == checkpoint)
        asked = found.checkpoint(checkpoint)
        assert asked is not None
        mark = default_correction(found, asked, judgement, here).marks[0]
        other = "left" if rep.side == "right" else "right"
        assert mark.spots[-1].landmark == last.format(side=rep.side, other=other)
