"""Solved reps that are kept between requests: nothing is solved twice, and nothing is read by a solution of other points."""

from __future__ import annotations

from typing import Any

import pytest

from lacertus.core.measuring.repfile import RepFile, read_rep
from lacertus.core.measuring.scene import Scene
from lacertus.core.review.judge import judge_rep
from lacertus.core.review.judgement import Judgement
from lacertus.services.review.kept.at_hand import at_hand
from tests.bench.in_depth import EVENTS
from tests.core.measuring.space.films import TECHNIQUE, dragged, filmed


def judged(file: RepFile) -> tuple[int, tuple[Judgement, ...]]:
    """How many bytes of solved bodies were at hand, and the judgements."""
    with at_hand(Scene(file, TECHNIQUE.edges)) as scene:
        assert scene.space is not None
        return scene.space.size_bytes, judge_rep(TECHNIQUE, file, scene)


def test_the_same_points_are_not_put_in_space_twice_and_judged_the_same() -> None:
    rep = filmed(31)[0]
    before, first = judged(read_rep(rep))
    again, second = judged(read_rep(rep | {"seen": {"c1": {"coach": True}}}))
    assert before == 0
    assert again > 1_000_000
    assert second == first


def test_other_events_are_read_from_the_kept_bodies_as_from_new_ones() -> None:
    rep = filmed(32)[0]
    judged(read_rep(rep))
    events = rep["events"] | {"middle": [EVENTS["middle"] + 4]}
    moved = read_rep(rep | {"events": events})
    at_hand_bytes, found = judged(moved)
    assert at_hand_bytes > 0
    assert found == judge_rep(TECHNIQUE, moved)


@pytest.mark.parametrize("change", ["a point", "a height", "the side it is seen from", "what was told of depth"])
def test_what_changes_the_bodies_is_solved_anew(change: str) -> None:
    rep: dict[str, Any] = filmed(33)[0]
    judged(read_rep(rep))
    bodies = rep["bodies"]
    other = {
        "a point": lambda: dragged(rep, "right_wrist", 20, (3.0, 0.0)),
        "a height": lambda: read_rep(rep | {"bodies": bodies | {"performer": bodies["performer"] | {"height_px": 333.0}}}),
        "the side it is seen from": lambda: read_rep(rep | {"view": "behind"}),
        "what was told of depth": lambda: read_rep(
            rep | {"nearer": [{"body": "performer", "landmark": "right_knee", "frame": 20, "nearer": True}]}
        ),
    }[change]()
    kept_bytes, found = judged(other)
    assert kept_bytes == 0
    assert found == judge_rep(TECHNIQUE, other)


def test_bodies_that_are_being_read_are_given_to_nobody_else() -> None:
    file = read_rep(filmed(34)[0])
    judged(file)
    with at_hand(Scene(file, TECHNIQUE.edges)) as first, at_hand(Scene(file, TECHNIQUE.edges)) as second:
        assert first.space is not None
        assert second.space is not None
        assert first.space.size_bytes > 0
        assert second.space.size_bytes == 0
