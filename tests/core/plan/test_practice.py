"""Practice: adherence, which prescription makes room, did it help, and what went together."""

from __future__ import annotations

import math
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.plan.practice import (
    Asked,
    Done,
    Followed,
    Helped,
    Open,
    adherence,
    adherence_by_week,
    amount_of,
    did_it_help,
    makes_room,
    own_rep_s,
    went_together,
)
from lacertus.core.progress.ledger import Session
from lacertus.core.techniques.practice import Dose

ON = 1000


def asked(id: str = "a", amount: int = 10, times: int = 3, since: int = ON - 27, until: int | None = None) -> Asked:
    return Asked(id=id, amount=amount, times_a_week=times, since=since, until=until)


def test_a_dose_counts_its_reps_on_both_sides_and_in_turn_or_its_rounds() -> None:
    assert amount_of(Dose(sets=3, reps=6, sides="both", turns=2)) == 72
    assert amount_of(Dose(rounds=4, seconds=30, rest_s=15)) == 4


def test_the_own_time_for_a_rep_is_the_median_gap_once_five_are_known() -> None:
    assert own_rep_s([[0, 2, 4, 9], [0, 3, 6]]) == 3
    assert own_rep_s([[0, 2, 4], [0, 2]]) == 4.0


def test_adherence_is_done_of_prescribed_over_28_days_and_never_more_than_all() -> None:
    over_all, by_id = adherence([asked()], [Done(prescription="a", day=ON, amount=60)], ON)
    assert over_all is not None
    assert (by_id["a"].prescribed, over_all.share) == (120.0, 0.5)
    # Twice as much of one makes up for nothing of the other.
    both = [asked(), asked("b")]
    over_all, by_id = adherence(both, [Done(prescription="a", day=ON - 3, amount=300)], ON)
    assert over_all is not None
    assert (by_id["a"].share, by_id["b"].share, over_all.share) == (1.0, 0.0, 0.5)


def test_each_week_is_told_by_itself_and_one_without_prescription_is_left_out() -> None:
    done = [Done(prescription="a", day=ON, amount=6), Done(prescription="a", day=ON - 7, amount=30)]
    found = adherence_by_week([asked(since=ON - 10)], done, ON, 4)
    # Ten a time, three times a week; of the week before it was open on four days only.
    assert [(week.until, round(week.kept.prescribed, 3), week.kept.done, week.kept.share) for week in found] == [
        (ON - 7, 17.143, 30, 1.0),
        (ON, 30.0, 6, 0.2),
    ]


def test_only_the_days_in_force_are_asked_for() -> None:
    old = [Done(prescription="a", day=ON - 28, amount=500)]
    assert adherence([asked(since=ON - 6)], old, ON)[1]["a"].prescribed == 30.0
    assert adherence([asked(since=ON - 100, until=ON - 28)], old, ON) == (None, {})
    assert adherence([asked(since=ON - 100, until=ON - 27)], old, ON)[1]["a"].prescribed == pytest.approx(30 / 7)


DONE = st.builds(Done, prescription=st.sampled_from("abc"), day=st.integers(ON - 40, ON + 3), amount=st.integers(0, 80))
ASKED = st.builds(
    Asked,
    id=st.sampled_from("abc"),
    amount=st.integers(1, 30),
    times_a_week=st.integers(1, 7),
    since=st.integers(ON - 60, ON + 5),
    until=st.none() | st.integers(ON - 60, ON + 5),
)


@given(wanted=st.lists(ASKED, max_size=3, unique_by=lambda one: one.id), done=st.lists(DONE, max_size=12))
def test_adherence_is_what_counting_day_by_day_gives(wanted: list[Asked], done: list[Done]) -> None:
    asked_for, counted = Fraction(0), Fraction(0)
    for one in wanted:
        own = Fraction(0)
        for day in range(ON - 27, ON + 1):
            if one.since <= day and (one.until is None or day <= one.until):
                own += Fraction(one.amount * one.times_a_week, 7)
        made = sum(log.amount for log in done if log.prescription == one.id and ON - 27 <= log.day <= ON)
        asked_for, counted = asked_for + own, counted + min(own, Fraction(made))
    over_all, _ = adherence(wanted, done, ON)
    assert (over_all is None) == (asked_for == 0)
    if over_all is not None:
        assert over_all.share == float(counted / asked_for)
        assert 0 <= over_all.share <= 1


def test_a_fourth_replaces_the_one_whose_fault_is_lowest_in_fix_first() -> None:
    some = [Open(id=key, technique="kick", faults=(f"fault-{key}",), since=day) for key, day in (("x", 5), ("y", 3), ("z", 9))]
    ranks = {("kick", "fault-x"): 0, ("kick", "fault-y"): 2, ("kick", "fault-z"): 1}
    assert makes_room(some[:2], ranks) is None
    assert (found := makes_room(some, ranks)) and found.id == "y"
    # One that fix first does not name is lower still; of several faults the highest counts.
    assert (found := makes_room(some, {("kick", "fault-x"): 0, ("kick", "fault-y"): 1})) and found.id == "z"
    mixed = [*some[:2], Open(id="w", technique="kick", faults=("fault-y", "fault-x"), since=1)]
    assert (found := makes_room(mixed, ranks)) and found.id == "y"
    assert (found := makes_room(some, {})) and found.id == "y"


