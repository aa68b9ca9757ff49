"""`floor`: steps and stances on the mat, seen as a plan."""

from __future__ import annotations

import math
from typing import Literal, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from lacertus.core.errors import BadInput, NotSeen
from lacertus.core.measuring import geometry
from lacertus.core.measuring.mat_plan import MatPlan, plan_of
from lacertus.core.measuring.measures.base import EventKey, EventRef, Kind, Measure, PointRef, Reading
from lacertus.core.measuring.measures.scalar import distance, dot, in_space, unit_draws
from lacertus.core.measuring.scene import Scene
from lacertus.core.measuring.tracks import Position

CORNER_PX = 1.5
"""Standard deviation of a marked mat point in x and in y, pixels. A convention."""


class FloorMeasure(Measure):
    """A step or a turn on the plane of the mat: metres or degrees."""

    pick: Literal["step_length", "step_direction", "distance", "base_width"]
    foot: str = "working"
    start: EventKey | None = Field(default=None, alias="from")
    end: EventKey | None = Field(default=None, alias="to")
    at: EventKey | None = None
    relative_to: Literal["target", "partner", "line"] = "target"
    unit: Literal["m", "foot", "deg"] | None = None

    @model_validator(mode="after")
    def _fits(self) -> Self:
        if self.pick.startswith("step") and (self.start is None or self.end is None):
            raise ValueError("a step needs `from` and `to`")
        if not self.pick.startswith("step") and self.moment is None:
            raise ValueError(f"{self.pick} needs `at`")
        if (self.unit == "deg") != (self.pick == "step_direction") and self.unit is not None:
            raise ValueError("a direction is in deg, a length in m or foot")
        return self

    @property
    def moment(self) -> EventRef | None:
        return self.at or self.end

    @property
    def feet(self) -> tuple[tuple[PointRef, PointRef], ...]:
        """Heel and toe of the feet that are read: the one named, then what it is held against."""
        own = _foot(self.foot)
        if self.pick == "base_width":
            return (_foot("working"), _foot("other"))
        if self.pick == "distance" or (self.pick == "step_direction" and self.relative_to == "partner"):
            return (own, _foot("partner.working"), _foot("partner.other"))
        return (own,)

    @property
    def events_used(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys(ref.event for ref in (self.start, self.end, self.at) if ref is not None))

    @property
    def points_used(self) -> tuple[PointRef, ...]:
        return tuple(point for foot in self.feet for point in foot)

    @property
    def natural_bounds(self) -> tuple[float, float]:
        return (-180.0, 180.0) if self.pick == "step_direction" else (0.0, math.inf)

    @property
    def unit_shown(self) -> str:
        return "deg" if self.pick == "step_direction" else self.unit or "m"


def _foot(name: str) -> tuple[PointRef, PointRef]:
    """Heel and toe of a foot as it may be named: `working`, `working_foot`, `working_toe`, `partner.near`."""
    body, _, bare = name.rpartition(".")
    side = bare.partition("_")[0]
    prefix = f"{body}.{side}" if body else side
    return PointRef(name=f"{prefix}_heel"), PointRef(name=f"{prefix}_toe")


def read(measure: FloorMeasure, scene: Scene, checkpoint_id: str) -> Reading:
    """Metres, the performer's feet, or degrees on the plane of the mat.

    A foot stands in the middle between heel and toe. A direction is 0 straight at the target (the partner, the
    mat's X axis) and positive to the working side, seen from above.

    Raises:
        NotSeen: four mat points are not marked, or a foot has no point.
    """
    spatial = _in_space(measure, scene)
    if spatial is not None:
        return spatial
    if scene.rep.floor is None or len(scene.rep.floor) < 4:
        raise NotSeen("the mat is not measured out: mark four points of it whose places are known, such as a tile’s corners")
    positions, frames = _positions(measure, scene)
    corners = np.array([(c.x, c.y) for c in scene.rep.floor])
    known = np.array([(c.X, c.Y) for c in scene.rep.floor])
    places = np.array([scene.steady.place(p.frame, p.x, p.y) for p in positions])

    foot_px, foot_u = _foot_px(measure, scene)

    def value_of(marked: NDArray[np.float64], spots: NDArray[np.float64]) -> float:
        return _value(measure, scene, plan_of(marked, known), spots, foot_px)

    try:
        value = value_of(corners, places)
    except BadInput as error:
        raise NotSeen(str(error)) from error
    parts = _parts(value, value_of, corners, places, positions)
    if foot_px:
        parts[("unit", "performer", "foot")] = value * foot_u / foot_px
    return Reading(
        value=value,
        unit=measure.unit_shown,
        u=geometry.uncertainty_of(parts),
        frames=frames,
        parts=parts,
        cyclic=measure.pick == "step_direction",
    )


def _in_space(measure: FloorMeasure, scene: Scene) -> Reading | None:
    """The same from where the feet are in space, lifted or not, where depth is settled; None where it is not, or needs the plan."""
    space = scene.space
    refs, frames = _asked(measure, scene)
    if space is None or not space.settles_depth or measure.relative_to == "line":
        return None
    if not space.can_read(refs, tuple(dict.fromkeys(frames))):
        return None
    spots = space.places(refs, frames)[:, [0, 2]]
    feet = (spots[0::2] + spots[1::2]) / 2
    shown = tuple(dict.fromkeys(frames))
    if measure.pick == "step_direction":
        wanted = (
            feet[2:].mean(axis=0) - feet[0]
            if measure.relative_to == "partner"
            else np.stack((towards := np.full(feet.shape[-1], scene.towards_x()), 0 * towards))
        )
        step = feet[1] - feet[0]
        # Seen from above with the camera below: x to the right, z down; so turning with the clock is to the right.
        turned = np.degrees(np.arctan2(wanted[0] * step[1] - wanted[1] * step[0], dot(wanted, step)))
        return in_space(turned if scene.rep.side == "right" else -turned, "deg", shown, cyclic=True)
    others = feet[1:] if measure.pick == "distance" else feet[1:2]
    length = np.min([distance(feet[0], other) for other in others], axis=0)
    unit = _metre_px(scene) if measure.unit != "foot" else unit_draws("foot", "working_heel", scene, frames)
    return None if unit is None else in_space(length / unit, measure.unit_shown, shown)


