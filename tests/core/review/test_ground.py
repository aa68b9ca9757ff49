"""A rep over the mat: feet as a plan, the mass over them, and shares on events' frames."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from lacertus.core.measuring.repfile import RepFile, read_rep
from lacertus.core.review.ground import ground_of
from lacertus.library import shipped_technique
from lacertus.studio.scene import Shot

SWEEP = shipped_technique("advancing-foot-sweep")


@pytest.fixture(scope="module")
def rep(truths: dict[str, Any]) -> RepFile:
    return read_rep(truths["variable"]["reps"][0])


def test_feet_on_the_mat_lie_where_they_stand_in_space(rep: RepFile, shots: dict[str, Shot]) -> None:
    first = ground_of(SWEEP, rep)[0]
    scene = shots["variable"].scene.moment(shots["variable"].times_s[first.frame])
    assert len(first.feet) == 4
    for foot in first.feet:
        for name, place in (("heel", foot.heel), ("toe", foot.toe)):
            x, y, height = scene[foot.body].at[f"{foot.side}_{name}"]
            # A heel or toe lies a few centimetres over the mat, which moves it on the plan.
            assert np.hypot(place.x - x, place.y - y) < 0.05 + 3 * max(height, 0), (foot.body, foot.side, name)


def test_a_foot_in_the_air_has_no_place_on_the_mat(rep: RepFile) -> None:
    found = {one.frame: {(foot.body, foot.side) for foot in one.feet} for one in ground_of(SWEEP, rep)}
    first, fallen = rep.range[0], rep.events["back_on_mat"][0]
    assert len(found[first]) == 4
    assert len([foot for foot in found[fallen] if foot[0] == "partner"]) < 2
    spots = [spot for one in ground_of(SWEEP, rep) for foot in one.feet for spot in (foot.heel, foot.toe)]
    assert all(abs(spot.x) < 4 and abs(spot.y) < 4 for spot in spots)


def test_the_mass_is_told_on_every_frame_and_the_share_on_events_alone(rep: RepFile) -> None:
    found = ground_of(SWEEP, rep)
    assert [one.frame for one in found] == list(range(rep.range[0], rep.range[1] + 1))
    assert all({mass.body for mass in one.masses} == {"performer", "partner"} for one in found)
    events = {frame for frames in rep.events.values() for frame in frames}
    told = {one.frame for one in found for mass in one.masses if mass.left is not None}
    assert told and told <= events
    assert all(0 <= mass.left <= 1 for one in found for mass in one.masses if mass.left is not None)


def test_without_a_tile_there_is_no_plan_and_without_points_nothing(rep: RepFile) -> None:
    assert not any(one.feet for one in ground_of(SWEEP, rep.model_copy(update={"floor": None})))
    assert ground_of(SWEEP, rep.model_copy(update={"bodies": {}})) == ()
