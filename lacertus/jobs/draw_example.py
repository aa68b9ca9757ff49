"""Drawing the picture that stands beside a correction: a frame of another rep, or the studio's figure."""

from __future__ import annotations

import tempfile
import uuid
from pathlib import Path

from sqlalchemy.orm import Session

from lacertus.core.corrections.example import Example
from lacertus.jobs.run import Job, Progress
from lacertus.services.corrections import examples
from lacertus.services.techniques import catalogue, figure
from lacertus.store.database import session
from lacertus.store.media import example_key, media, reference_film_key, reference_key, review_key
from lacertus.store.queue import DRAW_EXAMPLE
from lacertus.video.review_copy import write_still


class DrawExample(Job[examples.Wanted, Example]):
    task, about = DRAW_EXAMPLE, "correction"
    what = "Drawing the picture beside this correction"
    next_step = "The correction is kept: choose the picture again."

    def load(self, db: Session, about: uuid.UUID, **more: int) -> examples.Wanted | None:
        return examples.wanted(db, about)

    def work(self, about: uuid.UUID, wanted: examples.Wanted, progress: Progress) -> Example:
        example = wanted.example
        with tempfile.TemporaryDirectory() as folder:
            picture, film = Path(folder) / "example.jpg", Path(folder) / "example.mp4"
            if example.clip is None or wanted.time_s is None:
                return _draw_figure(example, wanted.checkpoint, picture, film)
            with media().as_local(review_key(example.clip)) as copy:
                write_still(copy, wanted.time_s, picture)
            media().put(picture, example_key(example.clip, about))
        return example

    def done(self, db: Session, about: uuid.UUID, made: Example) -> None:
        if not examples.note_ready(db, about, made) and made.clip is not None:
            # Whoever took it away found no picture yet: it may show somebody who is forgotten.
            media().delete(example_key(made.clip, about))


def _draw_figure(example: Example, checkpoint: str, picture: Path, film: Path) -> Example:
    assert example.version is not None
    assert example.side is not None
    with session() as db:
        technique = catalogue.version(db, example.version)
    drawn = figure.show(technique, checkpoint, example.side, example.options, picture, film)
    name = figure.name_of(technique, checkpoint, example.side, example.options)
    media().put(picture, reference_key(name))
    media().put(film, reference_film_key(name))
    return example.model_copy(
        update={"name": name, "film": True, "width": drawn.width, "height": drawn.height, "shapes": drawn.shapes}
    )