def _metre_px(scene: Scene) -> float | None:
    """Pixels in a metre: by the picture's scale, or by what two marked places of the mat are apart."""
    if scene.rep.centimetres_per_pixel is not None:
        return 100 / scene.rep.centimetres_per_pixel
    return None


def _asked(measure: FloorMeasure, scene: Scene) -> tuple[tuple[PointRef, ...], tuple[int, ...]]:
    """Heel and toe of each foot that is read, and the frame of each."""
    if measure.pick.startswith("step"):
        assert measure.start is not None and measure.end is not None
        first, last = scene.frame_of(measure.start), scene.frame_of(measure.end)
        own, others = measure.feet[0], [point for foot in measure.feet[1:] for point in foot]
        return (*own, *own, *others), (first, first, last, last, *([first] * len(others)))
    assert measure.moment is not None
    frame = scene.frame_of(measure.moment)
    return measure.points_used, (frame,) * len(measure.points_used)


def _positions(measure: FloorMeasure, scene: Scene) -> tuple[tuple[Position, ...], tuple[int, ...]]:
    """Heel and toe of each foot, all in the first frame's picture."""
    if measure.pick.startswith("step"):
        assert measure.start is not None and measure.end is not None
        first, last = scene.frame_of(measure.start), scene.frame_of(measure.end)
        own, others = measure.feet[0], [point for foot in measure.feet[1:] for point in foot]
        return (*scene.points(own, first), *scene.points(own, last), *scene.points(others, first)), (first, last)
    assert measure.moment is not None
    frame = scene.frame_of(measure.moment)
    return scene.points(measure.points_used, frame), (frame,)


def _foot_px(measure: FloorMeasure, scene: Scene) -> tuple[float, float]:
    """The performer's foot in pixels and its standard uncertainty, where it is the unit and known; else 0.

    Heel and toe on the plan are used only where it is not: a heel lifted by 4 cm falls on the plan 15 cm behind itself.
    """
    if measure.unit != "foot":
        return 0.0, 0.0
    try:
        length, u, _ = scene.pixels_per("foot", "working_heel")
    except NotSeen:
        return 0.0, 0.0
    return length, u


def _value(measure: FloorMeasure, scene: Scene, plan: MatPlan, places: NDArray[np.float64], foot_px: float) -> float:
    feet = plan.on_mat(places).reshape(-1, 2, 2).mean(axis=1)
    if measure.pick == "step_direction":
        return _direction(measure, scene, plan, places, feet)
    if measure.pick == "distance":
        length = float(min(np.hypot(*(feet[0] - other)) for other in feet[1:]))
    else:
        length = float(np.hypot(*(feet[1] - feet[0])))
    if measure.unit != "foot":
        return length
    # Straight across the picture a length on the mat is not foreshortened.
    across = places[:2].mean(axis=0) + np.array([[-foot_px / 2, 0.0], [foot_px / 2, 0.0]])
    one, other = plan.on_mat(across if foot_px else places[:2])
    return length / max(float(np.hypot(*(other - one))), 1e-6)


def _direction(measure: FloorMeasure, scene: Scene, plan: MatPlan, places: NDArray[np.float64], feet: NDArray[np.float64]) -> float:
    step = feet[1] - feet[0]
    if measure.relative_to == "partner":
        wanted = feet[2:].mean(axis=0) - feet[0]
    elif measure.relative_to == "line":
        wanted = np.array([1.0, 0.0])
    else:
        start = places[:2].mean(axis=0)
        ahead = start + np.array([scene.towards_x(), 0.0])
        wanted = plan.on_mat(ahead[None])[0] - plan.on_mat(start[None])[0]
    turned = math.degrees(math.atan2(wanted[0] * step[1] - wanted[1] * step[0], float(wanted @ step)))
    # Against the clock on the mat's own axes is against the clock from above unless the axes are mirrored in the picture.
    from_above = turned * plan.handed
    return -from_above if scene.rep.side == "right" else from_above


def _parts(
    value: float, value_of: object, corners: NDArray[np.float64], places: NDArray[np.float64], positions: tuple[Position, ...]
) -> geometry.Parts:
    """What each point's and each mat corner's scatter adds, by moving it a tenth of a pixel."""
    assert callable(value_of)
    step = 0.1
    gradients = []
    for i, position in enumerate(positions):
        slopes = []
        for axis in (0, 1):
            moved = places.copy()
            moved[i, axis] += step
            slopes.append(_small(value_of(corners, moved) - value) / step)
        gradients.append((position, slopes[0], slopes[1]))
    parts = geometry.parts_of(gradients)
    for i in range(len(corners)):
        for axis in (0, 1):
            moved = corners.copy()
            moved[i, axis] += step
            parts[("corner", str(i), "xy"[axis])] = _small(value_of(moved, places) - value) / step * CORNER_PX
    return parts


def _small(change: float) -> float:
    return (change + 180.0) % 360.0 - 180.0 if abs(change) > 180.0 else change


KIND = Kind(name="floor", measure_model=FloorMeasure, read=read)
