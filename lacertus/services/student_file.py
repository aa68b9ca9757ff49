"""A student's everything as one ZIP, out and in again: clips, reviews, marks, verdicts, sheets, adaptations.

The rows lie in `lacertus_student.json`, files below `media/`. What comes in is checked as if a stranger had made it: names, sizes,
rows, techniques, reps. Films are read anew from the originals; pictures and copies made of them are not taken from the file.
"""

from __future__ import annotations

import json
import re
import uuid
import zipfile
from collections.abc import Iterable, Mapping
from datetime import date, datetime
from pathlib import Path
from typing import Any, Literal, get_args

import sqlalchemy as sa
from pydantic import TypeAdapter, ValidationError
from sqlalchemy import select
from sqlalchemy.exc import DataError, IntegrityError
from sqlalchemy.orm import Session

from lacertus.core.adapt import Adaptation
from lacertus.core.body import BodyName, Side
from lacertus.core.errors import BadInput
from lacertus.core.marks import Mark
from lacertus.core.model import Record
from lacertus.core.naming import Naming
from lacertus.core.repfile import Marking
from lacertus.core.shapes import Shape
from lacertus.core.sheet import Sheet
from lacertus.core.technique import read_technique
from lacertus.services import people, stored, techniques
from lacertus.services import review as reviewing
from lacertus.services.finish import changes
from lacertus.services.ledger import OF_REP
from lacertus.store import tables as t
from lacertus.store.media import clip_prefix, media, original_key, voice_key

NAME = "lacertus_student.json"
VERSION = 1
MOST_ENTRIES = 50_000
LARGEST_ROWS_BYTES = 400_000_000
LARGEST_MEDIA_BYTES = 40_000_000_000
PIECE_BYTES = 1 << 20
_UUID = r"[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}"
_MEDIA_NAME = re.compile(
    rf"media/({_UUID})/(original|review\.mp4|marked\.(?:mp4|vtt)|made/[\w.-]+|(?:stills|beside)/{_UUID}\.jpg|voice/{_UUID})"
)
_NOT_KEPT = {"academy_id", "account_id", "grade_id", "reading_since", "carrying", "marked", "has_still"}
"""Columns that belong to the site and not to the student, or that are made anew."""
_ROWS: tuple[tuple[str, type[t.Base]], ...] = (
    ("adaptations", t.AdaptationRow),
    ("notes", t.Note),
    ("feelings", t.Feeling),
    ("decisions", t.RungDecision),
    ("clips", t.Clip),
    ("ties", t.ViewTie),
    ("reviews", t.Review),
    ("reps", t.RepRow),
    ("events", t.EventMark),
    ("points", t.PointRow),
    ("answers", t.Answer),
    ("overrules", t.OverruleRow),
    ("corrections", t.Correction),
    ("revisions", t.Revision),
    ("said", t.SheetAnswer),
    ("judgements", t.JudgementRow),
)


class _Beside(Record):
    """A picture beside a correction, as `services.beside` keeps it."""

    source: Literal["own", "other", "reference"]
    words: str
    ready: bool
    rep: uuid.UUID | None = None
    clip: uuid.UUID | None = None
    frame: int | None = None
    width: int | None = None
    height: int | None = None
    shapes: list[Shape] = []
    version: uuid.UUID | None = None
    options: dict[str, str] = {}
    side: Side | None = None
    name: str | None = None
    failed: str | None = None


class _FocusChoice(Record):
    choices: tuple[dict[Literal["technique", "fault"], str], ...]
    why: str
    on: date


class _FixChoice(Record):
    choices: tuple[dict[Literal["technique", "checkpoint"], str], ...]
    why: str


_INSIDE: dict[tuple[type[t.Base], str], Any] = {
    (t.Student, "focus"): _FocusChoice | None,
    (t.AdaptationRow, "body"): Adaptation,
    (t.Clip, "naming"): Naming,
    (t.Clip, "proposals"): list[tuple[int, int]],
    (t.Clip, "capture_rate"): list[tuple[int, float]],
    (t.Review, "proposals"): list[tuple[int, int]],
    (t.Review, "heights_px"): dict[BodyName, float],
    (t.Review, "marking"): Marking,
    (t.Review, "words"): dict[str, str],
    (t.Review, "fix_choice"): _FixChoice | None,
    (t.Correction, "marks"): list[Mark],
    (t.Correction, "drawn"): list[Shape],
    (t.Correction, "beside"): _Beside | None,
    (t.Revision, "sheet"): Sheet,
    (t.Revision, "changes"): list[str],
    (t.RepRow, "options"): dict[str, str],
}
"""What columns of JSON have to hold, as it is read later without being checked again."""


