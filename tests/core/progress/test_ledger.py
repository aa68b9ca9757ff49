"""The fault ledger: hand-worked histories, properties, false alarms, and a slow and simple second implementation."""

from __future__ import annotations

import random
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.progress.ledger import FaultLedger, Session, State, ledger_of, wilson

WORSE = ("clean", "cleared", "once", "fading", "recurring", "relapsed")


def weekly(*counts: tuple[int, int]) -> list[Session]:
    """Sessions a week apart: misses of exposures."""
    return [Session(day=7 * i, exposures=n, misses=m) for i, (m, n) in enumerate(counts)]


def told(*counts: tuple[int, int], safety: bool = False) -> FaultLedger:
    found = ledger_of(weekly(*counts), safety=safety)
    assert found is not None
    return found


def states(*counts: tuple[int, int]) -> list[str]:
    return [entry.state.value for entry in told(*counts).history]


class TestStates:
    def test_never_missed_is_clean(self) -> None:
        assert states((0, 3), (0, 5)) == ["clean", "clean"]

    def test_missed_once_stays_so_until_two_blocks_and_ten_exposures_without_a_miss(self) -> None:
        assert states((1, 5), (0, 9), (0, 3)) == ["once", "once", "clean"]
        assert states((1, 5), (0, 12), (0, 3)) == ["once", "once", "clean"]
        assert states((1, 5), (0, 4), (0, 4), (0, 2), (0, 3)) == ["once", "once", "once", "once", "clean"]

    def test_two_hits_within_four_blocks_recur_with_one_more_between_they_do_not(self) -> None:
        assert states((2, 5), (0, 3), (0, 3), (2, 5))[-1] == "recurring"
        assert states((2, 5), (0, 3), (0, 3), (0, 3), (2, 5))[-1] == "once"

    def test_a_hit_has_two_misses_and_three_tenths(self) -> None:
        assert states((2, 7), (2, 7)) == ["once", "once"]
        assert states((2, 6), (2, 6)) == ["once", "recurring"]
        assert states((3, 10), (3, 10)) == ["once", "recurring"]
        assert states((1, 3), (1, 3), (1, 3), (1, 3)) == ["once"] * 4

    def test_many_misses_that_are_no_hits_are_heavy(self) -> None:
        assert states((2, 8), (2, 8), (1, 8)) == ["once", "once", "recurring"]
        assert states((2, 8), (2, 8), (1, 10)) == ["once", "once", "once"]

    def test_recurring_fades_when_the_last_two_blocks_are_half_of_the_two_before(self) -> None:
        assert states((3, 5), (3, 5), (1, 5), (1, 5)) == ["once", "recurring", "recurring", "fading"]
        assert states((3, 5), (3, 5), (1, 3), (1, 3))[-1] == "recurring"

    def test_fading_goes_on_and_comes_back(self) -> None:
        assert states((3, 5), (3, 5), (1, 5), (1, 5), (1, 5))[-1] == "fading"
        assert states((3, 5), (3, 5), (1, 5), (1, 5), (1, 6), (1, 6), (1, 3))[-2:] == ["fading", "recurring"]
        assert states((3, 5), (3, 5), (1, 5), (1, 5), (2, 5))[-1] == "recurring"

    def test_cleared_after_two_blocks_and_ten_exposures_at_a_tenth(self) -> None:
        assert states((3, 5), (3, 5), (0, 5), (0, 5)) == ["once", "recurring", "recurring", "cleared"]
        assert states((3, 5), (3, 5), (1, 5), (0, 5), (0, 5))[-1] == "cleared"
        assert states((3, 5), (3, 5), (0, 4), (0, 5))[-1] != "cleared"

    def test_relapsed_by_one_hit_or_by_heaviness_since(self) -> None:
        cleared = ((3, 5), (3, 5), (0, 5), (0, 5))
        assert states(*cleared, (1, 5))[-1] == "cleared"
        assert states(*cleared, (2, 5))[-1] == "relapsed"
        assert states(*cleared, (2, 7), (2, 7), (1, 7))[-1] == "relapsed"
        assert states(*cleared, (2, 5), (2, 5))[-1] == "recurring"
        assert states(*cleared, (2, 5), (0, 6), (0, 6))[-1] == "cleared"

    def test_sessions_are_joined_until_they_hold_three_and_the_rest_is_open(self) -> None:
        assert states((1, 1), (1, 1)) == ["clean", "clean"]
        assert states((1, 1), (1, 1), (1, 1)) == ["clean", "clean", "once"]
        assert states((2, 2), (0, 1), (2, 2)) == ["clean", "once", "once"]

    def test_misses_that_no_block_holds_yet_are_first_seen(self) -> None:
        """Two missed reps of one day are too few for a state, whatever was clean before; a block that closes after them tells."""
        histories = (((2, 2),), ((5, 0), (2, 1)), ((2, 2), (1, 0)), ((5, 0), (2, 0)), ((5, 3), (2, 1)))
        found = [ledger_of([Session(20 + i, n, m) for i, (n, m) in enumerate(counts)]) for counts in histories]
        assert [one.first_seen for one in found if one] == [True, True, False, False, False]

    def test_a_miss_after_it_cleared_that_no_block_holds_yet_is_told(self) -> None:
        cleared = ((3, 5), (3, 5), (0, 5), (0, 5))
        later: tuple[tuple[tuple[int, int], ...], ...] = ((), ((0, 1),), ((1, 2),), ((1, 2), (0, 1)), ((2, 5),))
        found = [told(*cleared, *more) for more in later]
        assert [one.missed_again for one in found] == [False, False, True, False, False]
        assert [one.state.value for one in found] == ["cleared", "cleared", "cleared", "cleared", "relapsed"]

    def test_a_block_without_a_miss_makes_nothing_worse(self) -> None:
        """An older, cleaner block leaves the window of four, and what is left would be heavy."""
        assert states((0, 30), (2, 7), (2, 7), (1, 4), (0, 3)) == ["clean", "once", "once", "once", "once"]


