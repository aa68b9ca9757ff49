"""The process that reads one clip: python -m lacertus.video.child SOURCE FOLDER LIMITS BOUNDS. See `apart`."""

from __future__ import annotations

import ctypes
import json
import os
import resource
import signal
import sys
import time
from pathlib import Path

from pydantic import TypeAdapter

from lacertus.core.errors import LacertusError
from lacertus.video.apart import RESULT
from lacertus.video.inspect import Limits
from lacertus.video.reading import Reading, read_whole

PROGRESS_EVERY_S = 0.2
PR_SET_PDEATHSIG = 1
"""linux/prctl.h: the signal that this process gets when its parent dies."""


def confine(most_bytes: int, most_seconds: float) -> None:
    """Give up what reading a clip does not need, before a byte of it is looked at."""
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGKILL)
    if os.getppid() == 1:
        sys.exit(1)
    cpu_s = int(most_seconds * (os.cpu_count() or 1)) + 1
    for what, most in ((resource.RLIMIT_AS, most_bytes), (resource.RLIMIT_CPU, cpu_s), (resource.RLIMIT_CORE, 0)):
        _lower(what, most)


def _lower(what: int, most: int) -> None:
    """Lower a limit; one that is lower already stays."""
    _, hard = resource.getrlimit(what)
    if hard == resource.RLIM_INFINITY or most < hard:
        resource.setrlimit(what, (most, most))


def main(source: Path, folder: Path, limits: dict[str, float | None], bounds: dict[str, float]) -> int:
    confine(int(bounds["most_bytes"]), bounds["most_seconds"])
    try:
        reading = read_whole(source, folder, _Say(), Limits(**limits))  # type: ignore[arg-type]
    except LacertusError as error:
        say({"refused": str(error)})
        return 2
    except MemoryError:
        say({"refused": f"{source.name} needs more memory to read than is allowed here; export it smaller or cut it first"})
        return 2
    (folder / RESULT).write_bytes(TypeAdapter(Reading).dump_json(reading))
    return 0


def say(what: dict[str, object]) -> None:
    print(json.dumps(what), flush=True)


class _Say:
    """Progress a few times a second."""

    def __init__(self) -> None:
        self._next = 0.0

    def __call__(self, done: int, expected: int | None) -> None:
        if time.monotonic() >= self._next:
            self._next = time.monotonic() + PROGRESS_EVERY_S
            say({"done": done, "of": expected})


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1]), Path(sys.argv[2]), json.loads(sys.argv[3]), json.loads(sys.argv[4])))
