"""The process that reads a student's ZIP: python -m lacertus.services.transfer.archive_child, in a folder with its request.

It looks at every entry's name, size and place before one is unpacked, counts what really comes out, and writes what it was asked
for under names of its own: `rows.json`, or `0`, `1`, `2` … for the entries by number.
"""

from __future__ import annotations

import json
import re
import sys
import zipfile
from pathlib import Path
from typing import Any

from lacertus.confined.child import confine, say
from lacertus.confined.opened import OpenedFile
from lacertus.confined.runner import Bounds, request_here
from lacertus.core.errors import BadInput
from lacertus.jsonfile import JsonLimits, parse_json

ROWS = "lacertus_student.json"
LIST = "list.json"
PIECE_BYTES = 1 << 20
SMALL_BYTES = 1_000_000
"""So much may come out of an entry however little it takes: rows repeat themselves."""


def main() -> int:
    request = request_here()
    bounds, limits = Bounds(**request["bounds"]), request["limits"]
    source = OpenedFile(request["source"], "archive")
    confine(bounds.most_bytes, bounds.most_seconds, bounds.most_written)
    try:
        with zipfile.ZipFile(source) as archive:
            entries = checked(archive, source.size, limits, re.compile(request["names"]))
            if request["take"] is None:
                _list(archive, entries, limits)
            else:
                _unpack(archive, [entries[number] for number in request["take"]], limits)
    except BadInput as error:
        say({"refused": str(error)})
        return 2
    # What zipfile raises for a torn file, a compression or an encryption that it does not know; and zlib's own errors.
    except Exception as error:  # noqa: BLE001 (a stranger's file, in a process of its own: whatever it does is a refusal)
        say({"refused": f"this is no whole ZIP file ({type(error).__name__})"})
        return 2
    return 0


def checked(archive: zipfile.ZipFile, size: int, limits: dict[str, Any], names: re.Pattern[str]) -> list[zipfile.ZipInfo]:
    """The entries in order.

    Raises:
        BadInput: there are too many, one has no name of ours or a name twice, or they announce more than may come out.
    """
    entries = archive.infolist()
    if len(entries) > limits["most_entries"]:
        raise BadInput("this file holds more than a student’s file may")
    seen: set[str] = set()
    for entry in entries:
        if not names.fullmatch(entry.filename) or entry.filename in seen:
            shown = entry.filename.encode("ascii", "replace").decode()[:80]
            raise BadInput(f"the file holds “{shown}”, which is no name of ours")
        seen.add(entry.filename)
        most = limits["most_row_bytes"] if entry.filename.endswith(".json") else limits["most_bytes"]
        if entry.file_size > most:
            raise BadInput(f"“{entry.filename}” in this file is larger than it may be")
        if entry.file_size > SMALL_BYTES + limits["most_ratio"] * entry.compress_size:
            raise BadInput(f"“{entry.filename}” in this file is compressed far more than real data can be")
    if sum(entry.compress_size for entry in entries) > size:
        raise BadInput("the entries of this file overlap")
    if sum(entry.file_size for entry in entries) > limits["most_bytes"]:
        raise BadInput("this file holds more than a student’s file may")
    return entries


def _list(archive: zipfile.ZipFile, entries: list[zipfile.ZipInfo], limits: dict[str, Any]) -> None:
    """Write the rows, and the list of the entries by number."""
    numbered = {entry.filename: number for number, entry in enumerate(entries)}
    if ROWS not in numbered:
        raise BadInput(f"the file holds no {ROWS}")
    content = _content(archive, entries[numbered[ROWS]], limits["most_row_bytes"])
    parse_json(content, ROWS, JsonLimits(most_bytes=limits["most_row_bytes"]))
    Path("rows.json").write_bytes(content)
    told = {"entries": [{"name": entry.filename, "bytes": entry.file_size} for entry in entries]}
    Path(LIST).write_text(json.dumps(told), encoding="utf-8")


def _content(archive: zipfile.ZipFile, entry: zipfile.ZipInfo, most: int) -> bytes:
    with archive.open(entry) as file:
        content = file.read(most + 1)
    if len(content) > most:
        raise BadInput(f"“{entry.filename}” in this file is larger than it may be")
    return content


def _unpack(archive: zipfile.ZipFile, entries: list[zipfile.ZipInfo], limits: dict[str, Any]) -> None:
    left = limits["most_bytes"]
    for number, entry in enumerate(entries):
        with archive.open(entry) as file, Path(str(number)).open("wb") as out:
            while piece := file.read(PIECE_BYTES):
                left -= len(piece)
                if left < 0:
                    raise BadInput("this file holds more than it says")
                out.write(piece)
        if Path(str(number)).stat().st_size != entry.file_size:
            raise BadInput(f"“{entry.filename}” in this file is not whole")
        say({"done": number + 1, "of": len(entries)})


if __name__ == "__main__":
    sys.exit(main())
