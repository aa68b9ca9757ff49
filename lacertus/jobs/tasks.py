"""The tasks that a worker runs. Files are touched here, never in the web process."""

from __future__ import annotations

import tempfile
import time
import uuid
from collections.abc import Callable
from functools import cache
from pathlib import Path

import procrastinate
import structlog
from sqlalchemy.orm import Session

from lacertus.core.errors import LacertusError
from lacertus.jobs import workroom
from lacertus.jobs.queue import CARRY, DRAW_BESIDE, DRAW_STILL, MAKE_MARKED, READ_CLIP
from lacertus.outputs.captions import captions
from lacertus.services.clips import intake
from lacertus.services.corrections import correct, examples, marked_clip
from lacertus.services.review import tracking
from lacertus.services.techniques import catalogue, figure
from lacertus.settings import settings
from lacertus.store.database import session
from lacertus.store.media import (
    NoMedia,
    beside_key,
    captions_key,
    made_key,
    marked_key,
    media,
    original_key,
    reference_key,
    review_key,
    still_key,
    voice_key,
)
from lacertus.video.apart import Bounds, read_apart
from lacertus.video.following import follow_bodies
from lacertus.video.inspect import Limits
from lacertus.video.marked import Drawn, write_marked
from lacertus.video.reading import MADE, REVIEW, Reading
from lacertus.video.review import write_still
from lacertus.video.voice import BadVoice, read_voice

log = structlog.get_logger()
PROGRESS_EVERY_S = 0.25
OUR_FAULT = (
    "Reading “{name}” broke off for a reason that lies with the server ({what}). The original is kept: look into the "
    "worker’s log, then choose “Read again”."
)


class Stopped(LacertusError):
    """The work was stopped. What it began from is kept."""


@cache
def worker_app() -> procrastinate.App:
    """The queue as a worker sees it, with its tasks."""
    app = procrastinate.App(connector=procrastinate.PsycopgConnector(conninfo=settings().database_url))
    app.task(name=READ_CLIP, retry=2)(read_clip)
    app.task(name=DRAW_STILL, retry=2)(draw_still)
    app.task(name=CARRY, retry=2)(carry_points)
    app.task(name=DRAW_BESIDE, retry=2)(draw_beside)
    app.task(name=MAKE_MARKED, retry=2)(make_marked)
    return app


def read_clip(clip: str) -> None:
    """Read a clip: its frame table, review copy, filmstrip and traces. Ends in ready, or in a reason."""
    clip_id = uuid.UUID(clip)
    with session() as db:
        started = intake.start_reading(db, clip_id)
        name = started.name if started else ""
    if started is None:
        return
    try:
        reading = _read(clip_id, name)
    except Stopped:
        _ended(clip_id, "stopped", None)
    except LacertusError as error:
        _ended(clip_id, "failed", str(error))
    except Exception as error:
        # A fault of ours, or a full disk: told at once rather than tried for ever. Without a database the job is retried.
        log.exception("reading broke off", clip=clip)
        _ended(clip_id, "failed", OUR_FAULT.format(name=name, what=type(error).__name__))
    else:
        with session() as db:
            intake.note_ready(db, clip_id, reading)
        log.info("clip ready", clip=clip, frames=reading.facts.frames)


def _ended(clip_id: uuid.UUID, state: str, reason: str | None) -> None:
    with session() as db:
        intake.note_ended(db, clip_id, state, reason)
    log.info("clip not read", clip=str(clip_id), state=state, reason=reason)


def _read(clip_id: uuid.UUID, name: str) -> Reading:
    """Read the original in a process of its own, and store what was made whole: the review copy last.

    The student's own file name is handed on for messages; every path is of our making.
    """
    with workroom.room() as folder, media().as_local(original_key(clip_id), folder) as original:
        made = folder / "made"
        made.mkdir()
        progress = _Progress(lambda db, done, of: intake.note_progress(db, clip_id, done, of))
        reading = read_apart(original, made, _limits(), _bounds(), progress, name=name)
        for pattern in MADE:
            for path in sorted(made.glob(pattern)):
                media().put(path, made_key(clip_id, path.name))
        media().put(made / REVIEW, review_key(clip_id))
    return reading


def _limits() -> Limits:
    now = settings()
    return Limits(most_pixels=now.most_pixels, most_frames=now.most_frames, most_minutes=now.most_minutes)


def _bounds() -> Bounds:
    now = settings()
    return Bounds(
        most_bytes=now.reader_bytes, most_seconds=60.0 * now.reader_minutes, most_idle_seconds=float(now.reader_idle_seconds)
    )


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


def draw_beside(correction: str) -> None:
    """Draw the picture that stands beside a correction: a frame of another rep, or the studio's figure."""
    correction_id = uuid.UUID(correction)
    with session() as db:
        found = examples.wanted(db, correction_id)
    if found is None:
        return
    told, time_s = found
    try:
        more = _draw_beside(correction_id, told, time_s)
    except LacertusError as error:
        # The clip that it was to come from was deleted, or the figure does not show it: told, and not tried for ever.
        more = {"failed": str(error)}
    with session() as db:
        examples.note_ready(db, correction_id, more)


