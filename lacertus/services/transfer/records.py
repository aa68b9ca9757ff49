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
from lacertus.core.corrections.marks import Mark
from lacertus.core.errors import BadInput
from lacertus.core.eye.levels import EASIEST, HARDEST
from lacertus.core.eye.questions import KINDS as QUESTIONS
from lacertus.core.measuring.body import BODIES, LANDMARKS
from lacertus.core.measuring.measures import KINDS
from lacertus.core.measuring.rep_facts import KeptRepFacts
from lacertus.core.measuring.repfile import PointEntry
from lacertus.core.measuring.timebase import check_times
from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.model import Record
from lacertus.core.sheets.sheet import Sheet
from lacertus.core.sheets.words import SheetWords, read_words
from lacertus.core.techniques.reaction import Reaction
from lacertus.core.techniques.vocabulary import FAULT_FAMILIES
from lacertus.core.texts import checked_file_name, checked_name
from lacertus.outputs.languages import LANGUAGES
from lacertus.outputs.mail import checked_address
from lacertus.services.days import FIRST_DAY, FIRST_TIME, LAST_DAY, LAST_TIME
from lacertus.services.people.people import MOST_WORDS, OLDEST
from lacertus.services.transfer.archive import BadStudentFile
from lacertus.services.transfer.rows import columns_of, name_in_file
from lacertus.store import tables as t
from lacertus.store.state import Json

LONGEST_TEXT = 4000
MOST_ITEMS = 5000


def _iso_day(text: str) -> str:
    if text:
        day = date.fromisoformat(text)
        if not FIRST_DAY <= day <= LAST_DAY:
            raise ValueError("no day on which anybody trains")
    return text


def _words(words: SheetWords) -> SheetWords:
    return read_words(words.model_dump())


def _name(text: str) -> str:
    return checked_name(text, "a name")


def _address(text: str) -> str:
    return checked_address(text) if text else text


def _times(pts_s: list[float] | None) -> list[float] | None:
    if pts_s:
        check_times(pts_s)
    return pts_s


def _of(choices: Any) -> Any:
    return Literal[tuple(choices)]


def _of_field(record: type[Record], name: str) -> Any:
    """What a field of a record takes, with its bounds."""
    found = record.model_fields[name]
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


