"""A student's ZIP into an academy, under new ids.

What comes in is checked as if a stranger had made it: names, sizes, rows, techniques, reps; and whether what is stored can be
opened. Films are read anew from the originals; pictures and copies made of them are not taken from the file.
"""

from __future__ import annotations

import json
import re
import tempfile
import uuid
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from sqlalchemy import select
from sqlalchemy.exc import DataError, IntegrityError
from sqlalchemy.orm import Session

from lacertus.core import bounds
from lacertus.core.errors import LacertusError
from lacertus.core.techniques.reading import read_technique
from lacertus.outputs import sheet as outputs
from lacertus.services.corrections import correct
from lacertus.services.people.rights import Right, needs
from lacertus.services.progress import follow_up
from lacertus.services.progress.ledger import OF_REP
from lacertus.services.review import loading
from lacertus.services.review import review as reviewing
from lacertus.services.review.recording import OF_REACTION
from lacertus.services.review.view import view_of
from lacertus.services.techniques import catalogue
from lacertus.services.transfer import archive
from lacertus.services.transfer.archive import Archive, BadStudentFile
from lacertus.services.transfer.archive_child import ROWS as NAME
from lacertus.services.transfer.records import made
from lacertus.services.transfer.rows import PARTS, READ_VERSIONS, ROWS, part_name
from lacertus.settings import settings
from lacertus.store import queue
from lacertus.store import tables as t
from lacertus.store.media import media, original_key, voice_key
from lacertus.store.queue import READ_CLIP

MOST_TECHNIQUES = 500
_UUID = r"[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}"
_LINKS = ("rep_id", "review_id", "clip_id", "other_id", "linked_to", "blind_of")
"""Columns by which a row hangs on another of the file."""


@dataclass(frozen=True, kw_only=True)
class Incoming:
    """A file on its way in: its entries, its rows under new ids, and which old id each new one stands for."""

    files: Archive
    rows: dict[str, Any]
    fresh: dict[str, str]
    was: dict[str, str]
    written: list[str] = field(default_factory=list)
    """Keys of the media that were stored."""

    def list(self, name: str) -> list[Any]:
        found = self.rows.get(name, [])
        if not isinstance(found, list):
            raise BadStudentFile(f"“{name}” is no list of rows; nothing was stored")
        return found

    def rows_of(self, name: str) -> Iterator[Any]:
        """The rows of a table: those among the others, and those in entries of their own."""
        yield from self.list(name)
        owner = PARTS.get(name)
        if owner is None:
            return
        owners = [self.was.get(str(row.get("id"))) for row in self.list(owner.replace("_id", "s")) if isinstance(row, dict)]
        wanted = [part_name(name, one) for one in owners if one is not None]
        for part, text in self.files.parts(wanted):
            found = json.loads(_renewed(text, self.fresh))
            if not isinstance(found, list):
                raise BadStudentFile(f"“{part}” is no list of rows; nothing was stored")
            # Nothing hangs on these rows, so their own ids need not be known before.
            yield from (row | {"id": str(uuid.uuid4())} if isinstance(row, dict) and "id" in row else row for row in found)


@needs(Right.SHARE)
def read(db: Session, academy: uuid.UUID, source: Path) -> tuple[t.Student, list[uuid.UUID]]:
    """Bring a student's everything into an academy; asks for its films to be read anew. Returns the student and those clips.

    Raises:
        BadStudentFile: it is no such file, or something in it does not fit. Nothing is stored.
    """
    base = Path(settings().work_dir).resolve()
    base.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=base, prefix="student-") as room:
        incoming = _incoming(archive.opened(source, Path(room)))
        try:
            return _store(db, academy, incoming)
        except BaseException:
            for key in incoming.written:
                media().delete(key)
            raise


def _incoming(files: Archive) -> Incoming:
    """The rows under new ids, wherever one is named, as the old ones may be taken here."""
    data = files.rows
    if not isinstance(data, dict) or data.get("lacertus_student") not in READ_VERSIONS:
        versions = " or ".join(str(one) for one in READ_VERSIONS)
        raise BadStudentFile(f"{NAME} is no student’s file of version {versions}; nothing was stored")
    lists = [data.get(name) for name, _ in ROWS]
    own = [str(row["id"]) for rows in lists if isinstance(rows, list) for row in rows if isinstance(row, dict) and "id" in row]
    student = data.get("student")
    own += [str(student.get("id"))] if isinstance(student, dict) else []
    fresh = {old: str(uuid.uuid4()) for old in own if re.fullmatch(_UUID, old)}
    rows: dict[str, Any] = json.loads(_renewed(json.dumps(data), fresh))
    return Incoming(files=files, rows=rows, fresh=fresh, was={new: old for old, new in fresh.items()})


