"""Back pressure: what could only stand in line for seconds is answered at once, and asked for again by whoever sent it."""

from __future__ import annotations

from anyio.to_thread import current_default_thread_limiter

AT_ONCE = 16
"""So many requests are worked on at once; each holds one connection to the database, of which there are twenty. On two cores more
threads take turns rather than get on."""
MOST_WAITING = 200
"""So many may wait for a turn: some five seconds' worth of marks on two cores (docs/benchmarks.md)."""
RETRY_S = 2
ALWAYS = ("/api/health", "/metrics")
"""Whoever watches the site is told how it is all the same."""
FULL = "The server has more to do than it can just now. Nothing was changed; it is tried again in a few seconds."


def limit() -> None:
    """Set how many requests this process works on at once; called where its event loop runs."""
    current_default_thread_limiter().total_tokens = AT_ONCE


def waiting() -> int:
    """How many requests wait for a turn."""
    limiter = current_default_thread_limiter()
    return limiter.statistics().tasks_waiting if limiter.borrowed_tokens >= limiter.total_tokens else 0


def is_full(path: str) -> bool:
    """Whether a request is to come again later."""
    return path not in ALWAYS and waiting() >= MOST_WAITING
