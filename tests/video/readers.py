"""The processes of this one that read files."""

from __future__ import annotations

import os
from pathlib import Path


def children() -> list[int]:
    """Readers that this process has started and that are running, by process id; other tests' workers may run their own."""
    found = []
    for entry in Path("/proc").glob("[0-9]*"):
        try:
            parent = int((entry / "stat").read_text().rpartition(") ")[2].split()[1])
            if parent == os.getpid() and b"lacertus.video.intake.child" in (entry / "cmdline").read_bytes():
                found.append(int(entry.name))
        except OSError:
            continue
    return found
