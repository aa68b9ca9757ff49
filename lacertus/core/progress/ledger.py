"""The fault ledger: what keeps coming back (docs/measurement.md). Days are numbers, one a calendar day.

An exposure is a rep in which a checkpoint was judged met or missed. A session is a calendar day of one student. A block is one
session, or consecutive ones joined until they hold three exposures; what is left over is open and changes no state.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property
from typing import NamedTuple

Z = 1.96
DESIGN = 0.2
"""Reps of a day are alike: n and m count 1 + DESIGN·(mean exposures a session − 1) times less in the interval. A convention."""
HALF_LIFE_DAYS = 28.0
BLOCK_EXPOSURES = 3
HIT_MISSES, HIT_RATE = 2, 0.3
WINDOW = 4
"""So many of the latest blocks are looked at for hits and for heaviness."""
HEAVY_MISSES, HEAVY_RATE = 5, 0.2
LEAST_RUN, LEAST_RUN_EXPOSURES, CLEARED_RATE = 2, 10, 0.1
RECHECK_SAFETY, RECHECK_OFTEN, RECHECK_SOMETIMES, RECHECK_CLEARED, RECHECK_LATER = 3, 7, 14, 42, 84
"""Days from the last session to the next look. Conventions, as all numbers of this module."""


class State(StrEnum):
    """How a fault stands in the ledger (docs/measurement.md, “Recurrence”)."""

    CLEAN = "clean"
    ONCE = "once"
    RECURRING = "recurring"
    FADING = "fading"
    CLEARED = "cleared"
    RELAPSED = "relapsed"


class Session(NamedTuple):
    """A day on which a fault could be made: exposures and misses."""

    day: int
    exposures: int
    misses: int


class Block(NamedTuple):
    """Sessions joined: their exposures and misses, the day of the last one, and the state after it."""

    day: int
    exposures: int
    misses: int
    state: State = State.CLEAN

    @property
    def is_hit(self) -> bool:
        return self.misses >= HIT_MISSES and self.misses >= HIT_RATE * self.exposures


class Entry(NamedTuple):
    """A session as the history shows it: the state after the last block closed by then."""

    day: int
    exposures: int
    misses: int
    state: State


@dataclass(frozen=True, kw_only=True)
class FaultLedger:
    """What a fault's history comes to.

    `days` are its sessions in order, `blocks` what they closed; `interval` is Wilson's with its design effect; `recurrence` is
    decayed to the day asked for; `recheck` is the day to look again, None where there is no need; `missed_since` the day of the
    first miss since it was last clean or cleared.
    """

    exposures: int
    misses: int
    rate: float
    interval: tuple[float, float]
    recurrence: float
    state: State
    days: tuple[Session, ...]
    blocks: tuple[Block, ...]
    recheck: int | None
    missed_since: int | None

    @property
    def first_seen(self) -> bool:
        """Missed since it was last clean, in too few exposures for a block: there is no state yet that says so."""
        return self.state is State.CLEAN and self._missed_lately

    @property
    def missed_again(self) -> bool:
        """Missed since it was cleared, in too few exposures for a block that would say *relapsed* or let it be."""
        return self.state is State.CLEARED and self._missed_lately

    @property
    def _missed_lately(self) -> bool:
        closed = self.blocks[-1].day if self.blocks else 0
        return any(day.misses for day in self.days if day.day > closed)

    @cached_property
    def history(self) -> tuple[Entry, ...]:
        """Session by session; worked out where it is asked for."""
        return tuple(_history(self.days, self.blocks))


def ledger_of(sessions: Iterable[Session], *, safety: bool = False, on: int | None = None) -> FaultLedger | None:
    """The ledger of one fault, or of a family, from its sessions in any order; None where there was no exposure.

    Args:
        sessions: exposures and misses by day; those of one day are added.
        safety: a safety point.
        on: the day to look from: what came after it is not known yet. None is the day of the last session.
    """
    days = _by_day(sessions if on is None else [session for session in sessions if session.day <= on])
    if not days:
        return None
    n, m = sum([day.exposures for day in days]), sum([day.misses for day in days])
    blocks = _blocks(days)
    return FaultLedger(
        exposures=n,
        misses=m,
        rate=m / n,
        interval=wilson(m, n, 1 + DESIGN * (n / len(days) - 1)),
        recurrence=_recurrence(days, days[-1].day if on is None else on),
        state=blocks[-1].state if blocks else State.CLEAN,
        days=tuple(days),
        blocks=tuple(blocks),
        recheck=_recheck(days, blocks, safety),
        missed_since=_missed_since(days, blocks),
    )


def _by_day(sessions: Iterable[Session]) -> list[Session]:
    found: dict[int, Session] = {}
    for session in sessions:
        day, exposures, misses = session
        same = found.get(day)
        found[day] = session if same is None else Session(day, same[1] + exposures, same[2] + misses)
    return [found[day] for day in sorted(found) if found[day][1] > 0]


def wilson(misses: float, exposures: float, design: float = 1.0) -> tuple[float, float]:
    """Wilson's interval (1927) of a rate at z = 1.96, counts divided by the design effect."""
    n, p = exposures / design, misses / exposures
    middle = (p + Z**2 / (2 * n)) / (1 + Z**2 / n)
    half = Z / (1 + Z**2 / n) * math.sqrt(p * (1 - p) / n + Z**2 / (4 * n**2))
    # Rounding is not to put the rate itself outside.
    return min(max(middle - half, 0.0), p), max(min(middle + half, 1.0), p)


