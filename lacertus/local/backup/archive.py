"""What a backup holds, entry by entry, and PostgreSQL's tools that write and read its database."""

from __future__ import annotations

import os
import subprocess
import uuid
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from urllib.parse import unquote, urlsplit

from pydantic import BaseModel, ConfigDict

from lacertus.core.errors import BadInput, LacertusError
from lacertus.local.postgres import binaries
from lacertus.settings import settings
from lacertus.store.media import CLIPS, REFERENCES, BadKey, checked_key

ABOUT, DUMP, MEDIA, MANIFEST = "backup.json", "database.dump", "media/", "manifest.json"
ROOTS = (CLIPS, REFERENCES)
PIECE = 1 << 20
COUNTED = ("academy", "account", "student", "clip", "review", "rep", "judgement")
"""Tables whose rows are counted in a backup and again once it is restored."""

Say = Callable[[str], None]


class BackupFailed(LacertusError):
    """The backup broke off. What was there before is as it was."""


class BadBackup(BadInput):
    """This is no backup that can be restored. Nothing was changed."""


class About(BaseModel):
    """What a backup is, and of which moment. The first version had no manifest."""

    model_config = ConfigDict(frozen=True)
    lacertus_backup: int
    at: datetime | None = None


class Stored(BaseModel):
    """A media file: its bytes and their SHA-256."""

    model_config = ConfigDict(frozen=True)
    bytes: int
    sha256: str


class Manifest(BaseModel):
    """What a whole backup holds: its last entry, so that one that broke off has none."""

    model_config = ConfigDict(frozen=True)
    dump: Stored
    files: dict[str, Stored]
    rows: dict[str, int]
    gone: tuple[uuid.UUID, ...] = ()
    """Clips that were deleted while the backup was written: they are deleted again when it is restored."""
    without_film: tuple[uuid.UUID, ...] = ()
    """Clips whose film alone was deleted meanwhile."""


def is_media(name: str) -> bool:
    """Whether an entry is a media file under a key that we could have written."""
    key = name.removeprefix(MEDIA)
    try:
        return name.startswith(MEDIA) and key.split("/")[0] in ROOTS and "/" in checked_key(key)
    except BadKey:
        return False


def run_tool(tool: str, *arguments: str) -> None:
    """Run one of PostgreSQL's tools on our database; the password goes by the environment, never by the command line.

    Raises:
        BackupFailed: it ended with an error.
    """
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


def room() -> Path:
    """Where a dump or a decrypted backup lies for the while: the disk for clips that are being read has room for it."""
    folder = Path(settings().work_dir)
    folder.mkdir(parents=True, exist_ok=True)
    return folder
