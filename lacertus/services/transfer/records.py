"""What the rows of a student's file have to hold. Nothing of it is checked again once it is stored, so all of it is checked here:
with the records that we write ourselves, and with bounds on every number, day and text."""

from __future__ import annotations

import json
import uuid
from datetime import UTC, date, datetime
from typing import Annotated, Any, Literal, get_args

import sqlalchemy as sa
from pydantic import AfterValidator, Field, TypeAdapter, ValidationError

from lacertus.core import bounds
from lacertus.core.clips.naming import Naming
from lacertus.core.corrections.marks import Mark
from lacertus.core.corrections.shapes import Shape
from lacertus.core.errors import BadInput
from lacertus.core.measuring.body import BODIES, LANDMARKS, BodyName, Side
from lacertus.core.measuring.measures import KINDS
from lacertus.core.measuring.repfile import FloorPoint, Marking, PointEntry, RepFile, Upright
from lacertus.core.measuring.repfile import Length as KnownLength
from lacertus.core.measuring.timebase import check_capture_rate, check_times
from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.model import Record
from lacertus.core.sheets.sheet import Sheet
from lacertus.core.techniques.adaptation import Adaptation
from lacertus.core.techniques.definition import FAULT_FAMILIES
from lacertus.core.texts import checked_file_name, checked_name
from lacertus.outputs.mail import checked_address
from lacertus.services.days import FIRST_DAY, FIRST_TIME, LAST_DAY, LAST_TIME
from lacertus.services.sheets.finish import RevisionRecord
from lacertus.services.sheets.sheet import checked_words
from lacertus.services.transfer.archive import BadStudentFile
from lacertus.services.transfer.rows import columns_of
from lacertus.store import tables as t

LONGEST_TEXT = 4000
MOST_ITEMS = 5000


def _iso_day(text: str) -> str:
    if text:
        day = date.fromisoformat(text)
        if not FIRST_DAY <= day <= LAST_DAY:
            raise ValueError("no day on which anybody trains")
    return text


def _words(words: dict[str, str]) -> dict[str, str]:
    return dict(checked_words(words)) if words else words


def _name(text: str) -> str:
    return checked_name(text, "a name")


def _address(text: str) -> str:
    return checked_address(text) if text else text


def _times(pts_s: list[float] | None) -> list[float] | None:
    if pts_s:
        check_times(pts_s)
    return pts_s


def _rates(rates: list[tuple[int, float]]) -> list[tuple[int, float]]:
    check_capture_rate(rates)
    return rates


def _of(choices: Any) -> Any:
    return Literal[tuple(choices)]


def _field(name: str) -> Any:
    """A rep's fact as the rep file has it."""
    return RepFile.model_fields[name].annotation


def _point_field(name: str) -> Any:
    """A point's number as the rep file bounds it."""
    found = PointEntry.model_fields[name]
    return Annotated[found.annotation, found]


IsoDay = Annotated[str, Field(max_length=10), AfterValidator(_iso_day)]
Text = Annotated[str, Field(max_length=LONGEST_TEXT)]
Frame = Annotated[int, Field(ge=0, le=bounds.MOST_FRAMES)]
Count = Annotated[int, Field(ge=0, le=2_000_000_000)]
Number = Annotated[float, Field(ge=-1e9, le=1e9, allow_inf_nan=False)]
Day = Annotated[date, Field(ge=FIRST_DAY, le=LAST_DAY)]
Frames = Annotated[list[Frame], Field(max_length=MOST_ITEMS)]
Cut = tuple[Frame, Frame]
Options = Annotated[dict[bounds.Word, bounds.Word], Field(max_length=50)]


def _time(value: datetime) -> datetime:
    value = value if value.tzinfo else value.replace(tzinfo=UTC)
    if not FIRST_TIME <= value <= LAST_TIME:
        raise ValueError("no time at which anybody trains")
    return value


Time = Annotated[datetime, AfterValidator(_time)]


class _Sheet(Sheet):
    filmed_on: IsoDay
    next_on: IsoDay | None = None


