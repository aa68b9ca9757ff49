"""Drawing the frame that a correction stands on, for the student's page."""

from __future__ import annotations

import tempfile
import uuid
from pathlib import Path

from sqlalchemy.orm import Session

from lacertus.jobs.run import Job, Progress
from lacertus.services.corrections import correct
from lacertus.store.media import media, review_key, still_key
from lacertus.store.queue import DRAW_STILL
from lacertus.video.review_copy import write_still


class DrawStill(Job[tuple[uuid.UUID, float], uuid.UUID]):
    task, about = DRAW_STILL, "correction"
    what = "Drawing the picture of this correction"
    next_step = "The correction is kept: change its frame, or open it again, and the picture is drawn again."

    def load(self, db: Session, about: uuid.UUID, **more: int) -> tuple[uuid.UUID, float] | None:
        return correct.still_wanted(db, about)

    def work(self, about: uuid.UUID, wanted: tuple[uuid.UUID, float], progress: Progress) -> uuid.UUID:
        clip, time_s = wanted
        with tempfile.TemporaryDirectory() as folder, media().as_local(review_key(clip)) as copy:
            still = Path(folder) / "still.jpg"
            write_still(copy, time_s, still)
            media().put(still, still_key(clip, about))
        return clip

    def done(self, db: Session, about: uuid.UUID, made: uuid.UUID) -> None:
        if not correct.note_still(db, about):
            # Whoever deleted the correction found no picture yet.
            media().delete(still_key(made, about))
