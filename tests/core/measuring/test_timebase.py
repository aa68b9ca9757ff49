"""Frames and real time."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.errors import BadRep, NotSeen
from lacertus.core.measuring.timebase import TimeBase

SIXTY = tuple(k / 60 for k in range(20))


def test_event_lies_in_the_middle_of_the_gap_before_its_frame() -> None:
    instant = TimeBase(SIXTY).instant(6)
    assert instant.time_s == pytest.approx(5.5 / 60)


def test_u_is_uniform_gap_and_half_a_frame_of_scatter() -> None:
    """At 60 frames a second half a frame (8.33 ms) is above the least 6 ms: √(16.67²/12 + 8.33²) = 9.62 ms."""
    assert TimeBase(SIXTY).instant(6).u_s == pytest.approx(0.0096225, abs=1e-6)


def test_marking_scatter_never_falls_below_six_milliseconds() -> None:
    """A 240 capture: √(4.167²/12 + 6²) = 6.12 ms."""
    times = tuple(k / 240 for k in range(20))
    assert TimeBase(times).instant(6).u_s == pytest.approx(0.0061196, abs=1e-6)


def test_own_repeatability_replaces_the_default_scatter() -> None:
    assert TimeBase(SIXTY, marking_s=0.002).instant(6).u_s == pytest.approx(math.sqrt((1 / 60) ** 2 / 12 + 0.002**2))


def test_last_frame_event_lies_in_the_gap_after_its_frame() -> None:
    assert TimeBase(SIXTY).instant(6, "last").time_s == pytest.approx(6.5 / 60)


def test_capture_rate_stretches_only_the_frames_it_holds_for() -> None:
    """Eight frames at real speed, then eightfold slow motion."""
    base = TimeBase(SIXTY, ((0, 1.0), (8, 8.0)))
    assert base.real_s[8] == pytest.approx(8 / 60)
    assert base.real_s[9] - base.real_s[8] == pytest.approx(1 / 480)


def test_uneven_gaps_give_each_event_its_own_u() -> None:
    base = TimeBase((0.0, 0.033, 0.1, 0.133))
    assert base.instant(2).u_s > base.instant(1).u_s
    assert base.instant(2).time_s == pytest.approx(0.0665)


@pytest.mark.parametrize(("frame", "edge"), [(0, "first"), (19, "last")])
def test_event_on_the_edge_of_the_clip_cannot_be_timed(frame: int, edge: str) -> None:
    with pytest.raises(NotSeen, match="use a longer clip"):
        TimeBase(SIXTY).instant(frame, edge)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("pts", "rate", "words"),
    [
        ((), ((0, 1.0),), "at least one frame"),
        ((0.0, 0.0), ((0, 1.0),), "does not increase at frame 1"),
        ((0.0, math.nan), ((0, 1.0),), "no finite number"),
        ((0.0, 0.1), ((1, 1.0),), "must start at frame 0"),
        ((0.0, 0.1), ((0, 0.0),), "not above 0"),
        ((0.0, 0.1), ((0, 1.0), (0, 2.0)), "each once"),
    ],
)
def test_times_that_make_no_sense_are_refused(pts: tuple[float, ...], rate: tuple[tuple[int, float], ...], words: str) -> None:
    with pytest.raises(BadRep, match=words):
        TimeBase(pts, rate)


@given(st.lists(st.floats(0.001, 0.2), min_size=2, max_size=40), st.floats(0.5, 16))
def test_a_constant_capture_rate_scales_all_real_times(gaps: list[float], rate: float) -> None:
    pts = [0.0]
    for gap in gaps:
        pts.append(pts[-1] + gap)
    plain, slowed = TimeBase(tuple(pts)), TimeBase(tuple(pts), ((0, rate),))
    assert slowed.real_s[-1] * rate == pytest.approx(plain.real_s[-1])