def _draw_beside(correction_id: uuid.UUID, told: dict[str, object], time_s: float | None) -> dict[str, object]:
    with tempfile.TemporaryDirectory() as folder:
        picture = Path(folder) / "beside.jpg"
        if time_s is None:
            return _draw_figure(told, picture)
        clip_id = uuid.UUID(str(told["clip"]))
        with media().as_local(review_key(clip_id)) as copy:
            write_still(copy, time_s, picture)
        media().put(picture, beside_key(clip_id, correction_id))
    return {}


def _draw_figure(told: dict[str, object], picture: Path) -> dict[str, object]:
    with session() as db:
        technique = catalogue.version(db, uuid.UUID(str(told["version"])))
    checkpoint, side, options = str(told["checkpoint"]), str(told["side"]), told["options"]
    assert isinstance(options, dict)
    drawn = figure.show(technique, checkpoint, side, options, picture)
    name = figure.name_of(technique, checkpoint, side, options)
    media().put(picture, reference_key(name))
    return {"name": name, "width": drawn.width, "height": drawn.height, "shapes": drawn.shapes}


def make_marked(review: str) -> None:
    """Make the marked clip of a review. Ends in ready, or in a reason."""
    review_id = uuid.UUID(review)
    with session() as db:
        wanted = marked_clip.wanted(db, review_id)
    if wanted is None:
        return
    try:
        lost = _make_marked(review_id, wanted)
    except Stopped:
        return
    except LacertusError as error:
        _note_marked(review_id, {"state": "failed", "reason": str(error)})
    except Exception as error:
        log.exception("the marked clip broke off", review=review)
        reason = f"making the clip broke off for a reason that lies with the server ({type(error).__name__}); try again"
        _note_marked(review_id, {"state": "failed", "reason": reason})
    else:
        _note_marked(review_id, {"state": "ready", "lost": lost, "seconds": round(wanted.replay.length_s, 1)})


def _make_marked(review_id: uuid.UUID, wanted: marked_clip.Wanted) -> list[str]:
    """Write clip and captions; returns what could not be heard. A torn voice note leaves the clip without it."""
    corrections = {key: Drawn(cue=cue, shapes=wanted.shapes[key]) for key, cue in wanted.cues.items()}
    voices, lost = {}, []
    with tempfile.TemporaryDirectory() as folder, media().as_local(review_key(wanted.clip)) as copy:
        for correction in wanted.voices:
            try:
                with media().as_local(voice_key(wanted.clip, correction)) as note:
                    voices[str(correction)] = read_voice(note, Path(folder) / f"{correction}.pcm", correct.LONGEST_VOICE_S)
            except (BadVoice, NoMedia) as error:
                log.warning("voice note left out", correction=str(correction), why=str(error))
                lost.append(wanted.cues[str(correction)])
        target = Path(folder) / "marked.mp4"
        write_marked(
            copy,
            target,
            wanted.replay,
            corrections,
            voices,
            _Progress(lambda db, done, of: marked_clip.note(db, review_id, {"state": "making", "done": done, "of": of})),
        )
        words = Path(folder) / "marked.vtt"
        words.write_text(captions(wanted.replay), encoding="utf-8")
        media().put(target, marked_key(wanted.clip))
        media().put(words, captions_key(wanted.clip))
    return lost


def _note_marked(review_id: uuid.UUID, state: dict[str, object]) -> None:
    with session() as db:
        marked_clip.note(db, review_id, state)


def carry_points(rep: str, first: int, last: int) -> None:
    """Follow a rep's bodies through its clip, from their placed points. Ends in points on every frame reached, or in a reason."""
    rep_id = uuid.UUID(rep)
    with session() as db:
        wanted = tracking.wanted(db, rep_id)
    if wanted is None:
        return
    try:
        with media().as_local(review_key(wanted.clip)) as copy:
            found = follow_bodies(
                copy,
                wanted.bodies,
                (first, last),
                wanted.wanted,
                _bundle(),
                wanted.times_s,
                _Progress(lambda db, done, of: tracking.note(db, rep_id, {"state": "carrying", "done": done, "of": of})),
                wanted.shown,
                wanted.like,
            )
    except LacertusError as error:
        with session() as db:
            tracking.note(db, rep_id, {"state": "failed", "reason": str(error)})
        return
    except Exception as error:
        log.exception("carrying broke off", rep=rep)
        reason = f"carrying the points broke off for a reason that lies with the server ({type(error).__name__}); try again"
        with session() as db:
            tracking.note(db, rep_id, {"state": "failed", "reason": reason})
        return
    with session() as db:
        tracking.store(db, rep_id, found, first, last)


def _bundle() -> Path | None:
    """The pose model's bundle, where it was built; without it flow is all there is."""
    path = Path(settings().pose_model)
    return path if path.is_file() else None


class _Progress:
    """Writes down how far a job is, a few times a second, and stops it when what wrote it down says so."""

    def __init__(self, write: Callable[[Session, int, int | None], bool | None]) -> None:
        self._write = write
        self._next = 0.0

    def __call__(self, done: int, of: int | None) -> None:
        if time.monotonic() < self._next:
            return
        self._next = time.monotonic() + PROGRESS_EVERY_S
        with session() as db:
            if self._write(db, done, of):
                raise Stopped()
