"""Drawing the picture that stands beside a correction: a frame of another rep, or the studio's figure."""

from __future__ import annotations

import tempfile
import uuid
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from lacertus.jobs.queue import DRAW_BESIDE
from lacertus.jobs.run import Job
from lacertus.services.corrections import examples
from lacertus.services.techniques import catalogue, figure
from lacertus.store.database import session
from lacertus.store.media import beside_key, media, reference_key, review_key
from lacertus.video.review import write_still

Told = dict[str, Any]


class DrawExample(Job[tuple[Told, float | None], Told]):
    task, about = DRAW_BESIDE, "correction"
    what = "Drawing the picture beside this correction"
    next_step = "The correction is kept: choose the picture again."

    def load(self, db: Session, about: uuid.UUID, **more: int) -> tuple[Told, float | None] | None:
        return examples.wanted(db, about)

    def work(self, about: uuid.UUID, wanted: tuple[Told, float | None]) -> Told:
        told, time_s = wanted
        with tempfile.TemporaryDirectory() as folder:
            picture = Path(folder) / "example.jpg"
            if time_s is None:
                return _draw_figure(told, picture)
            clip = uuid.UUID(str(told["clip"]))
            with media().as_local(review_key(clip)) as copy:
                write_still(copy, time_s, picture)
            media().put(picture, beside_key(clip, about))
        return {}

    def done(self, db: Session, about: uuid.UUID, made: Told) -> None:
        examples.note_ready(db, about, made)

    def failed(self, db: Session, about: uuid.UUID, reason: str) -> None:
        examples.note_ready(db, about, {"failed": reason})


def _draw_figure(told: Told, picture: Path) -> Told:
    with session() as db:
        technique = catalogue.version(db, uuid.UUID(str(told["version"])))
    checkpoint, side, options = str(told["checkpoint"]), str(told["side"]), told["options"]
    drawn = figure.show(technique, checkpoint, side, options, picture)
    name = figure.name_of(technique, checkpoint, side, options)
    media().put(picture, reference_key(name))
    return {"name": name, "width": drawn.width, "height": drawn.height, "shapes": drawn.shapes}
