"""The studio's figures as joint data: a rep that the browser draws from any side, done right or with a fault in it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

from lacertus.core.errors import BadInput
from lacertus.core.measuring.body import CENTRE_OF_MASS, DERIVED, LANDMARKS, BodyName, Side
from lacertus.core.measuring.mass import mass_weights
from lacertus.core.measuring.measures.base import PointRef
from lacertus.core.measuring.repfile import RepFile, read_rep
from lacertus.core.measuring.scene import Scene as Read
from lacertus.core.review.judge import judge_rep
from lacertus.core.review.judgement import Judgement
from lacertus.core.techniques.checkpoint import Checkpoint
from lacertus.core.techniques.definition import Technique
from lacertus.services.techniques.figure import can_show, read_as, shown_by
from lacertus.studio.body.move import Unit
from lacertus.studio.moves import MOVES

if TYPE_CHECKING:
    from lacertus.studio.body.figure import Joints
    from lacertus.studio.body.move import Moment
    from lacertus.studio.scene import Shot

FPS = 60
"""Frames a second at which a figure is read; it is sent at half of that."""
THIN = 2
DEGREES = (0.6, 1.0)
"""How much of a fault is put in, as shares of the most that the studio shows: the first with which it is missed, else the last."""
JOINTS = tuple(sorted(LANDMARKS))
AXES = ("pelvis_forward", "pelvis_up", "chest_forward", "chest_up", "head_forward", "head_up", "left_sole", "right_sole")


@dataclass(frozen=True, kw_only=True)
class BodyMotion:
    """One body over the frames: for each frame the joints' places in millimetres, then the axes' directions in thousandths.

    X is to the target, Y to the left of it, Z up; joints and axes come in the order of `JOINTS` and `AXES`, x, y, z each.
    """

    body: BodyName
    stature_m: float
    frames: tuple[tuple[int, ...], ...]


@dataclass(frozen=True, kw_only=True)
class Place:
    """A point that a checkpoint reads: x, y and z in millimetres."""

    name: str
    body: BodyName
    at: tuple[int, ...]


@dataclass(frozen=True, kw_only=True)
class ReadCheckpoint:
    """A checkpoint on this rep: what comes out, when it is read (seconds), and the points that it reads there."""

    judgement: Judgement
    time_s: float | None
    places: tuple[Place, ...]


@dataclass(frozen=True, kw_only=True)
class MovingFigure:
    """A rep of the studio's: times from its start in seconds, the bodies, its events, and how each checkpoint comes out.

    A fault has its degree, in the unit in which the studio puts it in, and what it is in words.
    """

    technique: str
    side: Side
    options: Mapping[str, str]
    fault: str | None
    degree: float
    unit: Unit | None
    says: str
    times_s: tuple[float, ...]
    bodies: tuple[BodyMotion, ...]
    events_s: Mapping[str, float]
    checkpoints: tuple[ReadCheckpoint, ...]


def moves(technique: Technique) -> bool:
    """Whether the studio has a move for a technique."""
    return shown_by(technique) in MOVES


def faults_of(technique: Technique) -> frozenset[str]:
    """Codes of the faults that the studio can put into a technique's move."""
    move = MOVES.get(shown_by(technique))
    return frozenset() if move is None else frozenset(fault.code for fault in move.faults)


def reactions_of(technique: Technique) -> frozenset[str]:
    """The partner's reactions that the studio can show of a technique."""
    move = MOVES.get(shown_by(technique))
    return frozenset() if move is None else frozenset(move.reactions)


def figure_of(
    technique: Technique, side: Side, options: Mapping[str, str], fault: str | None = None, reaction: str | None = None
) -> MovingFigure:
    """A rep of the studio's, without a fault or with one in it, or with a reaction of the partner's, judged by the technique.

    Raises:
        BadInput: the studio has no move for the technique, not in these options, or not with this fault or
            reaction.
    """
    if not moves(technique):
        raise BadInput(f"The studio does not show {technique.names.main} yet.")
    if reaction is not None and reaction not in reactions_of(technique):
        raise BadInput(f"The studio does not show the reaction “{reaction}” yet.")
    chosen = _chosen(technique, options, fault)
    return _figure(
        _Asked(technique, technique.model_dump_json(by_alias=True), side, tuple(sorted(chosen.items())), fault, reaction)
    )


