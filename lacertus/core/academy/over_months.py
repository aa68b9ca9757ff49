"""An academy over months: how often its common faults are missed, and how long a coach takes for a rep.

A month is the ordinal of its first day.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from statistics import median

import numpy as np

from lacertus.core.progress.ledger import DESIGN, wilson


@dataclass(frozen=True, kw_only=True)
class Missed:
    """In so many of so many reps of a month something was missed, by so many students together."""

    month: int
    students: int
    misses: int
    exposures: int


@dataclass(frozen=True, kw_only=True)
class RatePoint:
    """How often it was missed in a month, with the 95 % interval."""

    month: int
    misses: int
    exposures: int
    rate: float
    interval: tuple[float, float]


@dataclass(frozen=True, kw_only=True)
class Worked:
    """A finished review: its month, the minutes that it took, and its reps."""

    month: int
    minutes: float
    reps: int


@dataclass(frozen=True, kw_only=True)
class PacePoint:
    """Minutes a rep in the reviews of a month: the median, and the middle half of them."""

    month: int
    reviews: int
    minutes: float
    low: float
    high: float


def rates(missed: Iterable[Missed]) -> tuple[RatePoint, ...]:
    """The rate of each month in which something was asked, the oldest first.

    Reps of one student are alike: they count less by the ledger's design effect, with a student in the place of a session.
    """
    found = []
    for one in sorted(missed, key=lambda one: one.month):
        m, n = one.misses, one.exposures
        if n:
            design = 1 + DESIGN * (n / one.students - 1)
            found.append(RatePoint(month=one.month, misses=m, exposures=n, rate=m / n, interval=wilson(m, n, design)))
    return tuple(found)


def paces(worked: Iterable[Worked]) -> tuple[PacePoint, ...]:
    """Minutes a rep by month, the oldest first; reviews without reps or without time tell nothing."""
    by_month: dict[int, list[float]] = {}
    for one in worked:
        if one.reps > 0 and one.minutes > 0:
            by_month.setdefault(one.month, []).append(one.minutes / one.reps)
    found = []
    for month, own in sorted(by_month.items()):
        low, high = (float(value) for value in np.percentile(own, (25, 75)))
        found.append(PacePoint(month=month, reviews=len(own), minutes=float(median(own)), low=low, high=high))
    return tuple(found)
