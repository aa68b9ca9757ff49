"""What really holds a confined process here, found by trying: python -m lacertus.confined.probe, started as any other."""

from __future__ import annotations

import os
import socket
import sys
import tempfile
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from lacertus.confined.child import confine, say
from lacertus.confined.runner import Bounds, request_here, run_confined
from lacertus.core.errors import LacertusError

MODULE = "lacertus.confined.probe"
PROBE_BOUNDS = Bounds(most_bytes=2_000_000_000, most_seconds=20.0, most_idle_seconds=20.0, most_written=1_000_000)


@dataclass(frozen=True, kw_only=True)
class Held:
    """What confined work cannot do on this machine: the account it runs as where root starts it, Landlock's version, and
    whether it was kept from reading another's file, from writing outside its folder, and from the network."""

    user: str | None
    landlock: int
    reads_nothing_else: bool
    writes_nothing_else: bool
    no_network: bool

    @property
    def whole(self) -> bool:
        return self.reads_nothing_else and self.writes_nothing_else and self.no_network


class NotProbed(LacertusError):
    """How confined work is held could not be found out."""


def probe() -> Held:
    """Start a confined process that tries to get out, and tell what it could not do.

    Raises:
        NotProbed: it did not start.
    """
    said: dict[str, Any] = {}
    with tempfile.TemporaryDirectory() as room:
        others = Path(room) / "others"
        others.write_text("somebody else’s")
        with (
            socket.create_server(("127.0.0.1", 0)) as listening,
            run_confined(
                MODULE,
                others,
                {"others": str(others), "port": listening.getsockname()[1]},
                Path(room),
                PROBE_BOUNDS,
                said.update,
            ) as ended,
        ):
            if ended.code != 0 or not said:
                raise NotProbed(f"a confined process ended at once ({ended.complaint(300)})")
    return Held(**said)


def main() -> int:
    request = request_here()
    bounds = Bounds(**request["bounds"])
    found = confine(bounds.most_bytes, bounds.most_seconds, bounds.most_written)
    others = Path(request["others"])
    say(
        {
            "user": found.user,
            "landlock": found.landlock,
            "reads_nothing_else": not _works(lambda: others.read_bytes()) and not _works(lambda: Path("/etc/passwd").read_bytes()),
            "writes_nothing_else": not _works(lambda: others.with_name("new").write_bytes(b"x")),
            "no_network": not _works(lambda: _connect(request["port"])),
        }
    )
    return 0


def _connect(port: int) -> None:
    with socket.socket(socket.AF_INET, socket.SOCK_STREAM) as sender:
        sender.settimeout(2)
        sender.connect(("127.0.0.1", port))


def _works(attempt: Callable[[], object]) -> bool:
    with suppress(OSError):
        attempt()
        return True
    return False


if __name__ == "__main__":
    os.umask(0o077)
    sys.exit(main())
