"""Taking clips in: from an uploaded file to one that is ready for the bench, or a reason why not."""

from __future__ import annotations

import hashlib
import uuid
from dataclasses import dataclass, field, replace
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from typing import Literal

from sqlalchemy import select, update
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session, defer, joinedload

from lacertus.core.clips.naming import Naming
from lacertus.core.errors import BadInput
from lacertus.core.texts import checked_file_name, checked_name
from lacertus.services.clips import compared_films
from lacertus.services.days import checked_day
from lacertus.services.errors import Conflict, HereAlready, NotFound, TooLarge
from lacertus.services.people import audit, people
from lacertus.services.people.rights import Right, needs
from lacertus.settings import settings
from lacertus.store import queue
from lacertus.store.media import CLIPS, clip_prefix, media, original_key
from lacertus.store.queue import READ_CLIP
from lacertus.store.tables import Clip, JudgementRow, ReactedRow, Review
from lacertus.video.intake.reading import Reading

SUFFIXES = (".mp4", ".mov", ".m4v", ".webm", ".mkv", ".avi")
LONGEST_FOLDER = 300
ORPHAN_AGE = timedelta(hours=1)
"""Media without a clip are left alone for so long: they may be on their way in."""
SET_BY_COACH = "set by"
"""How the reason for a capture rate begins that a coach has set."""


def check_upload(name: str, size_bytes: int | None) -> None:
    """Refuse what cannot be a clip before a byte of it is sent.

    Raises:
        BadInput: no name, an unknown ending, or an empty file.
        TooLarge: over the size limit.
    """
    name = checked_file_name(name)
    if Path(name).suffix.lower() not in SUFFIXES:
        raise BadInput(f"“{name}” is not a video file that is taken here; send {', '.join(SUFFIXES)}")
    if size_bytes == 0:
        raise BadInput(f"“{name}” is empty; send the original file from the phone again")
    if size_bytes is not None and size_bytes > settings().largest_upload_bytes:
        most = settings().largest_upload_bytes / 1e9
        raise TooLarge(f"“{name}” is larger than {most:g} GB, the most that is taken here; cut it on the phone first")


@dataclass(frozen=True, kw_only=True)
class Sent:
    """What comes with an uploaded file: its name, the folder it lay in, the day it was filmed, and whose it is, where known."""

    name: str
    filmed_on: date
    folder: str = ""
    student: uuid.UUID | None = None
    naming: Naming = field(default_factory=Naming)
    sent_by: Literal["", "student", "guardian"] = ""
    """Who sends it from the student's own page; empty: somebody of the academy."""

    def checked(self) -> Sent:
        """The same with its names as they are kept.

        Raises:
            BadInput: a name cannot be kept, or the day is none on which anybody filmed.
        """
        folder = checked_name(self.folder, "the folder’s name", LONGEST_FOLDER) if self.folder.strip() else ""
        filmed_on = checked_day(self.filmed_on, "the day of filming")
        return replace(self, name=checked_file_name(self.name), folder=folder, filmed_on=filmed_on)


def take_in(db: Session, academy: uuid.UUID, file: Path, sent: Sent, clip_id: uuid.UUID | None = None) -> Clip:
    """Store an uploaded file untouched as a clip that waits to be read. The file itself is left to the caller.

    Raises:
        BadInput, TooLarge: as `check_upload`.
        NotFound: no such student.
        Conflict: the same file, byte for byte, is here already.
    """
    sent = sent.checked()
    check_upload(sent.name, file.stat().st_size)
    owner = people.student(db, academy, sent.student).id if sent.student else None
    digest = sha256_of(file)
    _refuse_again(db, academy, digest, sent.name)
    clip = Clip(
        id=clip_id or uuid.uuid4(),
        academy_id=academy,
        student_id=owner,
        name=sent.name,
        folder=sent.folder,
        filmed_on=sent.filmed_on,
        naming=sent.naming,
        size_bytes=file.stat().st_size,
        sha256=digest,
    )
    media().put(file, original_key(clip.id))
    db.add(clip)
    try:
        db.flush()
    except IntegrityError:
        # Sent twice at the same moment: the other one was first.
        db.rollback()
        media().delete(clip_prefix(clip.id))
        _refuse_again(db, academy, digest, sent.name)
        raise
    return clip


