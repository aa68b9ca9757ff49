"""Which questions make a set."""

from __future__ import annotations

import itertools

from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.eye.questions import KINDS
from lacertus.core.eye.sets import SECONDS, Card, choose

CARDS = st.builds(
    Card,
    technique=st.sampled_from(["kick", "throw", "fall"]),
    kind=st.sampled_from(KINDS),
    subject=st.sampled_from(["", "a", "b", "c"]),
    due_days=st.floats(-30, 30),
    answered=st.integers(0, 9),
    hits=st.integers(0, 9),
)


def card(technique: str, subject: str, **more: float) -> Card:
    return Card(technique=technique, kind="frame", subject=subject, **more)


def test_what_is_due_comes_before_what_is_new_and_the_weak_before_the_strong() -> None:
    cards = [
        card("kick", "new"),
        card("kick", "strong", due_days=-1, answered=9, hits=9),
        card("kick", "weak", due_days=-1, answered=9, hits=1),
        card("kick", "later", due_days=3, answered=9, hits=9),
        card("kick", "weak-later", due_days=3, answered=9, hits=2),
    ]
    assert [one.subject for one in choose(cards, 2)] == ["weak", "strong", "weak-later", "new"]


def test_new_ones_fill_at_most_half_while_there_is_anything_else() -> None:
    cards = [card("kick", f"new-{i}") for i in range(20)] + [
        card("kick", f"due-{i}", due_days=-1, answered=4, hits=2) for i in range(20)
    ]
    chosen = choose(cards, 4)
    assert len(chosen) == 12
    assert sum(one.is_new for one in chosen) == 6
    assert len(choose(cards[:20], 4)) == 12, "with nothing else all of it is new"


@given(st.lists(CARDS, max_size=40, unique_by=lambda one: (one.technique, one.kind, one.subject)), st.floats(1, 8))
def test_a_set_is_no_longer_than_asked_for_and_asks_nothing_twice(cards: list[Card], minutes: float) -> None:
    chosen = choose(cards, minutes)
    assert sum(SECONDS[one.kind] for one in chosen) <= 60 * min(max(minutes, 2), 5)
    assert len({(one.technique, one.kind, one.subject) for one in chosen}) == len(chosen)
    assert set(chosen) <= set(cards)


def test_techniques_take_turns() -> None:
    cards = [card(name, f"{name}-{i}", due_days=-1, answered=2, hits=1) for name in ("kick", "throw") for i in range(4)]
    chosen = choose(cards, 3)
    assert all(a.technique != b.technique for a, b in itertools.pairwise(chosen))
    new = [card(name, f"{name}-{i}") for name in ("kick", "throw", "fall", "sweep") for i in range(9)]
    assert {one.technique for one in choose(new, 2)[:4]} == {"kick", "throw", "fall", "sweep"}
    assert len(choose([card("kick", "a")], 5)) == 1
