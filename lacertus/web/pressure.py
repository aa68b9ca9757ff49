"""Back pressure: requests take turns at the database, and what could only stand in line for seconds is answered at once.

A request holds its connection from its first query to its commit, and goes through several threads on the way. Were more let in
than there are connections, all threads would wait for connections that are held by requests which wait for a thread.
"""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from weakref import WeakKeyDictionary

AT_ONCE = 14
"""So many requests hold a connection at once, of the twenty of `store.database`; sockets, uploads and the guard have the others."""
MOST_WAITING = 200
"""So many may wait for a turn; on two cores that is some fifteen seconds' worth of marks (docs/benchmarks.md)."""
RETRY_S = 2
ALWAYS = ("/api/health", "/metrics")
"""Whoever watches the site is told how it is all the same."""
FULL = "The server has more to do than it can just now. Nothing was changed; try again in a few seconds."


class _Turns:
    """Whose turn it is, of one event loop."""

    def __init__(self) -> None:
        self.free = asyncio.Semaphore(AT_ONCE)
        self.waiting = 0


_turns: WeakKeyDictionary[asyncio.AbstractEventLoop, _Turns] = WeakKeyDictionary()


def _here() -> _Turns:
    return _turns.setdefault(asyncio.get_running_loop(), _Turns())


@asynccontextmanager
async def turn() -> AsyncIterator[None]:
    """A turn at the database, in the order of coming."""
    here = _here()
    here.waiting += 1
    try:
        await here.free.acquire()
    finally:
        here.waiting -= 1
    try:
        yield
    finally:
        here.free.release()


def waiting() -> int:
    """How many requests wait for a turn."""
    return _here().waiting


def is_full(path: str) -> bool:
    """Whether a request is to come again later."""
    return path not in ALWAYS and waiting() >= MOST_WAITING
