"""Backing up a whole site, and restoring it: the database and all media in one TAR."""

from __future__ import annotations

import io
import json
import os
import shutil
import subprocess
import tarfile
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from urllib.parse import unquote, urlsplit

import psycopg

from lacertus.core.errors import BadInput, LacertusError
from lacertus.local.postgres import binaries
from lacertus.settings import settings
from lacertus.store.media import CLIPS, REFERENCES, BadKey, NoMedia, checked_key, media

ABOUT, DUMP, MEDIA = "backup.json", "database.dump", "media/"
ROOTS = (CLIPS, REFERENCES)
PIECE = 1 << 20

Say = Callable[[str], None]


class BackupFailed(LacertusError):
    """The backup broke off. What was there before is as it was."""


class BadBackup(BadInput):
    """This is no backup that can be restored. Nothing was changed."""


def back_up(target: Path, say: Say) -> None:
    """Write the database and all media into a TAR file; a file of that name is only replaced when the new one is whole.

    Raises:
        BackupFailed: the database could not be dumped, or the file not be written.
    """
    part = target.with_name(target.name + ".part")
    try:
        with tempfile.TemporaryDirectory() as folder, tarfile.open(part, "w", dereference=True) as archive:
            dump = Path(folder) / DUMP
            # Files that share their bytes on the disk are each written whole: a link in an archive is refused on the way back.
            say("dumping the database")
            _run("pg_dump", "--format=custom", "--no-owner", f"--file={dump}")
            _add(archive, ABOUT, json.dumps({"lacertus_backup": 1}).encode())
            archive.add(dump, DUMP)
            store = media()
            keys = [key for root in ROOTS for key in store.files(root)]
            for number, key in enumerate(keys, 1):
                try:
                    with store.as_local(key) as path:
                        archive.add(path, MEDIA + key)
                except NoMedia:
                    # Deleted since the list was made; its clip goes with the next backup.
                    continue
                if number % 100 == 0 or number == len(keys):
                    say(f"  {number} of {len(keys)} files")
        part.chmod(0o600)
        part.replace(target)
    except (OSError, tarfile.TarError) as error:
        raise BackupFailed(f"the backup could not be written ({error})") from error
    finally:
        part.unlink(missing_ok=True)


def _add(archive: tarfile.TarFile, name: str, content: bytes) -> None:
    info = tarfile.TarInfo(name)
    info.size, info.mtime, info.mode = len(content), int(time.time()), 0o600
    archive.addfile(info, io.BytesIO(content))


def restore(source: Path, say: Say) -> None:
    """Restore a backup into an empty database; one that holds an academy is left alone.

    Raises:
        BadBackup: it is no backup of ours, or the database is not empty.
        BackupFailed: the database did not take it.
    """
    if not _is_empty():
        raise BadBackup("the database holds an academy already; restore into an empty one. Nothing was changed")
    try:
        with tarfile.open(source) as archive, tempfile.TemporaryDirectory() as folder:
            members = archive.getmembers()
            _check(archive, members)
            dump = Path(folder) / DUMP
            _extract(archive, archive.getmember(DUMP), dump)
            say("restoring the database")
            _run("pg_restore", "--no-owner", "--clean", "--if-exists", "--single-transaction", str(dump))
            say("restoring the media")
            for member in members:
                if member.name.startswith(MEDIA):
                    file = Path(folder) / "media"
                    _extract(archive, member, file)
                    media().put(file, member.name.removeprefix(MEDIA))
                    file.unlink()
    except (OSError, tarfile.TarError, KeyError, EOFError) as error:
        raise BadBackup(f"{source.name} is no whole backup ({error})") from error


def _check(archive: tarfile.TarFile, members: list[tarfile.TarInfo]) -> None:
    """Raise unless every entry is a plain file under a name of ours."""
    for member in members:
        if not member.isfile() or not (member.name in (ABOUT, DUMP) or _is_media(member.name)):
            raise BadBackup(f"the file holds “{member.name[:80]}”, which is no name of ours; nothing was changed")
    about = archive.extractfile(ABOUT)
    if about is None or json.loads(about.read(1000)).get("lacertus_backup") != 1:
        raise BadBackup("this is no backup of version 1; nothing was changed")


def _is_media(name: str) -> bool:
    """Whether an entry is a media file under a key that we could have written."""
    key = name.removeprefix(MEDIA)
    try:
        return name.startswith(MEDIA) and key.split("/")[0] in ROOTS and "/" in checked_key(key)
    except BadKey:
        return False


def _extract(archive: tarfile.TarFile, member: tarfile.TarInfo, target: Path) -> None:
    found = archive.extractfile(member)
    assert found is not None
    with found, target.open("wb") as out:
        shutil.copyfileobj(found, out, PIECE)


def _is_empty() -> bool:
    try:
        with psycopg.connect(settings().database_url) as connection:
            there = connection.execute("select to_regclass('academy')").fetchone()
            if there is None or there[0] is None:
                return True
            count = connection.execute("select count(*) from academy").fetchone()
            return count is not None and count[0] == 0
    except psycopg.OperationalError as error:
        raise BackupFailed("the database does not answer; nothing was changed") from error


def _run(tool: str, *arguments: str) -> None:
    """Run one of PostgreSQL's tools on our database; the password goes by the environment, never by the command line."""
    url = urlsplit(settings().database_url)
    environment = dict(os.environ)
    for name, value in (("PGHOST", url.hostname), ("PGPORT", url.port), ("PGUSER", url.username), ("PGPASSWORD", url.password)):
        if value:
            environment[name] = unquote(str(value))
    database = url.path.removeprefix("/")
    done = subprocess.run(
        [str(binaries() / tool), f"--dbname={database}", *arguments],
        env=environment,
        stdin=subprocess.DEVNULL,
        capture_output=True,
        check=False,
    )
    if done.returncode != 0:
        last = done.stderr.decode(errors="replace").strip().splitlines()[-1:]
        raise BackupFailed(f"{tool} failed: {' '.join(last) or done.returncode}")