class BadStudentFile(BadInput):
    """This student file cannot be read. Nothing was stored."""


# --- out --------------------------------------------------------------------------------------------


def find(db: Session, student: str) -> t.Student:
    """A student by id, of whatever academy: for whoever looks after the site.

    Raises:
        BadInput: this is no id, or nobody's.
    """
    found = db.get(t.Student, uuid.UUID(student)) if re.fullmatch(_UUID, student.lower()) else None
    if found is None:
        raise BadInput(f"there is no student with the id “{student}”")
    return found


def write(db: Session, academy: uuid.UUID, student_id: uuid.UUID, target: Path) -> None:
    """Write a student's everything into a ZIP.

    Raises:
        NotFound: no such student.
    """
    student = people.student(db, academy, student_id)
    found = _rows_of(db, student)
    versions = {rep.technique_version_id for rep in found["reps"]}
    known = db.scalars(select(t.TechniqueVersion).where(t.TechniqueVersion.id.in_(versions))).all()
    data = {
        "lacertus_student": VERSION,
        "student": _row(student),
        "techniques": [{"id": str(one.id), "technique": one.technique, "body": one.body} for one in known],
    } | {name: [_row(row) for row in rows] for name, rows in found.items()}
    store = media()
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(NAME, json.dumps(data, ensure_ascii=False, indent=1))
        for clip in found["clips"]:
            for key in store.files(clip_prefix(clip.id)):
                name = f"media/{clip.id}/{key.removeprefix(clip_prefix(clip.id) + '/')}"
                with archive.open(zipfile.ZipInfo(name, (2000, 1, 1, 0, 0, 0)), "w", force_zip64=True) as out:
                    for piece in store.read(key, 0, store.size(key)):
                        out.write(piece)


def _rows_of(db: Session, student: t.Student) -> dict[str, list[Any]]:
    """The student's rows: own clips and all of them that shows this student. Reps of others in the same clips are theirs."""

    def all_of(model: Any, *where: Any) -> list[Any]:
        return list(db.scalars(select(model).where(*where).order_by(*model.__table__.primary_key)))

    clips = all_of(t.Clip, t.Clip.student_id == student.id)
    clip_ids = [clip.id for clip in clips]
    reviews = all_of(t.Review, t.Review.clip_id.in_(clip_ids))
    review_ids = [review.id for review in reviews]
    mine = sa.or_(t.RepRow.student_id.is_(None), t.RepRow.student_id == student.id)
    reps = all_of(t.RepRow, t.RepRow.review_id.in_(review_ids), mine)
    rep_ids = [rep.id for rep in reps]
    return {
        "adaptations": all_of(t.AdaptationRow, t.AdaptationRow.student_id == student.id),
        "notes": all_of(t.Note, t.Note.student_id == student.id),
        "feelings": all_of(t.Feeling, t.Feeling.student_id == student.id),
        "decisions": all_of(t.RungDecision, t.RungDecision.student_id == student.id),
        "clips": clips,
        "ties": all_of(t.ViewTie, t.ViewTie.clip_id.in_(clip_ids), t.ViewTie.other_id.in_(clip_ids)),
        "reviews": reviews,
        "reps": reps,
        "events": all_of(t.EventMark, t.EventMark.rep_id.in_(rep_ids)),
        "points": all_of(t.PointRow, t.PointRow.rep_id.in_(rep_ids)),
        "answers": all_of(t.Answer, t.Answer.rep_id.in_(rep_ids)),
        "overrules": all_of(t.OverruleRow, t.OverruleRow.rep_id.in_(rep_ids)),
        "corrections": all_of(t.Correction, t.Correction.rep_id.in_(rep_ids)),
        "revisions": all_of(t.Revision, t.Revision.review_id.in_(review_ids)),
        "said": all_of(t.SheetAnswer, t.SheetAnswer.review_id.in_(review_ids)),
        "judgements": all_of(t.JudgementRow, t.JudgementRow.rep_id.in_(rep_ids)),
    }


