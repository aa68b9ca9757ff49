"""Folders in which jobs make what is not whole yet. One that a killed worker left is cleared away by the next."""

from __future__ import annotations

import fcntl
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from lacertus.settings import settings

LOCK = "in-use"


@contextmanager
def room() -> Iterator[Path]:
    """A folder of one's own below the work folder, gone at the end. Its lock ends with the process that holds it."""
    base = Path(settings().work_dir).resolve()
    base.mkdir(parents=True, exist_ok=True)
    folder = Path(tempfile.mkdtemp(dir=base, prefix="job-"))
    with (folder / LOCK).open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        try:
            yield folder
        finally:
            shutil.rmtree(folder, ignore_errors=True)


def clear_abandoned() -> int:
    """Delete rooms whose process has ended; returns how many."""
    base = Path(settings().work_dir).resolve()
    if not base.is_dir():
        return 0
    return sum(_cleared(folder) for folder in base.glob("job-*"))


def _cleared(folder: Path) -> bool:
    with suppress(OSError), (folder / LOCK).open("r+") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        shutil.rmtree(folder, ignore_errors=True)
        return True
    return False
