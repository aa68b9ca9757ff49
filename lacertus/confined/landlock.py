"""Landlock: a process gives up the files and the network that it does not need, for good. Constants of linux/landlock.h.

Written here because what the package index has for it are development releases; these are three system calls.
"""

from __future__ import annotations

import ctypes
import os
from collections.abc import Iterable
from pathlib import Path

_CREATE, _ADD, _RESTRICT = 444, 445, 446
"""System call numbers, the same on every architecture."""
_VERSION_FLAG = 1
_PATH_BENEATH = 1
_READ_FILE, _READ_DIR, _EXECUTE = 1 << 2, 1 << 3, 1 << 0
_WRITE_FILE, _REMOVE_FILE, _MAKE_REG, _TRUNCATE = 1 << 1, 1 << 5, 1 << 8, 1 << 14
_FILES = (1 << 13) - 1
"""All that the first version knows of files."""
_SINCE = {2: 1 << 13, 3: _TRUNCATE, 5: 1 << 15}
"""What later versions know besides: linking across folders, cutting off, controlling devices."""
_TCP = 3
_SCOPES = 3
_NO_NEW_PRIVILEGES = 38


class _Ruleset(ctypes.Structure):
    _fields_ = (("files", ctypes.c_uint64), ("network", ctypes.c_uint64), ("scopes", ctypes.c_uint64))


class _Beneath(ctypes.Structure):
    _pack_ = 1
    _fields_ = (("allowed", ctypes.c_uint64), ("folder", ctypes.c_int32))


def version() -> int:
    """Which version of Landlock this kernel has; 0 where it has none, or it is switched off."""
    return max(int(_libc().syscall(_CREATE, None, 0, _VERSION_FLAG)), 0)


def restrict(readable: Iterable[Path], writable: Iterable[Path]) -> int:
    """Give up every file but those below some folders, and the network as far as the kernel can; returns Landlock's version.

    Folders that are not there are left out. Files that are open stay open. Where the kernel has no Landlock nothing is given
    up, and 0 is returned.

    Raises:
        OSError: the kernel has Landlock and refused.
    """
    found = version()
    libc = _libc()
    if libc.prctl(_NO_NEW_PRIVILEGES, 1, 0, 0, 0) != 0:
        raise OSError(ctypes.get_errno(), "no_new_privs was refused")
    if found == 0:
        return 0
    handled = _FILES
    for since, right in _SINCE.items():
        handled |= right if found >= since else 0
    rules = _Ruleset(files=handled, network=_TCP if found >= 4 else 0, scopes=_SCOPES if found >= 6 else 0)
    size = 8 if found < 4 else 16 if found < 6 else 24
    ruleset = _checked(libc.syscall(_CREATE, ctypes.byref(rules), size, 0), "landlock_create_ruleset")
    read = _READ_FILE | _READ_DIR | _EXECUTE
    write = read | _WRITE_FILE | _REMOVE_FILE | _MAKE_REG | _TRUNCATE
    for folders, rights in ((readable, read), (writable, write)):
        for folder in folders:
            _allow(libc, ruleset, folder, rights & handled)
    _checked(libc.syscall(_RESTRICT, ruleset, 0), "landlock_restrict_self")
    os.close(ruleset)
    return found


def _allow(libc: ctypes.CDLL, ruleset: int, folder: Path, rights: int) -> None:
    try:
        handle = os.open(folder, os.O_PATH | os.O_CLOEXEC)
    except FileNotFoundError:
        return
    try:
        if not folder.is_dir():
            rights &= _READ_FILE | _WRITE_FILE | _EXECUTE | _TRUNCATE
        rule = _Beneath(allowed=rights, folder=handle)
        _checked(libc.syscall(_ADD, ruleset, _PATH_BENEATH, ctypes.byref(rule), 0), "landlock_add_rule")
    finally:
        os.close(handle)


def _checked(result: int, what: str) -> int:
    if result < 0:
        raise OSError(ctypes.get_errno(), f"{what} was refused")
    return result


def _libc() -> ctypes.CDLL:
    return ctypes.CDLL(None, use_errno=True)
