"""Changes of reviews, told by the database to every server at once: a trigger tells them as they are committed (LISTEN, NOTIFY)."""

from __future__ import annotations

import threading
import uuid
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from functools import cache

import psycopg

from lacertus.core.errors import LacertusError
from lacertus.settings import settings
from lacertus.store import connecting

CHANNEL = "lacertus_review"
MOST_FOLLOWERS = 1000
"""So many pages may follow a review at one server; others ask now and then."""
AGAIN_S = 1.0
"""So long after the connection broke another one is tried."""
LOOK_S = 1.0
"""So often the listening thread looks whether it is to end."""

Wake = Callable[[], object]


class TooManyFollow(LacertusError):
    """Too many pages follow reviews at this server."""


class Notices:
    """Listens for this process, on one connection, as long as anybody follows a review."""

    def __init__(self) -> None:
        self._followers: dict[uuid.UUID, set[Wake]] = {}
        self._lock = threading.Lock()
        self._thread: threading.Thread | None = None

    @contextmanager
    def follow(self, review: uuid.UUID, wake: Wake) -> Iterator[None]:
        """Call `wake`, in another thread, whenever a review may have changed.

        Raises:
            TooManyFollow: there are too many already.
        """
        with self._lock:
            if sum(map(len, self._followers.values())) >= MOST_FOLLOWERS:
                raise TooManyFollow()
            self._followers.setdefault(review, set()).add(wake)
            if self._thread is None:
                self._thread = threading.Thread(target=self._listen, name="notices", daemon=True)
                self._thread.start()
        try:
            yield
        finally:
            with self._lock:
                self._followers[review].discard(wake)
                if not self._followers[review]:
                    del self._followers[review]

    def _listen(self) -> None:
        while not self._ended():
            try:
                with psycopg.connect(settings().database_url, autocommit=True, **connecting.arguments()) as connection:
                    connection.execute(f"listen {CHANNEL}")
                    # What was committed before is told to nobody.
                    self._wake(None)
                    while not self._ended():
                        for notice in connection.notifies(timeout=LOOK_S):
                            with suppress(ValueError):
                                self._wake(uuid.UUID(notice.payload))
                    # Who follows since has begun another thread.
                    return
            except psycopg.Error:
                threading.Event().wait(AGAIN_S)

    def _ended(self) -> bool:
        """Nobody follows any more: the next who does begins anew."""
        with self._lock:
            if not self._followers:
                self._thread = None
            return not self._followers

    def _wake(self, review: uuid.UUID | None) -> None:
        with self._lock:
            of = self._followers.values() if review is None else [self._followers.get(review, set())]
            found = [wake for wakes in of for wake in wakes]
        for wake in found:
            # One whose page has gone meanwhile cannot be woken any more.
            with suppress(RuntimeError):
                wake()


@cache
def notices() -> Notices:
    """The one listener of this process."""
    return Notices()
