"""What answers say of an eye: bias and scatter with intervals, hits and false alarms, and an own σ of marked events (rule 4.10)."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

import numpy as np
from scipy import special

from lacertus.core.measuring.timebase import MARKING_SCATTER_S
from lacertus.core.model import Record
from lacertus.core.progress.ledger import wilson

LEAST_EVENTS = 20
"""From so many marked events on the own scatter is offered. A convention."""
SLIP_MS = 500.0
"""A mark farther off than this is a slip, such as a key that was pressed too soon: a miss, and no sign of bias or scatter. A
convention: ten times a hit."""
SHOWN_DAYS = 365
"""An eye changes: what is older says nothing of it any more. A convention."""
LEVEL = 0.95
Interval = tuple[float, float]


class Spread(Record):
    """Errors of one kind: the mean (bias) and standard deviation (scatter), each with its 95 % interval; one answer has neither.

    The interval of the mean is Student's t; that of the standard deviation comes from χ² with n − 1 degrees of freedom. Both
    assume that errors are about normal.
    """

    n: int
    bias: float | None = None
    bias_within: Interval | None = None
    scatter: float | None = None
    scatter_within: Interval | None = None


class Rate(Record):
    """How often of how often, with Wilson's 95 % interval."""

    n: int
    of: int
    within: Interval


class Alarms(Record):
    """What is seen of one checkpoint: how often it was named where it was missed, and where it was not."""

    checkpoint: str
    hits: Rate
    false_alarms: Rate


def spread_of(errors: Sequence[float]) -> Spread:
    """Bias and scatter of errors, in their own unit."""
    n = len(errors)
    return spread_from(n, float(np.mean(errors)), float(np.std(errors, ddof=1))) if n >= 2 else Spread(n=n)


def spread_from(n: int, bias: float | None, scatter: float | None) -> Spread:
    """The same of a mean and a standard deviation (n − 1) that are known already."""
    if n < 2 or bias is None or scatter is None:
        return Spread(n=n)
    half = float(special.stdtrit(n - 1, (1 + LEVEL) / 2)) * scatter / math.sqrt(n)
    low, high = (_chi_square(n - 1, share) for share in ((1 + LEVEL) / 2, (1 - LEVEL) / 2))
    squares = (n - 1) * scatter**2
    return Spread(
        n=n,
        bias=bias,
        bias_within=(bias - half, bias + half),
        scatter=scatter,
        scatter_within=(math.sqrt(squares / low), math.sqrt(squares / high)),
    )


def _chi_square(degrees: int, share: float) -> float:
    """The value under which this share of a χ² variable lies."""
    return 2 * float(special.gammaincinv(degrees / 2, share))


def rate_of(n: int, of: int) -> Rate:
    """A rate with its interval; 0 to 1 where there is nothing yet."""
    return Rate(n=n, of=of, within=wilson(n, of) if of else (0.0, 1.0))


def alarms_of(answers: Iterable[tuple[str, str, Sequence[str]]]) -> tuple[Alarms, ...]:
    """Hits and false alarms by checkpoint.

    Args:
        answers: of each question which was missed: what was said, what is so, and the checkpoints that could be chosen.
    """
    counts: dict[str, list[int]] = {}
    for said, true, among in answers:
        for checkpoint in among:
            hits, signals, alarms, others = counts.setdefault(checkpoint, [0, 0, 0, 0])
            named, there = said == checkpoint, true == checkpoint
            counts[checkpoint] = [hits + (named and there), signals + there, alarms + (named and not there), others + (not there)]
    return tuple(
        Alarms(checkpoint=name, hits=rate_of(hits, signals), false_alarms=rate_of(alarms, others))
        for name, (hits, signals, alarms, others) in sorted(counts.items())
    )


def own_events_s(errors_s: Sequence[float]) -> float | None:
    """A coach's own standard deviation of a marked event, seconds; None before `LEAST_EVENTS` answers, slips apart.

    It is the root mean square about the truth, not about the own mean: a reading knows nothing of the bias, which is an error of
    it like the others. One answer of the default's size is counted in, as with reps that are marked twice
    (`core.review.blind_remarking`).
    """
    errors = [error for error in errors_s if 1000 * abs(error) <= SLIP_MS]
    if len(errors) < LEAST_EVENTS:
        return None
    return round(math.sqrt((sum(e * e for e in errors) + MARKING_SCATTER_S**2) / (len(errors) + 1)), 6)
