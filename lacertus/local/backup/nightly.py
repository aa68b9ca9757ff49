"""A backup every night into a folder, of which old ones are thinned out."""

from __future__ import annotations

import re
from collections.abc import Iterable
from datetime import UTC, date, datetime
from pathlib import Path

import psycopg

from lacertus.local.backup.archive import BackupFailed, Say
from lacertus.local.backup.writing import back_up
from lacertus.settings import settings

DAYS, WEEKS, MONTHS = 7, 5, 12
"""So many are kept: of each of the newest days, the newest of each week, and the newest of each month."""
_NAME = re.compile(r"lacertus-(\d{4}-\d{2}-\d{2})\.tar(\.age)?")
_LOCK = 7_305_412
"""Of one database only one backup is written at a time."""


def kept(days: Iterable[date]) -> set[date]:
    """Which of the days' backups are kept."""
    newest_first = sorted(set(days), reverse=True)
    found = set(newest_first[:DAYS])
    for most, part in ((WEEKS, lambda day: day.isocalendar()[:2]), (MONTHS, lambda day: (day.year, day.month))):
        seen: dict[object, date] = {}
        for day in newest_first:
            seen.setdefault(part(day), day)
        found |= set(list(seen.values())[:most])
    return found


def backups(folder: Path) -> dict[date, Path]:
    """The nightly backups of a folder, by day."""
    found: dict[date, Path] = {}
    for path in sorted(folder.glob("lacertus-*")) if folder.is_dir() else ():
        match = _NAME.fullmatch(path.name)
        if match is not None and path.is_file():
            found[date.fromisoformat(match[1])] = path
    return found


def run(say: Say, now: datetime | None = None) -> Path | None:
    """Write today's backup where it is not there yet, and delete those that are kept no longer; returns the new one.

    Raises:
        BackupFailed: there is no folder in the settings, or the backup could not be written; the old ones are all left.
    """
    now = now or datetime.now(UTC)
    place, public_key = settings().backup_dir, settings().backup_key
    if not place:
        raise BackupFailed("LACERTUS_BACKUP_DIR names no folder; nothing was backed up")
    folder = Path(place)
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    target = folder / f"lacertus-{now:%Y-%m-%d}.tar{'.age' if public_key else ''}"
    with psycopg.connect(settings().database_url, autocommit=True) as connection:
        got = connection.execute("select pg_try_advisory_lock(%s)", (_LOCK,)).fetchone()
        if got is None or not got[0] or now.date() in backups(folder):
            return None
        for left in folder.glob("lacertus-*.part"):
            # Of a backup that was killed.
            left.unlink(missing_ok=True)
        back_up(target, say, public_key)
    there = backups(folder)
    for day in set(there) - kept(there):
        there[day].unlink(missing_ok=True)
    return target
