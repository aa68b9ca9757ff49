"""The confined side: what a process gives up before it looks at the first byte of a file that a stranger made."""

from __future__ import annotations

import codecs
import ctypes
import json
import os
import pwd
import resource
import signal
import sys
import time
from dataclasses import dataclass
from pathlib import Path

from lacertus.confined import landlock

PROGRESS_EVERY_S = 0.2
OWN_USER, FALLBACK_USER = "lacertus-reader", "nobody"
"""Whom a process of root becomes: the account made for it where there is one, else the account that owns nothing."""
_PARENT_DEATH = 1
"""linux/prctl.h: the signal that this process gets when its parent dies."""
_CODECS = ("ascii", "utf-8", "latin-1", "cp437", "utf-16", "utf-16-le", "utf-16-be", "cp1252", "idna")
"""Codecs that libraries ask for while they work: Python loads each when it is first named, which may be too late."""
_NEW_NETWORK = 0x40000000
"""linux/sched.h: a network of one's own, in which there is nothing."""


@dataclass(frozen=True, kw_only=True)
class Confinement:
    """What holds a confined process: the account that it runs as where root started it, Landlock's version (0: the kernel has
    none), and what it has of the network (`none`, `no_tcp` or `all`)."""

    user: str | None
    landlock: int
    network: str


def reader_account() -> pwd.struct_passwd | None:
    """The account that confined work runs as where root starts it; None for any other user, who stays who they are."""
    if os.geteuid() != 0:
        return None
    try:
        return pwd.getpwnam(OWN_USER)
    except KeyError:
        return pwd.getpwnam(FALLBACK_USER)


def confine(most_bytes: int, most_seconds: float, most_written: int) -> Confinement:
    """Give up all but the folder that this process stands in. Everything that is imported later must be importable all the same.

    Args:
        most_bytes: address space.
        most_seconds: wall seconds; the processor's time is limited to that on all cores.
        most_written: bytes of one file.
    """
    cpu_s = int(most_seconds * (os.cpu_count() or 1)) + 1
    limits = ((resource.RLIMIT_AS, most_bytes), (resource.RLIMIT_CPU, cpu_s), (resource.RLIMIT_FSIZE, most_written))
    for what, most in (*limits, (resource.RLIMIT_CORE, 0)):
        _lower(what, most)
    for name in _CODECS:
        codecs.lookup(name)
    account = reader_account()
    no_network = account is not None and ctypes.CDLL(None).unshare(_NEW_NETWORK) == 0
    # Before the account changes: what Landlock is told of may lie where the other account cannot go.
    found = landlock.restrict(_code(), [Path.cwd(), Path("/dev/null")])
    if account is not None:
        os.setgroups([])
        os.setresgid(account.pw_gid, account.pw_gid, account.pw_gid)
        os.setresuid(account.pw_uid, account.pw_uid, account.pw_uid)
    # A change of account takes this back, so it comes last.
    ctypes.CDLL(None).prctl(_PARENT_DEATH, signal.SIGKILL)
    if os.getppid() == 1:
        sys.exit(1)
    network = "none" if no_network else "no_tcp" if found >= 4 else "all"
    return Confinement(user=account.pw_name if account else None, landlock=found, network=network)


def _code() -> list[Path]:
    """Where Python, its packages, this package and the system's libraries lie: code, and nothing of anyone's."""
    package = Path(__file__).resolve().parent.parent
    return [Path(sys.prefix), Path(sys.base_prefix), package, Path("/usr"), Path("/lib"), Path("/lib64"), Path("/etc/ld.so.cache")]


def _lower(what: int, most: int) -> None:
    """Lower a limit; one that is lower already stays."""
    _, hard = resource.getrlimit(what)
    if hard == resource.RLIM_INFINITY or most < hard:
        resource.setrlimit(what, (most, most))


def say(what: dict[str, object]) -> None:
    """Tell the other side something, as a line of JSON."""
    print(json.dumps(what), flush=True)


class SayProgress:
    """Tells how far the work is, a few times a second."""

    def __init__(self) -> None:
        self._next = 0.0

    def __call__(self, done: int, expected: int | None) -> None:
        if time.monotonic() >= self._next:
            self._next = time.monotonic() + PROGRESS_EVERY_S
            say({"done": done, "of": expected})
