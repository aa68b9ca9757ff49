"""The coach's queue: what is worth doing first, and what fits into the minutes at hand.

Priority is severity × (1 + days overdue ÷ 7). Safety comes first, each item that still fits; of the rest the set with the
largest sum of priorities that fits, exactly, over half minutes.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from typing import NamedTuple

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
        return _halves_of(self.minutes)

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


class _Weighed(NamedTuple):
    """An item on a day: half minutes, and its priority as a whole number of a unit that all items share."""

    item: Item
    halves: int
    worth: int


def queue_of(items: Iterable[Item], on: int, minutes: float | None = None) -> Queue:
    """What to do on a day (its ordinal) with so many minutes at hand; without minutes all of it."""
    weighed, unit = _weighed(list(items), on)
    ordered = sorted(weighed, key=lambda one: (not one.item.safety, -one.worth, one.item.since, one.item.id))
    if minutes is None:
        return _queue(ordered, (), unit)
    room = math.floor(HALF_MINUTES * _exact(minutes))
    safety, rest = [], [one for one in ordered if not one.item.safety]
    for one in ordered:
        if one.item.safety and one.halves <= room:
            safety.append(one)
            room -= one.halves
    taken = {one.item.id for one in (*safety, *_best(rest, room))}
    chosen = [one for one in ordered if one.item.id in taken]
    return _queue(chosen, [one for one in ordered if one.item.id not in taken], unit)


def _weighed(items: Sequence[Item], on: int) -> tuple[list[_Weighed], Fraction]:
    """The items with their priorities in whole units, so that sums are exact and quick; and the unit."""
    severities = [_exact(item.severity) for item in items]
    parts = math.lcm(*(one.denominator for one in severities)) if items else 1
    found = [
        _Weighed(
            item=item,
            halves=item.halves,
            worth=severity.numerator * (parts // severity.denominator) * (DAYS + max(0, on - item.since)),
        )
        for item, severity in zip(items, severities, strict=True)
    ]
    return found, Fraction(1, parts * DAYS)


def _queue(chosen: Sequence[_Weighed], left: Sequence[_Weighed], unit: Fraction) -> Queue:
    return Queue(
        chosen=tuple(one.item for one in chosen),
        left=tuple(one.item for one in left),
        minutes=sum(one.halves for one in chosen) / HALF_MINUTES,
        priority=float(sum(one.worth for one in chosen) * unit),
    )


_Best = tuple[int, tuple[str, ...], tuple[_Weighed, ...]]


def _best(items: Sequence[_Weighed], room: int) -> tuple[_Weighed, ...]:
    """The set that fits with the largest sum of priorities; of equal sums the shortest, then the smallest ids.

    Dynamic programming over the half minutes that are used up exactly. From the largest id to the smallest, so that what an
    item is put before is the best that the larger ids can do.
    """
    best: list[_Best | None] = [(0, (), ())] + [None] * room
    for one in sorted(_may_be_best(items, room), key=lambda one: one.item.id, reverse=True):
        for used in range(room, one.halves - 1, -1):
            before = best[used - one.halves]
            if before is None:
                continue
            found = (before[0] + one.worth, (one.item.id, *before[1]), (one, *before[2]))
            now = best[used]
            if now is None or (-found[0], found[1]) < (-now[0], now[1]):
                best[used] = found
    there = [(-one[0], used, one[1], one[2]) for used, one in enumerate(best) if one is not None]
    return min(there, key=lambda one: one[:3])[3]


def _may_be_best(items: Sequence[_Weighed], room: int) -> list[_Weighed]:
    """The items without those that no best set holds: of those that take as long, only as many as fit, the worthiest first.

    Where a set held another one, one of these would be missing in it; put in its place it is worth as much with a smaller id,
    or more.
    """
    by_length: dict[int, list[_Weighed]] = {}
    for one in sorted(items, key=lambda one: (-one.worth, one.item.id)):
        same = by_length.setdefault(one.halves, [])
        if one.halves <= room and len(same) < (room // one.halves if one.halves else len(items)):
            same.append(one)
    return [one for same in by_length.values() for one in same]


@lru_cache(maxsize=4096)
def _exact(value: float) -> Fraction:
    """A number as it is written, so that equal sums are equal."""
    return Fraction(str(value))


@lru_cache(maxsize=4096)
def _halves_of(minutes: float) -> int:
    return math.ceil(HALF_MINUTES * _exact(minutes))