def _renewed(text: str, fresh: Mapping[str, str]) -> str:
    return re.sub(_UUID, lambda match: fresh.get(match.group(), match.group()), text)


def _store(db: Session, academy: uuid.UUID, incoming: Incoming) -> tuple[t.Student, list[uuid.UUID]]:
    student: t.Student = made(t.Student, incoming.rows.get("student"), {"academy_id": academy})
    versions = _versions(db, academy, incoming.list("techniques"))
    db.add(student)
    _flush(db)
    for name, model in ROWS:
        _store_rows(db, academy, incoming, name, model, student, versions)
    reviews = [uuid.UUID(row["id"]) for row in incoming.list("reviews")]
    clips = list(db.scalars(select(t.Clip).where(t.Clip.student_id == student.id)))
    _check(db, academy, student, reviews)
    wanted = _films(incoming, clips)
    _voices(db, incoming, clips)
    db.flush()
    for clip in wanted:
        queue.ask(db, READ_CLIP, clip, clip)
    return student, wanted


def _store_rows(
    db: Session,
    academy: uuid.UUID,
    incoming: Incoming,
    name: str,
    model: type[t.Base],
    student: t.Student,
    versions: dict[str, uuid.UUID],
) -> None:
    links: list[tuple[t.RepRow, uuid.UUID | None, uuid.UUID | None]] = []
    for count, row in enumerate(incoming.rows_of(name)):
        if count >= bounds.MOST_POINTS:
            raise BadStudentFile(f"the file holds more {name} than a student’s file may; nothing was stored")
        one = made(model, row, {"academy_id": academy})
        _names_own(one, incoming.was)
        _belongs(one, student, versions)
        if isinstance(one, t.RepRow) and one.start is not None and one.start.startswith("own-"):
            # A start of the academy that the file comes from.
            one.start = None
        if isinstance(one, t.RepRow):
            # Set when all reps are there: one may name another that comes later.
            links.append((one, one.linked_to, one.blind_of))
            one.linked_to = one.blind_of = None
        if isinstance(one, t.JudgementRow | t.ReactedRow):
            _as_its_rep(db, one)
        db.add(one)
    _flush(db)
    for rep, linked_to, blind_of in links:
        rep.linked_to, rep.blind_of = linked_to, blind_of
    _flush(db)


def _versions(db: Session, academy: uuid.UUID, rows: list[Any]) -> dict[str, uuid.UUID]:
    """The techniques that the reps were judged by: those that are here already, else the academy's own from now on."""
    if len(rows) > MOST_TECHNIQUES:
        raise BadStudentFile(f"the file holds more than {MOST_TECHNIQUES} techniques; nothing was stored")
    found = {}
    for row in rows:
        if not isinstance(row, dict) or not re.fullmatch(_UUID, str(row.get("id"))):
            raise BadStudentFile("a technique in this file has no id; nothing was stored")
        technique = read_technique(row.get("body"), "a technique in this file")
        found[str(row["id"])] = catalogue.store_brought(db, technique, academy).id
    return found


def _names_own(row: Any, own: Mapping[str, str]) -> None:
    """Raise where a row hangs on one that the file does not hold: it could be anybody's."""
    named = [value for name in _LINKS if (value := getattr(row, name, None)) is not None]
    if any(str(value) not in own for value in named):
        raise BadStudentFile("the rows of this file do not fit each other; nothing was stored")


def _belongs(row: Any, student: t.Student, versions: dict[str, uuid.UUID]) -> None:
    """Raise where a row is not this student's; technique versions become those that are here."""
    if getattr(row, "student_id", student.id) not in (None, student.id):
        raise BadStudentFile("a row of this file is another student’s; nothing was stored")
    if isinstance(row, t.RepRow):
        here = versions.get(str(row.technique_version_id))
        if here is None:
            raise BadStudentFile("a rep is judged by a technique that the file does not hold; nothing was stored")
        row.technique_version_id = here
    if isinstance(row, t.Correction) and row.example is not None and row.example.version is not None:
        row.example = row.example.model_copy(update={"version": versions.get(str(row.example.version))})
    if isinstance(row, t.Clip):
        row.student_id = student.id
        row.state = "ready" if row.pts_s else "waiting"
        # Made anew when the film is read.
        row.film = row.camera = None


