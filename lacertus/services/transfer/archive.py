"""A student's ZIP as the rest of Lacertus sees it: rows and files, read in a process of its own, with limits."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from lacertus.confined.runner import Bounds, Ended, StoodStill, TookTooLong, run_confined
from lacertus.core.errors import BadInput
from lacertus.jsonfile import JsonLimits, parse_json
from lacertus.services.transfer.archive_child import LIST, ROWS
from lacertus.services.transfer.rows import PARTS
from lacertus.settings import settings

MODULE = "lacertus.services.transfer.archive_child"
MOST_ENTRIES = 50_000
MOST_ROW_BYTES = 20_000_000
"""Of the rows, and of the points of one rep. A student with five hundred reviewed clips has some 7 MB."""
MOST_RATIO = 100
"""So many bytes may come out of one: text packs some 10 to 1, film 1 to 1."""
BATCH_BYTES = 1_000_000_000
"""So much is unpacked at a time: what was taken is gone from the scratch folder before more comes."""
ARCHIVE_BOUNDS = Bounds(most_bytes=1_500_000_000, most_seconds=1800.0, most_idle_seconds=600.0, most_written=8_000_000_000)
_UUID = r"[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}"
_KINDS = (
    "original",
    r"review\.mp4",
    r"marked\.(?:mp4|vtt)",
    r"made/[A-Za-z0-9_][\w.-]{0,100}",
    rf"(?:stills|beside)/{_UUID}\.jpg",
    r"papers/[0-9a-f]{32}\.pdf",
    rf"compared/{_UUID}\.mp4",
    rf"voice/{_UUID}",
)
_MEDIA = rf"media/{_UUID}/(?:{'|'.join(_KINDS)})"
NAMES = rf"{re.escape(ROWS)}|(?:{'|'.join(PARTS)})/{_UUID}\.json|{_MEDIA}"


class BadStudentFile(BadInput):
    """This student file cannot be read. Nothing was stored."""


@dataclass(frozen=True, kw_only=True)
class Archive:
    """A ZIP whose entries have been looked at: its rows, and its entries by name."""

    source: Path
    room: Path
    rows: Any
    entries: dict[str, tuple[int, int]]
    """Number and size in bytes of each entry."""

    def has(self, name: str) -> bool:
        return name in self.entries

    def parts(self, names: Sequence[str]) -> Iterator[tuple[str, str]]:
        """Name and text of some entries of rows, one after the other.

        Raises:
            BadStudentFile: one is no JSON, or over a limit.
        """
        for batch in self.batches([name for name in names if self.has(name)]):
            with self.unpacked(batch) as files:
                for name, file in zip(batch, files, strict=True):
                    content = file.read_bytes()
                    _parsed(content, name)
                    yield name, content.decode()

    @contextmanager
    def unpacked(self, names: Sequence[str]) -> Iterator[list[Path]]:
        """Files with the content of some entries; gone afterwards.

        Raises:
            BadStudentFile: one is not whole.
        """
        take = [self.entries[name][0] for name in names]
        targets = [self.room / f"taken-{number}" for number in take]
        try:
            with _child(self.source, self.room, take) as ended:
                if not all(ended.take(str(place), target) for place, target in enumerate(targets)):
                    raise BadStudentFile("this is no whole ZIP file; nothing was stored")
            yield targets
        finally:
            for target in targets:
                target.unlink(missing_ok=True)

    def batches(self, names: Sequence[str]) -> Iterator[list[str]]:
        """Names in portions of at most so many bytes, each of one at least."""
        batch: list[str] = []
        size = 0
        for name in names:
            if batch and size + self.entries[name][1] > BATCH_BYTES:
                yield batch
                batch, size = [], 0
            batch.append(name)
            size += self.entries[name][1]
        if batch:
            yield batch


def opened(source: Path, room: Path) -> Archive:
    """Look a ZIP over.

    Raises:
        BadStudentFile: it is torn, none of ours, or over a limit.
    """
    rows, listed = room / "rows.json", room / LIST
    with _child(source, room, None) as ended:
        if not (ended.take(rows.name, rows) and ended.take(LIST, listed)):
            raise BadStudentFile("this is no whole ZIP file; nothing was stored")
    entries = {one["name"]: (number, int(one["bytes"])) for number, one in enumerate(json.loads(listed.read_bytes())["entries"])}
    return Archive(source=source, room=room, rows=_parsed(rows.read_bytes(), ROWS), entries=entries)


def _parsed(content: bytes, name: str) -> Any:
    try:
        return parse_json(content, name, JsonLimits(most_bytes=MOST_ROW_BYTES))
    except BadInput as error:
        raise BadStudentFile(str(error)) from error


@contextmanager
def _child(source: Path, room: Path, take: list[int] | None) -> Iterator[Ended]:
    refused: list[str] = []

    def told(said: dict[str, Any]) -> None:
        if "refused" in said:
            refused.append(str(said["refused"])[:500])

    limits = {
        "most_entries": MOST_ENTRIES,
        "most_row_bytes": MOST_ROW_BYTES,
        "most_bytes": settings().largest_archive_bytes,
        "most_ratio": MOST_RATIO,
    }
    try:
        with run_confined(MODULE, source, {"limits": limits, "names": NAMES, "take": take}, room, ARCHIVE_BOUNDS, told) as ended:
            if refused:
                raise BadStudentFile(f"{refused[0].removesuffix('; nothing was stored')}; nothing was stored")
            if ended.code != 0:
                raise BadStudentFile("this file takes more memory to read than is allowed; nothing was stored")
            yield ended
    except (TookTooLong, StoodStill) as error:
        raise BadStudentFile("this file takes longer to read than is allowed; nothing was stored") from error
    except OSError as error:
        raise BadStudentFile(f"this file cannot be read ({error.strerror or error}); nothing was stored") from error
