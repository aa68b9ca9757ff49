"""The film of a comparison: which frames stand beside one another on each of its pictures."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.compare.film import FPS, HOLD_S, FilmSide, film_plan
from lacertus.core.errors import BadInput

HELD = round(HOLD_S * FPS)


def side(first: int, fps: float, before: int, after: int) -> FilmSide:
    """A side that is locked `before` frames after its first one."""
    return FilmSide(first=first, clock_s=tuple((number - before) / fps for number in range(before + after + 1)))


def test_a_quick_and_a_slow_film_meet_at_the_event_and_it_stands_there() -> None:
    # A second before and after, 60 and 30 frames a second: the event is frame 160 of one and 35 of the other.
    plan = film_plan([side(100, 60, 60, 60), side(5, 30, 30, 30)], 1.0)
    assert plan.pictures[0] == (100, 5)
    assert plan.pictures[30 : 30 + HELD] == ((160, 35),) * HELD
    assert plan.pictures[-1] == (220, 65)
    assert len(plan.pictures) == 61 + HELD
    assert plan.length_s == len(plan.pictures) / 30


def test_at_a_quarter_of_the_pace_each_frame_of_the_slow_film_stands_four_pictures() -> None:
    plan = film_plan([side(0, 30, 10, 10)], 0.25)
    moving = [one for (one,) in plan.pictures]
    assert [moving.count(frame) for frame in (3, 15)] == [4, 4]


def test_a_side_that_is_over_stands_on_its_last_frame() -> None:
    plan = film_plan([side(0, 30, 0, 30), side(0, 30, 0, 3)], 1.0)
    assert plan.pictures[-1] == (30, 3)


def test_what_would_take_too_long_is_refused() -> None:
    with pytest.raises(BadInput, match="longer than 60 seconds"):
        film_plan([side(0, 30, 900, 900)], 0.5)


@given(
    st.lists(
        st.tuples(st.sampled_from([24.0, 30.0, 59.94, 60.0, 240.0]), st.integers(1, 60), st.integers(1, 60)), min_size=2, max_size=4
    ),
    st.sampled_from([0.25, 0.5, 1.0]),
)
def test_no_side_runs_back_and_all_show_their_event_where_it_stands(rows: list[tuple[float, int, int]], speed: float) -> None:
    sides = [side(7, fps, before, after) for fps, before, after in rows]
    plan = film_plan(sides, speed)
    for number, (_, before, after) in enumerate(rows):
        frames = [picture[number] for picture in plan.pictures]
        assert frames == sorted(frames)
        assert frames[0] >= 7 and frames[-1] <= 7 + before + after
    events = tuple(7 + before for _, before, _ in rows)
    assert plan.pictures.count(events) >= HELD
