"""Files on their way in: begun, gone on with after a break, and taken in as clips once they are whole.

What is known of an upload is a row; its bytes lie under its id (`spool`), so that how much is there is told by what lies there,
whatever process was killed when. The clip that it becomes has the same id: whoever asks again after an answer was lost
is told that it is stored.
"""

from __future__ import annotations

import shutil
import uuid
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from sqlalchemy import delete, func, select, text
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.services.clips import intake, spool
from lacertus.services.clips.intake import Sent
from lacertus.services.errors import Conflict, NotFound, TooLarge
from lacertus.services.people import consents, inbox, people
from lacertus.settings import settings
from lacertus.store import queue
from lacertus.store.queue import READ_CLIP
from lacertus.store.tables import Clip, InboxRow, UploadRow

KEPT = timedelta(days=7)
"""An upload that nobody goes on with is deleted after so long."""
MOST_OPEN = 200
SPARE_BYTES = 1_000_000_000
"""So much of the disk is left free: the database needs room to say that there is none."""


@dataclass(frozen=True, kw_only=True)
class Upload:
    """How far an upload is. `stored`: it is whole and a clip."""

    id: uuid.UUID
    length: int
    offset: int
    stored: bool = False


MOST_OPEN_OWN = 5
"""So many unfinished uploads of one student's own page."""


def begin(db: Session, academy: uuid.UUID, length: int, sent: Sent) -> Upload:
    """Begin an upload of so many bytes.

    Raises:
        BadInput: it cannot become a clip.
        TooLarge: it is over the limit of a file, or of the academy, or the disk is full.
        NotFound: no such student.
        Conflict: too many are begun and not ended.
    """
    sent = sent.checked()
    intake.check_upload(sent.name, length)
    if sent.student is not None:
        consents.check(db, people.student(db, academy, sent.student), "filming")
    # One at a time for an academy: two that are begun together are counted one after the other.
    db.execute(text("select pg_advisory_xact_lock(hashtext(:key))"), {"key": f"uploads-{academy}"})
    begun = db.scalar(select(func.count()).where(UploadRow.academy_id == academy)) or 0
    if begun >= MOST_OPEN:
        raise Conflict(f"{MOST_OPEN} uploads are unfinished. Finish these, or cancel some.")
    if sent.sent_by:
        of_page = (UploadRow.student_id == sent.student, UploadRow.sent_by != "")
        if (db.scalar(select(func.count()).where(*of_page)) or 0) >= MOST_OPEN_OWN:
            raise Conflict(f"{MOST_OPEN_OWN} uploads are unfinished. Finish these first.")
    queue.check_room(db, academy)
    _check_room(db, academy, length)
    row = UploadRow(
        id=uuid.uuid4(),
        academy_id=academy,
        length=length,
        name=sent.name,
        folder=sent.folder,
        student_id=sent.student,
        filmed_on=sent.filmed_on,
        naming=sent.naming,
        sent_by=sent.sent_by,
    )
    db.add(row)
    db.flush()
    spool.begin(academy, row.id)
    return Upload(id=row.id, length=length, offset=0)


def _check_room(db: Session, academy: uuid.UUID, length: int) -> None:
    stored = int(db.scalar(select(func.coalesce(func.sum(Clip.size_bytes), 0)).where(Clip.academy_id == academy)) or 0)
    coming = int(db.scalar(select(func.coalesce(func.sum(UploadRow.length), 0)).where(UploadRow.academy_id == academy)) or 0)
    most = settings().academy_bytes
    if stored + coming + length > most:
        raise TooLarge(
            f"your academy stores {(stored + coming) / 1e9:.1f} GB of video and the limit is {most / 1e9:g} GB; delete clips first"
        )
    folder = Path(settings().uploads_dir)
    folder.mkdir(parents=True, exist_ok=True)
    if shutil.disk_usage(folder).free < length + SPARE_BYTES:
        raise TooLarge("the server’s disk is nearly full, so this file cannot be stored; tell its administrator")


