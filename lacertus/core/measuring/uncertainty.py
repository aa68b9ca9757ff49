"""From a value with its standard uncertainty to a verdict."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

FIRM = 1.645
"""Half width of the 90 % interval of a normal distribution in standard deviations: a verdict of
*missed* (one-sided) is wrong in at most 5 %."""


class Verdict(StrEnum):
    """What is said of a checkpoint of a rep (docs/glossary.md)."""

    MET = "met"
    BORDERLINE = "borderline"
    MISSED = "missed"
    NOT_SEEN = "not_seen"
    NOT_ASKED = "not_asked"


@dataclass(frozen=True, kw_only=True)
class Limits:
    """A wanted range [lo, hi] in the value's unit; None is no limit on that side.

    `least` and `most` are what the quantity can be at all (an angle 0 to 180). A limit at or beyond
    them binds nothing and is taken as none.
    """

    lo: float | None = None
    hi: float | None = None
    least: float = -math.inf
    most: float = math.inf

    @property
    def low(self) -> float:
        return -math.inf if self.lo is None or self.lo <= self.least else self.lo

    @property
    def high(self) -> float:
        return math.inf if self.hi is None or self.hi >= self.most else self.hi

    @property
    def width(self) -> float:
        return self.high - self.low

    def can_be_met(self, u: float) -> bool:
        """False where no possible value, with this u, would be judged met."""
        return max(self.least, self.low + u) <= min(self.most, self.high - u)

    def outside_by(self, value: float) -> float:
        """How far the value lies outside (positive) or inside (negative) the nearer limit."""
        return max(self.low - value, value - self.high)


def judge_value(value: float, u: float, limits: Limits, *, safety: bool = False, miss_margin: float | None = None) -> Verdict:
    """Verdict with guard bands (docs/measurement.md).

    *Met* if [v − u, v + u] lies inside, for safety [v − 1.645u, v + 1.645u]; *missed* if
    [v − 1.645u, v + 1.645u] lies wholly outside; else *borderline*, or *not seen* where no value
    could be met. `miss_margin` is what *missed* needs beyond a limit where it is not 1.645u.
    """
    margin = FIRM * u if miss_margin is None else miss_margin
    inside = FIRM * u if safety else u
    low, high = limits.low, limits.high
    if low <= value - inside and value + inside <= high:
        return Verdict.MET
    if value - margin > high or value + margin < low:
        return Verdict.MISSED
    return Verdict.BORDERLINE if limits.can_be_met(inside) else Verdict.NOT_SEEN
