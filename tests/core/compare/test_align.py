"""Reps aligned in time: worked by hand, and by properties over drawn reps."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.compare.align import common_events, frame_shown, locked, stretched
from lacertus.core.errors import BadInput

SIXTY = [frame / 60 for frame in range(121)]
THIRTY = [frame / 30 for frame in range(61)]


def test_locked_on_an_event_both_clocks_are_nought_there_whatever_their_rates() -> None:
    fast, slow = locked(SIXTY, 40), locked(THIRTY, 11)
    assert fast[40] == slow[11] == 0.0
    # A tenth of a second later the one is six frames on, the other three.
    assert (frame_shown(fast.tolist(), 0.1001), frame_shown(slow.tolist(), 0.1001)) == (46, 14)
    # Before the first frame the first one stands.
    assert frame_shown(slow.tolist(), -9.0) == 0
    with pytest.raises(BadInput, match="no frame 121; its last is 120"):
        locked(SIXTY, 121)


def test_stretched_from_event_to_event_each_phase_takes_as_long_as_in_the_lead() -> None:
    # The lead: lift at −0.5, reach at 0, back at 0.2. The other is twice as slow up and as quick back.
    own, lead = [-1.0, 0.0, 0.2], [-0.5, 0.0, 0.2]
    found = stretched(np.array([-1.3, -1.0, -0.5, 0.0, 0.1, 0.2, 0.7]), own, lead)
    assert found == pytest.approx([-0.8, -0.5, -0.25, 0.0, 0.1, 0.2, 0.7])


@pytest.mark.parametrize(("own", "lead", "says"), [([0.0], [], "on both sides"), ([0.0, 0.0], [0.0, 1.0], "one after the other")])
def test_events_that_cannot_be_stretched_are_refused(own: list[float], lead: list[float], says: str) -> None:
    with pytest.raises(BadInput, match=says):
        stretched(np.array([0.0]), own, lead)


def test_only_events_that_every_side_has_in_the_same_order_are_common() -> None:
    one = {"lift": (10,), "reach": (30,), "back": (50,), "down": (70,)}
    two = {"lift": (10,), "back": (30,), "reach": (40,), "down": (70, 90), "hop": (80,)}
    three = {"lift": (5,), "reach": (20,), "down": (60,), "back": ()}
    assert common_events([(one, SIXTY), (one, THIRTY + [3.0] * 60)]) == ("lift", "reach", "back", "down")
    # Reach and back change places: one of the two is left out, the rest stays.
    kept = common_events([(one, SIXTY), (two, SIXTY)])
    assert len(kept) == 3
    assert {"lift", "down"} < set(kept)
    assert common_events([(one, SIXTY), (three, SIXTY)]) == ("lift", "reach", "down")


times = st.lists(st.integers(1, 60), min_size=1, max_size=8).map(lambda gaps: np.cumsum(gaps) / 30.0)


@given(data=st.data(), own=times)
def test_stretching_never_turns_time_round_meets_every_event_and_is_undone_by_stretching_back(
    data: st.DataObject, own: np.ndarray
) -> None:
    gaps = data.draw(st.lists(st.integers(1, 60), min_size=len(own), max_size=len(own)))
    lead = np.cumsum(gaps) / 25.0
    clock = np.linspace(own[0] - 1, own[-1] + 1, 97)
    found = stretched(clock, own.tolist(), lead.tolist())
    assert (np.diff(found) > 0).all()
    assert stretched(own, own.tolist(), lead.tolist()) == pytest.approx(lead)
    assert stretched(found, lead.tolist(), own.tolist()) == pytest.approx(clock)
    # Outside of the events nothing is stretched.
    assert found[1] - found[0] == pytest.approx(clock[1] - clock[0])


@given(
    sides=st.lists(
        st.dictionaries(st.sampled_from("abcdef"), st.integers(0, 120).map(lambda frame: (frame,)), max_size=6),
        min_size=1,
        max_size=4,
    )
)
def test_common_events_come_in_one_order_in_all_and_none_that_fits_was_left_out(sides: list[dict[str, tuple[int, ...]]]) -> None:
    pairs = [(side, SIXTY) for side in sides]
    kept = common_events(pairs)
    for side in sides:
        frames = [side[name][0] for name in kept]
        assert frames == sorted(set(frames))
    for name in set.intersection(*(set(side) for side in sides)) - set(kept):

        def fits(side: dict[str, tuple[int, ...]], name: str = name) -> list[bool]:
            return [side[name][0] < side[other][0] for other in kept]

        clear = all(side[name][0] != side[other][0] for side in sides for other in kept)
        same = all(fits(side) == fits(sides[0]) for side in sides)
        assert not (clear and same), f"{name} fits all that is kept"