class TestNumbers:
    def test_rate_interval_and_recurrence_by_hand(self) -> None:
        found = told((2, 4), (1, 6))
        assert (found.exposures, found.misses, found.rate) == (10, 3, 0.3)
        # Mean exposures 5: the design effect is 1.8.
        n, p, z = 10 / 1.8, 0.3, 1.96
        middle, half = (p + z * z / (2 * n)) / (1 + z * z / n), z / (1 + z * z / n) * (p * 0.7 / n + z * z / (4 * n * n)) ** 0.5
        assert found.interval == pytest.approx((middle - half, middle + half))
        w = 0.5 ** (7 / 28)
        assert found.recurrence == pytest.approx((2 * 3.5 / 12 + w * 2 + 1) / (2 + w * 4 + 6))

    def test_a_later_day_fades_what_was_and_an_earlier_one_does_not_know_what_came(self) -> None:
        sessions = weekly((2, 4), (1, 6))
        later, earlier = ledger_of(sessions, on=7 + 28), ledger_of(sessions, on=6)
        assert later is not None and earlier is not None
        assert later.recurrence == pytest.approx((7 / 12 + 0.5 * (0.5**0.25 * 2 + 1)) / (2 + 0.5 * (0.5**0.25 * 4 + 6)))
        assert (earlier.exposures, len(earlier.history)) == (4, 1)
        assert ledger_of(sessions, on=-1) is None and ledger_of([]) is None
        assert ledger_of([Session(day=0, exposures=0, misses=0)]) is None

    def test_wilson_at_its_ends(self) -> None:
        assert wilson(0, 10)[0] == 0 and wilson(10, 10)[1] == 1
        assert wilson(9, 10) == pytest.approx((0.5958, 0.9821), abs=2e-4)


class TestRecheck:
    @pytest.mark.parametrize(
        ("counts", "safety", "days"),
        [
            (((0, 5),), False, None),
            (((1, 5),), False, 14),
            (((2, 5), (2, 5)), False, 7),
            (((3, 5), (3, 5), (1, 5), (1, 5)), False, 14),
            (((3, 5), (3, 5), (0, 5), (0, 5)), False, 42),
            (((3, 5), (3, 5), (0, 5), (0, 5), (0, 5)), False, 84),
            (((3, 5), (3, 5), (0, 5), (0, 5), (2, 5)), False, 7),
            (((1, 5),), True, 3),
            (((0, 5),), True, None),
            (((0, 5), (1, 2)), True, 3),
            (((3, 5), (3, 5), (0, 5), (0, 5)), True, 42),
            (((1, 5), (0, 5), (0, 5)), True, None),
        ],
    )
    def test_days_from_the_last_session(self, counts: tuple[tuple[int, int], ...], safety: bool, days: int | None) -> None:
        last = 7 * (len(counts) - 1)
        assert told(*counts, safety=safety).recheck == (None if days is None else last + days)


COUNTS = st.lists(st.integers(0, 12).flatmap(lambda n: st.tuples(st.integers(0, n), st.just(n))), max_size=20)