_Words = Annotated[list[Annotated[str, Field(max_length=60), AfterValidator(_name)]], Field(max_length=MOST_WORDS)]
_Verdict = Literal[tuple(verdict.value for verdict in Verdict)]  # type: ignore[valid-type]
_COLUMNS: dict[tuple[type[t.Base], str], Any] = {
    (t.Student, "name"): Annotated[str, AfterValidator(_name)],
    (t.Student, "email"): Annotated[str, Field(max_length=254), AfterValidator(_address)],
    (t.Student, "note"): Annotated[str, Field(max_length=2000)],
    (t.Student, "born_on"): Annotated[date, Field(ge=OLDEST, le=LAST_DAY)] | None,
    (t.Student, "height_cm"): Annotated[float, Field(ge=30, le=260)] | None,
    (t.Student, "weight_kg"): Annotated[float, Field(ge=5, le=400)] | None,
    (t.Student, "groups"): _Words,
    (t.Student, "equipment"): _Words,
    (t.Student, "guardian"): Annotated[str, Field(max_length=100)],
    (t.Student, "guardian_email"): Annotated[str, Field(max_length=254), AfterValidator(_address)],
    (t.Student, "language"): _of(["", *LANGUAGES]),
    (t.ConsentRow, "purpose"): Literal["filming", "sharing", "training"],
    (t.ConsentRow, "given_as"): Literal["student", "guardian"],
    (t.ConsentRow, "given_by"): Annotated[str, Field(max_length=100)],
    (t.ConsentRow, "withdrawn_by"): Annotated[str, Field(max_length=100)],
    (t.Prescription, "faults"): Annotated[list[bounds.Word], Field(max_length=10)],
    (t.Prescription, "side"): Literal["both", "left", "right"],
    (t.Prescription, "made_in"): Literal["review", "class", "hand"],
    (t.Prescription, "ended_why"): Literal["", "done", "replaced", "pain", "cleared", "stopped"],
    (t.Prescription, "times_a_week"): Annotated[int, Field(ge=1, le=21)],
    (t.PracticeLog, "place"): Literal["class", "home"],
    (t.PracticeLog, "felt"): Literal["sure", "unsure"] | None,
    (t.PracticeLog, "said_by"): Literal["student", "guardian", "coach", "class"],
    (t.PracticeLog, "amount"): Annotated[int, Field(ge=0, le=5000)],
    (t.FloorNote, "kind"): Literal["fault", "good", "remark", "question", "film"],
    (t.InboxRow, "kind"): Literal["answer", "question", "pain", "clip", "opened", "consent", "forget"],
    (t.InboxRow, "sent_by"): Literal["student", "guardian"],
    (t.InboxRow, "technique"): Annotated[str, Field(max_length=200)],
    (t.InboxRow, "checkpoint"): Annotated[str, Field(max_length=200)],
    (t.Clip, "name"): Annotated[str, AfterValidator(checked_file_name)],
    (t.Clip, "folder"): Annotated[str, Field(max_length=300)],
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
    (t.Review, "words"): Annotated[SheetWords, AfterValidator(_words)],
    **{(t.RepRow, name): _of_field(KeptRepFacts, name) for name in KeptRepFacts.model_fields},
    (t.RepRow, "options"): Options,
    (t.EventMark, "frames"): Annotated[list[Frame], Field(max_length=200)],
    (t.PointRow, "body"): _of(BODIES),
    (t.PointRow, "landmark"): _of(LANDMARKS),
    **{(t.PointRow, name): _of_field(PointEntry, name) for name in ("x", "y", "sigma", "shared", "grain", "by")},
    (t.Answer, "asked_of"): Literal["coach", "partner", "student"],
    (t.OverruleRow, "verdict"): _Verdict,
    (t.Correction, "marks"): Annotated[tuple[Mark, ...], Field(max_length=50)],
    (t.Correction, "cue"): Annotated[str, Field(min_length=1, max_length=200)],
    (t.Correction, "voice_s"): Annotated[float, Field(gt=0, le=600)] | None,
    (t.Revision, "sheet"): _Sheet,
    (t.Revision, "changes"): Annotated[tuple[Text, ...], Field(max_length=MOST_ITEMS)],
    (t.Revision, "number"): Annotated[int, Field(ge=1, le=10_000)],
    (t.JudgementRow, "verdict"): _Verdict,
    (t.JudgementRow, "measured"): _Verdict | None,
    (t.JudgementRow, "kind"): _of([*KINDS, Reaction.kind]),
    (t.JudgementRow, "family"): _of(FAULT_FAMILIES),
    (t.JudgementRow, "frames"): Frames,
    (t.JudgementRow, "choice"): Literal["open", "wrong", "unknown"] | None,
    (t.ReactedRow, "verdict"): _Verdict,
    (t.EyeAnswer, "kind"): _of(QUESTIONS),
    (t.EyeAnswer, "level"): Annotated[int, Field(ge=EASIEST, le=HARDEST)],
    (t.EyeAnswer, "frames"): Annotated[int, Field(ge=-bounds.MOST_FRAMES, le=bounds.MOST_FRAMES)],
    (t.EyeAnswer, "among"): Annotated[list[Annotated[str, Field(max_length=200)]], Field(max_length=20)],
}
"""What a column holds where its type alone does not say it. What is `Any` is made anew."""
_PLAIN: dict[type, Any] = {str: Text, int: Count, float: Number, date: Day, datetime: Time, bool: bool, uuid.UUID: uuid.UUID}
_NAMES = (
    *("technique", "checkpoint", "fault", "event", "rung", "from_rung", "to_rung", "grade", "unit"),
    *("reaction", "answer", "layer", "start"),
)


def type_of(model: type[t.Base], column: sa.Column[Any]) -> Any:
    """What a column of a table has to hold.

    Raises:
        KeyError: a column of JSON or of a list has no record here; add one.
    """
    known = _COLUMNS.get((model, column.name))
    if known is None and isinstance(column.type, Json):
        known = column.type.kind
    if known is not None:
        return known | None if column.nullable and known is not Any and type(None) not in get_args(known) else known
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
        row = {name_in_file(c): _SINCE.get(c.name) for c in columns if c.nullable or c.name in _SINCE} | row
    if not isinstance(row, dict) or set(row) != {name_in_file(column) for column in columns}:
        raise BadStudentFile(f"a row of {model.__tablename__} has other columns than it should; nothing was stored")
    values = {column.name: _checked(model, column, adapters[column.name], row[name_in_file(column)]) for column in columns}
    has = {column.name for column in sa.inspect(model).local_table.columns}
    return model(**values, **{key: value for key, value in more.items() if key in has})


_SINCE: dict[str, Any] = {
    "entry": False, "counts": True, "groups": [], "equipment": [], "guardian": "", "guardian_email": "",
    "language": "", "keeps_film": False, "worked_s": 0.0,
}  # fmt: skip
"""Columns that may not be empty and that older files do not have, with what they are then."""


def _checked(model: type[t.Base], column: sa.Column[Any], adapter: TypeAdapter[Any], value: Any) -> Any:
    """A value as it is stored. In a column of JSON nothing is bent until it fits."""
    try:
        if not isinstance(column.type, sa.JSON | Json):
            return adapter.validate_python(value)
        return adapter.validate_json(json.dumps(_without_old_keys(column, value)), strict=True)
    except (ValidationError, BadInput) as error:
        raise BadStudentFile(f"{model.__tablename__}.{column.name} in this file does not fit; nothing was stored") from error


def _without_old_keys(column: sa.Column[Any], value: Any) -> Any:
    """Until version 14 of the database an example said why it could not be drawn; that is no part of it any more."""
    if column.name == "example" and isinstance(value, dict):
        return {key: entry for key, entry in value.items() if key != "failed"}
    return value
