"""The other side: starts a confined process, follows what it says, ends it when its time is up, and takes what it made.

The process gets no secrets in its environment, dies with its parent, and writes into one folder of its own. What lies there
afterwards is not trusted: only plain files of the names that are expected are taken, as copies.
"""

from __future__ import annotations

import json
import os
import selectors
import shutil
import signal
import stat
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager, suppress
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from lacertus.confined.child import reader_account
from lacertus.core.errors import LacertusError

REQUEST = "request.json"
MOST_SAID_BYTES = 1_000_000
"""A line that is longer is no progress; the process is ended."""
_POLL_S = 0.5
_KEPT = ("PATH", "LANG")


@dataclass(frozen=True, kw_only=True)
class Bounds:
    """What a process may use: address space in bytes, wall seconds in all, wall seconds without a word, bytes of one file."""

    most_bytes: int = 6_000_000_000
    most_seconds: float = 3600.0
    most_idle_seconds: float = 60.0
    most_written: int = 8_000_000_000


class TookTooLong(LacertusError):
    """The work took longer than is allowed, and was ended. What it began from is kept."""


class StoodStill(LacertusError):
    """The work stood still, and was ended. What it began from is kept."""


@dataclass(frozen=True, kw_only=True)
class Ended:
    """How a process ended: its exit code (negative: the signal that ended it), and the folder that it wrote into."""

    code: int
    folder: Path

    def take(self, name: str, target: Path) -> bool:
        """Copy a file that the process made; False where there is no plain file of that name.

        Never by a link: the process may have put one there that leads elsewhere, or keep writing by another name.
        """
        try:
            handle = os.open(self.folder / name, os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK | os.O_CLOEXEC)
        except OSError:
            return False
        facts = os.fstat(handle)
        if not stat.S_ISREG(facts.st_mode) or facts.st_nlink != 1:
            os.close(handle)
            return False
        with os.fdopen(handle, "rb") as source, target.open("wb") as out:
            shutil.copyfileobj(source, out, 1 << 20)
        return True

    def names(self, *patterns: str) -> list[str]:
        """Names that fit any of some patterns, in order."""
        return sorted({path.name for pattern in patterns for path in self.folder.glob(pattern)})

    def complaint(self, most: int = 2000) -> str:
        """The end of what it wrote to its standard error, for our own log."""
        return self.folder.with_suffix(".log").read_bytes()[-most:].decode("utf-8", "replace")

    @property
    def was_killed(self) -> bool:
        return -self.code in (signal.SIGXCPU, signal.SIGKILL, signal.SIGXFSZ)


@contextmanager
def run_confined(
    module: str, source: Path, request: Mapping[str, Any], room: Path, bounds: Bounds, told: Callable[[dict[str, Any]], None]
) -> Iterator[Ended]:
    """Run `python -m module` on a file that it can read and nothing else, in a folder below `room`; yields when it has ended.

    `told` gets each line of JSON that it says, and may raise to stop the work: the process is ended then.

    Raises:
        TookTooLong, StoodStill: and the process is ended.
    """
    folder = Path(tempfile.mkdtemp(dir=room, prefix="confined-"))
    try:
        process = _start(module, source, request, folder, bounds)
        try:
            for line in _lines(process, bounds):
                with suppress(ValueError, TypeError, KeyError):
                    said = json.loads(line)
                    if isinstance(said, dict):
                        told(said)
            code = process.wait(10)
        finally:
            _end(process)
        yield Ended(code=code, folder=folder)
    finally:
        shutil.rmtree(folder, ignore_errors=True)
        folder.with_suffix(".log").unlink(missing_ok=True)


def _start(module: str, source: Path, request: Mapping[str, Any], folder: Path, bounds: Bounds) -> subprocess.Popen[bytes]:
    kept = {name: os.environ[name] for name in _KEPT if name in os.environ}
    # The arithmetic is small; threads of its own would only take the codec's cores, and memory.
    environment = kept | {"OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1", "TMPDIR": str(folder)}
    # Beside the folder, not in it: what the process may write to it may also put a link in place of.
    with folder.with_suffix(".log").open("wb") as log, source.open("rb") as opened:
        written = dict(request) | {"source": opened.fileno(), "bounds": asdict(bounds)}
        (folder / REQUEST).write_text(json.dumps(written), encoding="utf-8")
        account = reader_account()
        if account is not None:
            for path in (folder, folder / REQUEST):
                os.chown(path, account.pw_uid, account.pw_gid)
        return subprocess.Popen(
            # -I: neither the folder that it stands in nor the environment says where modules come from.
            [sys.executable, "-I", "-B", "-m", module],
            stdin=subprocess.DEVNULL,
            stdout=subprocess.PIPE,
            stderr=log,
            env=environment,
            cwd=folder,
            pass_fds=(opened.fileno(),),
            start_new_session=True,
        )


def _lines(process: subprocess.Popen[bytes], bounds: Bounds) -> Iterator[bytes]:
    """Lines of the output as they come, until the process closes it; raises when time is up."""
    assert process.stdout is not None
    pipe = process.stdout.fileno()
    ends, last, held = time.monotonic() + bounds.most_seconds, time.monotonic(), b""
    with selectors.DefaultSelector() as ready:
        ready.register(pipe, selectors.EVENT_READ)
        while True:
            if not ready.select(_POLL_S):
                _check_time(ends, last, bounds)
                continue
            piece = os.read(pipe, 65_536)
            if not piece:
                return
            last = time.monotonic()
            _check_time(ends, last, bounds)
            *lines, held = (held + piece).split(b"\n")
            if len(held) > MOST_SAID_BYTES:
                raise StoodStill()
            yield from lines


def _check_time(ends: float, last: float, bounds: Bounds) -> None:
    now = time.monotonic()
    if now > ends:
        raise TookTooLong()
    if now - last > bounds.most_idle_seconds:
        raise StoodStill()


def _end(process: subprocess.Popen[bytes]) -> None:
    """End the process and all that it started."""
    if process.poll() is None:
        with suppress(ProcessLookupError):
            os.killpg(process.pid, signal.SIGKILL)
        process.wait()
    if process.stdout is not None:
        process.stdout.close()


def request_here() -> dict[str, Any]:
    """What the process is asked for, as it reads it itself."""
    found: dict[str, Any] = json.loads(Path(REQUEST).read_text(encoding="utf-8"))
    return found