class _Beside(Record):
    """A picture beside a correction, as `services.corrections.examples` keeps it."""

    source: Literal["own", "other", "reference"]
    words: Text
    ready: bool
    rep: uuid.UUID | None = None
    clip: uuid.UUID | None = None
    frame: Frame | None = None
    width: bounds.Side | None = None
    height: bounds.Side | None = None
    shapes: Annotated[list[Shape], Field(max_length=MOST_ITEMS)] = []
    version: uuid.UUID | None = None
    options: Options = {}
    side: Side | None = None
    name: Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,150}$")] | None = None
    failed: Text | None = None


class _Reference(Record):
    """The frame of reference of a review."""

    upright: Upright | None = None
    centimetres_per_pixel: Annotated[float, Field(gt=0, le=1000)] | None = None
    floor: Annotated[list[FloorPoint], Field(min_length=4, max_length=12)] | None = None
    lengths_px: dict[BodyName, dict[bounds.Word, KnownLength]] = {}


class _Fault(Record):
    technique: bounds.Word
    fault: bounds.Word


class _Checkpoint(Record):
    technique: bounds.Word
    checkpoint: bounds.Word


class _FocusChoice(Record):
    choices: Annotated[tuple[_Fault, ...], Field(max_length=10)]
    why: Text
    on: IsoDay


class _FixChoice(Record):
    choices: Annotated[tuple[_Checkpoint, ...], Field(max_length=10)]
    why: Text


_Verdict = Literal[tuple(verdict.value for verdict in Verdict)]  # type: ignore[valid-type]
_COLUMNS: dict[tuple[type[t.Base], str], Any] = {
    (t.Student, "name"): Annotated[str, AfterValidator(_name)],
    (t.Student, "email"): Annotated[str, Field(max_length=254), AfterValidator(_address)],
    (t.Student, "note"): Annotated[str, Field(max_length=2000)],
    (t.Student, "focus"): _FocusChoice | None,
    (t.AdaptationRow, "body"): Adaptation,
    (t.Clip, "name"): Annotated[str, AfterValidator(checked_file_name)],
    (t.Clip, "folder"): Annotated[str, Field(max_length=300)],
    (t.Clip, "naming"): Naming,
    (t.Clip, "proposals"): Annotated[list[Cut], Field(max_length=MOST_ITEMS)],
    (t.Clip, "capture_rate"): Annotated[list[tuple[Frame, bounds.Rate]], Field(max_length=100), AfterValidator(_rates)],
    (t.Clip, "pts_s"): Annotated[list[bounds.Seconds], Field(max_length=bounds.MOST_FRAMES), AfterValidator(_times)] | None,
    (t.Clip, "width"): bounds.Side | None,
    (t.Clip, "height"): bounds.Side | None,
    (t.Clip, "rotation"): Literal[0, 90, 180, 270] | None,
    (t.Clip, "nominal_fps"): Annotated[float, Field(gt=0, le=100_000)] | None,
    (t.Clip, "duration_s"): bounds.Seconds | None,
    (t.Clip, "film"): Any,
    (t.Clip, "camera"): Any,
    (t.Clip, "state"): Any,
    (t.Clip, "size_bytes"): Annotated[int, Field(ge=0, le=10**13)],
    (t.Clip, "sha256"): Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")] | None,
    (t.Review, "proposals"): Annotated[list[Cut], Field(max_length=MOST_ITEMS)],
    (t.Review, "heights_px"): dict[BodyName, bounds.Length],
    (t.Review, "marking"): Marking,
    (t.Review, "reference"): _Reference,
    (t.Review, "words"): Annotated[dict[bounds.Word, Text], AfterValidator(_words)],
    (t.Review, "fix_choice"): _FixChoice | None,
    (t.RepRow, "options"): Options,
    (t.RepRow, "heading"): Literal["left", "right"],
    (t.RepRow, "side"): Side,
    **{(t.RepRow, name): _field(name) for name in ("purpose", "outcome", "stance")},
    (t.RepRow, "view"): Literal["side", "front", "back", "oblique"],
    (t.RepRow, "partner"): Literal["person", "dummy", "bag", "none"],
    (t.RepRow, "pace"): Literal["slow", "full"],
    (t.EventMark, "frames"): Annotated[list[Frame], Field(max_length=200)],
    (t.PointRow, "body"): _of(BODIES),
    (t.PointRow, "landmark"): _of(LANDMARKS),
    **{(t.PointRow, name): _point_field(name) for name in ("x", "y", "sigma", "shared", "grain", "by")},
    (t.Answer, "asked_of"): Literal["coach", "partner", "student"],
    (t.OverruleRow, "verdict"): _Verdict,
    (t.Correction, "marks"): Annotated[list[Mark], Field(max_length=50)],
    (t.Correction, "drawn"): Annotated[list[Shape], Field(max_length=MOST_ITEMS)],
    (t.Correction, "beside"): _Beside | None,
    (t.Correction, "cue"): Annotated[str, Field(min_length=1, max_length=200)],
    (t.Correction, "voice_s"): Annotated[float, Field(gt=0, le=600)] | None,
    (t.Revision, "sheet"): _Sheet,
    (t.Revision, "record"): RevisionRecord,
    (t.Revision, "changes"): Annotated[list[Text], Field(max_length=MOST_ITEMS)],
    (t.Revision, "number"): Annotated[int, Field(ge=1, le=10_000)],
    (t.JudgementRow, "verdict"): _Verdict,
    (t.JudgementRow, "measured"): _Verdict | None,
    (t.JudgementRow, "kind"): _of(KINDS),
    (t.JudgementRow, "family"): _of(FAULT_FAMILIES),
    (t.JudgementRow, "frames"): Frames,
}
"""What a column holds where its type alone does not say it. What is `Any` is made anew."""
_PLAIN: dict[type, Any] = {str: Text, int: Count, float: Number, date: Day, datetime: Time, bool: bool, uuid.UUID: uuid.UUID}
_NAMES = ("technique", "checkpoint", "fault", "event", "rung", "from_rung", "to_rung", "grade", "unit")


