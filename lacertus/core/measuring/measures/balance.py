"""`balance`: where the body's mass lies over its base. A position, not a force."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Literal, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import model_validator

from lacertus.core.errors import NotSeen
from lacertus.core.measuring import geometry
from lacertus.core.measuring.body import BodyName
from lacertus.core.measuring.measures.base import AtEvent, Kind, Point, PointRef, Reading, at_event
from lacertus.core.measuring.measures.mat import mat_level
from lacertus.core.measuring.measures.scalar import (
    Array,
    Shape,
    distance,
    dot,
    drawn_curve,
    hidden_note,
    in_space,
    level,
    owner_of,
    read_shape,
    unit_draws,
)
from lacertus.core.measuring.scene import Scene
from lacertus.core.measuring.smoothing import LEAST_FRAMES, at_even_steps, residual_cutoff

LEAST_BASE_FEET = 0.5
"""Feet closer than this share of a foot are no base to tell shares on (docs/measurement.md)."""
AIRBORNE_FEET = 0.4
"""The lowest sole lies higher over the mat than this share of a foot: off the ground. A convention."""
AROUND_S = 0.3
GRAVITY = 9.80665
STANDING_M = 1.70
"""Standing height taken where the picture has no scale; the pendulum's time goes with its root. A convention."""
LOADED_GRIP = "loaded_grip"
"""Answered yes in `seen`: the body hangs on a grip with load, so that its base does not carry it alone."""

_SOLES = ("heel", "toe")


class BalanceMeasure(AtEvent):
    """Where the mass is over the base of support: a share of the base, or heights outside of it."""

    body: BodyName = "performer"
    base: tuple[Point, ...] = ()
    pick: Literal["share", "outside"] = "share"
    of: Point | None = None
    over: Point | None = None

    @model_validator(mode="after")
    def _fits(self) -> Self:
        if self.of is not None and self.over is not None:
            raise ValueError("give `of` (the share on that foot) or `over` (the distance from being over it), not both")
        if len(self.base) == 1:
            raise ValueError("a base has two landmarks or more")
        return self

    @property
    def kind_of_value(self) -> Literal["share", "outside"]:
        return "outside" if self.over is not None else self.pick

    @property
    def base_points(self) -> tuple[PointRef, ...]:
        """The landmarks of the base; by default both feet, or the one foot that the mass is to be over."""
        if self.over is not None and not self.base:
            return _foot_of(self.over)
        prefix = "" if self.body == "performer" else f"{self.body}."
        return self.base or tuple(PointRef(name=f"{prefix}{side}_{sole}") for side in ("working", "other") for sole in _SOLES)

    @property
    def mass(self) -> PointRef:
        return PointRef(name="centre_of_mass" if self.body == "performer" else f"{self.body}.centre_of_mass")

    @property
    def points_used(self) -> tuple[PointRef, ...]:
        return (self.mass, *self.base_points)

    @property
    def unit_shown(self) -> str:
        return "share" if self.kind_of_value == "share" else "foot"


def _foot_of(ref: PointRef) -> tuple[PointRef, ...]:
    """Heel and toe of the foot that a landmark belongs to; the landmark itself where it has no side."""
    body, _, name = owner_of(ref).rpartition(".")
    side, _, joint = name.partition("_")
    if not joint or side not in ("working", "other", "lead", "rear", "near", "far", "left", "right"):
        return (ref, ref)
    return tuple(PointRef(name=f"{body}.{side}_{sole}" if body else f"{side}_{sole}") for sole in _SOLES)


def _split(measure: BalanceMeasure, scene: Scene) -> tuple[list[int], list[int]]:
    """Which base points make the end that the share is asked of, and which the other end."""
    wanted = measure.of or PointRef(name="working_ankle" if measure.body == "performer" else f"{measure.body}.working_ankle")
    body, landmark = scene.resolve(owner_of(wanted))
    names = [scene.resolve(owner_of(ref)) for ref in measure.base_points]
    if (body, landmark) in names:
        ours = [i for i, name in enumerate(names) if name == (body, landmark)]
        side = landmark.partition("_")[0]
        same = [i for i, name in enumerate(names) if name[1].startswith(f"{side}_")]
        ours = same if len(same) < len(names) else ours
    else:
        ours = [i for i, name in enumerate(names) if name[1].startswith(landmark.partition("_")[0] + "_")]
    rest = [i for i in range(len(names)) if i not in ours]
    if not ours or not rest:
        raise NotSeen(f"the base does not tell which end is {wanted}; name a landmark of the base in `of`")
    return ours, rest


