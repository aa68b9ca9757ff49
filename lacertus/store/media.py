"""Media files: originals, review copies and stills, in a local folder or any store that fsspec knows."""

from __future__ import annotations

import errno
import re
import shutil
import tempfile
import uuid
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import cache, wraps
from pathlib import Path
from typing import Any, ParamSpec, TypeVar, cast

import fsspec
import fsspec.exceptions

from lacertus.core.errors import LacertusError
from lacertus.settings import settings

P = ParamSpec("P")
R = TypeVar("R")
CHUNK_BYTES = 1 << 18
FETCHED_BYTES = 1 << 22
"""So many bytes of an object are asked for at once: each asking costs the way there and back."""
PARTS_BYTES = 16 << 20
"""A file over so many bytes goes to an object store in parts of this size."""
_PART_END = ".part"
"""So ends the name of a file that is being written."""
CLIPS = "clips"
TAKES = "takes"
REFERENCES = "references"
UPLOADS = "uploads"
_PART = re.compile(r"[A-Za-z0-9_-][A-Za-z0-9_.-]*")


class NoMedia(LacertusError):
    """This media file is not there."""


class BadKey(LacertusError):
    """This is no place among the media files. Nothing was read or written."""


class TooMuch(LacertusError):
    """A file holds more than it said. Nothing of it was stored."""


class StorageAway(LacertusError):
    """The media store does not answer, or refuses. Nothing was stored; try again, and tell the server’s administrator."""


class StorageFull(LacertusError):
    """The disk of the media store is full. Nothing was stored, and what was stored before is kept; tell its administrator."""


@contextmanager
def as_ours() -> Iterator[None]:
    """The one place where errors of fsspec and of the stores below it become ours.

    Raises:
        NoMedia: a file is not there.
        StorageFull: there is no room.
        StorageAway: anything else that a store can answer.
    """
    try:
        yield
    except FileNotFoundError as error:
        raise NoMedia() from error
    except OSError as error:
        raise (StorageFull() if error.errno in (errno.ENOSPC, errno.EDQUOT) else StorageAway()) from error
    except (fsspec.exceptions.FSTimeoutError, fsspec.exceptions.BlocksizeMismatchError, ImportError) as error:
        raise StorageAway() from error
    except Exception as error:
        # The client of an object store has errors of its own; it is only loaded where there is one.
        if type(error).__module__.split(".")[0] not in ("botocore", "aiobotocore", "aiohttp"):
            raise
        raise StorageAway() from error


def _told(method: Callable[P, R]) -> Callable[P, R]:
    """A method whose errors are ours."""

    @wraps(method)
    def told(*args: P.args, **more: P.kwargs) -> R:
        with as_ours():
            return method(*args, **more)

    return told


def original_key(clip: uuid.UUID) -> str:
    return f"{CLIPS}/{clip}/original"


def review_key(clip: uuid.UUID) -> str:
    return f"{CLIPS}/{clip}/review.mp4"


def made_key(clip: uuid.UUID, name: str) -> str:
    """A file that reading the clip made: a sheet of the filmstrip, traces, camera motion."""
    return f"{CLIPS}/{clip}/made/{name}"


def still_key(clip: uuid.UUID, correction: uuid.UUID) -> str:
    return f"{CLIPS}/{clip}/stills/{correction}.jpg"


def voice_key(clip: uuid.UUID, correction: uuid.UUID) -> str:
    """What the coach said over a correction, as the browser recorded it."""
    return f"{CLIPS}/{clip}/voice/{correction}"


def example_key(clip: uuid.UUID, correction: uuid.UUID) -> str:
    """The picture out of this clip that stands beside a correction, maybe of another clip: it goes when this clip goes."""
    return f"{CLIPS}/{clip}/beside/{correction}.jpg"


def reference_key(name: str) -> str:
    """A picture of the studio's figure."""
    return f"{REFERENCES}/{name}.jpg"


def reference_film_key(name: str) -> str:
    """The same as a short film."""
    return f"{REFERENCES}/{name}.mp4"


def marked_key(clip: uuid.UUID) -> str:
    return f"{CLIPS}/{clip}/marked.mp4"


def take_key(take: uuid.UUID) -> str:
    """A film that the eye is trained on."""
    return f"{TAKES}/{take}.mp4"


def compared_key(clip: uuid.UUID, film: uuid.UUID) -> str:
    """A film of a comparison that begins with a rep of this clip."""
    return f"{compared_prefix(clip)}/{film}.mp4"


def compared_prefix(clip: uuid.UUID) -> str:
    return f"{CLIPS}/{clip}/compared"


def paper_prefix(clip: uuid.UUID) -> str:
    """Where the sheets of a clip's review lie as PDF."""
    return f"{CLIPS}/{clip}/papers"


def captions_key(clip: uuid.UUID) -> str:
    return f"{CLIPS}/{clip}/marked.vtt"


