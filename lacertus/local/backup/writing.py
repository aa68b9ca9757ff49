"""Writing a backup while the site runs: the database as it is at one moment, and the media of that moment's clips."""

from __future__ import annotations

import hashlib
import io
import tarfile
import tempfile
import time
import uuid
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import partial
from pathlib import Path
from typing import IO, BinaryIO

import psycopg
from psycopg import sql

from lacertus.local.backup.archive import (
    ABOUT,
    COUNTED,
    DUMP,
    MANIFEST,
    MEDIA,
    PIECE,
    About,
    BackupFailed,
    Manifest,
    Say,
    Stored,
    room,
    run_tool,
)
from lacertus.local.backup.sealing import seal
from lacertus.settings import settings
from lacertus.store.media import CLIPS, REFERENCES, Media, NoMedia, media, original_key


def back_up(target: Path, say: Say, public_key: str = "") -> None:
    """Write a backup into a file, encrypted where a public key is given; a file of that name is only replaced when the new one is
    whole.

    Raises:
        BackupFailed: the database could not be dumped, or the file not be written.
        BadKeyFile: the public key is none.
    """
    part = target.with_name(f"{target.name}.part")
    try:
        if public_key:
            seal(part, public_key, partial(_write, say=say))
        else:
            with part.open("wb") as out:
                _write(out, say)
        part.chmod(0o600)
        part.replace(target)
    except (OSError, tarfile.TarError) as error:
        raise BackupFailed(f"the backup could not be written ({error})") from error
    except psycopg.Error as error:
        raise BackupFailed("the database does not answer; nothing was written") from error
    finally:
        part.unlink(missing_ok=True)


@dataclass(frozen=True, kw_only=True)
class _Moment:
    """What the database holds at the moment of the backup."""

    snapshot: str
    films: frozenset[uuid.UUID]
    """Clips whose film is stored."""
    clips: frozenset[uuid.UUID]
    rows: dict[str, int]


@contextmanager
def _moment() -> Iterator[_Moment]:
    """The database at one moment, for us and for `pg_dump`, as long as this is open."""
    with psycopg.connect(settings().database_url) as connection:
        connection.isolation_level = psycopg.IsolationLevel.REPEATABLE_READ
        connection.read_only = True
        name = connection.execute("select pg_export_snapshot()").fetchone()
        clips = connection.execute("select id, has_film from clip").fetchall()
        count = sql.SQL("select count(*) from {}")
        rows = {table: connection.execute(count.format(sql.Identifier(table))).fetchone() for table in COUNTED}
        assert name is not None
        yield _Moment(
            snapshot=name[0],
            films=frozenset(key for key, has_film in clips if has_film),
            clips=frozenset(key for key, _ in clips),
            rows={table: found[0] for table, found in rows.items() if found is not None},
        )


def _write(out: BinaryIO, say: Say) -> None:
    with (
        tempfile.TemporaryDirectory(dir=room()) as name,
        tarfile.open(fileobj=out, mode="w|", dereference=True) as archive,
        ExitStack() as frozen,
    ):
        _add(archive, ABOUT, About(lacertus_backup=2, at=datetime.now(UTC)).model_dump_json().encode())
        dump = Path(name) / DUMP
        # The database's moment ends with its dump: held longer, as media are copied, it would hold up the database's cleaning.
        with _moment() as moment:
            store = frozen.enter_context(media().frozen())
            say("dumping the database")
            run_tool("pg_dump", "--format=custom", "--no-owner", f"--snapshot={moment.snapshot}", f"--file={dump}")
        kept = _add_file(archive, DUMP, dump)
        files = _add_media(archive, store, moment, say)
        frozen.close()
        lost = {clip for clip in moment.films if original_key(clip) not in files}
        there = _still_there(lost)
        gone, without_film = tuple(sorted(lost - there)), tuple(sorted(lost & there))
        whole = Manifest(dump=kept, files=files, rows=moment.rows, gone=gone, without_film=without_film)
        _add(archive, MANIFEST, whole.model_dump_json().encode())


def _still_there(clips: set[uuid.UUID]) -> set[uuid.UUID]:
    """Which of these clips the database holds now, that their films are not."""
    with psycopg.connect(settings().database_url) as connection:
        return {key for (key,) in connection.execute("select id from clip where id = any(%s)", (list(clips),))}


def _add_media(archive: tarfile.TarFile, store: Media, moment: _Moment, say: Say) -> dict[str, Stored]:
    """The files of the moment's clips, and of no later ones; what is deleted meanwhile is left out."""
    own = {str(clip) for clip in moment.clips}
    keys = [*(key for key in store.files(CLIPS) if key.split("/")[1] in own), *store.files(REFERENCES)]
    files: dict[str, Stored] = {}
    for number, key in enumerate(keys, 1):
        try:
            with store.as_local(key) as path:
                files[key] = _add_file(archive, MEDIA + key, path)
        except (NoMedia, FileNotFoundError):
            continue
        if number % 100 == 0 or number == len(keys):
            say(f"  {number} of {len(keys)} files")
    return files


class _Summed(io.RawIOBase):
    """A file that is read once, with the sum of what was read."""

    def __init__(self, source: IO[bytes]) -> None:
        self._source = source
        self.sum = hashlib.sha256()

    def read(self, size: int = -1) -> bytes:
        piece = self._source.read(size)
        self.sum.update(piece)
        return piece


def _add_file(archive: tarfile.TarFile, name: str, path: Path) -> Stored:
    with path.open("rb", buffering=PIECE) as content:
        info = _entry(name, path.stat().st_size)
        summed = _Summed(content)
        archive.addfile(info, summed)
    return Stored(bytes=info.size, sha256=summed.sum.hexdigest())


def _add(archive: tarfile.TarFile, name: str, content: bytes) -> None:
    archive.addfile(_entry(name, len(content)), io.BytesIO(content))


def _entry(name: str, size: int) -> tarfile.TarInfo:
    info = tarfile.TarInfo(name)
    info.size, info.mtime, info.mode = size, int(time.time()), 0o600
    return info
