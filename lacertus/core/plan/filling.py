"""Fills the minutes of a class: units in their order, each with the minutes that it gets; what is locked does not move.

Minutes are whole. Between locked units the others are laid in their order; where they cannot fill what is left, a break does.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from lacertus.core.errors import BadInput


@dataclass(frozen=True, kw_only=True)
class Wish:
    """A unit that wants to be in the class: the least minutes that make sense, the usual, and the most.

    The larger its `weight`, the later it is left out where there is no room.
    """

    key: str
    least: int
    usual: int
    most: int
    weight: float = 1.0


@dataclass(frozen=True, kw_only=True)
class Locked:
    """A unit that stays where it is: its first minute and its length."""

    key: str
    at: int
    minutes: int

    @property
    def end(self) -> int:
        return self.at + self.minutes


@dataclass(frozen=True, kw_only=True)
class Laid:
    """A unit with its minutes; a break has no key."""

    key: str | None
    at: int
    minutes: int


def lay(total: int, wishes: Sequence[Wish], locked: Sequence[Locked] = ()) -> tuple[Laid, ...]:
    """Units that fill `total` minutes exactly, in order: wishes in theirs, locked ones where they were.

    Args:
        total: minutes of the class, at least 1.
        wishes: in the order in which they are to come.
        locked: what stays, in any order.

    Raises:
        BadInput: locked units overlap, or do not fit into the class.
    """
    fixed = sorted(locked, key=lambda one: one.at)
    gaps = _gaps(total, fixed)
    shared = _share(wishes, [end - start for start, end in gaps])
    laid = [Laid(key=one.key, at=one.at, minutes=one.minutes) for one in fixed]
    for (start, end), own in zip(gaps, shared, strict=True):
        laid += _fill(start, end - start, own)
    return tuple(sorted(laid, key=lambda one: one.at))


def _gaps(total: int, fixed: Sequence[Locked]) -> list[tuple[int, int]]:
    """The minutes between what is locked, as first minute and end; those without a minute are left out."""
    at, gaps = 0, []
    for one in fixed:
        if one.minutes < 1 or one.at < at or one.end > total:
            raise BadInput(
                f"locked units take minutes {one.at} to {one.end} of a class of {total}: they overlap or do not fit; "
                "unlock one, or make the class longer. Nothing was changed"
            )
        gaps.append((at, one.at))
        at = one.end
    gaps.append((at, total))
    return [(start, end) for start, end in gaps if end > start]


def _share(wishes: Sequence[Wish], rooms: Sequence[int]) -> list[list[Wish]]:
    """Which wishes come into which gap, in their order: as many as fit by their least minutes, the lightest left out."""
    kept = list(wishes)
    while True:
        found = _packed(kept, rooms)
        if found is not None:
            return found
        lightest = min(range(len(kept)), key=lambda i: (kept[i].weight, -i))
        del kept[lightest]


def _packed(wishes: Sequence[Wish], rooms: Sequence[int]) -> list[list[Wish]] | None:
    """Wishes laid into the gaps one after the other, each gap up to its usual minutes; None where they do not fit.

    Tried first by the usual minutes, so that no gap is crowded while another is empty, and then by the least.
    """
    for minutes in (_usual, _least):
        found: list[list[Wish]] = [[] for _ in rooms]
        gap, used = 0, 0
        for one in wishes:
            while gap < len(rooms) and used + minutes(one) > rooms[gap]:
                gap, used = gap + 1, 0
            if gap == len(rooms):
                break
            found[gap].append(one)
            used += minutes(one)
        else:
            return found
    return None


def _usual(one: Wish) -> int:
    return one.usual


def _least(one: Wish) -> int:
    return one.least


def _fill(at: int, room: int, own: Sequence[Wish]) -> list[Laid]:
    """Wishes stretched or shortened so that they fill a gap, and a break for what none of them takes."""
    lengths = [one.usual for one in own]
    spare = room - sum(lengths)
    while spare:
        step = 1 if spare > 0 else -1
        able = [i for i, one in enumerate(own) if (lengths[i] < one.most if step > 0 else lengths[i] > one.least)]
        if not able:
            break
        # The one that is furthest from its usual minutes last, by what share of them it was changed.
        at_next = min(able, key=lambda i: (step * (lengths[i] - own[i].usual) / own[i].usual, -own[i].weight * step, i))
        lengths[at_next] += step
        spare -= step
    laid, start = [], at
    for one, minutes in zip(own, lengths, strict=True):
        laid.append(Laid(key=one.key, at=start, minutes=minutes))
        start += minutes
    if spare > 0:
        laid.append(Laid(key=None, at=start, minutes=spare))
    return laid
