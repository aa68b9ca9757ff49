"""How the site is, for whoever watches it: whether database and storage answer, room on the disk, and the queue."""

from __future__ import annotations

import shutil
from dataclasses import dataclass
from pathlib import Path

from lacertus.confined.probe import Held
from lacertus.services import site
from lacertus.settings import settings
from lacertus.store import database, queue
from lacertus.store.database import DatabaseError
from lacertus.store.media import StorageAway, media
from lacertus.store.queue import Standing

__all__ = ["SiteNow", "Standing", "look"]


@dataclass(frozen=True, kw_only=True)
class SiteNow:
    """How the site is at the moment. `queue` and `reader` are None where the database does not tell."""

    database: bool
    storage: bool
    free_bytes: int
    queue: Standing | None
    reader: Held | None


def look() -> SiteNow:
    """Ask everything that the site stands on."""
    standing, reader = None, None
    try:
        with database.session() as db:
            standing, reader = queue.standing(db), site.readers_held(db)
        answers = True
    except DatabaseError:
        answers = False
    return SiteNow(database=answers, storage=_storage_answers(), free_bytes=_free_bytes(), queue=standing, reader=reader)


def _storage_answers() -> bool:
    try:
        media().check()
    except StorageAway:
        return False
    return True


def _free_bytes() -> int:
    """Room where uploads lie, or will: the nearest folder that is there."""
    folder = Path(settings().uploads_dir).absolute()
    while not folder.exists():
        folder = folder.parent
    return shutil.disk_usage(folder).free
