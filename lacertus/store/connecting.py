"""How the application connects to its database: as its own role, and so that either side notices when the other is gone.

A machine that loses its power or its network closes nothing. Without these the database would hold what such a worker has locked
for two hours (the system's own time), and a server would wait a quarter of an hour for an answer that does not come.
"""

from __future__ import annotations

from typing import Any

from lacertus.store.apart import AS_ROLE

QUIET_S, EVERY_S, TIMES = 15, 5, 3
"""A connection that is silent so long is asked so many times whether the other side is there, then given up: half a minute."""
CONNECT_S = 10
_SERVER = f"-c tcp_keepalives_idle={QUIET_S} -c tcp_keepalives_interval={EVERY_S} -c tcp_keepalives_count={TIMES}"
OPTIONS = f"{AS_ROLE} {_SERVER}"
"""Options of a connection of the application."""


def arguments(more_options: str = "") -> dict[str, Any]:
    """What a connection of the application is opened with (libpq's own names)."""
    return {
        "options": f"{more_options} {OPTIONS}".strip(),
        "connect_timeout": CONNECT_S,
        "keepalives_idle": QUIET_S,
        "keepalives_interval": EVERY_S,
        "keepalives_count": TIMES,
        "tcp_user_timeout": 1000 * (QUIET_S + EVERY_S * TIMES),
    }
