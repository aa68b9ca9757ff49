"""What was last made of a thing, kept as long as the thing is as it was: the next that is made of it takes its place.

A mark makes a rep another one. Were each form of it kept until the store is full, a server would grow by what nobody asks for
again; so it keeps one of each rep, and needs as much memory as there are reps that coaches work on.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

from cachetools import LRUCache

Stamp = TypeVar("Stamp")
Kept = TypeVar("Kept")


class Newest(Generic[Stamp, Kept]):
    """For each owner the newest that was made of it, with the stamp of what it was made of; safe to use from several threads."""

    def __init__(self, most: int, weight: Callable[[Kept], int] = lambda kept: 1) -> None:
        """
        Args:
            most: so much may they weigh together; what was not asked for the longest goes first.
            weight: what one weighs, at least 1; what weighs more than `most` by itself is not kept.
        """
        self._most, self._weight = most, weight
        self._lock = threading.Lock()
        self._kept: LRUCache[Hashable, tuple[Stamp, Kept]] = LRUCache(most, getsizeof=lambda one: max(weight(one[1]), 1))

    def get(self, owner: Hashable, stamp: Stamp) -> Kept | None:
        """What is kept of an owner, where it was made of what the stamp says."""
        with self._lock:
            found = self._kept.get(owner)
        return found[1] if found is not None and found[0] == stamp else None

    def keep(self, owner: Hashable, stamp: Stamp, kept: Kept) -> None:
        """Keep this in the place of what was kept of the owner before."""
        with self._lock:
            self._kept.pop(owner, None)
            if self._weight(kept) <= self._most:
                self._kept[owner] = (stamp, kept)

    @property
    def weighs(self) -> int:
        """What all together weigh."""
        with self._lock:
            return int(self._kept.currsize)
