"""Techniques as a coach reads and writes them: files in and out, and what a checkpoint looks at on a sample rep."""

from __future__ import annotations

import io
import uuid
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

from ruamel.yaml import YAML
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput, BadTechnique, Problem, Unreadable
from lacertus.core.measuring.repfile import RepFile
from lacertus.core.measuring.scene import Scene
from lacertus.core.review.judge import judge_rep
from lacertus.core.review.judgement import Judgement
from lacertus.core.techniques.checkpoint import Checkpoint
from lacertus.core.techniques.definition import Technique
from lacertus.library import check_text
from lacertus.library.sample import faultless
from lacertus.services.people.rights import Right, needs
from lacertus.services.techniques import catalogue
from lacertus.store.tables import TechniqueVersion


@dataclass(frozen=True, kw_only=True)
class Spot:
    """A point that a checkpoint reads, in its sample rep, pixels."""

    name: str
    body: str
    x: float
    y: float


@dataclass(frozen=True, kw_only=True)
class Drawn:
    """A checkpoint on its sample rep: which frame, what it reads there, the limbs around it, and what comes out."""

    id: str
    frame: int | None
    judgement: Judgement
    spots: tuple[Spot, ...]
    limbs: tuple[tuple[Spot, Spot], ...]


@dataclass(frozen=True, kw_only=True)
class Checked:
    """A technique's text, checked: every problem, or the technique and its checkpoints drawn."""

    problems: tuple[Problem, ...] = ()
    technique: Technique | None = None
    drawn: tuple[Drawn, ...] = field(default=())


def check(text: str) -> Checked:
    """Check a text as the editor does while it is written."""
    try:
        technique = check_text(text, "technique")
    except BadTechnique as error:
        return Checked(problems=error.problems)
    try:
        return Checked(technique=technique, drawn=drawn(technique))
    except BadInput as error:
        return Checked(problems=(Problem(path=("checkpoints",), message=str(error)),), technique=technique)


def technique_of(text: str) -> Technique:
    """The technique that a text describes.

    Raises:
        BadTechnique: with every problem.
    """
    return check_text(text, "technique")


@needs(Right.TEACH)
def keep(db: Session, academy: uuid.UUID, text: str) -> TechniqueVersion:
    """Keep a text as the academy's own technique: a new version where it has changed. Old reviews keep theirs.

    Raises:
        BadTechnique: with every problem.
    """
    return catalogue.store_version(db, technique_of(text), academy)


def as_yaml(technique: Technique) -> str:
    """A technique file that reads back as the same technique."""
    body = technique.model_dump(mode="json", by_alias=True, exclude_defaults=True)
    yaml, out = YAML(), io.StringIO()
    yaml.width, yaml.allow_unicode = 120, True
    yaml.dump({"lacertus_technique": 1} | body, out)
    return out.getvalue()


def drawn(technique: Technique) -> tuple[Drawn, ...]:
    """Every checkpoint of a technique on a sample rep without a fault.

    Raises:
        BadInput: no rep can keep everything that it asks.
    """
    return _drawn(technique.model_dump_json(by_alias=True), technique)


@dataclass(frozen=True)
class _Same:
    """A technique that is looked up by its text alone."""

    text: str
    technique: Any = field(compare=False)


def _drawn(text: str, technique: Technique) -> tuple[Drawn, ...]:
    return _drawn_once(_Same(text, technique))


@lru_cache(maxsize=128)
def _drawn_once(same: _Same) -> tuple[Drawn, ...]:
    technique: Technique = same.technique
    rep = faultless(technique)
    scene = Scene(rep, technique.edges, flat=True)
    return tuple(_draw(technique, judgement, rep, scene) for judgement in judge_rep(technique, rep, scene))


_LIMBS = (
    ("head_top", "neck"), ("neck", "mid_shoulder"), ("mid_shoulder", "mid_hip"), ("left_shoulder", "right_shoulder"),
    ("left_hip", "right_hip"),
    *((f"{side}_{a}", f"{side}_{b}") for side in ("left", "right") for a, b in (
        ("shoulder", "elbow"), ("elbow", "wrist"), ("hip", "knee"), ("knee", "ankle"), ("ankle", "heel"), ("heel", "toe"))),
)  # fmt: skip


def _draw(technique: Technique, judgement: Judgement, rep: RepFile, scene: Scene) -> Drawn:
    checkpoint = technique.asked(judgement.id)
    assert checkpoint is not None
    marked = [frames[0] for event in checkpoint.events_used if (frames := rep.events.get(event))]
    if not marked:
        return Drawn(id=judgement.id, frame=None, judgement=judgement, spots=(), limbs=())
    frame = marked[-1]
    refs = checkpoint.measure.points_used if isinstance(checkpoint, Checkpoint) else ()
    spots = [_spot(scene, ref, frame) for ref in refs]
    bodies = dict.fromkeys(spot.body for spot in spots if spot is not None)
    limbs = [(_landmark(scene, body, a, frame), _landmark(scene, body, b, frame)) for body in bodies for a, b in _LIMBS]
    return Drawn(
        id=judgement.id,
        frame=frame,
        judgement=judgement,
        spots=tuple(spot for spot in spots if spot is not None),
        limbs=tuple((a, b) for a, b in limbs if a is not None and b is not None),
    )


def _spot(scene: Scene, ref: Any, frame: int) -> Spot | None:
    try:
        point = scene.point(ref, frame)
    except Unreadable:
        return None
    name = ref.name if ref.name is not None else ref.on[0]
    return Spot(name=str(ref), body=scene.resolve(name)[0], x=point.x, y=point.y)


def _landmark(scene: Scene, body: Any, landmark: str, frame: int) -> Spot | None:
    try:
        point = scene.landmark(body, landmark, frame)
    except Unreadable:
        return None
    return Spot(name=landmark, body=body, x=point.x, y=point.y)