def _row(row: t.Base) -> dict[str, Any]:
    return {column.name: _plain(getattr(row, column.name)) for column in _columns(type(row))}


def _columns(model: type[t.Base]) -> list[Any]:
    gone = _NOT_KEPT | ({"link_id"} if model is t.SheetAnswer else set())
    if model is t.JudgementRow:
        # How a rep was done is told by the rep itself.
        gone = gone | {"id", *OF_REP}
    return [column for column in sa.inspect(model).local_table.columns if column.name not in gone]


def _plain(value: Any) -> Any:
    if isinstance(value, uuid.UUID):
        return str(value)
    return value.isoformat() if isinstance(value, date | datetime) else value


# --- in ---------------------------------------------------------------------------------------------


def read(db: Session, academy: uuid.UUID, source: Path) -> tuple[t.Student, list[uuid.UUID]]:
    """Bring a student's everything into an academy, under new ids; returns the student and the clips that are to be read anew.

    Raises:
        BadStudentFile: it is no such file, or something in it does not fit. Nothing is stored.
    """
    try:
        with zipfile.ZipFile(source) as archive:
            names = _checked_names(archive)
            data = _fresh_ids(_data(archive))
            written: list[str] = []
            try:
                student, clips = _store(db, academy, data, archive, names, written)
            except BaseException:
                for key in written:
                    media().delete(key)
                raise
    # What zipfile raises for a torn file, a compression or an encryption that it does not know.
    except (zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError, OSError) as error:
        raise BadStudentFile(f"this is no whole ZIP file ({error}); nothing was stored") from error
    return student, clips


def _checked_names(archive: zipfile.ZipFile) -> dict[tuple[str, str], zipfile.ZipInfo]:
    """The media files by clip and name; raises for any name that we do not write ourselves."""
    entries = archive.infolist()
    if len(entries) > MOST_ENTRIES or sum(entry.file_size for entry in entries) > LARGEST_MEDIA_BYTES:
        raise BadStudentFile("this file holds more than a student’s file may; nothing was stored")
    found = {}
    for entry in entries:
        match = _MEDIA_NAME.fullmatch(entry.filename)
        if match is None and entry.filename != NAME:
            shown = entry.filename.encode("ascii", "replace").decode()[:80]
            raise BadStudentFile(f"the file holds “{shown}”, which is no name of ours; nothing was stored")
        if match is not None:
            found[match.group(1), match.group(2)] = entry
    return found


def _data(archive: zipfile.ZipFile) -> dict[str, Any]:
    try:
        with archive.open(NAME) as file:
            text = file.read(LARGEST_ROWS_BYTES + 1)
    except KeyError as error:
        raise BadStudentFile(f"the file holds no {NAME}; nothing was stored") from error
    if len(text) > LARGEST_ROWS_BYTES:
        raise BadStudentFile("the rows in this file are larger than they may be; nothing was stored")
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise BadStudentFile(f"{NAME} is no JSON; nothing was stored") from error
    if not isinstance(data, dict) or data.get("lacertus_student") != VERSION:
        raise BadStudentFile(f"{NAME} is no student’s file of version {VERSION}; nothing was stored")
    return data


def _fresh_ids(data: dict[str, Any]) -> dict[str, Any]:
    """The rows under new ids, wherever one is named, as the old ones may be taken here; media names are kept in `was`."""
    own = [str(row["id"]) for name, _ in _ROWS for row in _list(data, name) if isinstance(row, dict) and "id" in row]
    own.append(str((data.get("student") or {}).get("id")))
    fresh = {old: str(uuid.uuid4()) for old in own if re.fullmatch(_UUID, old)}
    text = re.sub(_UUID, lambda match: fresh.get(match.group(), match.group()), json.dumps(data))
    renewed: dict[str, Any] = json.loads(text)
    return renewed | {"was": {new: old for old, new in fresh.items()}}


def _list(data: dict[str, Any], name: str) -> list[Any]:
    rows = data.get(name, [])
    if not isinstance(rows, list):
        raise BadStudentFile(f"“{name}” is no list of rows; nothing was stored")
    return rows


