"""The coach's queue: what is worth doing first, and what fits into the minutes at hand.

Priority is severity × (1 + days overdue ÷ 7). Safety comes first, each item that still fits; of the rest the set with the
largest sum of priorities that fits, exactly, over half minutes.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from fractions import Fraction

DAYS = 7
"""An item that is so many days overdue is worth twice as much as on its day. A convention."""
HALF_MINUTES = 2


@dataclass(frozen=True, kw_only=True)
class Item:
    """Something to do: how severe it is, since when (a day's ordinal), how many minutes it takes, whether it bears on safety."""

    id: str
    severity: float
    since: int
    minutes: float
    safety: bool = False

    @property
    def halves(self) -> int:
        """Half minutes that it takes, rounded up."""
        return math.ceil(HALF_MINUTES * _exact(self.minutes))

    def priority(self, on: int) -> Fraction:
        """Severity × (1 + days overdue ÷ 7) on a day."""
        return _exact(self.severity) * (1 + Fraction(max(0, on - self.since), DAYS))


@dataclass(frozen=True, kw_only=True)
class Queue:
    """What is chosen, in the order in which it is shown, and what is left; minutes and priority are sums over the chosen."""

    chosen: tuple[Item, ...]
    left: tuple[Item, ...]
    minutes: float
    priority: float


def queue_of(items: Iterable[Item], on: int, minutes: float | None = None) -> Queue:
    """What to do on a day (its ordinal) with so many minutes at hand; without minutes all of it."""
    ordered = sorted(items, key=lambda item: (not item.safety, -item.priority(on), item.since, item.id))
    if minutes is None:
        return _queue(ordered, (), on)
    room = math.floor(HALF_MINUTES * _exact(minutes))
    safety, rest = [], [item for item in ordered if not item.safety]
    for item in ordered:
        if item.safety and item.halves <= room:
            safety.append(item)
            room -= item.halves
    taken = {item.id for item in (*safety, *_best(rest, on, room))}
    return _queue([item for item in ordered if item.id in taken], [item for item in ordered if item.id not in taken], on)


def _queue(chosen: Sequence[Item], left: Sequence[Item], on: int) -> Queue:
    return Queue(
        chosen=tuple(chosen),
        left=tuple(left),
        minutes=sum(item.halves for item in chosen) / HALF_MINUTES,
        priority=float(sum((item.priority(on) for item in chosen), Fraction(0))),
    )


_Best = tuple[Fraction, tuple[str, ...], tuple[Item, ...]]


def _best(items: Sequence[Item], on: int, room: int) -> tuple[Item, ...]:
    """The set that fits with the largest sum of priorities; of equal sums the shortest, then the smallest ids.

    Dynamic programming over the half minutes that are used up exactly. From the largest id to the smallest, so that what an
    item is put before is the best that the larger ids can do.
    """
    best: list[_Best | None] = [(Fraction(0), (), ())] + [None] * room
    for item in sorted(items, key=lambda item: item.id, reverse=True):
        for used in range(room, item.halves - 1, -1):
            before = best[used - item.halves]
            if before is None:
                continue
            found = (before[0] + item.priority(on), (item.id, *before[1]), (item, *before[2]))
            now = best[used]
            if now is None or (-found[0], found[1]) < (-now[0], now[1]):
                best[used] = found
    there = [(-one[0], used, one[1], one[2]) for used, one in enumerate(best) if one is not None]
    return min(there, key=lambda one: one[:3])[3]


def _exact(value: float) -> Fraction:
    """A number as it is written, so that equal sums are equal."""
    return Fraction(str(value))