def rep_of(technique: Technique, side: Side, options: Mapping[str, str]) -> RepFile:
    """The studio's rep without a fault, as a camera at the technique's best view sees it; its frames are those of `figure_of`,
    from the rep's first frame on. Raises as `figure_of`.
    """
    if not moves(technique):
        raise BadInput(f"The studio does not show {technique.names.main} yet.")
    chosen = _chosen(technique, options, None)
    return _truth(_Asked(technique, technique.model_dump_json(by_alias=True), side, tuple(sorted(chosen.items())), None, None))


FILM_SIZE = (854, 480)


def shot_of(technique: Technique, side: Side, options: Mapping[str, str]) -> Shot:
    """What `rep_of` reads, as it is filmed: its frame at a number is that of the rep. Raises as `figure_of`."""
    if not moves(technique):
        raise BadInput(f"The studio does not show {technique.names.main} yet.")
    chosen = _chosen(technique, options, None)
    asked = _Asked(technique, technique.model_dump_json(by_alias=True), side, tuple(sorted(chosen.items())), None, None)
    shot = _shots(technique, asked, 0.0)[1]
    return replace(shot, camera=replace(shot.camera, width=FILM_SIZE[0], height=FILM_SIZE[1]))


@lru_cache(maxsize=64)
def _truth(asked: _Asked) -> RepFile:
    return _filmed(asked.technique, asked, 0.0)[1]


def _chosen(technique: Technique, options: Mapping[str, str], fault: str | None) -> dict[str, str]:
    """The options that a rep is shown with: those that a fault needs, before those asked for."""
    move = MOVES[shown_by(technique)]
    put_in = None if fault is None else move.fault(fault)
    if fault is not None and put_in is None:
        raise BadInput(f"The studio does not show the fault “{fault}”.")
    chosen = {key: choice for key, choice in options.items() if key in technique.options}
    if put_in is not None:
        chosen |= put_in.options
    if not can_show(technique, chosen):
        raise BadInput("The studio’s figure does not show this choice of options yet.")
    return chosen


@dataclass(frozen=True)
class _Asked:
    """What is looked up: the technique by its text, and how the rep is done."""

    technique: Technique = field(compare=False)
    text: str
    side: Side
    options: tuple[tuple[str, str], ...]
    fault: str | None
    reaction: str | None


@lru_cache(maxsize=64)
def _figure(asked: _Asked) -> MovingFigure:
    if asked.fault is None:
        return _at_degree(asked, 0.0)
    for share in DEGREES:
        figure = _at_degree(asked, share)
        if any(one.judgement.counts_as_missed and one.judgement.fault == asked.fault for one in figure.checkpoints):
            break
    return figure


def _at_degree(asked: _Asked, share: float) -> MovingFigure:
    """The rep with so much of its fault, as a share of the most that the studio shows."""
    technique = asked.technique
    put_in = MOVES[shown_by(technique)].fault(asked.fault) if asked.fault else None
    degree = 0.0 if put_in is None else share * put_in.most
    shot, rep = _filmed(technique, asked, degree)
    first, last = rep.range
    frames = range(first, last + 1, THIN)
    start = shot.times_s[first]
    moments = {frame: shot.figures(shot.times_s[frame]) for frame in range(first, last + 1)}
    return MovingFigure(
        technique=technique.id,
        side=asked.side,
        options=dict(asked.options),
        fault=asked.fault,
        degree=round(degree, 2),
        unit=None if put_in is None else put_in.unit,
        says="" if put_in is None else put_in.says,
        times_s=tuple(round(shot.times_s[frame] - start, 4) for frame in frames),
        bodies=tuple(
            BodyMotion(body=body, stature_m=look.stature_m, frames=tuple(_numbers(moments[frame][body]) for frame in frames))
            for body, look in shot.scene.looks.items()
        ),
        events_s={name: round(shot.times_s[found[0]] - start, 4) for name, found in rep.events.items() if found},
        checkpoints=tuple(_read(technique, rep, shot.times_s, moments)),
    )


