"""Reference lengths from a named still frame."""

from __future__ import annotations

import pytest

from lacertus.core.measuring.references import lengths_in
from lacertus.core.measuring.repfile import RepFile
from lacertus.core.measuring.scene import DEPTH_U
from lacertus.core.review.judge import judge_rep
from lacertus.library import shipped_technique
from lacertus.library.sample import faultless

KICK = shipped_technique("front-kick")


def rep() -> RepFile:
    return faultless(KICK)


def test_a_segment_is_as_long_as_it_is_seen_with_the_us_of_its_ends_and_of_depth() -> None:
    told = rep()
    frame = told.events["full_reach"][0]
    found = lengths_in(told, "performer", frame)
    at = {name: next(p for p in points if p.frame == frame) for name, points in told.bodies["performer"].landmarks.items()}
    hip, knee = at["right_hip"], at["right_knee"]
    length = ((hip.x - knee.x) ** 2 + (hip.y - knee.y) ** 2) ** 0.5
    assert found["right_thigh"].px == pytest.approx(length)
    assert found["right_thigh"].u == pytest.approx(((2**0.5 * 0.4) ** 2 + (DEPTH_U * length) ** 2) ** 0.5)
    assert found["right_thigh"].frame == frame


def test_a_frame_without_points_gives_none() -> None:
    told = rep()
    assert lengths_in(told, "performer", told.range[1]) == {}
    assert lengths_in(told.model_copy(update={"bodies": {}}), "performer", 10) == {}


def test_what_was_read_from_a_still_frame_tells_the_lean() -> None:
    """“Lean unknown” goes away once the limbs’ lengths are named."""
    told = rep()
    unmarked = {name: body.model_copy(update={"height_px": None}) for name, body in told.bodies.items()}
    told = told.model_copy(update={"bodies": unmarked})
    before = next(j for j in judge_rep(KICK, told) if j.id == "leg_straight")
    assert any("lean unknown" in note for note in before.notes)
    lengths = lengths_in(told, "performer", told.events["full_reach"][0])
    body = told.bodies["performer"].model_copy(update={"reference_lengths_px": lengths})
    after = next(
        j for j in judge_rep(KICK, told.model_copy(update={"bodies": told.bodies | {"performer": body}})) if j.id == "leg_straight"
    )
    assert not any("lean unknown" in note for note in after.notes)
