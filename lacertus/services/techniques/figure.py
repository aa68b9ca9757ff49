"""The studio's figure as a model: a checkpoint done right by it, as a picture with what is measured drawn on it and as a film."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from lacertus.core.corrections.default_corrections import default_correction
from lacertus.core.corrections.marks import drawn
from lacertus.core.corrections.shapes import Shape
from lacertus.core.errors import BadInput
from lacertus.core.measuring.repfile import RepFile, read_rep
from lacertus.core.measuring.scene import Scene
from lacertus.core.review.judge import judge_rep
from lacertus.core.techniques.definition import Technique
from lacertus.studio.moves import MOVES

if TYPE_CHECKING:
    from lacertus.studio.scene import Shot

SIZE, FPS = (960, 540), 60
FILM_SIZE = (640, 360)
FILM_S, SLOWED, FILM_FPS = 0.9, 2.0, 30
"""A film shows so many seconds on either side of the instant, at half speed, at so many frames a second of the rep."""


@dataclass(frozen=True, kw_only=True)
class Figure:
    """A picture of the figure: its size in pixels, and the shapes of what is measured."""

    width: int
    height: int
    shapes: tuple[Shape, ...]


def shown_by(technique: Technique) -> str:
    """The technique whose move the studio shows for one: its own, or the one that it says it moves like."""
    return technique.id if technique.moves_like is None else technique.moves_like.technique


def read_as(technique: Technique, rep: RepFile) -> RepFile:
    """A rep of the studio's read as this technique: one that moves like another has its own events, each at its second."""
    options = {key: choice for key, choice in rep.options.items() if key in technique.options}
    changes: dict[str, object] = {"options": options, "technique": technique.id}
    if technique.moves_like is not None:
        kept = {key: frames for key, frames in rep.events.items() if key in technique.events}
        changes["events"] = kept | {
            key: (frame_at(rep, seconds),) for key, seconds in technique.moves_like.events.items() if key in technique.events
        }
    return rep.model_copy(update=changes)


def frame_at(rep: RepFile, seconds: float) -> int:
    """The frame of a rep that is nearest to so many seconds from its start."""
    first, last = rep.range
    times = np.asarray(rep.pts_s[first : last + 1])
    return first + int(np.abs(times - times[0] - seconds).argmin())


def can_show(technique: Technique, options: Mapping[str, str]) -> bool:
    """Whether the studio can do a technique in the options that are asked for: of most it does the usual choice alone."""
    move = MOVES.get(shown_by(technique))
    if move is None:
        return False
    default_choice = {key: group.default for key, group in technique.options.items()}
    return all(choice in move.options.get(key, (default_choice.get(key),)) for key, choice in options.items())


def name_of(technique: Technique, checkpoint: str, side: str, options: Mapping[str, str]) -> str:
    """What a picture is stored under: another version of the technique, side or option has another picture."""
    told = repr((technique.model_dump_json(), checkpoint, side, sorted(options.items())))
    return f"{technique.id}-{hashlib.sha256(told.encode()).hexdigest()[:20]}"


def show(technique: Technique, checkpoint: str, side: str, options: Mapping[str, str], picture: Path, film: Path) -> Figure:
    """Draw the figure at the instant at which a checkpoint is read (JPEG), and film it around that instant (MP4).

    Raises:
        BadInput: the studio has no move for it, or the figure does not show this checkpoint met.
    """
    shot, rep = _without_fault(technique, side, options)
    judgement = next((j for j in judge_rep(technique, rep) if j.id == checkpoint), None)
    asked = technique.checkpoint(checkpoint)
    if asked is None or judgement is None or judgement.counts_as_missed:
        raise BadInput("the studio’s figure does not show this checkpoint")
    scene = Scene(rep, technique.edges)
    made = default_correction(technique, asked, judgement, scene)
    marks = [mark.model_copy(update={"wanted": None}) for mark in made.marks if mark.kind not in ("force", "space")]
    shapes = drawn(marks, scene, range(made.first, made.last + 1))[made.frame - made.first]
    _draw(shot, made.frame, picture)
    _film(shot, made.frame, film)
    return Figure(width=SIZE[0], height=SIZE[1], shapes=tuple(shapes))


def _without_fault(technique: Technique, side: str, options: Mapping[str, str]) -> tuple[Shot, RepFile]:
    from lacertus.studio.scene import truth
    from lacertus.studio.script import read_script, shots_of, view_for

    known = {key: choice for key, choice in options.items() if key in MOVES[shown_by(technique)].options}
    script = read_script(
        {
            "lacertus_script": 1, "id": "reference", "technique": shown_by(technique), "side": side, "scatter": 0,
            "reps": [{"options": known}],
            "recording": {"fps": FPS, "stamp": False, "sound": False},
            "camera": {"size": list(SIZE), "view": view_for(technique.best_view)},
        }
    )  # fmt: skip
    shot = shots_of(script)[0]
    return shot, read_as(technique, read_rep(truth(shot)["reps"][0]))


def _draw(shot: Shot, frame: int, target: Path) -> None:
    """One frame of a shot."""
    # Imported late: compiling the renderer's loops takes a moment.
    from PIL import Image

    from lacertus.studio.clips import parts_at
    from lacertus.studio.picture.render import Stage

    time_s = shot.times_s[frame]
    stage = Stage(shot.camera.width, shot.camera.height)
    Image.fromarray(stage.draw([(shot.camera_at(time_s), parts_at(shot, time_s))])).save(target, format="JPEG", quality=88)


def _film(shot: Shot, frame: int, target: Path) -> None:
    """A shot around a frame, small and slowed down."""
    from lacertus.studio.clips import record
    from lacertus.studio.script import RecordingScript

    middle = shot.times_s[frame]
    times = tuple(time for time in shot.times_s if abs(time - middle) <= FILM_S)[:: round(FPS / FILM_FPS)]
    camera = replace(shot.camera, width=FILM_SIZE[0], height=FILM_SIZE[1])
    how = RecordingScript(fps=FILM_FPS, slowed=SLOWED, stamp=False, sound=False)
    record(replace(shot, camera=camera, times_s=times, slowed=SLOWED), target, how)
