"""How far coaches agree who judged the same reps: a percentage, and Krippendorff's α with an interval.

α = 1 − Dₒ ÷ Dₑ for nominal values (Krippendorff 2004, Content Analysis, ch. 11): Dₒ is how often two verdicts on the same
checkpoint of the same rep differ, Dₑ how often two verdicts drawn from all of them would. 1 is full agreement, 0 what chance
gives. It takes any number of coaches, and verdicts that some of them did not give.
"""

from __future__ import annotations

from collections.abc import Hashable, Iterable, Sequence
from dataclasses import dataclass
from itertools import combinations

from lacertus.core.progress.ledger import wilson

ALIKE = 0.1
"""Verdicts on one rep are alike: the interval counts 1 + ALIKE·(mean verdicts a rep − 1) times less. So chosen that it holds the
truth in 94–99 % of simulated pairs of coaches (docs/decisions.md)."""


@dataclass(frozen=True, kw_only=True)
class Rating:
    """One coach's firm verdict on a checkpoint of a rep."""

    coach: str
    rep: Hashable
    checkpoint: str
    missed: bool


@dataclass(frozen=True, kw_only=True)
class Agreement:
    """How far coaches agree: over so many checkpoints of so many reps.

    `same` is the share of pairs of verdicts that are alike. `alpha` is None where there is nothing to tell chance from: nobody
    missed anything, or everything; `interval` is α's.
    """

    judged: int
    reps: int
    same: float
    same_interval: tuple[float, float]
    alpha: float | None
    interval: tuple[float, float] | None


def agreement(ratings: Iterable[Rating]) -> Agreement | None:
    """Agreement over everything that at least two coaches judged; None where there is no such thing."""
    units = _units(ratings)
    if not units:
        return None
    values = [missed for unit in units.values() for missed in unit]
    n, missed = len(values), sum(values)
    observed = sum(_differing(unit) for unit in units.values()) / n
    expected = 2 * missed * (n - missed) / (n * (n - 1))
    reps = len({rep for rep, _ in units})
    design = 1 + ALIKE * (len(units) / reps - 1)
    low, high = wilson(observed * len(units), len(units), design)
    return Agreement(
        judged=len(units),
        reps=reps,
        same=1 - observed,
        same_interval=(1 - high, 1 - low),
        alpha=1 - observed / expected if expected else None,
        interval=(max(1 - high / expected, -1.0), 1 - low / expected) if expected else None,
    )


def by_pair(ratings: Iterable[Rating]) -> dict[tuple[str, str], Agreement]:
    """The same for every two coaches who judged the same reps, their names in order."""
    ratings = list(ratings)
    found = {}
    for pair in combinations(sorted({rating.coach for rating in ratings}), 2):
        made = agreement(rating for rating in ratings if rating.coach in pair)
        if made is not None:
            found[pair] = made
    return found


def _units(ratings: Iterable[Rating]) -> dict[tuple[Hashable, str], list[bool]]:
    """Verdicts by rep and checkpoint, where there are at least two; one a coach."""
    found: dict[tuple[Hashable, str], dict[str, bool]] = {}
    for rating in ratings:
        found.setdefault((rating.rep, rating.checkpoint), {})[rating.coach] = rating.missed
    return {key: list(by_coach.values()) for key, by_coach in found.items() if len(by_coach) > 1}


def _differing(unit: Sequence[bool]) -> float:
    """Ordered pairs of a unit's verdicts that differ, each verdict's shared among the others."""
    missed = sum(unit)
    return 2 * missed * (len(unit) - missed) / (len(unit) - 1)