def upload_prefix(academy: uuid.UUID, upload: uuid.UUID) -> str:
    return f"{UPLOADS}/{academy}/{upload}"


def upload_key(academy: uuid.UUID, upload: uuid.UUID, at: int) -> str:
    """A part of an unfinished upload that begins at a byte."""
    return f"{upload_prefix(academy, upload)}/{at:020}"


def clip_prefix(clip: uuid.UUID) -> str:
    return f"{CLIPS}/{clip}"


def checked_key(key: str) -> str:
    """The key itself.

    Raises:
        BadKey: a part of it is empty, begins with a dot, or holds anything but letters, digits, `_`, `.` and `-`.
    """
    if not all(_PART.fullmatch(part) for part in key.split("/")):
        raise BadKey()
    return key


@cache
def _opened(root: str) -> tuple[Any, str]:
    """The store of a root, and the root's own address in it. Listings are never kept: other servers and workers write too."""
    if not root.startswith("s3://"):
        found = fsspec.core.url_to_fs(root, auto_mkdir=True, use_listings_cache=False)
        return found[0], str(found[1])
    now = settings()
    place = {"endpoint_url": now.media_endpoint or None, "region_name": now.media_region or None}
    found = fsspec.core.url_to_fs(
        root,
        key=now.media_key or None,
        secret=now.media_secret or None,
        client_kwargs={name: value for name, value in place.items() if value},
        config_kwargs={"connect_timeout": 5, "read_timeout": 30, "retries": {"max_attempts": 3}},
        use_listings_cache=False,
        default_fill_cache=False,
        default_cache_type="none",
    )
    return found[0], str(found[1])


