"""The tasks that a worker runs. Files are touched here, never in the web process."""

from __future__ import annotations

import tempfile
import time
import uuid
from functools import cache
from pathlib import Path

import procrastinate
import structlog

from lacertus.core.errors import LacertusError
from lacertus.jobs.queue import DRAW_STILL, READ_CLIP
from lacertus.services import correct, intake
from lacertus.services.errors import TooLarge
from lacertus.settings import settings
from lacertus.store.database import session
from lacertus.store.media import media, original_key, review_key, still_key
from lacertus.video.inspect import ClipFacts
from lacertus.video.review import make_review_copy, write_still

log = structlog.get_logger()
PROGRESS_EVERY_S = 0.25


class Stopped(LacertusError):
    """The reading was stopped. The original is kept."""


@cache
def worker_app() -> procrastinate.App:
    """The queue as a worker sees it, with its tasks."""
    app = procrastinate.App(connector=procrastinate.PsycopgConnector(conninfo=settings().database_url))
    app.task(name=READ_CLIP, retry=2)(read_clip)
    app.task(name=DRAW_STILL, retry=2)(draw_still)
    return app


def run_worker() -> None:
    """Work on jobs until ended, one at a time: reading a clip keeps all cores busy."""
    worker_app().run_worker(concurrency=1, delete_jobs="successful", fetch_job_polling_interval=1.0)


def read_clip(clip: str) -> None:
    """Read a clip: its frame table and its review copy. Ends in ready, or in a reason."""
    clip_id = uuid.UUID(clip)
    with session() as db:
        started = intake.start_reading(db, clip_id)
        name = started.name if started else ""
    if started is None:
        return
    try:
        facts = _read(clip_id, name)
    except Stopped:
        _ended(clip_id, "stopped", None)
    except LacertusError as error:
        _ended(clip_id, "failed", str(error))
    else:
        with session() as db:
            intake.note_ready(db, clip_id, facts)
        log.info("clip ready", clip=clip, frames=facts.frames)


def _ended(clip_id: uuid.UUID, state: str, reason: str | None) -> None:
    with session() as db:
        intake.note_ended(db, clip_id, state, reason)
    log.info("clip not read", clip=str(clip_id), state=state, reason=reason)


def _read(clip_id: uuid.UUID, name: str) -> ClipFacts:
    """Make the review copy beside the original and store it whole.

    The original is linked under the student's own file name, so that messages name what was sent.
    """
    with tempfile.TemporaryDirectory() as folder, media().as_local(original_key(clip_id)) as original:
        source = Path(folder) / "in" / name
        source.parent.mkdir()
        source.symlink_to(original.resolve())
        copy = Path(folder) / "review.mp4"
        facts = make_review_copy(source, copy, _Progress(clip_id), settings().most_pixels)
        media().put(copy, review_key(clip_id))
    return facts


class _Progress:
    """Writes progress down a few times a second, and stops the work when asked or over a limit."""

    def __init__(self, clip_id: uuid.UUID) -> None:
        self.clip_id = clip_id
        self._next = 0.0

    def __call__(self, done: int, expected: int | None) -> None:
        if max(done, expected or 0) > settings().most_frames:
            raise TooLarge(f"the clip has more than {settings().most_frames} frames, the most that is taken here; cut it first")
        if time.monotonic() < self._next:
            return
        self._next = time.monotonic() + PROGRESS_EVERY_S
        with session() as db:
            if intake.note_progress(db, self.clip_id, done, expected):
                raise Stopped()


def draw_still(correction: str) -> None:
    """Draw the frame that a correction stands on, for the student's page."""
    correction_id = uuid.UUID(correction)
    with session() as db:
        wanted = correct.still_wanted(db, correction_id)
    if wanted is None:
        return
    clip_id, time_s = wanted
    with tempfile.TemporaryDirectory() as folder, media().as_local(review_key(clip_id)) as copy:
        still = Path(folder) / "still.jpg"
        write_still(copy, time_s, still)
        media().put(still, still_key(clip_id, correction_id))
    with session() as db:
        correct.note_still(db, correction_id)
