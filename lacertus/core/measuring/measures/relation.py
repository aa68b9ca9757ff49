"""`relation`: how far a point is above, below, towards, behind, inside, outside, along or between others."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Literal, Self, cast

import numpy as np
from numpy.typing import NDArray
from pydantic import model_validator

from lacertus.core.errors import NotSeen
from lacertus.core.measuring.body import PROPORTIONS, BodyName
from lacertus.core.measuring.geometry import uncertainty_of
from lacertus.core.measuring.measures.base import AtEvent, Kind, Point, PointRef, Reading, at_event
from lacertus.core.measuring.measures.mat import mat_level, mat_point
from lacertus.core.measuring.measures.scalar import Array, Shape, area, curve_of, distance, dot, drawn_curve, owner_of, read_shape
from lacertus.core.measuring.scene import NOBODY, Scene

MAT = "mat"
LEAST_BETWEEN = 1.0
"""The ends of `between` are seen at least so many units apart. A convention: nearer, depth decides and not the picture."""
MAT_U = 0.04
"""What depth does to a height over the mat, as a share of standing height. A convention, from the studio's figures
(docs/decisions.md)."""
DEPTH_APART = 0.12
"""How far two points may lie apart in depth, one σ, as a share of standing height (20 cm); a convention."""
CAMERA_HIGH, CAMERA_AWAY = 0.7, 2.6
"""Where a phone films from, over the mat and away from the pair, in standing heights: chest height, four and a half metres.
Conventions."""
STANDING_CM = 170.0
SOLES = ("heel", "toe")
_WORDS = ("above", "below", "towards", "behind", "inside", "outside", "along", "between")


class RelationMeasure(AtEvent):
    """How far a point is above, below, before or behind another one, or the mat."""

    point: Point
    above: Literal["mat"] | Point | None = None
    below: Literal["mat"] | Point | None = None
    towards: Point | None = None
    behind: Point | None = None
    inside: Point | None = None
    outside: Point | None = None
    along: tuple[Point, Point] | None = None
    between: tuple[Point, Point] | None = None
    unit: str = "height"

    @model_validator(mode="after")
    def _one_relation(self) -> Self:
        given = [word for word in _WORDS if getattr(self, word) is not None]
        if len(given) != 1:
            raise ValueError(f"one of {', '.join(_WORDS)} is needed, and only one")
        return self

    @property
    def word(self) -> str:
        return next(word for word in _WORDS if getattr(self, word) is not None)

    @property
    def others(self) -> tuple[PointRef, ...]:
        """The points that it is held against; none for the mat."""
        value = getattr(self, self.word)
        return () if value == MAT else value if isinstance(value, tuple) else (value,)

    @property
    def points_used(self) -> tuple[PointRef, ...]:
        return (self.point, *self.others)

    @property
    def unit_shown(self) -> str:
        return "share" if self.word == "along" else self.unit


def shape_of(measure: RelationMeasure, scene: Scene) -> Shape:
    """Positive by how much it is so, in the unit; a share of the segment for `along`."""
    word = measure.word
    points = (measure.point, *measure.others)
    if word in ("inside", "outside"):
        points += _midline(measure, scene)
    mat = mat_point(scene, _body(measure.point, scene)) if getattr(measure, word) == MAT else None
    target = scene.towards_x() if word in ("towards", "behind") else 1.0

    def formula(p: Array) -> Array:
        if word == "along":
            return dot(p[0] - p[1], p[2] - p[1]) / dot(p[2] - p[1], p[2] - p[1])
        if word == "between":
            length = distance(p[1], p[2])
            place = dot(p[0] - p[1], p[2] - p[1]) / length
            return np.asarray(np.minimum(place, length - place))
        if word in ("inside", "outside"):
            if p.shape[1] == 3:
                # A body's midplane runs along the line to the target: aside of it is across that line.
                p = p[:, [2, 1]]
            nearer = _off(p[1], p[2:]) - _off(p[0], p[2:])
            return nearer if word == "inside" else -nearer
        if word in ("towards", "behind"):
            ahead = (p[0, 0] - p[1, 0]) * target
            return np.asarray(ahead if word == "towards" else -ahead)
        height = p[0, 1] - p[1, 1]
        return np.asarray(height if word == "above" else -height)

    length_unit = None if word == "along" else measure.unit
    return Shape(points=points, formula=formula, unit=measure.unit_shown, length_unit=length_unit, mat=mat)


def _off(point: Array, midline: Array) -> Array:
    """Distance of a point from a body's midline: from hips to shoulders, or upright through the hips."""
    if len(midline) == 1:
        return np.asarray(np.abs(point[0] - midline[0, 0]))
    # Along the line to the target and up alone: a body's midplane is seen edge on from the front.
    axis, away = (midline[1] - midline[0])[:2], (point - midline[0])[:2]
    return np.asarray(area(axis, away) / np.hypot(axis[0], axis[1]))