def type_of(model: type[t.Base], column: sa.Column[Any]) -> Any:
    """What a column of a table has to hold.

    Raises:
        KeyError: a column of JSON or of a list has no record here; add one.
    """
    known = _COLUMNS.get((model, column.name))
    if known is not None:
        return known
    kind: Any = bounds.Word if column.name in _NAMES else _PLAIN[column.type.python_type]
    return kind | None if column.nullable and type(None) not in get_args(kind) else kind


_adapters: dict[type[t.Base], dict[str, TypeAdapter[Any]]] = {}


def _adapters_of(model: type[t.Base]) -> dict[str, TypeAdapter[Any]]:
    if model not in _adapters:
        _adapters[model] = {column.name: TypeAdapter(type_of(model, column)) for column in columns_of(model)}
    return _adapters[model]


def made(model: type[Any], row: Any, more: dict[str, Any]) -> Any:
    """A row of a table from what a file says.

    Raises:
        BadStudentFile: it has other columns, or one does not fit.
    """
    columns, adapters = columns_of(model), _adapters_of(model)
    if isinstance(row, dict):
        # A file written before a column was there leaves it out; what may be empty is empty then.
        row = {column.name: None for column in columns if column.nullable} | row
    if not isinstance(row, dict) or set(row) != set(adapters):
        raise BadStudentFile(f"a row of {model.__tablename__} has other columns than it should; nothing was stored")
    values = {column.name: _checked(model, column, adapters[column.name], row[column.name]) for column in columns}
    has = {column.name for column in sa.inspect(model).local_table.columns}
    return model(**values, **{key: value for key, value in more.items() if key in has})


def _checked(model: type[t.Base], column: sa.Column[Any], adapter: TypeAdapter[Any], value: Any) -> Any:
    """A value as it is stored. A column of JSON keeps what the file says, so there nothing is bent until it fits."""
    try:
        if not isinstance(column.type, sa.JSON):
            return adapter.validate_python(value)
        adapter.validate_json(json.dumps(value), strict=True)
    except (ValidationError, BadInput) as error:
        raise BadStudentFile(f"{model.__tablename__}.{column.name} in this file does not fit; nothing was stored") from error
    return value
