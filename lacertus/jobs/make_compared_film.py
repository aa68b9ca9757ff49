"""Making the film of a comparison for a sheet."""

from __future__ import annotations

import tempfile
import uuid
from contextlib import ExitStack
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from sqlalchemy.orm import Session

from lacertus.jobs.run import Job, Progress
from lacertus.services.compare import film
from lacertus.services.compare.film import StudioSide
from lacertus.services.techniques import moving
from lacertus.store.media import compared_key, media, review_key
from lacertus.store.queue import MAKE_COMPARED_FILM
from lacertus.video.compare.film import write_compared
from lacertus.video.compare.layers import Layer, Source
from lacertus.video.frames import Frames


class MakeComparedFilm(Job[film.Wanted, tuple[uuid.UUID, float]]):
    task, about = MAKE_COMPARED_FILM, "film"
    what = "Making the film of the comparison"
    next_step = "The sheet is kept: make the film again from the comparison."

    def load(self, db: Session, about: uuid.UUID, **more: int) -> film.Wanted | None:
        return film.wanted(db, about)

    def work(self, about: uuid.UUID, wanted: film.Wanted, progress: Progress) -> tuple[uuid.UUID, float]:
        with tempfile.TemporaryDirectory() as name, ExitStack() as opened:
            layers = [_layer(side, opened) for side in wanted.sides]
            target, titles = Path(name) / "compared.mp4", [side.title for side in wanted.sides]
            write_compared(layers, titles, wanted.words, wanted.plan, target, progress, is_over=wanted.is_over)
            media().put(target, compared_key(wanted.clip, about))
        return wanted.clip, round(wanted.plan.length_s, 1)

    def done(self, db: Session, about: uuid.UUID, made: tuple[uuid.UUID, float]) -> None:
        clip, seconds = made
        if not film.note_made(db, about, seconds):
            # Whoever deleted it found no file yet: it may show somebody who is forgotten.
            media().delete(compared_key(clip, about))


def _layer(side: film.WantedSide, opened: ExitStack) -> Layer:
    return Layer(
        source=_source(side, opened),
        bodies=side.bodies,
        first=side.first,
        laid=side.laid,
        mirrored=side.mirrored,
        limbs_alone=side.clip is None,
    )


def _source(side: film.WantedSide, opened: ExitStack) -> Source:
    if side.clip is None:
        assert side.studio is not None
        return _Studio(side.studio)
    copy = opened.enter_context(media().as_local(review_key(side.clip)))
    return opened.enter_context(Frames(copy))


class _Studio:
    """The studio's move, drawn frame by frame as it is asked for."""

    def __init__(self, side: StudioSide) -> None:
        # Imported late: compiling the renderer's loops takes a moment.
        from lacertus.studio.picture.render import Stage

        self._shot = moving.shot_of(side.technique, side.side, side.options)
        self.size = (self._shot.camera.width, self._shot.camera.height)
        self._stage = Stage(*self.size)
        self._kept: dict[int, NDArray[np.uint8]] = {}

    def frame(self, number: int) -> NDArray[np.uint8]:
        from lacertus.studio.clips import parts_at

        if number not in self._kept:
            time_s = self._shot.times_s[number]
            picture = self._stage.draw([(self._shot.camera_at(time_s), parts_at(self._shot, time_s))])
            self._kept = {number: np.asarray(picture, dtype=np.uint8)}
        return self._kept[number]