def sha256_of(file: Path) -> str:
    """The content's SHA-256, read in pieces."""
    with file.open("rb") as content:
        return hashlib.file_digest(content, "sha256").hexdigest()


def _refuse_again(db: Session, academy: uuid.UUID, digest: str, name: str) -> None:
    here = db.scalar(select(Clip).where(Clip.academy_id == academy, Clip.sha256 == digest).options(joinedload(Clip.student)))
    if here is not None:
        whose = f" for {here.student.name}" if here.student else ""
        raise HereAlready(
            f"“{name}” is here already as “{here.name}”{whose}, taken in on {here.created_at:%d %B %Y}. It was not stored twice."
        )


def clips(db: Session, academy: uuid.UUID, take: int = 100) -> list[Clip]:
    """Clips of an academy with their students: those that are not reviewed yet first, then the newest; at most so many.

    The times of their frames are not read: a list needs none of them.
    """
    done = select(Review.clip_id).where(Review.clip_id == Clip.id, Review.finished_at.is_not(None)).exists()
    found = select(Clip).where(Clip.academy_id == academy).options(joinedload(Clip.student), defer(Clip.pts_s))
    return list(db.scalars(found.order_by(done, Clip.filmed_on.desc(), Clip.created_at.desc()).limit(take)))


def clip(db: Session, academy: uuid.UUID, clip_id: uuid.UUID) -> Clip:
    """One clip with its student.

    Raises:
        NotFound: not in this academy.
    """
    found = select(Clip).where(Clip.academy_id == academy, Clip.id == clip_id).options(joinedload(Clip.student))
    result = db.scalar(found)
    if result is None:
        raise NotFound("There is no such clip in your academy.")
    return result


def ready_clip(db: Session, academy: uuid.UUID, clip_id: uuid.UUID) -> Clip:
    """A clip that has been read.

    Raises:
        Conflict: it is not ready.
    """
    found = clip(db, academy, clip_id)
    if found.state != "ready":
        raise Conflict(f"“{found.name}” is not ready yet ({found.state}). Wait until it has been read.")
    return found


def named_clip(db: Session, academy: uuid.UUID, clip_id: uuid.UUID) -> tuple[Clip, uuid.UUID]:
    """A clip that has been read and whose student is known, and the student.

    Raises:
        Conflict: not read, or not said whose it is.
    """
    found = ready_clip(db, academy, clip_id)
    if found.student_id is None:
        raise Conflict(f"Say first whose clip “{found.name}” is.")
    return found, found.student_id


@needs(Right.NAME_CLIPS)
def stop_reading(db: Session, academy: uuid.UUID, clip_id: uuid.UUID) -> None:
    """Ask the worker to stop reading a clip; the original is kept."""
    found = clip(db, academy, clip_id)
    if found.state not in ("waiting", "reading"):
        raise Conflict(f"“{found.name}” is not being read.")
    found.stop_asked = True
    if found.state == "waiting":
        found.state = "stopped"
        queue.end(db, READ_CLIP, found.id, "stopped")


@needs(Right.NAME_CLIPS)
def read_again(db: Session, academy: uuid.UUID, clip_id: uuid.UUID) -> None:
    """Make a stopped or failed clip wait to be read again."""
    found = clip(db, academy, clip_id)
    if found.state not in ("stopped", "failed") or not found.has_film:
        raise Conflict(f"“{found.name}” need not be read again.")
    found.state, found.failure, found.stop_asked, found.frames_done, found.reading_since = "waiting", None, False, 0, None
    queue.ask(db, READ_CLIP, found.id, found.id)


