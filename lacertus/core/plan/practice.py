"""Practice: how much was done of what was prescribed, and whether it went together with the fault going away.

Days are ordinals. All numbers are conventions unless said otherwise.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction
from itertools import pairwise
from statistics import median

from lacertus.core.progress.ledger import DESIGN, Session, wilson
from lacertus.core.techniques.practice import REP_S, Dose

MOST_OPEN = 3
"""So many prescriptions of a student are open at once."""
TIMES_A_WEEK = 3
WINDOW_DAYS = 28
"""Adherence, and the rate before a prescription, look so far back."""
AFTER_FROM_DAYS = 3
"""The rate after a prescription counts from this day on: earlier, nothing was practised yet."""
LEAST_SESSIONS = 2
CLEARED_WITHIN_DAYS = 42
LEAST_REPS_TIMED = 5
"""So many reps are timed at the least before a student's own time for a rep is used."""

Interval = tuple[float, float]


def amount_of(dose: Dose) -> int:
    """How many reps a dose asks for each time; of a dose in rounds, how many rounds."""
    if dose.seconds is not None:
        return dose.rounds
    assert dose.reps is not None
    return dose.sets * dose.reps * (2 if dose.sides == "both" else 1) * dose.turns


def own_rep_s(starts_s: Iterable[Sequence[float]]) -> float:
    """A student's own time for a rep of a drill, seconds: the median time from one rep to the next.

    Args:
        starts_s: for each clip of drilling, the times at which its reps begin, in order.

    Returns:
        the median, or `REP_S` where fewer than `LEAST_REPS_TIMED` were timed.
    """
    gaps = [after - before for starts in starts_s for before, after in pairwise(starts) if after > before]
    return float(median(gaps)) if len(gaps) >= LEAST_REPS_TIMED else REP_S


# --- adherence ---------------------------------------------------------------------------------------


@dataclass(frozen=True, kw_only=True)
class Asked:
    """A prescription as adherence reads it: so many reps each time, so often a week, from a day on, up to a last day or still."""

    id: str
    amount: int
    times_a_week: int
    since: int
    until: int | None = None


@dataclass(frozen=True, kw_only=True)
class Done:
    """So many reps of a prescription that were done on a day."""

    prescription: str
    day: int
    amount: int


@dataclass(frozen=True, kw_only=True)
class Kept:
    """How much of a prescription was done in the last 28 days; `share` is at most 1."""

    done: int
    prescribed: float
    share: float


def adherence(
    asked: Iterable[Asked], done: Iterable[Done], on: int, days: int = WINDOW_DAYS
) -> tuple[Kept | None, dict[str, Kept]]:
    """Done ÷ prescribed reps of so many days, the last being `on`, over all and by prescription; nobody is ahead of what is asked.

    Returns:
        over all (None where nothing was prescribed in these days), and by prescription.
    """
    first = on - days + 1
    amounts: dict[str, int] = {}
    for log in done:
        if first <= log.day <= on:
            amounts[log.prescription] = amounts.get(log.prescription, 0) + log.amount
    by_id, kept, wanted = {}, Fraction(0), Fraction(0)
    for one in asked:
        open_days = min(on, one.until if one.until is not None else on) - max(first, one.since) + 1
        if open_days <= 0:
            continue
        prescribed = Fraction(one.amount * one.times_a_week * open_days, 7)
        own = amounts.get(one.id, 0)
        by_id[one.id] = _kept(own, prescribed, min(Fraction(own), prescribed))
        kept, wanted = kept + min(Fraction(own), prescribed), wanted + prescribed
    over_all = _kept(sum(one.done for one in by_id.values()), wanted, kept) if wanted else None
    return over_all, by_id


@dataclass(frozen=True, kw_only=True)
class Week:
    """How much was done in seven days, the last of which is `until`."""

    until: int
    kept: Kept


def adherence_by_week(asked: Sequence[Asked], done: Sequence[Done], on: int, weeks: int) -> tuple[Week, ...]:
    """Adherence of each of so many weeks up to a day, the oldest first; a week in which nothing was prescribed is left out."""
    ends = range(on - 7 * (weeks - 1), on + 1, 7)
    found = ((until, adherence(asked, done, until, 7)[0]) for until in ends)
    return tuple(Week(until=until, kept=kept) for until, kept in found if kept is not None)


def _kept(done: int, prescribed: Fraction, counted: Fraction) -> Kept:
    return Kept(done=done, prescribed=float(prescribed), share=float(counted / prescribed) if prescribed else 1.0)


# --- which one makes room ----------------------------------------------------------------------------


@dataclass(frozen=True, kw_only=True)
class Open:
    """An open prescription: its technique, the faults that it is for, and since when it is open."""

    id: str
    technique: str
    faults: tuple[str, ...]
    since: int


def makes_room(open_ones: Sequence[Open], ranks: Mapping[tuple[str, str], int]) -> Open | None:
    """Which open prescription a further one replaces: the one whose fault is lowest in fix first; None where there is room.

    Args:
        open_ones: what is open.
        ranks: by technique and fault, its place in fix first, 0 being the first; a fault that is not in it is lowest of all.
            Of equal places the older prescription goes, then the smaller id.
    """
    if len(open_ones) < MOST_OPEN:
        return None
    lowest = len(ranks) + 1

    def place(one: Open) -> int:
        return min((ranks.get((one.technique, fault), lowest) for fault in one.faults), default=lowest)

    return min(open_ones, key=lambda one: (-place(one), one.since, one.id))