def shape_of(measure: BalanceMeasure, scene: Scene, ahead_px: float | Array = 0.0) -> Shape:
    """Share along the base, or distance outside it (negative inside), the mass point carried `ahead_px` to the right."""
    points = measure.points_used
    if measure.kind_of_value == "share":
        ours, rest = _split(measure, scene)

        def share(p: Array) -> Array:
            level_ = on_mat(p)
            ends = [level_[1:][which].mean(axis=0) for which in (ours, rest)]
            base = ends[0] - ends[1]
            return np.asarray(dot(level_[0] + ahead_px - ends[1], base) / dot(base, base))

        return Shape(points=points, formula=share, unit="share")

    def outside(p: Array) -> Array:
        if p.shape[1] == 3:
            level_ = on_mat(p)
            return outside_of(level_[0] + ahead_px, level_[1:])
        x, base = p[0, 0] + ahead_px, p[1:, 0]
        return np.asarray(np.maximum(base.min(axis=0) - x, x - base.max(axis=0)))

    return Shape(points=points, formula=outside, unit="foot")


def on_mat(p: Array) -> Array:
    """Places (points × 2 or 3 × n) seen from above: along the picture alone, or along it and in depth."""
    return p[:, :1] if p.shape[1] == 2 else p[:, [0, 2]]


def outside_of(mass: Array, base: Array) -> Array:
    """How far a place (2 × n) lies outside of the smallest polygon around a base (points × 2 × n); inside of it negative."""
    found = np.full(mass.shape[-1], np.inf)
    inside = np.full(mass.shape[-1], len(base) > 2)
    for i in range(len(base)):
        for j in range(len(base)):
            if i == j:
                continue
            edge, away = base[j] - base[i], mass - base[i]
            sides = edge[0] * (base - base[i])[:, 1] - edge[1] * (base - base[i])[:, 0]
            on_hull = (sides >= -1e-9).all(axis=0)
            share = np.clip(dot(away, edge) / np.maximum(dot(edge, edge), 1e-12), 0.0, 1.0)
            found = np.where(on_hull, np.minimum(found, distance(away, share * edge)), found)
            inside &= ~on_hull | (edge[0] * away[1] - edge[1] * away[0] >= 0)
    return np.asarray(np.where(inside, -found, found))


def read_at(measure: BalanceMeasure, scene: Scene, frame: int) -> Reading:
    """Share 0–1 along the base (1 over the foot asked of), or feet outside it.

    While moving, the mass point is carried forward by v/√(g/h): Hof, Gazendam and Sinke (2005), The condition
    for dynamic stability, Journal of Biomechanics 38, 1–8.

    Raises:
        NotSeen: a point is missing; the body is airborne or hangs on a grip; the feet are too close together.
    """
    _check_stands(measure, scene, frame)
    spatial = _in_space(measure, scene, frame)
    if spatial is not None:
        return spatial
    ahead, note = _ahead(measure, scene, frame)
    reading = read_shape(shape_of(measure, scene, ahead), scene, (frame,))
    notes = (*reading.notes, *note)
    if measure.kind_of_value == "share":
        return replace(reading, notes=notes)
    px, u, name = scene.pixels_per(_foot_unit(measure), owner_of(measure.mass))
    value, parts = reading.value / px, geometry.combined((1 / px, reading.parts))
    parts[name] = -value * u / px
    return replace(reading, value=value, parts=parts, u=geometry.uncertainty_of(parts), notes=notes)


def _in_space(measure: BalanceMeasure, scene: Scene, frame: int) -> Reading | None:
    """The same in space; None where the body cannot be put there."""
    space = scene.space
    refs = measure.points_used
    if space is None or not space.can_read(refs, (frame,)):
        return None
    ahead, note = _ahead_in_space(measure, scene, frame)
    shape = shape_of(measure, scene, ahead)
    values = shape.formula(space.places(shape.points, (frame,)))
    if measure.kind_of_value == "outside":
        values = values / unit_draws(_foot_unit(measure), owner_of(measure.mass), scene, (frame,))
    return in_space(values, shape.unit, (frame,), (*hidden_note(shape, scene, (frame,)), *note))


def _foot_unit(measure: BalanceMeasure) -> str:
    return "foot" if measure.body == "performer" else f"{measure.body}.foot"


def _ahead_in_space(measure: BalanceMeasure, scene: Scene, frame: int) -> tuple[float | Array, tuple[str, ...]]:
    """By how much (2 × DRAWS, pixels) the mass point is carried forward over the mat, and what to say of it."""
    near = _around(measure, scene, frame)
    if isinstance(near, str):
        return 0.0, (near,)
    assert scene.space is not None
    way = np.moveaxis(scene.space.paths((measure.mass,), near, sharp=True)[0], -1, 0)
    times, curve = at_even_steps(scene.times[near], way)
    low_pass = residual_cutoff(curve.mean(axis=0)[:2], 1 / float(times[1] - times[0]))
    speed = np.gradient(low_pass(curve)[:, [0, 2]], times, axis=-1)[..., int(np.argmin(np.abs(times - scene.times[frame])))]
    here = int(np.argmin(np.abs(times - scene.times[frame])))
    height = (curve[:, 1, here] - scene.space.mat_level(measure.body)) * _metres_per_pixel(measure, scene)
    note = f"carried forward while moving (smoothed at {low_pass.cutoff_hz:.1f} Hz)"
    return np.asarray(speed.T / np.sqrt(GRAVITY / np.maximum(height, 0.1))), (note,)


