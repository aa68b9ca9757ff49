"""How a marked clip runs: pace, slow motion, stops, and when the words stand."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.corrections.marked_clip import SLOWED, STOP_S, WORD_S, MarkedClipPlan, Showing, plan_of

TIMES = [f / 25 for f in range(100)]


def showing(first: int, frame: int, last: int, key: str = "a", cue: str = "Knee first", voice_s: float = 0.0) -> Showing:
    return Showing(key=key, first=first, frame=frame, last=last, cue=cue, voice_s=voice_s)


def test_it_runs_at_its_own_pace_slows_where_a_correction_shows_and_stops_to_be_read() -> None:
    found = plan_of([(10, 49)], [showing(20, 25, 30)], TIMES)
    stop = STOP_S + 2 * WORD_S
    assert found.length_s == pytest.approx(29 / 25 + 11 / 25 * SLOWED + stop)
    assert [step.frame for step in found.steps] == list(range(10, 50))
    (spoken,) = found.spoken
    assert spoken.from_s == pytest.approx(10 / 25)
    assert spoken.stops_s == pytest.approx(10 / 25 + 6 / 25 * SLOWED)
    assert spoken.to_s == pytest.approx(10 / 25 + 11 / 25 * SLOWED + stop)
    assert found.step_at(spoken.stops_s + 0.5 * stop).frame == 25
    assert found.step_at(0.0).shown == ()
    assert found.step_at(spoken.from_s + 0.01).shown == ("a",)


def test_the_picture_stands_as_long_as_the_coach_speaks() -> None:
    short, long = (plan_of([(0, 50)], [showing(20, 25, 30, voice_s=s)], TIMES).length_s for s in (0.5, 20.0))
    assert long - short == pytest.approx(20.4 - (STOP_S + 2 * WORD_S))


def test_two_corrections_on_one_frame_are_read_one_after_the_other() -> None:
    both = plan_of([(0, 50)], [showing(20, 25, 30), showing(22, 25, 28, key="b")], TIMES)
    assert {step.shown for step in both.steps if step.frame == 25} == {("a", "b")}
    one = plan_of([(0, 50)], [showing(20, 25, 30)], TIMES)
    assert both.length_s - one.length_s == pytest.approx(STOP_S + 2 * WORD_S)


def test_a_frame_of_two_reps_comes_once() -> None:
    found = plan_of([(0, 30), (20, 40)], [showing(5, 5, 5)], TIMES)
    assert [step.frame for step in found.steps] == list(range(41))


@given(st.lists(st.tuples(st.integers(0, 90), st.integers(0, 20)), min_size=1, max_size=6), st.data())
def test_times_rise_without_gaps_and_every_correction_is_spoken(starts: list[tuple[int, int]], data: st.DataObject) -> None:
    reps = sorted({(first, min(first + length, 99)) for first, length in starts})
    showings = []
    for i, (first, last) in enumerate(reps):
        a, b, c = sorted(data.draw(st.tuples(*[st.integers(first, last)] * 3)))
        showings.append(showing(a, b, c, key=str(i)))
    found: MarkedClipPlan = plan_of(reps, showings, TIMES)
    for step, after in zip(found.steps, found.steps[1:], strict=False):
        assert step.at_s + step.for_s == pytest.approx(after.at_s)
        assert step.for_s > 0
    assert {one.key for one in found.spoken} == {one.key for one in showings}
    assert all(0 <= one.from_s <= one.stops_s <= one.to_s <= found.length_s + 1e-9 for one in found.spoken)
