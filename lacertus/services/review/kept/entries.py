"""The points of a rep as the core reads them, kept by their version: most changes of a rep leave its points as they are."""

from __future__ import annotations

import threading
import uuid
from collections.abc import Mapping

from cachetools import LRUCache

from lacertus.core.measuring.repfile import PointEntry
from lacertus.store.tables import RepRow

Entries = Mapping[str, Mapping[str, tuple[PointEntry, ...]]]
"""By body and landmark, by frame."""
MOST_POINTS = 200_000
_kept: LRUCache[tuple[uuid.UUID, str], tuple[int, Entries]] = LRUCache(MOST_POINTS, getsizeof=lambda found: max(found[0], 1))
_lock = threading.Lock()


def entries_of(rep: RepRow, version: str = "") -> Entries:
    """The points of a rep. `version` is the digest of their rows; without one they are read anew."""
    if not version:
        return _read(rep)
    key = rep.id, version
    with _lock:
        known = _kept.get(key)
    if known is None:
        known = len(rep.points), _read(rep)
        with _lock:
            if known[0] < MOST_POINTS:
                _kept[key] = known
    return known[1]


def _read(rep: RepRow) -> Entries:
    found: dict[str, dict[str, list[PointEntry]]] = {}
    for point in rep.points:
        entry = PointEntry(
            frame=point.frame,
            x=point.x,
            y=point.y,
            by=point.by,
            hidden=point.hidden,
            sigma=point.sigma,
            shared=point.shared,
            grain=point.grain,
        )
        found.setdefault(point.body, {}).setdefault(point.landmark, []).append(entry)
    return {body: {name: tuple(points) for name, points in landmarks.items()} for body, landmarks in found.items()}