def _store(
    db: Session,
    academy: uuid.UUID,
    data: dict[str, Any],
    archive: zipfile.ZipFile,
    names: dict[tuple[str, str], zipfile.ZipInfo],
    written: list[str],
) -> tuple[t.Student, list[uuid.UUID]]:
    student = _made(t.Student, data.get("student"), {"academy_id": academy})
    people.checked_text(student.name, "a student’s name")
    _belongs(student, student, {})
    versions = _versions(db, academy, _list(data, "techniques"))
    db.add(student)
    _flush(db)
    reviews: list[uuid.UUID] = []
    clips: list[t.Clip] = []
    for name, model in _ROWS:
        links: list[tuple[t.RepRow, uuid.UUID | None, uuid.UUID | None]] = []
        for row in _list(data, name):
            made = _made(model, row, {"academy_id": academy})
            _names_own(made, data["was"])
            _belongs(made, student, versions)
            if isinstance(made, t.RepRow):
                # Set when all reps are there: one may name another that comes later.
                links.append((made, made.linked_to, made.blind_of))
                made.linked_to = made.blind_of = None
            if isinstance(made, t.Clip):
                clips.append(made)
            if isinstance(made, t.JudgementRow):
                _as_its_rep(db, made)
            if isinstance(made, t.Review):
                reviews.append(made.id)
            db.add(made)
        _flush(db)
        for rep, linked_to, blind_of in links:
            rep.linked_to, rep.blind_of = linked_to, blind_of
        _flush(db)
    _check(db, academy, reviews)
    wanted = [clip.id for clip in clips if _films(clip, data["was"], archive, names, written)]
    _voices(db, clips, data["was"], archive, names, written)
    db.flush()
    return student, wanted


def _versions(db: Session, academy: uuid.UUID, rows: Iterable[Any]) -> dict[str, uuid.UUID]:
    """The techniques that the reps were judged by: those that are here already, else the academy's own from now on."""
    found = {}
    for row in rows:
        if not isinstance(row, dict) or not re.fullmatch(_UUID, str(row.get("id"))):
            raise BadStudentFile("a technique in this file has no id; nothing was stored")
        technique = read_technique(row.get("body"), "a technique in this file")
        found[str(row["id"])] = techniques.store_brought(db, technique, academy).id
    return found


def _made(model: type[Any], row: Any, more: dict[str, Any]) -> Any:
    """A row of a table from what a file says, every value of its column's type."""
    columns = {column.name: column for column in _columns(model)}
    if isinstance(row, dict):
        # A file written before a column was there leaves it out; what may be empty is empty then.
        row = {name: None for name, column in columns.items() if column.nullable} | row
    if not isinstance(row, dict) or set(row) != set(columns):
        raise BadStudentFile(f"a row of {model.__tablename__} has other columns than it should; nothing was stored")
    values = {}
    for name, column in columns.items():
        wanted = _type_of(column)
        try:
            values[name] = TypeAdapter(wanted).validate_python(row[name])
        except ValidationError as error:
            raise BadStudentFile(f"{model.__tablename__}.{name} does not fit; nothing was stored") from error
        if isinstance(values[name], str) and "\0" in values[name]:
            raise BadStudentFile(f"{model.__tablename__}.{name} holds the character NUL; nothing was stored")
    has = {column.name for column in sa.inspect(model).local_table.columns}
    return model(**values, **{key: value for key, value in more.items() if key in has})


def _type_of(column: sa.Column[Any]) -> Any:
    if isinstance(column.type, sa.JSON):
        kind: Any = dict[str, Any] | list[Any]
    elif isinstance(column.type, sa.ARRAY):
        kind = list[column.type.item_type.python_type]  # type: ignore[name-defined]
    else:
        kind = column.type.python_type
    return kind | None if column.nullable and type(None) not in get_args(kind) else kind


_LINKS = ("rep_id", "review_id", "clip_id", "other_id", "linked_to", "blind_of")


def _names_own(row: Any, own: Mapping[str, str]) -> None:
    """Raise where a row hangs on one that the file does not hold: it could be anybody's."""
    named = [value for name in _LINKS if (value := getattr(row, name, None)) is not None]
    if any(str(value) not in own for value in named):
        raise BadStudentFile("the rows of this file do not fit each other; nothing was stored")


