"""Solved reps that are kept between requests: an answer or an event changes no point, so the bodies are not put in space again."""

from __future__ import annotations

import hashlib
import marshal
import threading
from collections.abc import Hashable, Iterator
from contextlib import contextmanager

from cachetools import LRUCache

from lacertus.core.measuring.repfile import RepFile
from lacertus.core.measuring.scene import Scene
from lacertus.core.measuring.space.solution import Space

MOST_BYTES = 400_000_000
"""So much memory may kept solutions take; a rep of two bodies over five seconds takes a third of it."""
_NOT_SOLVED_BY = {"bodies", "events", "seen", "views", "camera_motion"}

_kept: LRUCache[bytes, Space] = LRUCache(MOST_BYTES, getsizeof=lambda space: max(space.size_bytes, 1))
_lock = threading.Lock()
_newest: LRUCache[Hashable, bytes] = LRUCache(4000)
"""Under which key the newest solution of a rep is kept."""


@contextmanager
def at_hand(scene: Scene, owner: Hashable | None = None) -> Iterator[Scene]:
    """A scene whose bodies are put in space as they were before, where its points are the same. Afterwards they are kept; of an
    owner's only the newest, or else every point that is moved would leave a solution that nobody asks for again."""
    key = take(scene)
    yield scene
    solved = scene.give_up()
    if solved is not None and 0 < solved.size_bytes <= MOST_BYTES:
        with _lock:
            _kept[key] = solved
            if owner is not None:
                _let_go_of_the_last(owner, key)


def _let_go_of_the_last(owner: Hashable, key: bytes) -> None:
    last = _newest.get(owner)
    if last != key:
        if last is not None:
            _kept.pop(last, None)
        _newest[owner] = key


def kept_bytes() -> int:
    """So much memory the kept solutions take now."""
    with _lock:
        return int(_kept.currsize)


def take(scene: Scene) -> bytes:
    """Give a scene the bodies that are kept of the same points, if there are any; they are its reader's alone then."""
    key = _key(scene.rep)
    with _lock:
        space = _kept.pop(key, None)
    if space is not None:
        scene.take_over(space)
    return key


def _key(rep: RepFile) -> bytes:
    """A digest of all that a rep is put in space by."""
    facts = rep.model_dump(mode="python", exclude=_NOT_SOLVED_BY)
    bodies = [
        (
            name,
            body.model_dump(exclude={"landmarks"}),
            [
                (mark, [(p.frame, p.x, p.y, p.by, p.sigma, p.shared, p.grain, p.hidden) for p in points])
                for mark, points in body.landmarks.items()
            ],
        )
        for name, body in rep.bodies.items()
    ]
    text = repr((facts, [(name, told) for name, told, _ in bodies], "camera_motion" in rep.model_fields_set))
    points = marshal.dumps(([(name, places) for name, _, places in bodies], rep.camera_motion), 2)
    return hashlib.blake2b(text.encode() + points, digest_size=24).digest()
