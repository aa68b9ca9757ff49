"""The studio's figure as joint data: what the browser gets to draw, and how its checkpoints come out."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

import numpy as np
import pytest

from lacertus.core.errors import BadInput
from lacertus.core.measuring.body import Side
from lacertus.library import check_text, shipped_technique
from lacertus.services.techniques import figure as model
from lacertus.services.techniques import lessons, moving
from lacertus.services.techniques.moving import MovingFigure
from lacertus.studio.moves import MOVES


def figure(
    technique: str, side: Side = "right", fault: str | None = None, options: Mapping[str, str] | None = None
) -> MovingFigure:
    return moving.figure_of(shipped_technique(technique), side, options or {}, fault)


def joint(found: MovingFigure, frame: int, name: str, body: int = 0) -> np.ndarray:
    start = moving.JOINTS.index(name) * 3
    return np.array(found.bodies[body].frames[frame][start : start + 3]) / 1000


def at_event(found: MovingFigure, event: str) -> int:
    return int(np.argmin(np.abs(np.array(found.times_s) - found.events_s[event])))


class TestWhatIsSent:
    def test_every_frame_has_every_joint_and_axis_of_both_bodies_from_second_nought(self) -> None:
        found = figure("advancing-foot-sweep")
        assert [body.body for body in found.bodies] == ["performer", "partner"]
        assert found.times_s[0] == 0
        assert np.all(np.diff(found.times_s) > 0)
        for body in found.bodies:
            assert len(body.frames) == len(found.times_s)
            assert {len(frame) for frame in body.frames} == {3 * (len(moving.JOINTS) + len(moving.AXES))}

    def test_joints_are_millimetres_and_axes_thousandths(self) -> None:
        found = figure("front-fall")
        thigh = np.linalg.norm(joint(found, 0, "left_hip") - joint(found, 0, "left_knee"))
        assert thigh == pytest.approx(0.245 * found.bodies[0].stature_m, rel=0.05)
        axes = np.array(found.bodies[0].frames[0][3 * len(moving.JOINTS) :]).reshape(-1, 3)
        assert np.linalg.norm(axes, axis=1) == pytest.approx(1000, abs=3)

    def test_the_other_side_is_the_mirror_image(self) -> None:
        right, left = figure("advancing-foot-sweep"), figure("advancing-foot-sweep", "left")
        for frame in (0, len(right.times_s) // 2, len(right.times_s) - 1):
            mirrored = joint(right, frame, "right_ankle") * (1, -1, 1)
            assert joint(left, frame, "left_ankle") == pytest.approx(mirrored, abs=0.02)

    def test_what_a_checkpoint_reads_lies_where_the_body_is_at_that_instant(self) -> None:
        found = figure("advancing-foot-sweep")
        read = next(one for one in found.checkpoints if one.judgement.id == "leg_long")
        assert read.time_s == pytest.approx(found.events_s["sole_meets"], abs=0.001)
        assert [place.name for place in read.places] == ["working_hip", "working_knee", "working_ankle"]
        frame = at_event(found, "sole_meets")
        for place, name in zip(read.places, ("right_hip", "right_knee", "right_ankle"), strict=True):
            assert np.array(place.at) / 1000 == pytest.approx(joint(found, frame, name), abs=0.1)

    def test_points_along_a_limb_and_the_centre_of_mass_have_a_place_too(self) -> None:
        found = figure("front-fall")
        board = next(one for one in found.checkpoints if one.judgement.id == "falls_like_a_board")
        assert len(board.places) == 3
        middle = np.array(board.places[2].at) / 1000
        frame = at_event(found, "arms_out")
        ends = joint(found, frame, "left_knee") + joint(found, frame, "right_knee")
        assert middle == pytest.approx(ends / 2, abs=0.05)


class TestFaults:
    @pytest.mark.parametrize(
        ("technique", "fault"), [("front-fall", "posts-the-arm"), ("advancing-foot-sweep", "late-sweep"), ("triangle", "open-lock")]
    )
    def test_a_fault_is_missed_on_the_figure_that_shows_it_and_not_on_the_one_without(self, technique: str, fault: str) -> None:
        wrong, right = figure(technique, fault=fault), figure(technique)
        assert any(one.judgement.counts_as_missed for one in wrong.checkpoints if one.judgement.fault == fault)
        assert not any(one.judgement.counts_as_missed for one in right.checkpoints if one.judgement.fault == fault)
        assert (wrong.says, right.says) == (next(f.says for f in MOVES[technique].faults if f.code == fault), "")
        assert wrong.degree > 0

    def test_a_fault_of_one_choice_is_shown_with_that_choice(self) -> None:
        assert figure("front-fall", fault="pushes-off", options={"from": "feet"}).options["from"] == "knees"

    def test_every_fault_that_a_card_offers_can_be_shown(self) -> None:
        offered = 0
        for name in MOVES:
            technique = shipped_technique(name)
            shown = {checkpoint.fault.code for checkpoint in technique.checkpoints}
            offered += len(moving.faults_of(technique))
            assert moving.faults_of(technique) <= shown, f"{name}: a fault that no checkpoint asks about"
        assert offered > 60


class TestReactions:
    def test_what_the_partner_does_is_shown_with_its_answer(self) -> None:
        found = moving.figure_of(shipped_technique("arm-drag"), "right", {}, None, "partner_pulls_the_elbow")
        assert found.events_s["elbow_back"] < found.events_s["leg_taken"]
        answered = next(one for one in found.checkpoints if one.judgement.id == "partner_pulls_the_elbow")
        assert answered.judgement.verdict.value == "met"

    def test_one_that_the_studio_does_not_show_is_refused(self) -> None:
        known = shipped_technique("arm-drag")
        own = known.model_copy(update={"reactions": (known.reactions[0].model_copy(update={"id": "partner_sits_down"}),)})
        with pytest.raises(BadInput, match="does not show the reaction “partner_sits_down” yet"):
            moving.figure_of(own, "right", {}, None, "partner_sits_down")


def test_the_picture_beside_a_correction_is_taken_from_the_techniques_best_view(tmp_path: Path) -> None:
    """A side fall is measured from the front: from the side its own model would miss what it shows."""
    technique = shipped_technique("side-fall")
    figure = model.show(technique, "chin_tucked", "right", {}, tmp_path / "a.jpg", tmp_path / "a.mp4")
    assert figure.shapes
    assert (tmp_path / "a.jpg").stat().st_size > 5000
    assert (tmp_path / "a.mp4").stat().st_size > 5000


class TestRefused:
    def test_a_technique_of_the_academys_own_has_no_move(self) -> None:
        technique = shipped_technique("inverted-back-take").model_copy(update={"id": "own-back-take"})
        assert not moving.moves(technique)
        with pytest.raises(BadInput, match="The studio does not show"):
            moving.figure_of(technique, "right", {}, None)

    def test_a_choice_that_the_studio_cannot_do(self) -> None:
        with pytest.raises(BadInput, match="does not show this choice of options yet"):
            figure("back-fall", options={"rise": "spring"})

    def test_a_fault_that_is_not_there(self) -> None:
        with pytest.raises(BadInput, match="does not show the fault “no-such-fault”"):
            figure("front-fall", fault="no-such-fault")


def test_a_text_that_is_being_written_is_what_its_figure_is_judged_by() -> None:
    text = lessons.as_yaml(shipped_technique("front-fall"))
    stricter = text.replace("no_straight_arm", "arm_at_a_square")
    assert stricter != text
    found = moving.figure_of(check_text(stricter, "technique"), "right", {}, None)
    assert "arm_at_a_square" in {one.judgement.id for one in found.checkpoints}
