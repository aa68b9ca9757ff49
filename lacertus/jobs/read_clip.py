"""Reading a clip: its frame table, review copy, filmstrip and traces."""

from __future__ import annotations

import uuid
from dataclasses import dataclass

from sqlalchemy.orm import Session

from lacertus.jobs import scratch
from lacertus.jobs.run import Job, Progress
from lacertus.services.clips import intake
from lacertus.settings import settings
from lacertus.store.media import made_key, media, original_key, review_key
from lacertus.store.queue import READ_CLIP
from lacertus.video.inspect import Limits
from lacertus.video.intake.apart import Bounds, read_apart
from lacertus.video.intake.reading import MADE, REVIEW, Reading


@dataclass(frozen=True, kw_only=True)
class Waiting:
    """A clip that is to be read, by the name that its messages use."""

    name: str


class ReadClip(Job[Waiting, Reading]):
    task, about = READ_CLIP, "clip"
    what = "Reading this clip"
    next_step = "The original is kept: try “Read again”, and look at the worker’s log if it happens again."

    def load(self, db: Session, about: uuid.UUID, **more: int) -> Waiting | None:
        found = intake.start_reading(db, about)
        return None if found is None else Waiting(name=found.name)

    def work(self, about: uuid.UUID, wanted: Waiting, progress: Progress) -> Reading:
        """Read the original in a process of its own, and store what was made whole: the review copy last.

        The student's own file name is handed on for messages; every path is of our making.
        """
        with scratch.room() as folder, media().as_local(original_key(about), folder) as original:
            made = folder / "made"
            made.mkdir()
            reading = read_apart(original, made, limits(), bounds(), progress, name=wanted.name)
            for pattern in MADE:
                for path in sorted(made.glob(pattern)):
                    media().put(path, made_key(about, path.name))
            media().put(made / REVIEW, review_key(about))
        return reading

    def done(self, db: Session, about: uuid.UUID, made: Reading) -> None:
        intake.note_ready(db, about, made)

    def noted(self, db: Session, about: uuid.UUID, done: int, of: int | None) -> bool:
        return intake.note_progress(db, about, done, of)

    def failed(self, db: Session, about: uuid.UUID, reason: str) -> None:
        intake.note_ended(db, about, "failed", reason)

    def stopped(self, db: Session, about: uuid.UUID) -> None:
        intake.note_ended(db, about, "stopped", None)


def limits() -> Limits:
    now = settings()
    return Limits(most_pixels=now.most_pixels, most_frames=now.most_frames, most_minutes=now.most_minutes)


def bounds() -> Bounds:
    now = settings()
    return Bounds(
        most_bytes=now.reader_bytes, most_seconds=60.0 * now.reader_minutes, most_idle_seconds=float(now.reader_idle_seconds)
    )
