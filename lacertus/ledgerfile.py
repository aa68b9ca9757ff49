"""The ledger CSV: a row for each student, date, technique and fault, with exposures and misses (docs/formats.md)."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from operator import attrgetter
from pathlib import Path

from lacertus.core.errors import BadInput
from lacertus.core.progress.ledger import FaultLedger, Session, ledger_of

COLUMNS = ("student", "date", "technique", "fault", "family", "reps", "misses", "safety")
LARGEST_BYTES = 200_000_000
MOST_REPS = 100_000
TRUE, FALSE = frozenset({"true", "1", "yes"}), frozenset({"false", "0", "no", ""})


class BadLedger(BadInput):
    """A ledger CSV that cannot be used: where and why. Nothing was written."""


@dataclass(frozen=True, kw_only=True)
class Row:
    """Exposures and misses of a fault on one day of one student."""

    student: str
    on: date
    technique: str
    fault: str
    family: str
    reps: int
    misses: int
    safety: bool


@dataclass(frozen=True, kw_only=True)
class Found:
    """The ledger of one fault of a student; a family's has neither technique nor fault."""

    student: str
    technique: str | None
    fault: str | None
    family: str
    ledger: FaultLedger


def read_ledger(path: Path) -> list[Row]:
    """Read a ledger CSV.

    Raises:
        BadLedger: it cannot be read, or a line of it is wrong; told with its number.
    """
    try:
        if path.stat().st_size > LARGEST_BYTES:
            raise BadLedger(f"{path.name} is larger than a ledger may be (200 MB)")
        text = path.read_text(encoding="utf-8-sig")
    except OSError as error:
        raise BadLedger(f"{path} cannot be read: {error.strerror or error}") from error
    except UnicodeDecodeError as error:
        raise BadLedger(f"{path.name} is not UTF-8 text") from error
    try:
        return _rows(path.name, text)
    except csv.Error as error:
        raise BadLedger(f"{path.name}: {error}") from error


def _rows(name: str, text: str) -> list[Row]:
    reader = csv.DictReader(io.StringIO(text, newline=""), strict=True)
    missing = [column for column in COLUMNS if column not in (reader.fieldnames or ())]
    if missing:
        raise BadLedger(f"{name} line 1: the column {', '.join(missing)} is missing; the columns are {','.join(COLUMNS)}")
    rows: list[Row] = []
    seen: dict[tuple[str, date, str, str], int] = {}
    for line in reader:
        where = f"{name} line {reader.line_num}"
        row = _row(where, line)
        key = (row.student, row.on, row.technique, row.fault)
        if key in seen:
            raise BadLedger(f"{where}: there is a row for this student, date, technique and fault already, on line {seen[key]}")
        seen[key] = reader.line_num
        rows.append(row)
    return rows


def _row(where: str, line: dict[str, str | None]) -> Row:
    cells = {column: (line.get(column) or "").strip() for column in COLUMNS}
    if None in line or any(line.get(column) is None for column in COLUMNS):
        raise BadLedger(f"{where}: it has not as many cells as there are columns")
    for column in ("student", "technique", "fault"):
        if not cells[column]:
            raise BadLedger(f"{where}: {column} is empty")
    try:
        on = date.fromisoformat(cells["date"])
    except ValueError as error:
        raise BadLedger(f"{where}: “{cells['date']}” is not a date such as 2026-05-04") from error
    reps, misses = (_count(where, column, cells[column]) for column in ("reps", "misses"))
    if misses > reps:
        raise BadLedger(f"{where}: {misses} misses in {reps} reps")
    safety = cells["safety"].lower()
    if safety not in TRUE | FALSE:
        raise BadLedger(f"{where}: safety is “{cells['safety']}”; it is true or false")
    words = {column: cells[column] for column in ("student", "technique", "fault", "family")}
    return Row(**words, on=on, reps=reps, misses=misses, safety=safety in TRUE)


def _count(where: str, column: str, text: str) -> int:
    if not (text.isascii() and text.isdigit()) or len(text) > 9 or int(text) > MOST_REPS:
        raise BadLedger(f"{where}: {column} is “{text}”; it is a whole number from 0 to {MOST_REPS}")
    return int(text)


def ledgers(rows: Iterable[Row], on: date | None = None) -> list[Found]:
    """The ledger of every fault of every student, in order of names."""
    faults: dict[tuple[str, str, str], list[Row]] = {}
    for row in rows:
        faults.setdefault((row.student, row.technique, row.fault), []).append(row)
    found = []
    for (student, technique, fault), own in sorted(faults.items()):
        ledger = _ledger(own, on)
        if ledger is not None:
            latest = max(own, key=attrgetter("on"))
            found.append(Found(student=student, technique=technique, fault=fault, family=latest.family, ledger=ledger))
    return found


def families(rows: Iterable[Row], on: date | None = None) -> list[Found]:
    """The same for every family over all techniques: habits that no single technique shows."""
    own: dict[tuple[str, str], list[Row]] = {}
    for row in rows:
        own.setdefault((row.student, row.family), []).append(row)
    made = [(student, family, _ledger(kept, on)) for (student, family), kept in sorted(own.items())]
    return [
        Found(student=student, technique=None, fault=None, family=family, ledger=ledger)
        for student, family, ledger in made
        if ledger is not None
    ]


def _ledger(rows: Sequence[Row], on: date | None) -> FaultLedger | None:
    sessions = [Session(row.on.toordinal(), row.reps, row.misses) for row in rows]
    safety = any(row.safety for row in rows)
    return ledger_of(sessions, safety=safety, on=None if on is None else on.toordinal())
