"""What partners did, how it was answered and what came of it; and how often reps came through, by option, start and choice."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from scipy.special import bdtr

from lacertus.core.progress.ledger import DESIGN, wilson

Interval = tuple[float, float]


@dataclass(frozen=True, kw_only=True)
class Answered:
    """One time that a reaction came in a rep. Days are ordinals; `completed` is None where the rep's outcome was not said."""

    day: int
    technique: str
    reaction: str
    answer: str | None
    verdict: str
    latency_ms: float | None = None
    completed: bool | None = None


@dataclass(frozen=True, kw_only=True)
class Share:
    """So many of so many, with the 95 % interval of the rate."""

    count: int
    of: int
    rate: float
    interval: Interval


@dataclass(frozen=True, kw_only=True)
class Latency:
    """The median of a number of latencies, milliseconds, and its 95 % interval; below six of them their whole range."""

    median_ms: float
    interval_ms: Interval
    of: int


@dataclass(frozen=True, kw_only=True)
class AnswerRow:
    """One answer to a reaction (None: none came): how often, how fast, and how often the rep came through."""

    answer: str | None
    times: Share
    latency: Latency | None
    completed: Share | None


@dataclass(frozen=True, kw_only=True)
class ReactionTable:
    """A reaction with the answers that were given to it, the commonest first; `held` counts those right and in time."""

    technique: str
    reaction: str
    held: Share | None
    answers: tuple[AnswerRow, ...]


def answer_tables(rows: Iterable[Answered]) -> tuple[ReactionTable, ...]:
    """Reaction → answer → outcome, by technique and reaction, the commonest reaction first."""
    groups: dict[tuple[str, str], list[Answered]] = {}
    for row in rows:
        groups.setdefault((row.technique, row.reaction), []).append(row)
    tables = [_table(technique, reaction, own) for (technique, reaction), own in groups.items()]
    return tuple(sorted(tables, key=lambda one: (-sum(a.times.count for a in one.answers), one.technique, one.reaction)))


def _table(technique: str, reaction: str, own: Sequence[Answered]) -> ReactionTable:
    told = [row for row in own if row.verdict in ("met", "missed")]
    by_answer: dict[str | None, list[Answered]] = {}
    for row in own:
        by_answer.setdefault(row.answer, []).append(row)
    answers = [_answer(answer, rows, len(own)) for answer, rows in by_answer.items()]
    return ReactionTable(
        technique=technique,
        reaction=reaction,
        held=_share([row.verdict == "met" for row in told], [row.day for row in told]),
        answers=tuple(sorted(answers, key=lambda one: (-one.times.count, one.answer is None, one.answer or ""))),
    )


def _answer(answer: str | None, own: Sequence[Answered], of: int) -> AnswerRow:
    ended = [row for row in own if row.completed is not None]
    return AnswerRow(
        answer=answer,
        times=Share(count=len(own), of=of, rate=len(own) / of, interval=wilson(len(own), of)),
        latency=latency_of([row.latency_ms for row in own if row.latency_ms is not None]),
        completed=_share([bool(row.completed) for row in ended], [row.day for row in ended]),
    )


def _share(held: Sequence[bool], days: Sequence[int]) -> Share | None:
    """A share whose reps of a day are alike, as in the ledger (docs/measurement.md)."""
    if not held:
        return None
    n, m = len(held), sum(held)
    return Share(count=m, of=n, rate=m / n, interval=wilson(m, n, 1 + DESIGN * (n / len(set(days)) - 1)))


LEAST_FOR_AN_INTERVAL = 6
"""With fewer values no pair of them covers the median in 95 % of samples: 2 × 0.5⁶ = 3.1 %, 2 × 0.5⁵ = 6.3 %."""


def latency_of(values_ms: Iterable[float]) -> Latency | None:
    """The median and its distribution-free 95 % interval from the ordered values (binomial ranks)."""
    ordered = sorted(values_ms)
    n = len(ordered)
    if not n:
        return None
    low = _rank(n) if n >= LEAST_FOR_AN_INTERVAL else 1
    middle = (ordered[(n - 1) // 2] + ordered[n // 2]) / 2
    return Latency(median_ms=middle, interval_ms=(ordered[low - 1], ordered[n - low]), of=n)


def _rank(n: int) -> int:
    """The smallest rank, from 1, at or below which a median lies in at least 2.5 % of samples of n values."""
    return next(k for k in range(1, n + 1) if bdtr(k, n, 0.5) >= TAIL)


TAIL = 0.025


# --- how often reps came through ---------------------------------------------------------------------


@dataclass(frozen=True, kw_only=True)
class Ended:
    """A rep whose outcome was said, with what may be told apart: option groups, the start, the choice."""

    day: int
    technique: str
    completed: bool
    facts: Mapping[str, str]


@dataclass(frozen=True, kw_only=True)
class SuccessBy:
    """How often reps of a technique came through, by the choices of one group that were made at least once."""

    technique: str
    group: str
    choices: tuple[tuple[str, Share], ...]


def success_by(reps: Iterable[Ended]) -> tuple[SuccessBy, ...]:
    """Success by option, start and choice, where there are several to hold against each other."""
    groups: dict[tuple[str, str], dict[str, list[Ended]]] = {}
    for rep in reps:
        for group, choice in rep.facts.items():
            groups.setdefault((rep.technique, group), {}).setdefault(choice, []).append(rep)
    return tuple(
        SuccessBy(technique=technique, group=group, choices=tuple((name, share) for name, share in _choices(own)))
        for (technique, group), own in sorted(groups.items())
        if len(own) > 1
    )


def _choices(own: Mapping[str, Sequence[Ended]]) -> list[tuple[str, Share]]:
    found = []
    for name, reps in sorted(own.items()):
        share = _share([rep.completed for rep in reps], [rep.day for rep in reps])
        if share is not None:
            found.append((name, share))
    return found
