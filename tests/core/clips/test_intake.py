"""What intake proposes: cuts from movement, onsets from sound, capture rates from times; and the camera taken out."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.clips.capture import propose_capture
from lacertus.core.clips.cuts import propose_cuts
from lacertus.core.clips.onsets import find_onsets
from lacertus.core.errors import NotSeen
from lacertus.core.measuring.steady import Steady
from lacertus.core.measuring.timebase import TimeBase, aligned_frames

# --- cuts -----------------------------------------------------------------------------------------


def motion(*stretches: tuple[float, float, float], seconds: float = 12.0, fps: float = 30.0) -> tuple[np.ndarray, list[float]]:
    """Movement (first second, last second, strength) over a little noise."""
    times = np.arange(round(seconds * fps)) / fps
    moves = np.full(times.size, 0.02)
    for first, last, strength in stretches:
        moves[(times >= first) & (times <= last)] = strength
    return moves, times.tolist()


def test_each_stretch_of_movement_is_a_cut_with_stillness_at_both_ends() -> None:
    moving = [(1, 2.5), (4, 6), (8, 9)]
    cuts = propose_cuts(*motion(*[(first, last, 1.0) for first, last in moving]))
    found = [(cut.first / 30, cut.last / 30) for cut in cuts]
    assert found == [pytest.approx((first - 0.2, last + 0.2), abs=0.25) for first, last in moving]
    assert all(start <= first and end >= last for (start, end), (first, last) in zip(found, moving, strict=True))


def test_a_breath_within_a_rep_does_not_cut_it_and_a_twitch_is_none() -> None:
    cuts = propose_cuts(*motion((1, 2, 1.0), (2.1, 3, 1.0), (6, 6.2, 1.0)))
    assert len(cuts) == 1
    assert cuts[0].first / 30 <= 1 < 3 <= cuts[0].last / 30


def test_a_clip_without_a_rest_is_one_cut_and_a_still_one_has_none() -> None:
    moves, times = motion()
    assert [(cut.first, cut.last) for cut in propose_cuts(moves + 1, times)] == [(0, len(times) - 1)]
    assert propose_cuts(moves * 0, times) == ()
    assert propose_cuts([1.0], [0.0]) == ()


@given(
    st.lists(st.floats(0, 100, allow_nan=False), min_size=2, max_size=200),
    st.floats(0.004, 0.2),
)
def test_cuts_lie_in_the_clip_in_order_and_apart(moves: list[float], gap: float) -> None:
    cuts = propose_cuts(moves, [k * gap for k in range(len(moves))])
    edges = [edge for cut in cuts for edge in (cut.first, cut.last)]
    assert edges == sorted(edges)
    assert all(0 <= edge < len(moves) for edge in edges)


def test_a_call_divides_what_moves_on_and_what_no_call_begins_is_left_out() -> None:
    """Two reps without a rest between them, and the walk back after each pair."""
    moves, times = motion((1, 4, 1.0), (6, 7.5, 0.8), (8.5, 10, 1.0))
    cuts = propose_cuts(moves, times, [0.9, 2.5, 8.4])
    assert [(cut.first / 30, cut.last / 30) for cut in cuts] == [
        pytest.approx(wanted, abs=0.3) for wanted in [(0.8, 2.5), (2.5, 4.2), (8.3, 10.2)]
    ]
    # A single call among many stretches says nothing of the others.
    assert len(propose_cuts(moves, times, [0.9])) == 3


def test_slowing_the_file_down_changes_no_cut() -> None:
    """Rests and reps are counted in real time: the same frames are cut at any pace of the file."""
    moves, times = motion((1, 2.5, 1.0), (4, 6, 0.8))
    slowed = TimeBase(tuple(8 * time for time in times), ((0, 8.0),))
    assert propose_cuts(moves, slowed.real_s) == propose_cuts(moves, times)


# --- onsets ---------------------------------------------------------------------------------------


def test_onsets_are_found_where_the_sound_grows_at_once() -> None:
    chance = np.random.default_rng(2)
    flux = np.abs(chance.normal(0, 1, 800))
    flux[[100, 350, 700]] += (60, 40, 25)
    found = find_onsets(flux, 0.01, start_s=0.5)
    assert [onset.time_s for onset in found] == pytest.approx([1.5, 4.0, 7.5])
    assert [onset.strength for onset in found] == pytest.approx([1, 0.67, 0.42], abs=0.04)


def test_what_has_a_pitch_is_a_call_and_noise_is_none() -> None:
    flux = np.zeros(400)
    flux[[100, 300]] = 50
    flatness = [0.5] * 200 + [0.01] * 200
    assert [onset.voiced for onset in find_onsets(flux, 0.01, flatness=flatness)] == [False, True]
    assert [onset.voiced for onset in find_onsets(flux, 0.01)] == [False, False]


def test_silence_noise_and_a_whisper_beside_a_slap_give_none() -> None:
    chance = np.random.default_rng(2)
    assert find_onsets([], 0.01) == find_onsets(np.zeros(500), 0.01) == ()
    flux = np.abs(chance.normal(0, 0.01, 500))
    flux[100], flux[300] = 100, 5
    assert len(find_onsets(flux, 0.01)) == 1


@given(st.lists(st.floats(0, 1e6), max_size=300))
def test_onsets_are_apart_and_at_most_as_strong_as_the_strongest(flux: list[float]) -> None:
    found = find_onsets(flux, 0.01)
    assert all(after.time_s - before.time_s >= 0.149 for before, after in pairwise(found))
    assert all(0 <= onset.strength <= 1 for onset in found)


# --- capture rate ---------------------------------------------------------------------------------


def even(fps: float, count: int = 120) -> list[float]:
    return [k / fps for k in range(count)]


@pytest.mark.parametrize(
    ("fps", "captured", "name", "rate", "sure"),
    [
        (30, None, "IMG_1.mp4", 1.0, True),
        (30, 240.0, "IMG_1.mp4", 8.0, True),
        (29.97, 239.7, "IMG_1.mp4", 8.0, True),
        (30, 30.0, "IMG_1.mp4", 1.0, True),
        (240, None, "IMG_1.mp4", 1.0, True),
        (30, None, "kick slow-mo.mp4", 1.0, False),
        (30, None, "sweep 240fps.mp4", 1.0, False),
        (30, 30.0, "slowmo.mp4", 1.0, True),
        (240, None, "slowmo.mp4", 1.0, True),
    ],
)
def test_the_rate_is_taken_from_the_file_and_asked_for_where_only_the_name_hints(
    fps: float, captured: float | None, name: str, rate: float, sure: bool
) -> None:
    found = propose_capture(even(fps), captured, name)
    assert (found.rates, found.sure) == (((0, rate),), sure)


def test_a_slowed_middle_is_proposed_and_asked() -> None:
    gaps = np.full(360, 1 / 240)
    gaps[120:240] = 1 / 30
    found = propose_capture(np.concatenate(([0.0], np.cumsum(gaps))).tolist())
    assert (found.rates, found.sure) == (((0, 1.0), (120, 8.0), (240, 1.0)), False)


def test_dropped_frames_and_poor_light_are_no_slow_motion() -> None:
    gaps = np.full(200, 1 / 60)
    gaps[::7] *= 2
    assert propose_capture(np.cumsum(gaps).tolist()).rates == ((0, 1.0),)
    assert propose_capture([0.0]).rates == ((0, 1.0),)


# --- two views, and the camera --------------------------------------------------------------------


def test_two_views_are_aligned_in_real_time_from_their_shared_instant() -> None:
    one = TimeBase(tuple(even(30, 60)))
    other = TimeBase(tuple(even(30, 600)), ((0, 8.0),))
    aligned = aligned_frames(one, 20, other, 200)
    assert aligned[20] == 200
    assert aligned[30] == 200 + 80
    assert (aligned[0], aligned[-1]) == (40, 200 + 39 * 8)


@given(st.integers(0, 59), st.integers(0, 79), st.floats(10, 240), st.floats(10, 240))
def test_the_aligned_frame_is_never_further_than_half_a_gap(frame: int, other_frame: int, fps: float, other_fps: float) -> None:
    one, other = TimeBase(tuple(even(fps, 60))), TimeBase(tuple(even(other_fps, 80)))
    aligned = aligned_frames(one, frame, other, other_frame)
    assert aligned[frame] == other_frame
    shift = other.real_s[other_frame] - one.real_s[frame]
    for here, there in enumerate(aligned):
        wanted = min(max(one.real_s[here] + shift, 0.0), other.real_s[-1])
        assert abs(other.real_s[there] - wanted) <= 0.5 / other_fps + 1e-9
    assert list(aligned) == sorted(aligned)


def test_the_cameras_pan_is_taken_out_of_a_path() -> None:
    """A point that is still in the room while the camera pans 3 px a frame."""
    steady = Steady([((1, 0, 3.0 * k), (0, 1, 0)) for k in range(5)])
    seen = np.array([[100 - 3.0 * k, 50] for k in range(5)])
    assert steady.path(range(5), seen) == pytest.approx(np.tile([100, 50], (5, 1)))
    assert steady.place(2, 94, 50) == pytest.approx((100, 50))


def test_a_still_camera_changes_nothing_and_an_unknown_one_gives_no_path() -> None:
    places = np.array([[1.0, 2.0], [3.0, 4.0]])
    assert Steady(None).path([0, 1], places) is places
    with pytest.raises(NotSeen, match="camera’s own motion is not known"):
        Steady(None, known=False).path([0, 1], places)
