"""Where the bytes of unfinished uploads lie: in a folder of this machine, or as parts in the object store that all servers share.

In an object store each piece that arrived is an object under the byte that it begins at. What is there of an upload is the chain of
parts from byte 0; a part beside the chain, as two servers leave where both were sent the same, is never read.
"""

from __future__ import annotations

import fcntl
import os
import tempfile
import uuid
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from datetime import datetime
from pathlib import Path
from typing import Protocol

from lacertus.services.errors import Held, NotFound
from lacertus.settings import settings
from lacertus.store.media import UPLOADS, media, upload_key, upload_prefix

PART_BYTES = 16 << 20
"""So many bytes of an upload are kept on the server before they go to the object store as a part."""


class Slot(Protocol):
    """The end of an upload, for one sender: how many bytes are there, and where more go."""

    size: int

    def write(self, data: bytes) -> int:
        """Write behind what is there; returns how many bytes were taken. Raises OSError where there is no room."""
        ...

    def close(self) -> None:
        """Have all that was written stored."""
        ...


def path_of(academy: uuid.UUID, upload: uuid.UUID) -> Path:
    """Where the bytes of an upload lie on this machine: a path of two ids and nothing else."""
    return Path(settings().uploads_dir) / str(academy) / str(upload)


def begin(academy: uuid.UUID, upload: uuid.UUID) -> None:
    """Make room for an upload."""
    path = path_of(academy, upload)
    path.parent.mkdir(parents=True, exist_ok=True)
    path.touch(mode=0o600)


def size_of(academy: uuid.UUID, upload: uuid.UUID) -> int:
    """How many bytes of an upload are there."""
    if media().is_local:
        path = path_of(academy, upload)
        return path.stat().st_size if path.is_file() else 0
    return _chain(academy, upload)[1]


@contextmanager
def held(academy: uuid.UUID, upload: uuid.UUID) -> Iterator[Slot]:
    """The end of an upload, for one sender of this server at a time.

    Raises:
        Held: somebody else is sending it. Nobody waits.
        NotFound: it is gone.
    """
    if not media().is_local:
        begin(academy, upload)
    try:
        handle = os.open(path_of(academy, upload), os.O_WRONLY | os.O_APPEND | os.O_CLOEXEC | os.O_NOFOLLOW)
    except OSError as error:
        raise NotFound("There is no such upload; send the file again.") from error
    try:
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError as error:
            raise Held() from error
        if media().is_local:
            yield _Appended(handle)
            return
        yield _Parts(academy, upload)
    finally:
        os.close(handle)


@contextmanager
def whole(academy: uuid.UUID, upload: uuid.UUID) -> Iterator[Path]:
    """All bytes of an upload as one file of this machine, which may be linked to but not written."""
    if media().is_local:
        yield path_of(academy, upload)
        return
    base = Path(settings().work_dir)
    base.mkdir(parents=True, exist_ok=True)
    with tempfile.NamedTemporaryFile(dir=base) as file:
        for key, size in _chain(academy, upload)[0]:
            for piece in media().read(key, 0, size):
                file.write(piece)
        file.flush()
        yield Path(file.name)


def delete(academy: uuid.UUID, upload: uuid.UUID) -> None:
    """Delete what came of an upload."""
    path_of(academy, upload).unlink(missing_ok=True)
    if not media().is_local:
        media().delete(upload_prefix(academy, upload))


def sweep(known: set[str], before: datetime) -> None:
    """Delete the bytes of uploads that are not known, where nothing was added to them since."""
    for file in Path(settings().uploads_dir).glob("*/*"):
        with suppress(OSError):
            if file.name not in known and file.is_file() and file.stat().st_mtime < before.timestamp():
                file.unlink()
    if media().is_local:
        return
    for academy, _ in media().folders(UPLOADS):
        for upload, changed in media().folders(f"{UPLOADS}/{academy}"):
            if upload not in known and changed < before:
                media().delete(f"{UPLOADS}/{academy}/{upload}")


class _Appended:
    """A file of this machine."""

    def __init__(self, handle: int) -> None:
        self._handle = handle
        self.size = os.fstat(handle).st_size

    def write(self, data: bytes) -> int:
        return os.write(self._handle, data)

    def close(self) -> None:
        """What was written is there already."""


class _Parts:
    """Parts in the object store: what was written and is no part yet is lost where this process ends, and is sent again."""

    def __init__(self, academy: uuid.UUID, upload: uuid.UUID) -> None:
        self._academy, self._upload = academy, upload
        self.size = _chain(academy, upload)[1]
        self._at, self._waiting = self.size, bytearray()

    def write(self, data: bytes) -> int:
        self._waiting += data
        if len(self._waiting) >= PART_BYTES:
            self.close()
        return len(data)

    def close(self) -> None:
        """Store what waits."""
        if self._waiting:
            media().write(upload_key(self._academy, self._upload, self._at), bytes(self._waiting))
            self._at += len(self._waiting)
            self._waiting.clear()


def _chain(academy: uuid.UUID, upload: uuid.UUID) -> tuple[list[tuple[str, int]], int]:
    """The parts of an upload that follow one another from byte 0, each with its size; and how many bytes they are."""
    sizes = media().sizes(upload_prefix(academy, upload))
    found, at = [], 0
    while (key := upload_key(academy, upload, at)) in sizes and sizes[key] > 0:
        found.append((key, sizes[key]))
        at += sizes[key]
    return found, at
