"""Taking clips in: from an uploaded file to one that is ready for the bench, or a reason why not."""

from __future__ import annotations

import uuid
from datetime import date
from pathlib import Path

from sqlalchemy import select, update
from sqlalchemy.orm import Session, joinedload

from lacertus.core.errors import BadInput
from lacertus.services import people
from lacertus.services.errors import Conflict, NotFound, TooLarge
from lacertus.settings import settings
from lacertus.store.media import clip_prefix, media, original_key
from lacertus.store.tables import Clip, JudgementRow, Review
from lacertus.video.inspect import ClipFacts

SUFFIXES = (".mp4", ".mov", ".m4v", ".webm", ".mkv", ".avi")


def check_upload(name: str, size_bytes: int | None) -> None:
    """Refuse what cannot be a clip before a byte of it is sent.

    Raises:
        BadInput: no name, an unknown ending, or an empty file.
        TooLarge: over the size limit.
    """
    people.checked_text(name, "the file’s name")
    if Path(name).suffix.lower() not in SUFFIXES:
        raise BadInput(f"“{name}” is not a video file that is taken here; send {', '.join(SUFFIXES)}")
    if size_bytes == 0:
        raise BadInput(f"“{name}” is empty; send the original file from the phone again")
    if size_bytes is not None and size_bytes > settings().largest_upload_bytes:
        most = settings().largest_upload_bytes / 1e9
        raise TooLarge(f"“{name}” is larger than {most:g} GB, the most that is taken here; cut it on the phone first")


def take_in(db: Session, academy: uuid.UUID, student: uuid.UUID, name: str, file: Path, filmed_on: date) -> Clip:
    """Store an uploaded file untouched as a clip that waits to be read. The file is moved.

    Raises:
        BadInput, TooLarge: as `check_upload`.
        NotFound: no such student.
    """
    check_upload(name, file.stat().st_size)
    owner = people.student(db, academy, student)
    clip = Clip(
        id=uuid.uuid4(),
        academy_id=academy,
        student_id=owner.id,
        name=Path(name).name,
        filmed_on=filmed_on,
        size_bytes=file.stat().st_size,
    )
    media().put(file, original_key(clip.id))
    db.add(clip)
    db.flush()
    file.unlink(missing_ok=True)
    return clip


def clips(db: Session, academy: uuid.UUID) -> list[Clip]:
    """Every clip of an academy, newest first, with its student."""
    found = select(Clip).where(Clip.academy_id == academy).options(joinedload(Clip.student))
    return list(db.scalars(found.order_by(Clip.filmed_on.desc(), Clip.created_at.desc())))


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


def stop_reading(db: Session, academy: uuid.UUID, clip_id: uuid.UUID) -> None:
    """Ask the worker to stop reading a clip; the original is kept."""
    found = clip(db, academy, clip_id)
    if found.state not in ("waiting", "reading"):
        raise Conflict(f"“{found.name}” is not being read.")
    found.stop_asked = True
    if found.state == "waiting":
        found.state = "stopped"


def read_again(db: Session, academy: uuid.UUID, clip_id: uuid.UUID) -> None:
    """Make a stopped or failed clip wait to be read again."""
    found = clip(db, academy, clip_id)
    if found.state not in ("stopped", "failed") or not found.has_film:
        raise Conflict(f"“{found.name}” need not be read again.")
    found.state, found.failure, found.stop_asked, found.frames_done = "waiting", None, False, 0


def delete_clip(db: Session, academy: uuid.UUID, clip_id: uuid.UUID) -> None:
    """Delete a clip with all that was derived from it: files, review and judgements."""
    found = clip(db, academy, clip_id)
    if found.state == "reading":
        raise Conflict(f"“{found.name}” is being read. Stop that first.")
    review = db.scalar(select(Review.id).where(Review.clip_id == found.id))
    if review is not None:
        db.query(JudgementRow).where(JudgementRow.review_id == review).delete()
    db.delete(found)
    db.flush()
    media().delete(clip_prefix(found.id))


# --- what the worker does -----------------------------------------------------------------------


def start_reading(db: Session, clip_id: uuid.UUID) -> Clip | None:
    """Mark a clip as being read; None where it was deleted, stopped or read already."""
    found = db.scalar(select(Clip).where(Clip.id == clip_id).with_for_update())
    if found is None or found.state not in ("waiting", "reading"):
        return None
    found.state, found.frames_done, found.failure = "reading", 0, None
    return found


def note_progress(db: Session, clip_id: uuid.UUID, done: int, expected: int | None) -> bool:
    """Write down how far the reading is; True when it should stop."""
    change = update(Clip).where(Clip.id == clip_id).values(frames_done=done, frames_expected=expected).returning(Clip.stop_asked)
    return bool(db.scalar(change))


def note_ready(db: Session, clip_id: uuid.UUID, facts: ClipFacts) -> None:
    db.execute(
        update(Clip)
        .where(Clip.id == clip_id)
        .values(
            state="ready",
            failure=None,
            frames_done=facts.frames,
            frames_expected=facts.frames,
            codec=facts.codec,
            width=facts.width,
            height=facts.height,
            rotation=facts.rotation,
            nominal_fps=facts.nominal_fps,
            variable_rate=facts.variable_rate,
            duration_s=facts.duration_s,
            pts_s=list(facts.pts_s),
        )
    )


def note_ended(db: Session, clip_id: uuid.UUID, state: str, reason: str | None) -> None:
    """Mark a clip as failed or stopped, with the reason that a person can act on."""
    db.execute(update(Clip).where(Clip.id == clip_id).values(state=state, failure=reason))