def sessions(*rows: tuple[int, int, int]) -> list[Session]:
    return [Session(day, n, m) for day, n, m in rows]


def test_it_helped_where_the_interval_of_the_difference_lies_above_nothing() -> None:
    before = [(ON - 50, 8, 7), (ON - 45, 8, 6)]
    found = did_it_help(sessions(*before, (ON - 30, 8, 1), (ON - 20, 8, 1)), ON - 45, ON)
    assert (found.verdict, found.difference) == (Helped.HELPED, 11 / 16)
    # By hand: design 1 + 0.2 × 7 = 2.4, so n = 6.67; Wilson of 13/16 and of 2/16; Newcombe's difference.
    n, z = 16 / 2.4, 1.96

    def bounds(p: float) -> tuple[float, float]:
        middle, half = (
            (p + z * z / (2 * n)) / (1 + z * z / n),
            z / (1 + z * z / n) * math.sqrt(p * (1 - p) / n + z * z / (4 * n * n)),
        )
        return middle - half, middle + half

    (l1, u1), (l2, u2) = bounds(13 / 16), bounds(2 / 16)
    d = 11 / 16
    wanted = (d - math.hypot(13 / 16 - l1, u2 - 2 / 16), d + math.hypot(u1 - 13 / 16, 2 / 16 - l2))
    assert found.interval == pytest.approx(wanted)


def test_worse_not_yet_and_too_little_are_said_apart() -> None:
    calm = [(ON - 50, 10, 0), (ON - 45, 10, 0)]
    assert did_it_help(sessions(*calm, (ON - 9, 10, 9), (ON - 5, 10, 9)), ON - 45, ON).verdict is Helped.WORSE
    assert did_it_help(sessions(*calm, (ON - 9, 10, 1), (ON - 5, 10, 0)), ON - 45, ON).verdict is Helped.NOT_YET
    assert did_it_help(sessions(*calm, (ON - 9, 10, 9)), ON - 45, ON).verdict is Helped.TOO_LITTLE
    assert did_it_help([], ON - 45, ON).verdict is Helped.TOO_LITTLE


def test_before_ends_with_the_day_and_after_begins_on_the_third() -> None:
    since = ON - 20
    rows = sessions((since - 28, 5, 5), (since - 27, 5, 4), (since, 5, 3), (since + 2, 5, 2), (since + 3, 5, 1), (ON + 1, 5, 5))
    found = did_it_help(rows, since, ON)
    assert (found.before.misses, found.before.sessions) == (7, 2)
    assert (found.after.misses, found.after.sessions) == (1, 1)


ROWS = st.lists(st.tuples(st.integers(ON - 70, ON), st.integers(1, 12), st.floats(0, 1)), max_size=9, unique_by=lambda row: row[0])


@given(rows=ROWS)
def test_turned_round_in_time_helped_is_worse_and_the_interval_holds_the_difference(rows: list[tuple[int, int, float]]) -> None:
    own = sessions(*((day, n, round(n * share)) for day, n, share in rows))
    found = did_it_help(own, ON - 35, ON)
    assert found.interval[0] - 1e-12 <= found.difference <= found.interval[1] + 1e-12
    # As many misses as there were hits, and hits as misses: what helped made it worse.
    other = did_it_help([Session(s.day, s.exposures, s.exposures - s.misses) for s in own], ON - 35, ON)
    turned = {Helped.HELPED: Helped.WORSE, Helped.WORSE: Helped.HELPED}
    if found.before.exposures and found.after.exposures:
        assert other.verdict is turned.get(found.verdict, found.verdict)


def test_what_went_together_counts_students_with_it_and_without_it() -> None:
    def followed(student: str, what: str, since: int, cleared: int | None) -> Followed:
        some = frozenset({what}) if what else frozenset[str]()
        return Followed(student=student, technique="kick", fault="low", with_what=some, since=since, cleared_on=cleared)

    some = [
        followed("a", "wall", ON - 60, ON - 30),
        followed("b", "wall", ON - 60, ON - 10),
        followed("c", "", ON - 60, None),
        followed("d", "", ON - 60, ON - 20),
        followed("e", "wall", ON - 5, None),
        followed("f", "wall", ON - 5, ON - 1),
    ]
    (found,) = went_together(some, ON)
    # b cleared too late; e has time left; f has cleared already.
    assert (found.cleared, found.of, found.cleared_without, found.of_without) == (2, 3, 1, 2)
    assert went_together([one for one in some if not one.with_what], ON) == ()