def _filmed(technique: Technique, asked: _Asked, degree: float) -> tuple[Shot, RepFile]:
    """The rep before a camera at the side, and read from the technique's best view."""
    from lacertus.studio.scene import truth

    side, best = _shots(technique, asked, degree)
    # A technique of the academy's own may have other options than the studio's move.
    return side, read_as(technique, read_rep(truth(best)["reps"][0]))


def _shots(technique: Technique, asked: _Asked, degree: float) -> tuple[Shot, Shot]:
    """The rep before a camera at the side, and before one at the technique's best view, at the same times."""
    from lacertus.studio.script import read_script, shots_of, view_for

    move = MOVES[shown_by(technique)]
    done = {
        "reaction": asked.reaction or "",
        "options": {key: choice for key, choice in asked.options if key in move.options},
        "faults": {} if asked.fault is None else {asked.fault: degree},
    }
    script = read_script(
        {
            "lacertus_script": 1, "id": "figure", "technique": move.technique, "side": asked.side, "scatter": 0, "reps": [done],
            "camera": {"view": "side"}, "second_camera": {"view": view_for(technique.best_view)},
            "recording": {"fps": FPS, "stamp": False, "sound": False},
        }
    )  # fmt: skip
    side, best = shots_of(script)
    return side, best


def _numbers(joints: Joints) -> tuple[int, ...]:
    """A body at one frame as whole numbers."""
    frames = (joints.pelvis, joints.chest, joints.head)
    axes = [axis for frame in frames for axis in (frame.forward, frame.up)] + [joints.soles["left"], joints.soles["right"]]
    places = np.stack([*(joints.at[name] for name in JOINTS), *axes])
    return tuple(int(number) for number in np.round(places * 1000).ravel())


def _read(technique: Technique, rep: RepFile, times_s: Sequence[float], moments: Mapping[int, Moment]) -> list[ReadCheckpoint]:
    read = Read(rep, technique.edges)
    start = times_s[rep.range[0]]
    found = []
    for judgement in judge_rep(technique, rep):
        checkpoint = technique.asked(judgement.id)
        marked = [frames[0] for event in checkpoint.events_used if (frames := rep.events.get(event))] if checkpoint else []
        frame = min(max(marked[-1], rep.range[0]), rep.range[1]) if marked else None
        refs = checkpoint.measure.points_used if isinstance(checkpoint, Checkpoint) and frame is not None else ()
        places = [place for ref in refs if frame is not None and (place := _place(read, ref, moments[frame])) is not None]
        found.append(
            ReadCheckpoint(
                judgement=judgement,
                time_s=None if frame is None else round(times_s[frame] - start, 4),
                places=tuple(places),
            )
        )
    return found


def _place(read: Read, ref: PointRef, moment: Moment) -> Place | None:
    """Where a point is in space; None for a body that is not there."""
    names = [(ref.name, 1.0)] if ref.name is not None else [*zip(ref.on or (), (1 - ref.share, ref.share), strict=True)]
    place = np.zeros(3)
    for name, share in names:
        body, landmark = read.resolve(name)
        if body not in moment:
            return None
        for part, weight in _made_of(landmark):
            place = place + moment[body].at[part] * weight * share
    return Place(name=str(ref), body=body, at=tuple(int(number) for number in np.round(place * 1000)))


def _made_of(landmark: str) -> Iterable[tuple[str, float]]:
    """The landmarks that a point is made of, by weight."""
    if landmark == CENTRE_OF_MASS:
        return mass_weights(lambda name: True).items()
    return DERIVED.get(landmark, ((landmark, 1.0),))