@dataclass(frozen=True)
class Media:
    """Files by key under one root. Keys are made here, never from what a user typed."""

    root: str

    @property
    def _fs(self) -> Any:
        return _opened(self.root)[0]

    def _path(self, key: str) -> str:
        """The address of a key below the root; raises BadKey for one that could lie anywhere else."""
        return f"{self._base}/{checked_key(key)}"

    @property
    def _base(self) -> str:
        return _opened(self.root)[1]

    @_told
    def put(self, source: Path, key: str) -> None:
        """Store a file whole: it is there in full or not at all. The source is left; it must not be written to again."""
        self._store(source, key, may_link=True)

    @_told
    def write(self, key: str, data: bytes) -> None:
        """Store bytes whole under a key, in place of what was there."""
        with tempfile.NamedTemporaryFile() as file:
            file.write(data)
            file.flush()
            self._store(Path(file.name), key)

    @_told
    def write_stream(self, key: str, pieces: Iterator[bytes], most_bytes: int) -> None:
        """Store pieces whole under a key.

        Raises:
            TooMuch: there are more bytes than were told.
        """
        with tempfile.NamedTemporaryFile() as file:
            count = 0
            for piece in pieces:
                count += len(piece)
                if count > most_bytes:
                    raise TooMuch()
                file.write(piece)
            file.flush()
            self._store(Path(file.name), key)

    def _store(self, source: Path, key: str, *, may_link: bool = False) -> None:
        if not self.is_local:
            # An object is there once its last part is, and not before.
            try:
                self._fs.put_file(str(source), self._path(key), chunksize=PARTS_BYTES)
            except FileNotFoundError as error:
                raise StorageAway() from error
            return
        # A name of its own: two workers that store the same key take nothing from one another.
        part = f"{self._path(key)}.{uuid.uuid4().hex}{_PART_END}"
        if not (may_link and self._linked(source, Path(part))):
            self._fs.put_file(str(source), part)
        self._fs.mv(part, self._path(key))

    @_told
    def files(self, prefix: str) -> list[str]:
        """The keys of all files under a prefix, in order; files that are being written are left out."""
        return sorted(self._sizes(prefix))

    @_told
    def sizes(self, prefix: str) -> dict[str, int]:
        """Bytes of all files under a prefix, by key, as of `files`."""
        return self._sizes(prefix)

    def _sizes(self, prefix: str) -> dict[str, int]:
        if not self._fs.exists(self._path(prefix)):
            return {}
        root = f"{self._base}/"
        found = self._fs.find(self._path(prefix), detail=True)
        return {
            str(path).removeprefix(root): int(entry["size"]) for path, entry in found.items() if not str(path).endswith(".part")
        }

    def _linked(self, source: Path, part: Path) -> bool:
        """Within one local disk a second name for the same bytes is enough, whatever their number."""
        try:
            part.parent.mkdir(parents=True, exist_ok=True)
            part.unlink(missing_ok=True)
            part.hardlink_to(source)
        except OSError:
            return False
        return True

    @property
    def is_local(self) -> bool:
        """Whether the files lie in a folder of this machine."""
        return self._fs.protocol in ("file", ("file", "local"))

    @_told
    def size(self, key: str) -> int:
        """Bytes of a file.

        Raises:
            NoMedia: it is not there.
        """
        return cast(int, self._fs.size(self._path(key)))

    @_told
    def facts(self, key: str) -> tuple[int, str]:
        """Bytes of a file, and what changes when it is written anew.

        Raises:
            NoMedia: it is not there.
        """
        found = self._fs.info(self._path(key))
        return int(found["size"]), str(found.get("ETag") or found.get("mtime") or "")

    def read(self, key: str, start: int, end: int) -> Iterator[bytes]:
        """Bytes from `start` up to `end` (exclusive), in pieces."""
        if not self.is_local:
            yield from self._fetched(key, start, end)
            return
        with as_ours(), self._fs.open(self._path(key), "rb") as file:
            file.seek(start)
            left = end - start
            while left > 0 and (piece := file.read(min(CHUNK_BYTES, left))):
                left -= len(piece)
                yield piece

    def _fetched(self, key: str, start: int, end: int) -> Iterator[bytes]:
        for first in range(start, end, FETCHED_BYTES):
            with as_ours():
                piece = self._fs.cat_file(self._path(key), start=first, end=min(first + FETCHED_BYTES, end))
            if not piece:
                return
            yield piece

    @contextmanager
    def as_local(self, key: str, folder: Path | None = None) -> Iterator[Path]:
        """A local path of a file: itself in a local folder, else a copy for the while (below `folder`).

        Raises:
            NoMedia: it is not there.
        """
        self.size(key)
        if self.is_local:
            yield Path(self._path(key))
            return
        with tempfile.TemporaryDirectory(dir=folder) as below:
            local = Path(below) / "media"
            with as_ours():
                self._fs.get_file(self._path(key), str(local))
            yield local

    @_told
    def folders(self, prefix: str) -> list[tuple[str, datetime]]:
        """Names right below a prefix, and when each was last changed."""
        if not self.is_local:
            return self._folders_of_objects(prefix)
        if not self._fs.exists(self._path(prefix)):
            return []
        found = self._fs.ls(self._path(prefix), detail=True)
        return [(Path(entry["name"]).name, _changed(entry)) for entry in found]

    def _folders_of_objects(self, prefix: str) -> list[tuple[str, datetime]]:
        """An object store has no folders, and so no time of one: the newest of what lies below it counts."""
        base = f"{self._path(prefix)}/"
        newest: dict[str, datetime] = {}
        for path, entry in self._fs.find(self._path(prefix), detail=True).items():
            name = str(path).removeprefix(base).split("/")[0]
            newest[name] = max(newest.get(name, _LONG_AGO), _changed(entry))
        return sorted(newest.items())

    @_told
    def sweep_parts(self, prefix: str, before: datetime) -> int:
        """Delete files that were begun before a moment and never became whole, as where a process was killed; returns how many.

        An object store keeps none.
        """
        if not self.is_local or not self._fs.exists(self._path(prefix)):
            return 0
        found = self._fs.find(self._path(prefix), detail=True).items()
        old = [str(path) for path, entry in found if str(path).endswith(_PART_END) and _changed(entry) < before]
        for path in old:
            self._fs.rm(path)
        return len(old)

    @contextmanager
    def frozen(self) -> Iterator[Media]:
        """The files as they are now, whatever is written and deleted meanwhile: in a local folder second names for the same bytes;
        of an object store the store itself, from which files may go."""
        if not self.is_local:
            yield self
            return
        base = Path(self._base)
        base.mkdir(parents=True, exist_ok=True)
        for left in base.glob(f"{_FROZEN}*"):
            # Of one that was killed.
            shutil.rmtree(left, ignore_errors=True)
        with tempfile.TemporaryDirectory(prefix=_FROZEN, dir=base) as name:
            for key in (key for root in (CLIPS, REFERENCES) for key in self.files(root)):
                target = Path(name) / key
                target.parent.mkdir(parents=True, exist_ok=True)
                with suppress(FileNotFoundError):
                    target.hardlink_to(base / key)
            yield Media(f"file://{name}")

    @_told
    def check(self) -> None:
        """Ask the store for something that is not there.

        Raises:
            StorageAway: it does not answer.
        """
        self._fs.exists(f"{self._base}/{CLIPS}/{uuid.uuid4()}")

    @_told
    def delete(self, prefix: str) -> None:
        """Delete all files under a prefix."""
        if self._fs.exists(self._path(prefix)):
            self._fs.rm(self._path(prefix), recursive=True)


_FROZEN = ".frozen-"
"""No key begins with a dot."""
_LONG_AGO = datetime(1970, 1, 1, tzinfo=UTC)


def _changed(entry: dict[str, Any]) -> datetime:
    """When an entry of a listing was changed; a store that does not say counts as now."""
    at = entry.get("mtime") or entry.get("LastModified")
    if isinstance(at, datetime):
        return at if at.tzinfo else at.replace(tzinfo=UTC)
    return datetime.fromtimestamp(at, UTC) if isinstance(at, int | float) else datetime.now(UTC)


def media() -> Media:
    return Media(settings().media_url)
