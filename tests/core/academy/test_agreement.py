"""Agreement between coaches: hand-worked, against a slow definition, and its interval by simulation."""

from __future__ import annotations

from itertools import permutations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.academy.agreement import Rating, agreement, by_pair


def ratings(*units: str) -> list[Rating]:
    """A unit is one coach after the other: m missed, + met, - not told."""
    return [
        Rating(coach="abc"[who], rep=unit, checkpoint="x", missed=said == "m")
        for unit, verdicts in enumerate(units)
        for who, said in enumerate(verdicts)
        if said != "-"
    ]


def test_hand_worked_of_two_coaches() -> None:
    """Ten reps, of 20 verdicts 9 missed: Do = 3/10, De = 2·9·11 ÷ (20·19)."""
    found = agreement(ratings("mm", "mm", "mm", "++", "++", "++", "++", "m+", "m+", "+m"))
    assert found is not None
    assert (found.judged, found.reps, found.same) == (10, 10, pytest.approx(0.7))
    assert found.alpha == pytest.approx(1 - 0.3 / (198 / 380))
    assert found.interval is not None
    assert found.alpha is not None
    assert found.interval[0] < found.alpha < found.interval[1]


@pytest.mark.parametrize(
    ("units", "alpha"),
    [
        pytest.param(["mm", "++", "mm", "++"], 1.0, id="full agreement"),
        pytest.param(["++", "++", "++"], None, id="nothing to tell chance from"),
        pytest.param(["m+", "+m", "m+", "+m"], 1 - 1 / (32 / 56), id="worse than chance"),
    ],
)
def test_ends_of_the_scale(units: list[str], alpha: float | None) -> None:
    found = agreement(ratings(*units))
    assert found is not None
    assert found.alpha == (None if alpha is None else pytest.approx(alpha))
    assert (found.interval is None) == (alpha is None)


def test_full_agreement_over_few_reps_is_no_certainty() -> None:
    few, many = agreement(ratings(*["mm", "++"] * 3)), agreement(ratings(*["mm", "++"] * 60))
    assert few is not None and few.interval is not None and few.interval[0] < 0.4
    assert many is not None and many.interval is not None and many.interval[0] > 0.9


def test_what_one_coach_alone_judged_does_not_count() -> None:
    assert agreement(ratings("m-", "-m", "+-")) is None
    found = agreement(ratings("mm", "m-", "++"))
    assert found is not None and found.judged == 2


def test_every_two_coaches_apart() -> None:
    found = by_pair(ratings("mm-", "++-", "m-+", "+-m"))
    assert {pair: one.same for pair, one in found.items()} == {("a", "b"): 1.0, ("a", "c"): 0.0}


@given(st.lists(st.text("m+-", min_size=3, max_size=3), min_size=1, max_size=12))
def test_it_is_krippendorffs_alpha_by_its_definition(units: list[str]) -> None:
    """By the coincidences of all ordered pairs, counted one by one."""
    found = agreement(ratings(*units))
    told = [[said for said in unit if said != "-"] for unit in units]
    told = [unit for unit in told if len(unit) > 1]
    if not told:
        assert found is None
        return
    values = [said for unit in told for said in unit]
    observed = sum(sum(a != b for a, b in permutations(unit, 2)) / (len(unit) - 1) for unit in told) / len(values)
    pairs = list(permutations(values, 2))
    expected = sum(a != b for a, b in pairs) / len(pairs)
    assert found is not None
    assert found.same == pytest.approx(1 - observed)
    assert found.alpha == (pytest.approx(1 - observed / expected) if expected else None)


def test_the_interval_holds_the_truth_where_verdicts_on_a_rep_are_alike() -> None:
    """Two coaches who each err in one verdict of ten, eight checkpoints a rep, faults and errors that hang on the rep."""
    chance = np.random.default_rng(4)

    def judged(reps: int) -> list[np.ndarray]:
        odds = [np.log(p / (1 - p)) + 0.5 * chance.normal(size=(reps, 1)) for p in (0.3, 0.1)]
        true, wrong = (1 / (1 + np.exp(-one)) for one in odds)
        fault = chance.random((reps, 8)) < true
        return [fault ^ (chance.random((reps, 8)) < wrong) for _ in range(2)]

    a, b = judged(100_000)
    rate = (a.mean() + b.mean()) / 2
    truth = 1 - (a != b).mean() / (2 * rate * (1 - rate))
    held = 0
    for _ in range(200):
        both = judged(12)
        found = agreement(
            Rating(coach="ab"[who], rep=rep, checkpoint=str(point), missed=bool(both[who][rep, point]))
            for who in range(2)
            for rep in range(12)
            for point in range(8)
        )
        assert found is not None and found.interval is not None
        held += found.interval[0] <= truth <= found.interval[1]
    assert held >= 186
