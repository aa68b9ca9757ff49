"""What a rep does over the mat, frame by frame: feet seen as a plan, the body's mass over them, and the share on each foot."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lacertus.core.errors import Unreadable
from lacertus.core.measuring.body import BODIES, CENTRE_OF_MASS, BodyName, Side
from lacertus.core.measuring.mat_plan import MatPlan, plan_of
from lacertus.core.measuring.measures.balance import BalanceMeasure, read_at
from lacertus.core.measuring.measures.base import PointRef
from lacertus.core.measuring.measures.mat import mat_level
from lacertus.core.measuring.measures.scalar import level
from lacertus.core.measuring.repfile import RepFile
from lacertus.core.measuring.scene import Scene
from lacertus.core.techniques.definition import Technique

SIDES: tuple[Side, ...] = ("left", "right")
IN_THE_AIR = 0.12
"""A foot is in the air where it is over the mat by more than this share of standing height: a far foot stands higher in the
picture by nearly as much. A convention."""


@dataclass(frozen=True, kw_only=True)
class OnMat:
    """A place on the mat, metres."""

    x: float
    y: float


@dataclass(frozen=True, kw_only=True)
class Foot:
    """A foot on the mat: heel and toe in metres, X towards the target where the tile was marked so."""

    body: BodyName
    side: Side
    heel: OnMat
    toe: OnMat


@dataclass(frozen=True, kw_only=True)
class Mass:
    """A body's centre of mass in the picture (pixels), and what share of the weight is over the left foot, where it can be told."""

    body: BodyName
    x: float
    y: float
    left: float | None


@dataclass(frozen=True, kw_only=True)
class Ground:
    """One frame."""

    frame: int
    feet: tuple[Foot, ...]
    masses: tuple[Mass, ...]


def ground_of(technique: Technique, rep: RepFile) -> tuple[Ground, ...]:
    """Every frame of a rep in which a foot lies on the plan or a body's mass can be told.

    Shares are told on events' frames alone, where they are asked for. Feet need four marked mat points. A foot in the air has
    no place on the mat: it would be shown far from where it is.
    """
    scene = Scene(rep, technique.edges)
    plan = None
    if rep.floor:
        plan = plan_of(np.array([(p.x, p.y) for p in rep.floor]), np.array([(p.X, p.Y) for p in rep.floor]))
    shares = {frame for frames in rep.events.values() for frame in frames}
    frames = np.arange(rep.range[0], rep.range[1] + 1)
    masses = {body: _mass_way(scene, body, frames) for body in BODIES if body in rep.bodies}
    found = []
    for i, frame in enumerate(frames.tolist()):
        here = [
            Mass(body=body, x=x, y=y, left=_on_left(scene, body, frame) if frame in shares else None)
            for body, way in masses.items()
            for x, y in (way[:, i].tolist(),)
            if not np.isnan(x)
        ]
        feet = tuple(_feet(scene, plan, frame))
        if feet or here:
            found.append(Ground(frame=frame, feet=feet, masses=tuple(here)))
    return tuple(found)


def _in_the_air(scene: Scene, body: BodyName, side: Side, frame: int) -> bool:
    """Whether heel and toe are both clearly over the mat; where its height cannot be told, they are taken to stand."""
    prefix = "" if body == "performer" else f"{body}."
    refs = [PointRef(name=f"{prefix}{side}_{sole}") for sole in ("heel", "toe")]
    try:
        heights = level(scene.places(refs, np.array([frame])), scene)[:, 1, 0]
        return float(heights.min() - mat_level(scene, body, frame)) > IN_THE_AIR * scene.height_px(body)
    except Unreadable:
        return False


def _mass_way(scene: Scene, body: BodyName, frames: NDArray[np.int64]) -> NDArray[np.float64]:
    """The centre of mass (2 × n, pixels); not a number where it cannot be told."""
    name = CENTRE_OF_MASS if body == "performer" else f"{body}.{CENTRE_OF_MASS}"
    try:
        return np.asarray(scene.places((PointRef(name=name),), frames)[0])
    except Unreadable:
        return np.full((2, len(frames)), np.nan)


def _feet(scene: Scene, plan: MatPlan | None, frame: int) -> Iterable[Foot]:
    if plan is None:
        return
    for body in BODIES:
        for side in SIDES:
            both = all(scene.has(body, f"{side}_{sole}", frame) for sole in ("heel", "toe"))
            if both and not _in_the_air(scene, body, side, frame):
                heel, toe = (scene.landmark(body, f"{side}_{sole}", frame) for sole in ("heel", "toe"))
                (hx, hy), (tx, ty) = plan.on_mat(np.array([(heel.x, heel.y), (toe.x, toe.y)])).tolist()
                yield Foot(body=body, side=side, heel=OnMat(x=hx, y=hy), toe=OnMat(x=tx, y=ty))


def _on_left(scene: Scene, body: BodyName, frame: int) -> float | None:
    prefix = "" if body == "performer" else f"{body}."
    measure = BalanceMeasure.model_validate({"body": body, "of": f"{prefix}left_ankle"})
    try:
        return round(min(max(read_at(measure, scene, frame).value, 0.0), 1.0), 3)
    except Unreadable:
        return None