def _recurrence(days: Sequence[Session], on: int) -> float:
    n = m = 0
    weighed_n = weighed_m = 0.0
    for day, exposures, misses in days:
        weight = math.exp2((day - on) / HALF_LIFE_DAYS)
        n, m = n + exposures, m + misses
        weighed_n, weighed_m = weighed_n + weight * exposures, weighed_m + weight * misses
    prior = (m + 0.5) / (n + 2)
    return (2 * prior + weighed_m) / (2 + weighed_n)


def _blocks(days: Sequence[Session]) -> list[Block]:
    """The closed blocks, each with the state after it."""
    closed: list[Block] = []
    state = State.CLEAN
    n = m = 0
    for day, exposures, misses in days:
        n, m = n + exposures, m + misses
        if n >= BLOCK_EXPOSURES:
            # Most blocks are clean ones of what is clean: they are not looked into.
            if m or state is not State.CLEAN:
                state = _after(closed, Block(day, n, m))
            closed.append(Block(day, n, m, state))
            n = m = 0
    return closed


_WORSE = (State.CLEAN, State.CLEARED, State.ONCE, State.FADING, State.RECURRING, State.RELAPSED)


def _after(before: Sequence[Block], block: Block) -> State:
    """The state after a block. One without a miss never makes it worse, though an older, cleaner block leaves the window."""
    state = before[-1].state if before else State.CLEAN
    found = _by_the_table(state, before, block)
    worse = _WORSE.index(found) > _WORSE.index(state)
    return state if worse and block.misses == 0 else found


def _by_the_table(state: State, before: Sequence[Block], block: Block) -> State:
    """The state after a block, from the blocks before it."""
    blocks = [*before, block]
    if state in (State.CLEAN, State.ONCE):
        return _first_time(blocks)
    if state is State.CLEARED:
        since = blocks[_cleared_at(before) + 1 :]
        return State.RELAPSED if block.is_hit or _heavy(since) else State.CLEARED
    if _has_cleared(blocks):
        return State.CLEARED
    if block.is_hit:
        return State.RECURRING
    if state is State.FADING:
        return State.RECURRING if _rate(blocks[-2:]) > _rate(blocks[-4:-2]) else State.FADING
    earlier = _rate(blocks[-4:-2]) if len(blocks) >= 4 else 0.0
    return State.FADING if earlier > 0 and _rate(blocks[-2:]) <= earlier / 2 else state


def _first_time(blocks: Sequence[Block]) -> State:
    if sum([block.is_hit for block in blocks[-WINDOW:]]) >= 2 or _heavy(blocks):
        return State.RECURRING
    clean = 0
    while clean < len(blocks) and blocks[-1 - clean].misses == 0:
        clean += 1
    return State.CLEAN if clean == len(blocks) or _long_run(blocks[len(blocks) - clean :]) else State.ONCE


def _heavy(blocks: Sequence[Block]) -> bool:
    latest = blocks[-WINDOW:]
    misses = _misses(latest)
    return misses >= HEAVY_MISSES and misses >= HEAVY_RATE * _exposures(latest)


def _long_run(run: Sequence[Block]) -> bool:
    return len(run) >= LEAST_RUN and _exposures(run) >= LEAST_RUN_EXPOSURES


def _has_cleared(blocks: Sequence[Block]) -> bool:
    """Some run of the latest blocks, all after the last hit, is long enough and nearly without a miss."""
    hits = [i for i, block in enumerate(blocks) if block.is_hit]
    after = blocks[hits[-1] + 1 :] if hits else blocks
    runs = (after[start:] for start in range(len(after)))
    return any(_long_run(run) and _misses(run) <= CLEARED_RATE * _exposures(run) for run in runs)


def _cleared_at(blocks: Sequence[Block]) -> int:
    """Which block cleared it: the first of those that stand as cleared at the end."""
    at = len(blocks) - 1
    while at > 0 and blocks[at - 1].state is State.CLEARED:
        at -= 1
    return at


def _misses(blocks: Sequence[Block]) -> int:
    return sum([block.misses for block in blocks])


def _exposures(blocks: Sequence[Block]) -> int:
    return sum([block.exposures for block in blocks])


def _rate(blocks: Sequence[Block]) -> float:
    return _misses(blocks) / _exposures(blocks) if blocks else 0.0


def _history(days: Sequence[Session], blocks: Sequence[Block]) -> Iterable[Entry]:
    # A block ends on the day of one of its sessions, so that at most one closes on a day.
    closed = {block.day: block.state for block in blocks}
    state = State.CLEAN
    for day, exposures, misses in days:
        state = closed.get(day, state)
        yield Entry(day, exposures, misses, state)


def _recheck(days: Sequence[Session], blocks: Sequence[Block], safety: bool) -> int | None:
    """The day to look again, counted from the last session."""
    last, state = days[-1].day, blocks[-1].state if blocks else State.CLEAN
    if safety and _missed_since(days, blocks) is not None:
        return last + RECHECK_SAFETY
    if state in (State.RELAPSED, State.RECURRING):
        return last + RECHECK_OFTEN
    if state in (State.ONCE, State.FADING):
        return last + RECHECK_SOMETIMES
    if state is State.CLEARED:
        return last + (RECHECK_CLEARED if _cleared_at(blocks) == len(blocks) - 1 else RECHECK_LATER)
    return None


def _missed_since(days: Sequence[Session], blocks: Sequence[Block]) -> int | None:
    """The first day on which it was missed since it was last clean or cleared; before the first block it is clean."""
    good = next((block.day for block in reversed(blocks) if block.state in (State.CLEAN, State.CLEARED)), days[0].day - 1)
    return next((day for day, _, misses in days if misses > 0 and day > good), None)