def _belongs(row: Any, student: t.Student, versions: dict[str, uuid.UUID]) -> None:
    """Raise where a row is not this student's; technique versions become those that are here."""
    own = getattr(row, "student_id", student.id)
    if own not in (None, student.id):
        raise BadStudentFile("a row of this file is another student’s; nothing was stored")
    if isinstance(row, t.RepRow):
        here = versions.get(str(row.technique_version_id))
        if here is None:
            raise BadStudentFile("a rep is judged by a technique that the file does not hold; nothing was stored")
        row.technique_version_id = here
    for (model, column), wanted in _INSIDE.items():
        if isinstance(row, model):
            _check_inside(f"{row.__tablename__}.{column}", wanted, getattr(row, column))
    if isinstance(row, t.Correction) and row.beside and "version" in row.beside:
        row.beside = row.beside | {"version": str(versions.get(str(row.beside["version"])))}
    if isinstance(row, t.Revision):
        _check_record(row.record)
    if isinstance(row, t.Clip):
        row.state = "ready" if row.pts_s else "waiting"
        # Made anew when the film is read.
        row.film = row.camera = None


def _as_its_rep(db: Session, row: t.JudgementRow) -> None:
    """A verdict keeps how its rep was done."""
    rep = db.get(t.RepRow, row.rep_id)
    if rep is None:
        raise BadStudentFile("a verdict is of a rep that the file does not hold; nothing was stored")
    for name in OF_REP:
        setattr(row, name, getattr(rep, name))


def _check_inside(what: str, wanted: Any, value: Any) -> None:
    try:
        TypeAdapter(wanted).validate_python(value)
    except ValidationError as error:
        raise BadStudentFile(f"{what} in this file cannot be read; nothing was stored") from error


def _check_record(record: Any) -> None:
    """Raise unless a revision's record can be held against the next one."""
    try:
        changes(record, record)
    except (KeyError, TypeError, AttributeError, IndexError) as error:
        raise BadStudentFile("a revision in this file cannot be read; nothing was stored") from error


def _flush(db: Session) -> None:
    try:
        db.flush()
    except (IntegrityError, DataError) as error:
        db.rollback()
        if "uq_clip_academy_id" in str(error.orig):
            raise BadStudentFile("a clip of this file is in your academy already; nothing was stored") from error
        raise BadStudentFile("the rows of this file do not fit each other; nothing was stored") from error


def _check(db: Session, academy: uuid.UUID, reviews: Iterable[uuid.UUID]) -> None:
    """Every review as it would be opened: each rep fits its clip and its technique, each correction its review."""
    for review_id in reviews:
        review = reviewing.checked(stored.load(db, academy, review_id))
        for rep in review.reps:
            known = techniques.definition(rep.technique_version).events
            if any(mark.event not in known for mark in rep.events):
                raise BadStudentFile("an event of a rep is none of its technique; nothing was stored")
        reps = {rep.id for rep in review.reps}
        if any(correction.rep_id not in reps for correction in review.corrections):
            raise BadStudentFile("a correction belongs to a rep of another review; nothing was stored")


def _films(
    clip: t.Clip, was: dict[str, str], archive: zipfile.ZipFile, names: dict[tuple[str, str], zipfile.ZipInfo], written: list[str]
) -> bool:
    """Store a clip's original; True where there is one, so that it is to be read anew."""
    entry = names.get((was.get(str(clip.id), ""), "original"))
    clip.has_film = entry is not None
    if entry is None:
        return False
    _unpack(archive, entry, original_key(clip.id), written)
    clip.state = "waiting"
    return True


def _voices(
    db: Session,
    clips: Iterable[t.Clip],
    was: dict[str, str],
    archive: zipfile.ZipFile,
    names: dict[tuple[str, str], zipfile.ZipInfo],
    written: list[str],
) -> None:
    for clip in clips:
        spoken = select(t.Correction).join(t.Review, t.Review.id == t.Correction.review_id).where(t.Review.clip_id == clip.id)
        for correction in db.scalars(spoken.where(t.Correction.voice_s.is_not(None))):
            entry = names.get((was[str(clip.id)], f"voice/{was[str(correction.id)]}"))
            if entry is None:
                correction.voice_s = None
            else:
                _unpack(archive, entry, voice_key(clip.id, correction.id), written)


def _unpack(archive: zipfile.ZipFile, entry: zipfile.ZipInfo, key: str, written: list[str]) -> None:
    written.append(key)
    with archive.open(entry) as file:
        media().write_stream(key, iter(lambda: file.read(PIECE_BYTES), b""), entry.file_size)
