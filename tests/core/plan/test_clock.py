"""The clock of a class, held against a time that is counted second by second, over sleep and reloading."""

from __future__ import annotations

from typing import get_args

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.errors import BadInput
from lacertus.core.plan.clock import Act, Clock, after, in_rounds, where

LENGTHS = [60.0, 30.0, 90.0]
T = 1_000_000.0


def test_units_follow_each_other_by_themselves_however_long_nobody_looked() -> None:
    clock = after(Clock(), "start", LENGTHS, T)
    assert where(clock, LENGTHS, T + 59).left_s == 1
    assert (where(clock, LENGTHS, T + 60).unit, where(clock, LENGTHS, T + 60).left_s) == (1, 30)
    asleep = where(clock, LENGTHS, T + 100)
    assert (asleep.unit, asleep.left_s, asleep.all_left_s) == (2, 80, 80)
    assert where(clock, LENGTHS, T + 180).over
    assert where(clock, LENGTHS, T + 1e7) == where(clock, LENGTHS, T + 180)


def test_a_pause_stands_still_and_goes_on_where_it_was() -> None:
    paused = after(after(Clock(), "start", LENGTHS, T), "pause", LENGTHS, T + 20)
    assert where(paused, LENGTHS, T + 5000).left_s == 40
    again = after(paused, "start", LENGTHS, T + 5000)
    assert where(again, LENGTHS, T + 5010).left_s == 30


def test_what_is_sent_twice_is_done_once() -> None:
    started = after(Clock(), "start", LENGTHS, T)
    assert after(started, "start", LENGTHS, T + 9) == started
    paused = after(started, "pause", LENGTHS, T + 9)
    assert after(paused, "pause", LENGTHS, T + 30) == paused


def test_skip_goes_on_back_begins_again_or_goes_before_and_stop_ends() -> None:
    started = after(Clock(), "start", LENGTHS, T)
    skipped = after(started, "skip", LENGTHS, T + 10)
    assert (skipped.unit, skipped.left_s, skipped.running) == (1, 30, True)
    assert after(skipped, "back", LENGTHS, T + 20).unit == 1
    assert after(skipped, "back", LENGTHS, T + 12).unit == 0
    assert where(after(after(skipped, "skip", LENGTHS, T), "skip", LENGTHS, T), LENGTHS, T).over
    over = after(started, "stop", LENGTHS, T + 1)
    assert where(over, LENGTHS, T + 2).over
    with pytest.raises(BadInput, match="is over"):
        after(over, "start", LENGTHS, T + 3)
    with pytest.raises(BadInput, match="no units"):
        after(Clock(), "start", [], T)


def test_a_clock_that_is_a_little_ahead_does_not_run_backwards() -> None:
    assert where(after(Clock(), "start", LENGTHS, T), LENGTHS, T - 3).left_s == 60


ACTS = st.lists(st.tuples(st.sampled_from(get_args(Act)), st.integers(0, 80)), max_size=8)


@given(lengths=st.lists(st.integers(1, 60), min_size=1, max_size=4), acts=ACTS, asleep=st.integers(0, 300))
def test_the_clock_is_what_counting_every_second_gives(lengths: list[int], acts: list[tuple[Act, int]], asleep: int) -> None:
    unit, left, running, over, started, now = 0, lengths[0], False, False, False, 0
    clock = Clock()

    def tick(seconds: int) -> None:
        nonlocal unit, left, running, over, now
        now += seconds
        for _ in range(seconds):
            if running and not over:
                left -= 1
                if left == 0:
                    unit += 1
                    over = unit == len(lengths)
                    left = 0 if over else lengths[unit]

    own = [float(length) for length in lengths]
    for act, wait in acts:
        tick(wait)
        if over:
            with pytest.raises(BadInput, match="is over"):
                after(clock, act, own, T + now)
            continue
        clock = after(clock, act, own, T + now)
        if act in ("start", "pause"):
            started, running = True, act == "start"
        elif act == "stop" or (act == "skip" and unit + 1 == len(lengths)):
            over = True
        elif act == "skip":
            unit, left, started = unit + 1, lengths[unit + 1], True
        else:
            unit = unit if lengths[unit] - left > 5 else max(0, unit - 1)
            left, started = lengths[unit], True
    tick(asleep)
    # Whoever loads the page has the stored clock alone.
    found = where(Clock.model_validate_json(clock.model_dump_json()), own, T + now)
    assert found.over == over
    if not over:
        assert (found.unit, found.left_s, found.running) == (unit, left, running and started)


def test_rounds_and_rests_within_a_unit() -> None:
    def told(elapsed: float) -> tuple[int, bool, float] | None:
        found = in_rounds(elapsed, 3, 20, 10)
        return (found.round, found.rest, found.left_s) if found else None

    assert [told(t) for t in (0, 19, 20, 29, 30, 79, 80)] == [
        (1, False, 20), (1, False, 1), (1, True, 10), (1, True, 1), (2, False, 20), (3, False, 1), None,
    ]  # fmt: skip
    assert told(-1) is None
