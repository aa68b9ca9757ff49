"""A student's history by fault: hand-worked, and by property."""

from __future__ import annotations

from collections import Counter
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.progress.history import Count, Tried, families, histories, success_of
from lacertus.core.progress.ledger import Session, State, ledger_of

LADDER = {"kick": ("solo", "static_partner", "moving")}
CODES = {"low": "half range", "late": "no return", "loose": "half range"}


def count(day: int, misses: int, exposures: int = 3, **more: Any) -> Count:
    base: dict[str, Any] = {"technique": "kick", "checkpoint": "c", "fault": "low", "family": "half range"}
    return Count(day=day, misses=misses, exposures=exposures, **(base | more))


COUNTS = st.lists(
    st.builds(
        lambda day, code, technique, side, pace, rung, n, m, b, s: Count(
            day=day, technique=technique, checkpoint=f"c-{code}", fault=code, family=CODES[code], safety=code == "late",
            side=side, pace=pace, rung=rung, exposures=n, misses=min(m, n), borderline=b, not_seen=s,
        ),
        st.integers(1, 60),
        st.sampled_from(sorted(CODES)),
        st.sampled_from(["kick", "sweep"]),
        st.sampled_from(["left", "right"]),
        st.sampled_from(["slow", "full"]),
        st.sampled_from([None, "solo", "moving"]),
        st.integers(0, 6),
        st.integers(0, 6),
        st.integers(0, 2),
        st.integers(0, 2),
    ),
    max_size=25,
)  # fmt: skip


@given(COUNTS, st.randoms())
def test_the_order_of_entry_does_not_matter(counts: list[Count], chance: Any) -> None:
    shuffled = list(counts)
    chance.shuffle(shuffled)
    found, other = histories(counts, LADDER), histories(shuffled, LADDER)
    assert other == found
    assert [(one.sides, one.paces, one.rungs) for one in other] == [(one.sides, one.paces, one.rungs) for one in found]
    assert families(shuffled) == families(counts)


@given(COUNTS)
def test_numbers_add_up_over_cells_sides_paces_and_rungs(counts: list[Count]) -> None:
    for one in histories(counts, LADDER):
        own = [c for c in counts if (c.technique, c.fault) == (one.technique, one.fault)]
        assert one.ledger.exposures == sum(c.exposures for c in own) == sum(cell.exposures for cell in one.cells)
        for parts in (one.sides, one.paces, one.rungs):
            assert sum(part.misses for part in parts) == one.ledger.misses
            assert sum(part.exposures for part in parts) == one.ledger.exposures
            assert all(0 <= part.interval[0] <= part.rate <= part.interval[1] <= 1 for part in parts)
        assert sum(cell.borderline for cell in one.cells) == sum(c.borderline for c in own)
        assert [cell.day for cell in one.cells] == sorted({c.day for c in own})


@given(COUNTS)
def test_mirrored_counts_give_mirrored_sides_and_the_same_states(counts: list[Count]) -> None:
    turned = [c._replace(side="left" if c.side == "right" else "right") for c in counts]
    for one, other in zip(histories(counts, LADDER), histories(turned, LADDER), strict=True):
        assert one.ledger == other.ledger
        sides, mirrored = ({part.name: (part.misses, part.exposures) for part in h.sides} for h in (one, other))
        assert mirrored == {{"left": "right", "right": "left"}[name]: told for name, told in sides.items()}


@given(COUNTS)
def test_a_family_is_the_ledger_of_its_faults_together(counts: list[Count]) -> None:
    for one in families(counts):
        own = [c for c in counts if c.family == one.family]
        sessions = [Session(day=c.day, exposures=c.exposures, misses=c.misses) for c in own]
        assert one.ledger == ledger_of(sessions, safety=any(c.safety for c in own))
        assert len({(c.technique, c.fault) for c in own}) > 1


@given(COUNTS, st.integers(1, 60))
def test_an_earlier_day_knows_nothing_of_what_came_after(counts: list[Count], on: int) -> None:
    seen = [c for c in counts if c.day <= on]
    before, cut_off = (Counter((h.technique, h.fault, h.ledger.misses) for h in histories(cs, LADDER, on)) for cs in (counts, seen))
    assert before == cut_off


def test_states_stand_at_the_sessions_that_changed_them() -> None:
    (one,) = histories([count(1, 0), count(8, 3), count(15, 2), count(22, 0, 0, not_seen=3), count(29, 0)], LADDER)
    assert [(c.day, c.state, c.changed) for c in one.cells] == [
        (1, State.CLEAN, False),
        (8, State.ONCE, True),
        (15, State.RECURRING, True),
        (22, State.RECURRING, False),
        (29, State.RECURRING, False),
    ]
    assert one.lately is not None
    later, earlier = one.lately
    assert [(part.misses, part.exposures) for part in (later, earlier)] == [(2, 6), (3, 6)]
    assert later.interval[0] < later.rate < later.interval[1]


@pytest.mark.parametrize(("rung", "under_load"), [("moving", True), ("solo", False), (None, False)])
def test_a_relapse_on_a_harder_rung_is_under_load(rung: str | None, under_load: bool) -> None:
    before = [count(d, 3, rung="solo") for d in (1, 8)] + [count(d, 0, 6, rung="solo") for d in (15, 22, 29)]
    (one,) = histories([*before, count(36, 3, rung=rung)], LADDER)
    assert (one.ledger.state, one.under_load) == (State.RELAPSED, under_load)
    assert one.cleared_on == 22


def test_safety_comes_first_then_the_state_and_what_was_never_missed_is_left_out() -> None:
    counts = [
        count(1, 0, fault="never"),
        count(1, 1, fault="once"),
        *(count(d, 3, fault="often") for d in (1, 8)),
        count(1, 1, fault="danger", safety=True),
    ]
    assert [one.fault for one in histories(counts, LADDER)] == ["danger", "often", "once"]


def test_success_is_told_with_and_without_the_fault_and_by_reaction() -> None:
    reps = [
        Tried(missed=True, completed=False, reaction="steps_back"),
        Tried(missed=True, completed=True, reaction="pulls_away"),
        Tried(missed=False, completed=True, reaction="pulls_away"),
        Tried(missed=False, completed=True),
    ]
    found = {one.reaction: (one.with_fault, one.without) for one in success_of(reps)}
    assert found == {None: ((1, 2), (2, 2)), "pulls_away": ((1, 1), (1, 1)), "steps_back": ((0, 1), (0, 0))}
    assert success_of([]) == ()


def test_options_are_told_by_group_and_where_none_was_said() -> None:
    push, snap = (("extension", "push"), ("recovery", "land")), (("extension", "snap"),)
    (one,) = histories([count(1, 2, options=push), count(2, 1, options=snap), count(3, 0)], LADDER)
    told = {group: {part.name: (part.misses, part.exposures) for part in parts} for group, parts in one.options.items()}
    assert told == {
        "extension": {"": (0, 3), "push": (2, 3), "snap": (1, 3)},
        "recovery": {"": (1, 6), "land": (2, 3)},
    }