@needs(Right.DELETE_CLIPS)
def delete_clip(db: Session, academy: uuid.UUID, clip_id: uuid.UUID) -> None:
    """Delete a clip with all that was derived from it: files, review and judgements."""
    found = clip(db, academy, clip_id)
    if found.state == "reading":
        raise Conflict(f"“{found.name}” is being read. Stop that first.")
    review = db.scalar(select(Review.id).where(Review.clip_id == found.id).with_for_update())
    if review is not None:
        for table in (JudgementRow, ReactedRow):
            db.query(table).where(table.review_id == review).delete()
    films = compared_films.forget_films(db, clips=[found.id])
    db.delete(found)
    audit.write(db, academy, "clip deleted", str(found.id))
    db.flush()
    for key in films:
        media().delete(key)
    media().delete(clip_prefix(found.id))


# --- what the worker does -----------------------------------------------------------------------


def start_reading(db: Session, clip_id: uuid.UUID) -> Clip | None:
    """Mark a clip as being read; None where it was deleted, stopped or read already."""
    found = db.scalar(select(Clip).where(Clip.id == clip_id).with_for_update())
    if found is None or found.state not in ("waiting", "reading"):
        return None
    found.state, found.frames_done, found.failure, found.reading_since = "reading", 0, None, datetime.now(UTC)
    return found


def note_progress(db: Session, clip_id: uuid.UUID, done: int, expected: int | None) -> bool:
    """Write down how far the reading is; True when it should stop."""
    change = update(Clip).where(Clip.id == clip_id).values(frames_done=done, frames_expected=expected).returning(Clip.stop_asked)
    return bool(db.scalar(change))


def note_ready(db: Session, clip_id: uuid.UUID, reading: Reading) -> None:
    """Keep what reading a clip found out. A capture rate that the coach has set stays."""
    facts = reading.facts
    found = db.get(Clip, clip_id)
    if found is None:
        return
    found.state, found.failure, found.reading_since = "ready", None, None
    found.frames_done = found.frames_expected = facts.frames
    found.codec, found.width, found.height = facts.codec, facts.width, facts.height
    found.rotation, found.mirrored = facts.rotation, facts.mirrored
    found.nominal_fps, found.variable_rate = facts.nominal_fps, facts.variable_rate
    found.duration_s, found.pts_s = facts.duration_s, list(facts.pts_s)
    found.has_sound, found.sound_broke_off = reading.has_sound, reading.sound_broke_off
    found.dropped_frames, found.repeated_frames = reading.dropped, reading.repeated
    found.film, found.camera = reading.film, reading.camera
    found.proposals = tuple((cut.first, cut.last) for cut in reading.cuts)
    if not found.capture_why.startswith(SET_BY_COACH):
        found.capture_rate = reading.capture.rates
        found.capture_sure, found.capture_why = reading.capture.sure, reading.capture.why


def note_ended(db: Session, clip_id: uuid.UUID, state: str, reason: str | None) -> None:
    """Mark a clip as failed or stopped, with the reason that a person can act on."""
    db.execute(update(Clip).where(Clip.id == clip_id).values(state=state, failure=reason, reading_since=None))


def unread(db: Session) -> list[uuid.UUID]:
    """Clips that should be read or be being read, so that one without a job can be given one."""
    return list(db.scalars(select(Clip.id).where(Clip.state.in_(("waiting", "reading")))))


def sweep(db: Session) -> int:
    """Delete media that no clip owns any more: what a process left that ended in the middle. Returns how many clips' worth."""
    known = {str(clip_id) for clip_id in db.scalars(select(Clip.id))}
    old = datetime.now(UTC) - ORPHAN_AGE
    orphans = [name for name, changed in media().folders(CLIPS) if name not in known and changed < old]
    for name in orphans:
        media().delete(f"{CLIPS}/{name}")
    media().sweep_parts(CLIPS, old)
    return len(orphans)