def check_own(db: Session, student: uuid.UUID, upload_id: uuid.UUID) -> None:
    """Raises NotFound where an upload is not one that was sent from this student's own page."""
    own = select(UploadRow.id).where(UploadRow.id == upload_id, UploadRow.student_id == student, UploadRow.sent_by != "")
    arrived = select(InboxRow.id).where(InboxRow.clip_id == upload_id, InboxRow.student_id == student, InboxRow.kind == "clip")
    if db.scalar(own) is None and db.scalar(arrived) is None:
        raise NotFound("There is no such upload; it was cancelled, or it expired after a week. Send the file again.")


def find(db: Session, academy: uuid.UUID, upload_id: uuid.UUID) -> Upload:
    """How far an upload is.

    Raises:
        NotFound: there is none of this id in this academy, or it was deleted.
    """
    row = db.scalar(select(UploadRow).where(UploadRow.academy_id == academy, UploadRow.id == upload_id))
    if row is not None:
        return Upload(id=row.id, length=row.length, offset=min(spool.size_of(academy, upload_id), row.length))
    size = db.scalar(select(Clip.size_bytes).where(Clip.academy_id == academy, Clip.id == upload_id))
    if size is None:
        raise NotFound("There is no such upload; it was cancelled, or it expired after a week. Send the file again.")
    return Upload(id=upload_id, length=size, offset=size, stored=True)


def note_touched(db: Session, upload_id: uuid.UUID) -> None:
    """Somebody went on with an upload: it is kept for another week."""
    row = db.get(UploadRow, upload_id)
    if row is not None:
        row.touched_at = datetime.now(UTC)


def take_in(db: Session, academy: uuid.UUID, upload_id: uuid.UUID) -> Clip | None:
    """Make a clip of a whole upload and ask for it to be read; None where that was done before.

    Its file is left: delete it once this is committed.

    Raises:
        BadInput, TooLarge, Conflict: it cannot become a clip; drop it then.
        NotFound: there is no such upload.
    """
    row = db.scalar(select(UploadRow).where(UploadRow.academy_id == academy, UploadRow.id == upload_id).with_for_update())
    if row is None:
        find(db, academy, upload_id)
        return None
    sent = Sent(
        name=row.name, filmed_on=row.filmed_on, folder=row.folder, student=row.student_id, naming=row.naming,
        sent_by="guardian" if row.sent_by == "guardian" else "student" if row.sent_by else "",
    )  # fmt: skip
    with spool.whole(academy, upload_id) as path:
        if not path.is_file() or path.stat().st_size != row.length:
            raise BadInput("the upload is not whole; send the file again")
        clip = intake.take_in(db, academy, path, sent, upload_id)
    if sent.sent_by in ("student", "guardian") and sent.student is not None:
        item = inbox.Item(
            kind="clip", sent_by="guardian" if sent.sent_by == "guardian" else "student", words=sent.naming.question,
            key=clip.id, clip=clip.id, technique=sent.naming.technique or "",
        )  # fmt: skip
        inbox.put(db, people.student(db, academy, sent.student), item)
    db.delete(row)
    queue.ask(db, READ_CLIP, clip.id, clip.id)
    return clip


def drop(db: Session, academy: uuid.UUID, upload_id: uuid.UUID) -> None:
    """Forget an upload; what came of it is deleted once this is committed.

    Raises:
        NotFound: there is no such upload.
    """
    gone = db.execute(delete(UploadRow).where(UploadRow.academy_id == academy, UploadRow.id == upload_id).returning(UploadRow.id))
    if gone.first() is None:
        raise NotFound("There is no such upload.")


def sweep(db: Session, now: datetime | None = None) -> int:
    """Delete uploads that nobody went on with, and files that no upload owns; returns how many uploads."""
    now = now or datetime.now(UTC)
    old = list(db.execute(delete(UploadRow).where(UploadRow.touched_at < now - KEPT).returning(UploadRow.academy_id, UploadRow.id)))
    # Gone for good before their files go: the other way round a rollback would leave rows without bytes.
    db.commit()
    for academy, upload in old:
        spool.delete(academy, upload)
    known = {str(one) for one in db.scalars(select(UploadRow.id))}
    spool.sweep(known, now - timedelta(days=1))
    return len(old)