def _midline(measure: RelationMeasure, scene: Scene) -> tuple[PointRef, ...]:
    """Middle of the hips and, where there are points, of the shoulders, of the other body than the point's."""
    body = "partner" if _body(measure.point, scene) == "performer" else "performer"
    frame = None if measure.at is None else scene.marked(measure.at)
    has_shoulders = frame is not None and all(
        scene.has(cast(BodyName, body), f"{side}_shoulder", frame) for side in ("left", "right")
    )
    names = ("mid_hip", "mid_shoulder") if has_shoulders else ("mid_hip",)
    return tuple(PointRef(name=f"{body}.{name}") for name in names)


def _apart_enough(measure: RelationMeasure, scene: Scene, frame: int) -> None:
    """Raise NotSeen where the two ends lie so nearly one behind the other that nothing can be seen to lie between them."""
    a, b = scene.points(measure.others, frame)
    px, _, _ = scene.pixels_per(measure.unit, measure.point.name or "")
    if math.hypot(a.x - b.x, a.y - b.y) < LEAST_BETWEEN * px:
        raise NotSeen("the two that it should lie between lie one behind the other in this view; film so that both show")


def _body(ref: PointRef, scene: Scene) -> BodyName:
    return scene.resolve(owner_of(ref))[0]


def read_at(measure: RelationMeasure, scene: Scene, frame: int) -> Reading:
    """How much it is so, in the unit of the body that the point lies on.

    Raises:
        NotSeen: a point, the unit, the heading or the mat is not known, or the way that is asked for lies in depth.
    """
    settled = scene.space is not None and scene.space.settles_depth
    if measure.word in ("inside", "outside") and scene.rep.view == "side" and not settled:
        raise NotSeen("inside and outside lie in depth from the side; film from the front or from behind")
    if measure.word in ("towards", "behind") and scene.rep.view in ("front", "behind") and not settled:
        raise NotSeen("before and behind lie in depth from the front and from behind; film from the side")
    reading = read_shape(shape_of(measure, scene), scene, (frame,))
    if reading.draws is not None or scene.flat:
        return reading
    if measure.word == "between":
        _apart_enough(measure, scene, frame)
    return _with_depth(reading, measure, scene) if measure.word in ("above", "below") else reading


def _with_depth(reading: Reading, measure: RelationMeasure, scene: Scene) -> Reading:
    """The reading with what the depth between its points leaves open.

    What is nearer is seen lower down under the camera's height and higher up over it: by the slope of the line of sight times the
    depth between the two points. A spot of the mat may lie anywhere under the body.
    """
    own = _body(measure.point, scene)
    bare = measure.unit.rpartition(".")[2]
    tall = {"height": 1.0, "cm": STANDING_CM}.get(bare, 1 / PROPORTIONS[bare] if bare in PROPORTIONS else 0.0)
    u = tall * (DEPTH_APART * abs(_sight_slope(measure, scene, reading.frames[0])) if measure.others else MAT_U)
    parts = reading.parts | {("depth", own, measure.word): u}
    return replace(reading, parts=parts, u=uncertainty_of(parts))


def _sight_slope(measure: RelationMeasure, scene: Scene, frame: int) -> float:
    """How steeply the camera looks down (positive) at the middle of the points, by their height over the mat.

    0 where neither the body's height nor a sole tells where the mat is.
    """
    body = _body(measure.point, scene)
    data = scene.rep.bodies.get(body, NOBODY)
    if data.height_px is None or not any(data.landmarks.get(f"{side}_{sole}") for side in ("left", "right") for sole in SOLES):
        return 0.0
    spots = scene.points((measure.point, *measure.others), frame)
    tilt = math.radians(scene.rep.upright.deg)
    middle = sum(math.sin(tilt) * p.x - math.cos(tilt) * p.y for p in spots) / len(spots)
    over_mat = (middle - mat_level(scene, body, frame)) / data.height_px
    return (CAMERA_HIGH - over_mat) / CAMERA_AWAY


def curve(measure: RelationMeasure, scene: Scene, frames: NDArray[np.int64]) -> Array:
    """The relation on each frame (n frames → n values, NaN where it is not seen)."""
    return curve_of(shape_of(measure, scene), scene, frames)


def drawn(measure: RelationMeasure, scene: Scene, frames: NDArray[np.int64]) -> Array | None:
    """The same in all ways that the rep may be in space (frames × draws)."""
    return drawn_curve(shape_of(measure, scene), scene, frames)


KIND = Kind(name="relation", measure_model=RelationMeasure, read=at_event(read_at), frame_rule=read_at, curve=curve, drawn=drawn)
