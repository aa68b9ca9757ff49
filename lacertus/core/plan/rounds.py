"""Rounds and games: what was tried in a round, how it is mixed and how it fades, and who won a game.

Times are seconds from the beginning of the round.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from statistics import median
from typing import Annotated, Literal

from pydantic import Field
from scipy.special import gammaincinv

from lacertus.core import bounds
from lacertus.core.model import Record
from lacertus.core.progress.answers import Share
from lacertus.core.progress.ledger import wilson

Outcome = Literal["completed", "blocked", "countered", "unknown"]
Side = Literal["left", "right", "middle"]
OUTCOMES: tuple[Outcome, ...] = ("completed", "blocked", "countered", "unknown")
SIDES: tuple[Side, ...] = ("left", "right", "middle")
CONFIDENCE = 0.95


@dataclass(frozen=True, kw_only=True)
class Attempt:
    """Something that was tried in a round: when it began, how long it took, on which side, and how it ended."""

    at_s: float
    seconds: float
    side: Side
    outcome: Outcome
    technique: str = ""


@dataclass(frozen=True, kw_only=True)
class Counted:
    """So many attempts, by how they ended."""

    attempts: int
    completed: int
    blocked: int
    countered: int
    unknown: int


@dataclass(frozen=True, kw_only=True)
class Third:
    """A third of a round: attempts, how many a minute with its interval, and the median time of one (None where there is none)."""

    attempts: int
    a_minute: float
    interval: tuple[float, float]
    completed: Share | None
    median_s: float | None


@dataclass(frozen=True, kw_only=True)
class Summary:
    """A round in numbers: over all, by side, the share of each side, and its first and last third."""

    seconds: float
    over_all: Counted
    completed: Share | None
    by_side: dict[Side, Counted]
    mix: dict[Side, Share]
    first: Third
    last: Third


def share_of(count: int, of: int) -> Share | None:
    """So many of so many, with Wilson's interval; None of nothing."""
    return Share(count=count, of=of, rate=count / of, interval=wilson(count, of)) if of else None


def summary_of(attempts: Iterable[Attempt], seconds: float) -> Summary:
    """A round of so many seconds in numbers. An attempt belongs to the third in which it begins.

    The interval of a rate is the exact one of a Poisson count (Garwood 1936).
    """
    own = [one for one in attempts if 0 <= one.at_s < seconds]
    third = seconds / 3
    by_side = {side: [one for one in own if one.side == side] for side in SIDES}
    over_all = _counted(own)
    return Summary(
        seconds=seconds,
        over_all=over_all,
        completed=_completed(own),
        by_side={side: _counted(some) for side, some in by_side.items() if some},
        mix={side: found for side, some in by_side.items() if (found := share_of(len(some), len(own))) and some},
        first=_third([one for one in own if one.at_s < third], third),
        last=_third([one for one in own if one.at_s >= 2 * third], third),
    )


def _counted(own: Sequence[Attempt]) -> Counted:
    by = {outcome: sum(one.outcome == outcome for one in own) for outcome in OUTCOMES}
    return Counted(attempts=len(own), **by)


def _completed(own: Sequence[Attempt]) -> Share | None:
    """Of those whose end is known."""
    known = [one for one in own if one.outcome != "unknown"]
    return share_of(sum(one.outcome == "completed" for one in known), len(known))


def _third(own: Sequence[Attempt], seconds: float) -> Third:
    minutes = seconds / 60
    low, high = poisson_interval(len(own))
    return Third(
        attempts=len(own),
        a_minute=len(own) / minutes if minutes else 0.0,
        interval=(low / minutes, high / minutes) if minutes else (0.0, 0.0),
        completed=_completed(own),
        median_s=float(median(one.seconds for one in own)) if own else None,
    )


def poisson_interval(count: int) -> tuple[float, float]:
    """The exact 95 % interval of an expected count of which so many came (Garwood 1936, by the inverse of the gamma function)."""
    tail = (1 - CONFIDENCE) / 2
    return float(gammaincinv(count, tail)) if count else 0.0, float(gammaincinv(count + 1, 1 - tail))


# --- a game, tallied live ----------------------------------------------------------------------------


class Tap(Record):
    """A tap of the live tally: when, for whom, and on which side; `round` counts from 1."""

    key: Annotated[str, Field(min_length=1, max_length=64)]
    round: Annotated[int, Field(ge=1, le=1000)] = 1
    at_s: Annotated[float, Field(ge=0, le=36_000)]
    by: bounds.Word
    side: Side = "middle"
    outcome: Outcome = "completed"


@dataclass(frozen=True, kw_only=True)
class Game:
    """Who won a game: points of each by round, rounds won by each (a draw is nobody's), and points by side."""

    rounds: tuple[dict[str, int], ...]
    wins: dict[str, int]
    draws: int
    by_side: dict[str, dict[Side, int]]


def game_of(taps: Iterable[Tap], players: Sequence[str], rounds: int) -> Game:
    """A game of so many rounds between some players. Only what was completed scores; taps of others are left out."""
    own = [tap for tap in taps if tap.by in players and tap.round <= rounds and tap.outcome == "completed"]
    scores = tuple(
        {player: sum(tap.by == player and tap.round == number for tap in own) for player in players}
        for number in range(1, rounds + 1)
    )
    wins, draws = dict.fromkeys(players, 0), 0
    for score in scores:
        best = max(score.values(), default=0)
        winners = [player for player, points in score.items() if points == best]
        if best > 0 and len(winners) == 1:
            wins[winners[0]] += 1
        else:
            draws += 1
    by_side = {player: {side: sum(tap.by == player and tap.side == side for tap in own) for side in SIDES} for player in players}
    return Game(rounds=scores, wins=wins, draws=draws, by_side=by_side)
