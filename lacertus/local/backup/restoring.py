"""Restoring a backup into an empty site, and checking that all of it is there."""

from __future__ import annotations

import hashlib
import shutil
import tarfile
import tempfile
from dataclasses import dataclass
from pathlib import Path

import psycopg
from psycopg import sql
from pydantic import ValidationError

from lacertus.local.backup.archive import (
    ABOUT,
    DUMP,
    MANIFEST,
    MEDIA,
    PIECE,
    About,
    BackupFailed,
    BadBackup,
    Manifest,
    Say,
    Stored,
    is_media,
    room,
    run_tool,
)
from lacertus.local.backup.sealing import is_sealed, unseal
from lacertus.settings import settings
from lacertus.store.media import media, original_key


@dataclass(frozen=True, kw_only=True)
class Restored:
    """What was restored, and found whole."""

    rows: int
    files: int


def restore(source: Path, say: Say, key_file: Path | None = None) -> Restored:
    """Restore a backup into an empty database and check it; a database that holds an academy is left alone.

    Raises:
        BadBackup: it is no backup of ours, is not whole, or the database is not empty.
        BadKeyFile: it is encrypted, and the key is missing or none.
        BackupFailed: the database did not take it, or what was restored is not what was backed up.
    """
    if not _is_empty():
        raise BadBackup("the database holds an academy already; restore into an empty one. Nothing was changed")
    try:
        with tempfile.TemporaryDirectory(dir=room()) as name:
            folder = Path(name)
            if is_sealed(source):
                say("decrypting")
                unseal(source, key_file, folder / "open.tar")
                return _from_tar(folder / "open.tar", folder, say)
            return _from_tar(source, folder, say)
    except (OSError, tarfile.TarError, KeyError, EOFError) as error:
        raise BadBackup(f"{source.name} is no whole backup ({error})") from error


def _from_tar(source: Path, folder: Path, say: Say) -> Restored:
    with tarfile.open(source) as archive:
        members = archive.getmembers()
        manifest = _checked(archive, members)
        dump = folder / DUMP
        found = _extract(archive, archive.getmember(DUMP), dump)
        if manifest is not None and found != manifest.dump:
            raise BadBackup("the database in this backup is damaged; nothing was changed")
        say("restoring the database")
        run_tool("pg_restore", "--no-owner", "--no-privileges", "--clean", "--if-exists", "--single-transaction", str(dump))
        say("restoring the media")
        files = _media(archive, members, folder, manifest)
    if manifest is None:
        return Restored(rows=0, files=files)
    say("checking")
    return Restored(rows=_check(manifest), files=files)


def _media(archive: tarfile.TarFile, members: list[tarfile.TarInfo], folder: Path, manifest: Manifest | None) -> int:
    """Store every media file; each is held against its sum as it comes."""
    count = 0
    for member in members:
        if not member.name.startswith(MEDIA):
            continue
        key, file = member.name.removeprefix(MEDIA), folder / "media"
        found = _extract(archive, member, file)
        if manifest is not None and found != manifest.files.get(key):
            raise BackupFailed(
                f"the media file {key} in this backup is damaged. The database was restored; empty it and try another backup"
            )
        media().put(file, key)
        file.unlink()
        count += 1
    return count


def _check(manifest: Manifest) -> int:
    """Hold what was restored against what was backed up; returns how many rows were counted.

    Raises:
        BackupFailed: something is not there.
    """
    with psycopg.connect(settings().database_url) as connection:
        for table, wanted in manifest.rows.items():
            found = connection.execute(sql.SQL("select count(*) from {}").format(sql.Identifier(table))).fetchone()
            if found is None or found[0] != wanted:
                raise BackupFailed(f"{wanted} rows of {table} were backed up, and {found and found[0]} are there now")
        # What was deleted while the backup was written is wanted nowhere.
        connection.execute("delete from clip where id = any(%s)", (list(manifest.gone),))
        connection.execute("update clip set has_film = false where id = any(%s)", (list(manifest.without_film),))
        films = connection.execute("select id from clip where has_film").fetchall()
    missing = [key for key in manifest.files if media().size(key) != manifest.files[key].bytes]
    missing += [str(clip) for (clip,) in films if original_key(clip) not in manifest.files]
    if missing:
        raise BackupFailed(f"{len(missing)} media files are not as they were backed up, such as {missing[0]}")
    return sum(manifest.rows.values())


def _checked(archive: tarfile.TarFile, members: list[tarfile.TarInfo]) -> Manifest | None:
    """The manifest of a backup, whose entries are all plain files under names of ours, each once; the first version has none.

    Raises:
        BadBackup: it is not so.
    """
    names = [member.name for member in members]
    for member in members:
        if not member.isfile() or not (member.name in (ABOUT, DUMP, MANIFEST) or is_media(member.name)):
            raise BadBackup(f"the file holds “{member.name[:80]}”, which is no name of ours; nothing was changed")
    if len(set(names)) != len(names):
        raise BadBackup("the file holds a name twice; nothing was changed")
    try:
        about = About.model_validate_json(_read(archive, ABOUT))
        if about.lacertus_backup == 1:
            return None
        if about.lacertus_backup != 2:
            raise BadBackup("this backup was written by a newer version of Lacertus; nothing was changed")
        manifest = Manifest.model_validate_json(_read(archive, MANIFEST))
    except ValidationError as error:
        raise BadBackup("this is no backup of ours; nothing was changed") from error
    if {MEDIA + key for key in manifest.files} != {name for name in names if name.startswith(MEDIA)}:
        raise BadBackup("media files are missing from this backup; nothing was changed")
    return manifest


def _read(archive: tarfile.TarFile, name: str) -> bytes:
    found = archive.extractfile(name)
    assert found is not None
    return found.read(1 << 28)


def _extract(archive: tarfile.TarFile, member: tarfile.TarInfo, target: Path) -> Stored:
    found = archive.extractfile(member)
    assert found is not None
    with found, target.open("wb") as out:
        shutil.copyfileobj(found, out, PIECE)
    with target.open("rb") as content:
        return Stored(bytes=target.stat().st_size, sha256=hashlib.file_digest(content, "sha256").hexdigest())


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