@given(COUNTS, st.randoms(use_true_random=False), st.booleans())
def test_the_order_of_entry_does_not_matter_and_numbers_add_up(
    counts: list[tuple[int, int]], chance: random.Random, safety: bool
) -> None:
    sessions = weekly(*counts)
    mixed = [Session(day=s.day, exposures=s.exposures, misses=0) for s in sessions]
    mixed += [Session(day=s.day, exposures=0, misses=s.misses) for s in sessions]
    chance.shuffle(mixed)
    found = ledger_of(sessions, safety=safety)
    assert ledger_of(mixed, safety=safety) == found
    if found is not None:
        assert sum(entry.exposures for entry in found.history) == found.exposures
        assert sum(entry.misses for entry in found.history) == found.misses
        assert 0 <= found.interval[0] <= found.rate <= found.interval[1] <= 1 and 0 < found.recurrence < 1


@given(COUNTS, st.integers(3, 12))
def test_a_clean_session_at_the_end_never_worsens_a_state(counts: list[tuple[int, int]], n: int) -> None:
    """Where the last block is closed: an open one with a miss is only counted now."""
    sessions = [s for s in weekly(*counts) if s.exposures >= 3]
    before = ledger_of(sessions)
    after = ledger_of([*sessions, Session(day=1000, exposures=n, misses=0)])
    assert after is not None
    assert WORSE.index(after.state) <= WORSE.index(before.state if before else State.CLEAN)


@pytest.mark.parametrize(("rate", "least", "most"), [(0.03, 0.0, 0.02), (0.5, 0.95, 1.0)])
def test_half_a_year_of_weekly_threes_raises_few_false_alarms_and_misses_little(rate: float, least: float, most: float) -> None:
    chance = random.Random(3)
    alarms = 0
    for _ in range(600):
        counts = [(sum(chance.random() < rate for _ in range(3)), 3) for _ in range(26)]
        alarms += any(state in ("recurring", "relapsed") for state in states(*counts))
    assert least <= alarms / 600 <= most


def slow_states(counts: list[tuple[int, int]]) -> list[str]:
    """The table of the domain's rules, read off word by word, over and over from the first block."""
    blocks: list[tuple[int, int]] = []
    found: list[str] = []
    cleared_by = -1
    state, m, n = "clean", 0, 0
    for misses, exposures in counts:
        if exposures == 0:
            continue
        m, n = m + misses, n + exposures
        if n < 3:
            found.append(state)
            continue
        blocks.append((m, n))
        m = n = 0
        hits = [b[0] >= 2 and Fraction(*b) >= Fraction(3, 10) for b in blocks]

        def heavy(some: list[tuple[int, int]]) -> bool:
            last = some[-4:]
            return sum(b[0] for b in last) >= 5 and pooled(last) >= Fraction(1, 5)

        def pooled(some: list[tuple[int, int]]) -> Fraction:
            return Fraction(sum(b[0] for b in some), sum(b[1] for b in some))

        new = state
        if state in ("clean", "once"):
            clean_since = []
            for b in reversed(blocks):
                if b[0]:
                    break
                clean_since.append(b)
            ever = any(b[0] for b in blocks)
            long = len(clean_since) >= 2 and sum(b[1] for b in clean_since) >= 10
            new = "recurring" if sum(hits[-4:]) >= 2 or heavy(blocks) else "once" if ever and not long else "clean"
        elif state == "cleared":
            new = "relapsed" if hits[-1] or heavy(blocks[cleared_by + 1 :]) else "cleared"
        else:
            after_hit = blocks[max((i for i, h in enumerate(hits) if h), default=-1) + 1 :]
            runs = [after_hit[-k:] for k in range(2, len(after_hit) + 1)]
            if any(sum(b[1] for b in run) >= 10 and pooled(run) <= Fraction(1, 10) for run in runs):
                new, cleared_by = "cleared", len(blocks) - 1
            elif hits[-1]:
                new = "recurring"
            elif state == "fading":
                new = "recurring" if pooled(blocks[-2:]) > pooled(blocks[-4:-2]) else "fading"
            elif len(blocks) >= 4 and pooled(blocks[-4:-2]) > 0 and 2 * pooled(blocks[-2:]) <= pooled(blocks[-4:-2]):
                new = "fading"
        if blocks[-1][0] == 0 and WORSE.index(new) > WORSE.index(state):
            new = state
        state = new
        found.append(state)
    return found


def test_a_slow_second_implementation_says_the_same_of_random_histories() -> None:
    chance = random.Random(8)
    reached = set()
    for _ in range(1500):
        rate = chance.choice([0.02, 0.1, 0.3, 0.6])
        counts = []
        for _ in range(chance.randint(0, 18)):
            rate = chance.choice([0.0, 0.1, 0.3, 0.7]) if chance.random() < 0.25 else rate
            n = chance.choice([0, 1, 2, 3, 4, 6, 10])
            counts.append((sum(chance.random() < rate for _ in range(n)), n))
        mine = states(*counts) if any(n for _, n in counts) else []
        assert mine == slow_states(counts)
        reached |= set(mine)
    assert reached == set(WORSE)
