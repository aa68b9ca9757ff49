"""A point that is dragged: the nearest solution reads a rep as the whole one does, to within a part of what is told as unsure."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from lacertus.core.measuring.repfile import read_rep
from lacertus.core.review.judgement import Judgement
from lacertus.core.review.views.tied import Solved, View, judge_moved, judge_views, solved, views_in
from tests.bench import posed
from tests.bench.in_depth import EVENTS, in_picture
from tests.core.measuring.space.films import MIDDLE, TECHNIQUE, dragged, filmed

JOINTS = ("right_wrist", "right_knee", "left_ankle", "right_hip", "left_shoulder")


def beside(
    rep: dict[str, Any], joint: str, by: tuple[float, float], views: tuple[View, ...], before: Solved
) -> list[tuple[Judgement, Judgement]]:
    moved = dragged(rep, joint, EVENTS["middle"], by)
    near = judge_moved(TECHNIQUE, moved, views, before, "performer", joint)
    return list(zip(near, judge_views(TECHNIQUE, moved, views), strict=True))


@pytest.mark.parametrize("by", [(0.0, 0.0), (6.0, -4.0), (-25.0, 20.0)])
def test_a_dragged_point_is_read_nearly_as_a_rep_that_is_solved_anew(by: tuple[float, float]) -> None:
    apart = []
    for seed in range(3):
        rep = filmed(seed)[0]
        before = solved(TECHNIQUE, read_rep(rep))
        for joint in JOINTS:
            for near, whole in beside(rep, joint, by, (), before):
                if near.value is not None and whole.value is not None and whole.uncertainty and near.unit == whole.unit:
                    apart.append(abs(near.value - whole.value) / whole.uncertainty)
    off = np.array(apart)
    print(f"{len(off)} readings, {by}: mean {off.mean():.3f} u, within u {np.mean(off <= 1):.1%}")
    assert len(off) > 250
    if by == (0.0, 0.0):
        assert off.max() < 1e-6
    assert off.mean() < 0.15
    assert np.mean(off <= 1) > 0.95


def test_a_dragged_point_changes_what_reads_it_and_nothing_else() -> None:
    rep, _, _ = filmed(2)
    before = judge_views(TECHNIQUE, read_rep(rep))
    after = judge_moved(
        TECHNIQUE,
        dragged(rep, "right_wrist", EVENTS["middle"], (30.0, 0.0)),
        (),
        solved(TECHNIQUE, read_rep(rep)),
        "performer",
        "right_wrist",
    )
    changed = {one.id for one, other in zip(after, before, strict=True) if one.value != other.value}
    # The hand hangs on the wrist, and the centre of mass on all of the body.
    told = {c.id: " ".join(str(ref) for ref in c.measure.points_used) for c in TECHNIQUE.checkpoints}
    reads = {name for name, points in told.items() if "working_wrist" in points or "working_hand" in points}
    assert changed & reads
    mass = {c.id for c in TECHNIQUE.checkpoints if c.kind == "balance"}
    assert changed <= reads | mass


def test_in_two_views_a_dragged_point_is_read_nearly_the_same() -> None:
    rep, motion, _ = filmed(3, 10.0)
    other = posed.drawn_eye(np.random.default_rng(8), -65.0, MIDDLE)
    rep["views"] = [in_picture(motion, other, np.random.default_rng(9)) | {"offset_s": 0.0, "view": "angle"}]
    views = views_in(read_rep(rep))
    for joint in ("right_knee", "left_hip"):
        pairs = beside(rep, joint, (2.0, 1.0), views, solved(TECHNIQUE, read_rep(rep), views))
        assert sum("views" in near.rests_on for near, _ in pairs) > 20
        off = [
            abs(near.value - whole.value) / whole.uncertainty
            for near, whole in pairs
            if near.value is not None and whole.value is not None and whole.uncertainty
        ]
        assert len(off) > 20
        assert np.mean(np.array(off) <= 1) > 0.9


def test_a_landmark_that_had_no_place_before_is_solved_anew() -> None:
    rep, _, _ = filmed(4)
    marks = rep["bodies"]["performer"]["landmarks"]
    without = rep["bodies"]["performer"] | {"landmarks": {k: v for k, v in marks.items() if k != "right_wrist"}}
    before = read_rep(rep | {"bodies": rep["bodies"] | {"performer": without}})
    near = judge_moved(TECHNIQUE, read_rep(rep), (), solved(TECHNIQUE, before), "performer", "right_wrist")
    assert near == judge_views(TECHNIQUE, read_rep(rep))
