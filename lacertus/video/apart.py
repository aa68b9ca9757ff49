"""Reading a clip in a process of its own, with limits on memory and time: a hostile or broken file can end only that.

The process gets no secrets in its environment, dies with its parent, and writes into one folder. It says how
far it is in lines of JSON; what it found lies in `reading.json` when it ends well.
"""

from __future__ import annotations

import json
import os
import selectors
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import asdict, dataclass
from pathlib import Path

from pydantic import TypeAdapter

from lacertus.video.errors import BadVideo
from lacertus.video.inspect import Limits, Progress
from lacertus.video.reading import Reading

RESULT = "reading.json"
LOG = "reading.log"
_READING = TypeAdapter(Reading)
_POLL_S = 0.5


@dataclass(frozen=True, kw_only=True)
class Bounds:
    """What the process may use: address space in bytes, wall seconds in all, and wall seconds without a frame."""

    most_bytes: int = 6_000_000_000
    most_seconds: float = 3600.0
    most_idle_seconds: float = 60.0


def read_apart(source: Path, folder: Path, limits: Limits, bounds: Bounds, progress: Progress | None = None) -> Reading:
    """Read a clip as `reading.read_whole` does, in another process.

    `progress` may raise to stop the work: the process is ended then, and nothing of it goes on.

    Raises:
        BadVideo: the file cannot be read, is over a limit, or made the reader end.
    """
    process = _start(source, folder, limits, bounds)
    try:
        refused = _follow(process, source.name, bounds, progress)
        code = process.wait(10)
    finally:
        _end(process)
    if refused is not None:
        raise BadVideo(refused)
    if code != 0 or not (folder / RESULT).is_file():
        raise BadVideo(_why(code, source.name))
    return _READING.validate_json((folder / RESULT).read_bytes())


def _start(source: Path, folder: Path, limits: Limits, bounds: Bounds) -> subprocess.Popen[bytes]:
    command = [
        sys.executable,
        "-m",
        "lacertus.video.child",
        str(source),
        str(folder),
        json.dumps(asdict(limits)),
        json.dumps(asdict(bounds)),
    ]
    # Nothing of the worker's own environment, which holds the database's password.
    kept = {name: os.environ[name] for name in ("PATH", "LANG", "TMPDIR", "PYTHONDONTWRITEBYTECODE") if name in os.environ}
    # The arithmetic is small; threads of its own would only take the codec's cores, and memory.
    environment = kept | {"OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}
    with (folder / LOG).open("wb") as log:
        return subprocess.Popen(
            command,
            stdin=subprocess.DEVNULL,
            stdout=subprocess.PIPE,
            stderr=log,
            env=environment,
            cwd=folder,
            start_new_session=True,
        )


def _follow(process: subprocess.Popen[bytes], name: str, bounds: Bounds, progress: Progress | None) -> str | None:
    """Hand on progress until the process closes its output; returns the reason where it refused the file."""
    refused: str | None = None
    for line in _lines(process, name, bounds):
        with suppress(ValueError, TypeError, KeyError):
            said = json.loads(line)
            if "refused" in said:
                refused = str(said["refused"])
                continue
            done, expected = int(said["done"]), said["of"]
            if progress is not None:
                progress(done, None if expected is None else int(expected))
    return refused


def _lines(process: subprocess.Popen[bytes], name: str, bounds: Bounds) -> Iterator[bytes]:
    """Lines of the output as they come; raises BadVideo when time is up."""
    assert process.stdout is not None
    pipe = process.stdout.fileno()
    ends, last, held = time.monotonic() + bounds.most_seconds, time.monotonic(), b""
    with selectors.DefaultSelector() as ready:
        ready.register(pipe, selectors.EVENT_READ)
        while True:
            if not ready.select(_POLL_S):
                _check_time(name, ends, last, bounds)
                continue
            piece = os.read(pipe, 65_536)
            if not piece:
                return
            last = time.monotonic()
            _check_time(name, ends, last, bounds)
            *lines, held = (held + piece).split(b"\n")
            yield from lines


def _check_time(name: str, ends: float, last: float, bounds: Bounds) -> None:
    now = time.monotonic()
    if now > ends:
        raise BadVideo(
            f"{name} took longer than {bounds.most_seconds / 60:.0f} minutes to read and was given up; cut it on the phone first"
        )
    if now - last > bounds.most_idle_seconds:
        raise BadVideo(f"{name} stands still while it is read, so it was given up; it may be damaged: send the original again")


def _end(process: subprocess.Popen[bytes]) -> None:
    """End the process and all that it started."""
    if process.poll() is None:
        with suppress(ProcessLookupError):
            os.killpg(process.pid, signal.SIGKILL)
        process.wait()
    if process.stdout is not None:
        process.stdout.close()


def _why(code: int, name: str) -> str:
    if -code in (signal.SIGXCPU, signal.SIGKILL, signal.SIGXFSZ):
        return f"{name} needs more memory or time to read than is allowed here; export it smaller or cut it first"
    return (
        f"{name} made the reader fail (code {code}); it is damaged or of a kind that cannot be read here: "
        "export it as MP4 and send that"
    )