# --- did it help? ------------------------------------------------------------------------------------


class Helped(StrEnum):
    """What the rates before and after a prescription come to."""

    HELPED = "helped"
    WORSE = "worse"
    NOT_YET = "not_yet"
    TOO_LITTLE = "too_little"


@dataclass(frozen=True, kw_only=True)
class Rate:
    """Misses of exposures over some sessions, with Wilson's interval by the ledger's design effect (0 to 1 where none)."""

    misses: int
    exposures: int
    sessions: int
    interval: Interval

    @property
    def rate(self) -> float:
        return self.misses / self.exposures if self.exposures else 0.0


@dataclass(frozen=True, kw_only=True)
class DidItHelp:
    """The rates before and after, their difference (before − after: positive is better), and what they come to."""

    before: Rate
    after: Rate
    difference: float
    interval: Interval
    verdict: Helped


def did_it_help(sessions: Iterable[Session], since: int, on: int) -> DidItHelp:
    """Whether a fault became rarer after a prescription that began on `since`, seen on the day `on`.

    Before are the 28 days that end with `since` (the clip that led to it was filmed then), after is from the 3rd day on.
    The interval of the difference is Newcombe's (1998, Statistics in Medicine 17, method 10) of the two Wilson intervals.
    """
    known = [session for session in sessions if session.exposures > 0 and session.day <= on]
    before = _rate([session for session in known if since - WINDOW_DAYS < session.day <= since])
    after = _rate([session for session in known if session.day >= since + AFTER_FROM_DAYS])
    difference, interval = newcombe(before, after)
    if before.sessions < LEAST_SESSIONS or after.sessions < LEAST_SESSIONS:
        verdict = Helped.TOO_LITTLE
    elif interval[0] > 0:
        verdict = Helped.HELPED
    elif interval[1] < 0:
        verdict = Helped.WORSE
    else:
        verdict = Helped.NOT_YET
    return DidItHelp(before=before, after=after, difference=difference, interval=interval, verdict=verdict)


def _rate(sessions: Sequence[Session]) -> Rate:
    days = {session.day for session in sessions}
    n, m = sum(session.exposures for session in sessions), sum(session.misses for session in sessions)
    interval = wilson(m, n, 1 + DESIGN * (n / len(days) - 1)) if n else (0.0, 1.0)
    return Rate(misses=m, exposures=n, sessions=len(days), interval=interval)


def newcombe(one: Rate, other: Rate) -> tuple[float, Interval]:
    """The difference of two rates and its 95 % interval, from the intervals of both."""
    difference = one.rate - other.rate
    low = difference - math.hypot(one.rate - one.interval[0], other.interval[1] - other.rate)
    high = difference + math.hypot(one.interval[1] - one.rate, other.rate - other.interval[0])
    return difference, (max(low, -1.0), min(high, 1.0))


# --- over the academy --------------------------------------------------------------------------------


@dataclass(frozen=True, kw_only=True)
class Followed:
    """A student's fault from the day on which it was to be worked on: with what (a drill, a cue; empty: without), cleared when."""

    student: str
    technique: str
    fault: str
    with_what: frozenset[str]
    since: int
    cleared_on: int | None


@dataclass(frozen=True, kw_only=True)
class WentTogether:
    """In how many students a fault cleared within 42 days: with a drill or cue, and of those who had the same fault without it."""

    what: str
    technique: str
    fault: str
    cleared: int
    of: int
    interval: Interval
    cleared_without: int
    of_without: int
    interval_without: Interval


def went_together(followed: Iterable[Followed], on: int) -> tuple[WentTogether, ...]:
    """For each drill or cue and fault, how often the fault cleared within 42 days. Went together, which is not a cause.

    Whose 42 days are not over, and whose fault has not cleared, is not counted yet. The ones shown in most students come first.
    """
    groups: dict[tuple[str, str], list[Followed]] = {}
    for one in followed:
        if _has_cleared(one) or on - one.since >= CLEARED_WITHIN_DAYS:
            groups.setdefault((one.technique, one.fault), []).append(one)
    found = []
    for (technique, fault), own in groups.items():
        for what in sorted({what for one in own for what in one.with_what}):
            having, without = [one for one in own if what in one.with_what], [one for one in own if what not in one.with_what]
            found.append(_together(what, technique, fault, having, without))
    return tuple(sorted(found, key=lambda one: (-one.of, one.technique, one.fault, one.what)))


def _has_cleared(one: Followed) -> bool:
    return one.cleared_on is not None and one.since < one.cleared_on <= one.since + CLEARED_WITHIN_DAYS


def _together(what: str, technique: str, fault: str, having: list[Followed], without: list[Followed]) -> WentTogether:
    cleared, cleared_without = (len({one.student for one in own if _has_cleared(one)}) for own in (having, without))
    of, of_without = (len({one.student for one in own}) for own in (having, without))
    return WentTogether(
        what=what,
        technique=technique,
        fault=fault,
        cleared=cleared,
        of=of,
        interval=wilson(cleared, of),
        cleared_without=cleared_without,
        of_without=of_without,
        interval_without=wilson(cleared_without, of_without) if of_without else (0.0, 1.0),
    )