def _as_its_rep(db: Session, row: t.JudgementRow | t.ReactedRow) -> None:
    """A verdict keeps how its rep was done."""
    rep = db.get(t.RepRow, row.rep_id)
    if rep is None or rep.review_id != row.review_id:
        raise BadStudentFile("a verdict is of a rep that the file does not hold; nothing was stored")
    for name in OF_REP if isinstance(row, t.JudgementRow) else OF_REACTION:
        setattr(row, name, getattr(rep, name))


def _flush(db: Session) -> None:
    try:
        db.flush()
    except (IntegrityError, DataError) as error:
        db.rollback()
        if "uq_clip_academy_id" in str(error.orig):
            raise BadStudentFile("a clip of this file is in your academy already; nothing was stored") from error
        raise BadStudentFile("the rows of this file do not fit each other; nothing was stored") from error


# --- can it be opened? --------------------------------------------------------------------------------


def _check(db: Session, academy: uuid.UUID, student: t.Student, reviews: Iterable[uuid.UUID]) -> None:
    """Open everything as it will be opened; what cannot be opened is not taken."""
    try:
        for review_id in reviews:
            _check_review(loading.load(db, academy, review_id))
        for revision in db.scalars(select(t.Revision).join(t.Review).where(t.Review.student_id == student.id)):
            outputs.page(revision.sheet, lambda picture: "")
        follow_up.ledger_page(db, academy, student.id)
    except LacertusError:
        raise
    except (ArithmeticError, LookupError, TypeError, ValueError, AttributeError) as error:
        raise BadStudentFile(f"something in this file cannot be opened ({type(error).__name__}); nothing was stored") from error


def _check_review(review: t.Review) -> None:
    for rep in reviewing.checked(review).reps:
        known = catalogue.definition(rep.technique_version).events
        if any(mark.event not in known for mark in rep.events):
            raise BadStudentFile("an event of a rep is none of its technique; nothing was stored")
        for point in rep.points:
            reviewing.check_inside(review.clip, point.x, point.y)
    reps = {rep.id: rep for rep in review.reps}
    for correction in review.corrections:
        own = reps.get(correction.rep_id)
        if own is None:
            raise BadStudentFile("a correction belongs to a rep of another review; nothing was stored")
        asked = catalogue.definition(own.technique_version).asked(correction.checkpoint)
        if asked is None or not own.first_frame <= correction.first_frame <= correction.last_frame <= own.last_frame:
            raise BadStudentFile("a correction lies outside its rep, or corrects what is not asked; nothing was stored")
        correct.shown_of(correction, correct.scene_of(review, own))
    assert view_of(review).fixes is not None


# --- films and voices -----------------------------------------------------------------------------------


def _films(incoming: Incoming, clips: Iterable[t.Clip]) -> list[uuid.UUID]:
    """Store the clips' originals; returns those that have one, which are to be read anew."""
    wanted = {}
    for clip in clips:
        name = f"media/{incoming.was[str(clip.id)]}/original"
        clip.has_film = incoming.files.has(name)
        if clip.has_film:
            clip.state = "waiting"
            wanted[name] = original_key(clip.id)
        elif clip.state == "waiting":
            raise BadStudentFile("a clip has neither its film nor the times of its frames; nothing was stored")
    _unpack(incoming, wanted)
    return [clip.id for clip in clips if clip.has_film]


def _voices(db: Session, incoming: Incoming, clips: Iterable[t.Clip]) -> None:
    wanted = {}
    for clip in clips:
        spoken = select(t.Correction).join(t.Review, t.Review.id == t.Correction.review_id).where(t.Review.clip_id == clip.id)
        for correction in db.scalars(spoken.where(t.Correction.voice_s.is_not(None))):
            name = f"media/{incoming.was[str(clip.id)]}/voice/{incoming.was[str(correction.id)]}"
            if not incoming.files.has(name) or incoming.files.entries[name][1] > correct.LARGEST_VOICE_BYTES:
                correction.voice_s = None
            else:
                wanted[name] = voice_key(clip.id, correction.id)
    _unpack(incoming, wanted)


def _unpack(incoming: Incoming, wanted: Mapping[str, str]) -> None:
    """Store entries under keys of our own."""
    for batch in incoming.files.batches(list(wanted)):
        with incoming.files.unpacked(batch) as files:
            for name, file in zip(batch, files, strict=True):
                incoming.written.append(wanted[name])
                media().put(file, wanted[name])
