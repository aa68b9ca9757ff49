"""Media files: originals, review copies and stills, in a local folder or any store that fsspec knows."""

from __future__ import annotations

import tempfile
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any, cast

import fsspec

from lacertus.core.errors import LacertusError
from lacertus.settings import settings

CHUNK_BYTES = 1 << 18


class NoMedia(LacertusError):
    """This media file is not there."""


def original_key(clip: uuid.UUID) -> str:
    return f"clips/{clip}/original"


def review_key(clip: uuid.UUID) -> str:
    return f"clips/{clip}/review.mp4"


def still_key(clip: uuid.UUID, correction: uuid.UUID) -> str:
    return f"clips/{clip}/stills/{correction}.jpg"


def clip_prefix(clip: uuid.UUID) -> str:
    return f"clips/{clip}"


@dataclass(frozen=True)
class Media:
    """Files by key under one root. Keys are made here, never from what a user typed."""

    root: str

    @property
    def _fs(self) -> Any:
        return fsspec.core.url_to_fs(self.root, auto_mkdir=True)[0]

    def _path(self, key: str) -> str:
        return f"{fsspec.core.url_to_fs(self.root)[1]}/{key}"

    def put(self, source: Path, key: str) -> None:
        """Store a file whole: it is there in full or not at all."""
        part = f"{self._path(key)}.part"
        self._fs.put_file(str(source), part)
        self._fs.mv(part, self._path(key))

    def size(self, key: str) -> int:
        """Bytes of a file.

        Raises:
            NoMedia: it is not there.
        """
        try:
            return cast(int, self._fs.size(self._path(key)))
        except FileNotFoundError as error:
            raise NoMedia() from error

    def read(self, key: str, start: int, end: int) -> Iterator[bytes]:
        """Bytes from `start` up to `end` (exclusive), in pieces."""
        with self._fs.open(self._path(key), "rb") as file:
            file.seek(start)
            left = end - start
            while left > 0 and (piece := file.read(min(CHUNK_BYTES, left))):
                left -= len(piece)
                yield piece

    @contextmanager
    def as_local(self, key: str) -> Iterator[Path]:
        """A local path of a file: itself in a local folder, else a copy for the while.

        Raises:
            NoMedia: it is not there.
        """
        self.size(key)
        if self._fs.protocol in ("file", ("file", "local")):
            yield Path(self._path(key))
            return
        with tempfile.TemporaryDirectory() as folder:
            local = Path(folder) / "media"
            self._fs.get_file(self._path(key), str(local))
            yield local

    def delete(self, prefix: str) -> None:
        """Delete all files under a prefix."""
        if self._fs.exists(self._path(prefix)):
            self._fs.rm(self._path(prefix), recursive=True)


def media() -> Media:
    return Media(settings().media_url)