def _around(measure: BalanceMeasure, scene: Scene, frame: int) -> NDArray[np.int64] | str:
    """The frames around one in which the body's mass is tracked, or why it is taken as at rest."""
    if not scene.steady.known:
        return "taken as at rest: the camera’s motion is not known"
    first, last = scene.rep.range
    near = np.arange(first, last + 1)
    near = near[np.abs(scene.times[near] - scene.times[frame]) <= AROUND_S]
    try:
        seen = ~np.isnan(scene.places((measure.mass,), near)).any(axis=(0, 1))
    except NotSeen:
        return "taken as at rest: not tracked in the frames around"
    if int(seen.sum()) < LEAST_FRAMES:
        return "taken as at rest: not tracked in the frames around"
    return np.asarray(near[seen])


def _check_stands(measure: BalanceMeasure, scene: Scene, frame: int) -> None:
    if any(scene.rep.seen.get(LOADED_GRIP, {}).values()):
        raise NotSeen("a grip carries load, so where the weight goes cannot be told from the picture")
    if measure.base or measure.over is not None:
        return
    spots = [scene.point(ref, frame) for ref in measure.base_points]
    places = level(np.array([[(p.x, p.y)] for p in spots]).transpose(0, 2, 1), scene)[:, :, 0]
    foot = scene.pixels_per("foot", owner_of(measure.base_points[0]))[0]
    if places[:, 1].min() - mat_level(scene, measure.body, frame) > AIRBORNE_FEET * foot:
        raise NotSeen("both feet are off the mat, so there is no base to be over")
    apart = abs(places[:2, 0].mean() - places[2:, 0].mean())
    if apart < LEAST_BASE_FEET * foot:
        raise NotSeen("the feet are closer than half a foot in this view, so shares on them cannot be told")


def _ahead(measure: BalanceMeasure, scene: Scene, frame: int) -> tuple[float, tuple[str, ...]]:
    """By how many pixels (level, to the right) the mass point is carried forward, and what to say of it."""
    near = _around(measure, scene, frame)
    if isinstance(near, str):
        return 0.0, (near,)
    places = scene.places((measure.mass,), near, still=True)
    times, curve = at_even_steps(scene.times[near], level(places, scene)[0])
    low_pass = residual_cutoff(curve, 1 / float(times[1] - times[0]))
    speed = float(np.interp(scene.times[frame], times, np.gradient(low_pass(curve)[0], times)))
    height_px = float(np.interp(scene.times[frame], times, curve[1])) - mat_level(scene, measure.body, frame)
    height_m = height_px * _metres_per_pixel(measure, scene)
    return speed / math.sqrt(GRAVITY / max(height_m, 0.1)), (
        f"carried forward while moving (smoothed at {low_pass.cutoff_hz:.1f} Hz)",
    )


def _metres_per_pixel(measure: BalanceMeasure, scene: Scene) -> float:
    if scene.rep.centimetres_per_pixel is not None:
        return scene.rep.centimetres_per_pixel / 100
    return STANDING_M / scene.height_px(measure.body)


def curve(measure: BalanceMeasure, scene: Scene, frames: NDArray[np.int64]) -> Array:
    """Values in many frames, as at rest."""
    spatial = drawn(measure, scene, frames)
    if spatial is not None:
        return np.asarray(spatial.mean(axis=-1))
    shape = shape_of(measure, scene)
    values = shape.formula(level(scene.places(shape.points, frames), scene))
    if measure.kind_of_value == "share":
        return values
    return values / scene.pixels_per(_foot_unit(measure), owner_of(measure.mass))[0]


def drawn(measure: BalanceMeasure, scene: Scene, frames: NDArray[np.int64]) -> Array | None:
    """The same in all ways that the rep may be in space (frames × draws)."""
    shape = shape_of(measure, scene)
    found = drawn_curve(shape, scene, frames)
    if found is None or measure.kind_of_value == "share":
        return found
    return found / unit_draws(_foot_unit(measure), owner_of(measure.mass), scene, frames.tolist())


KIND = Kind(name="balance", measure_model=BalanceMeasure, read=at_event(read_at), frame_rule=read_at, curve=curve, drawn=drawn)
