"""A review's measures as CSV: one row for each checkpoint of each rep."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable
from dataclasses import asdict, dataclass, fields


@dataclass(frozen=True, kw_only=True)
class MeasureRow:
    """One checkpoint of one rep. Frames of the clip from 0, days as ISO, numbers in `unit`; empty where there is none."""

    student: str
    filmed_on: str
    clip: str
    technique: str
    version: int
    rep: int
    first_frame: int
    last_frame: int
    side: str
    pace: str
    rung: str
    purpose: str
    phase: str
    checkpoint: str
    kind: str
    verdict: str
    measured: str
    value: float | None
    unit: str
    uncertainty: float | None
    wanted_low: float | None
    wanted_high: float | None
    frames: str
    view: str
    fault: str
    safety: bool
    reason: str


COLUMNS = tuple(field.name for field in fields(MeasureRow))
_RUNS = ("=", "+", "-", "@", "\t", "\r")


def measures_csv(rows: Iterable[MeasureRow]) -> str:
    """The rows as CSV with a head; a text that a spreadsheet would run as a formula gets an apostrophe before it."""
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS, lineterminator="\r\n")
    writer.writeheader()
    for row in rows:
        writer.writerow({key: _cell(value) for key, value in asdict(row).items()})
    return out.getvalue()


def _cell(value: object) -> object:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return repr(value)
    if isinstance(value, str) and value.startswith(_RUNS):
        return f"'{value}"
    return "" if value is None else value
