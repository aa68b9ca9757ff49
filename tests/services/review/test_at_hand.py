"""Solved reps that are kept between requests: nothing is solved twice, and nothing is read by a solution of other points."""

from __future__ import annotations

import gc
from typing import Any

import pytest

from lacertus.core.measuring.repfile import RepFile, read_rep
from lacertus.core.measuring.scene import Scene
from lacertus.core.review.judge import judge_rep
from lacertus.core.review.judgement import Judgement
from lacertus.services.review import live
from lacertus.services.review.kept.at_hand import at_hand, kept_bytes
from lacertus.services.review.kept.newest import Newest
from lacertus.services.review.review import Spot
from tests.bench.in_depth import EVENTS
from tests.core.measuring.space.films import TECHNIQUE, dragged, filmed


def judged(file: RepFile, owner: str | None = None) -> tuple[int, tuple[Judgement, ...]]:
    """How many bytes of solved bodies were at hand, and the judgements."""
    with at_hand(Scene(file, TECHNIQUE.edges), owner) as scene:
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


def test_of_a_rep_whose_points_move_only_the_newest_solution_is_kept() -> None:
    rep = filmed(35)[0]
    forms = [dragged(rep, "right_wrist", 20, (0.5 * n, 0.0)) for n in range(7)]
    before = kept_bytes()
    assert judged(forms[0], "a rep")[0] == 0
    one = kept_bytes() - before
    for form in forms[1:]:
        assert judged(form, "a rep")[0] == 0
    assert 0 < kept_bytes() - before <= 1.2 * one
    assert judged(forms[-1], "a rep")[0] > 0
    assert judged(forms[0], "a rep")[0] == 0, "what it was before is gone"
    judged(forms[1], "another rep")
    assert judged(forms[0], "a rep")[0] > 0, "others keep their own"


@pytest.mark.parametrize("is_small", [True, False])
def test_a_dragged_point_leaves_no_garbage(monkeypatch: pytest.MonkeyPatch, is_small: bool) -> None:
    """What is made for one place of it goes with its answer: a hundred places a minute are not left for Python to look for."""
    monkeypatch.setattr(live, "SMALL_BYTES", 10**9 if is_small else 0)
    rep = live.LiveRep(technique=TECHNIQUE, file=read_rep(filmed(36)[0]), views=(), given={})
    wrist = Spot(body="performer", landmark="right_wrist", frame=20)
    found = [rep.with_point(wrist, 300.0, 200.0)]
    gc.collect()
    gc.disable()
    try:
        found += [rep.with_point(wrist, 300.0 + n, 200.0) for n in range(4)]
        assert gc.collect() == 0
    finally:
        gc.enable()
    assert rep.is_small is is_small and found[1] == found[0] != found[4]


class TestNewest:
    def test_another_takes_the_place_of_what_was_made_before(self) -> None:
        kept: Newest[int, str] = Newest(10)
        for version in range(100):
            kept.keep("rep", version, f"as of {version}")
        assert (kept.weighs, kept.get("rep", 99), kept.get("rep", 98), kept.get("other", 99)) == (1, "as of 99", None, None)

    def test_the_longest_unasked_goes_first_where_all_together_weigh_too_much(self) -> None:
        kept: Newest[int, str] = Newest(10, len)
        kept.keep("a", 1, "1234")
        kept.keep("b", 1, "1234")
        assert kept.get("a", 1) == "1234"
        kept.keep("c", 1, "1234")
        assert [kept.get(name, 1) for name in ("a", "b", "c")] == ["1234", None, "1234"]
        assert kept.weighs == 8

    def test_what_is_too_heavy_is_not_kept_and_neither_is_what_it_was_before(self) -> None:
        kept: Newest[int, str] = Newest(10, len)
        kept.keep("a", 1, "1234")
        kept.keep("a", 2, "12345678901")
        assert (kept.get("a", 1), kept.get("a", 2), kept.weighs) == (None, None, 0)
        kept.keep("a", 3, "")
        assert (kept.get("a", 3), kept.weighs) == ("", 1), "an empty one weighs something, or there were no end of them"
