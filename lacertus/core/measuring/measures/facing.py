"""`facing`: whither hips, shoulders, head or feet are turned, from how wide they look."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Literal

import numpy as np

from lacertus.core.errors import NotSeen
from lacertus.core.measuring import geometry
from lacertus.core.measuring.body import BodyName
from lacertus.core.measuring.measures.base import AtEvent, Kind, PointRef, Reading, at_event
from lacertus.core.measuring.measures.scalar import Array, evaluate, in_space, unit_draws
from lacertus.core.measuring.scene import Scene
from lacertus.core.measuring.space.draws import normal

HEAD_BREADTH = 0.089
"""Width between the ears as a share of standing height: head breadth 155 mm at 1740 mm (Pheasant, Bodyspace)."""
HEAD_BREADTH_U = 0.08
SURE_SIGN = 2.0
"""Nose or toes must point to one side by so many u, or two dimensions cannot tell front from back."""
FLAT_WIDTH = 0.97
"""Seen wider than this share of its breadth, a line lies so square to the camera that its turning to the side
(√(1 − w²), within 14°) is lost in the scatter of its ends."""

_ENDS = {"hips": ("left_hip", "right_hip"), "shoulders": ("left_shoulder", "right_shoulder"), "head": ("left_ear", "right_ear")}
_WIDTHS = {"hips": "hip_width", "shoulders": "shoulder_width"}


class FacingMeasure(AtEvent):
    """How far a line of the body is turned towards something, as a share from −1 to 1."""

    body: BodyName = "performer"
    line: Literal["hips", "shoulders", "head", "feet"]
    towards: Literal["partner", "target", "camera", "start"] = "target"

    @property
    def points_used(self) -> tuple[PointRef, ...]:
        return tuple(self.ref(name) for name in self._landmarks)

    @property
    def _landmarks(self) -> tuple[str, ...]:
        toes = ("left_heel", "left_toe", "right_heel", "right_toe")
        if self.line == "feet":
            return toes
        # Shoulders and hips follow the toes when they are asked which way; the head follows its nose.
        return (*_ENDS[self.line], *(() if self.towards == "camera" else ("nose",) if self.line == "head" else toes))

    def ref(self, landmark: str) -> PointRef:
        return PointRef(name=landmark if self.body == "performer" else f"{self.body}.{landmark}")

    @property
    def natural_bounds(self) -> tuple[float, float]:
        return (-180.0, 180.0) if self.towards == "start" else (-1.0, 1.0)

    @property
    def unit_shown(self) -> str:
        return "deg" if self.towards == "start" else "share"


def read_at(measure: FacingMeasure, scene: Scene, frame: int) -> Reading:
    """1 squarely towards it, 0 side on, −1 away from it; degrees turned since the rep's first frame for `start`.

    Towards the camera the value is the seen width ÷ its reference, signed by which side lies left. Towards
    something in the picture's plane it is √(1 − width²), signed by nose or toes.

    Raises:
        NotSeen: a point or reference is missing, or two dimensions cannot tell.
    """
    spatial = _in_space(measure, scene, frame)
    if spatial is not None:
        return spatial
    if measure.towards == "start":
        return _turned(measure, scene, frame)
    to_camera = _camera_part(measure, scene, frame)
    if measure.towards == "camera":
        return to_camera
    if measure.towards == "target" and scene.rep.view in ("front", "behind"):
        sign = 1.0 if scene.rep.view == "front" else -1.0
        parts = geometry.combined((sign, to_camera.parts))
        return replace(to_camera, value=sign * to_camera.value, parts=parts)
    direction = scene.towards_x() if measure.towards == "target" else _partner_x(measure, scene, frame)
    side = _side_part(measure, scene, frame, to_camera)
    return replace(side, value=direction * side.value, parts=geometry.combined((direction, side.parts)))


def _in_space(measure: FacingMeasure, scene: Scene, frame: int) -> Reading | None:
    """The same in space; None where the body cannot be put there."""
    space = scene.space
    needed = [measure.ref(name) for name in _NEEDED[measure.line]]
    frames = (scene.rep.range[0], frame) if measure.towards == "start" else (frame,)
    others = (_other_hip(measure),) if measure.towards == "partner" else ()
    if space is None or not all(space.can_read((*needed, *others), (one,)) for one in frames):
        return None
    ahead = _ahead(measure, scene, frames)
    if measure.towards == "start":
        headings = np.degrees(np.arctan2(ahead[:, 0], -ahead[:, 1]))
        turned = (headings[1] - headings[0]) * (1.0 if scene.rep.side == "right" else -1.0)
        return in_space((turned + 180.0) % 360.0 - 180.0, "deg", tuple(dict.fromkeys(frames)), cyclic=True)
    if measure.towards == "target":
        value = scene.towards_x() * ahead[0, 0]
    elif measure.towards == "camera":
        value = (_towards_camera(scene) * ahead[0]).sum(axis=0)
    else:
        own, its = space.places((measure.ref("mid_hip"), *others), (frame,))
        value = (ahead[0] * _level_unit((its - own)[[0, 2]])).sum(axis=0)
    return in_space(np.asarray(value), "share", (frame,))


_NEEDED = {
    "hips": ("left_hip", "right_hip"),
    "shoulders": ("left_shoulder", "right_shoulder"),
    "head": ("left_ear", "right_ear", "nose"),
    "feet": ("left_heel", "left_toe", "right_heel", "right_toe"),
}


def _other_hip(measure: FacingMeasure) -> PointRef:
    return PointRef(name="partner.mid_hip" if measure.body == "performer" else "mid_hip")


def _ahead(measure: FacingMeasure, scene: Scene, frames: tuple[int, ...]) -> Array:
    """Where the line of the body faces over the mat: unit vectors (frames × 2 × DRAWS), along the target's line and across it."""
    assert scene.space is not None
    return np.stack([_ahead_at(measure, scene, frame) for frame in frames])


def _ahead_at(measure: FacingMeasure, scene: Scene, frame: int) -> Array:
    assert scene.space is not None
    if measure.line == "head":
        return _nose_ahead(measure, scene, frame)
    refs = [measure.ref(name) for name in _NEEDED[measure.line]]
    if measure.line == "feet":
        heel, toe, other_heel, other_toe = scene.space.places(refs, (frame,))
        both = [(end - start)[[0, 2]] for start, end in ((heel, toe), (other_heel, other_toe))]
        lengths = [np.sqrt(((end - start) ** 2).sum(axis=0)) for start, end in ((heel, toe), (other_heel, other_toe))]
        return np.asarray(sum(way / length for way, length in zip(both, lengths, strict=True)) / 2)
    left, right = scene.space.places(refs, (frame,))
    line = left - right
    # Ahead lies square to the line from right to left, over the mat: a body that bows or lies faces as its line tells.
    return _level_unit(np.stack((-line[2], line[0])))


def _nose_ahead(measure: FacingMeasure, scene: Scene, frame: int) -> Array:
    """The head: from two views as the nose lies before the ears; from one by how wide apart the ears look.

    From one view the nose tells to which side, and both together tell more than its chain does in depth.
    """
    assert scene.space is not None
    left, right, nose = scene.space.places([measure.ref(name) for name in _NEEDED["head"]], (frame,))
    tall = unit_draws("height", measure.ref("nose").name or "", scene, (frame,))
    breadth = HEAD_BREADTH * tall * (1 + HEAD_BREADTH_U * normal(f"head breadth {measure.body}"))
    c, s = scene.space.turn_of_target()
    middle = (left + right) / 2
    if scene.space.tie is not None:
        return _level_unit((nose - middle)[[0, 2]])
    across, up = (c * (left - right)[0] + s * (left - right)[2]) / breadth, (left - right)[1] / breadth
    pointer = c * (nose - middle)[0] + s * (nose - middle)[2]
    # What of the head's breadth is neither seen across nor up lies in depth: a head that is tilted faces as its level part tells.
    deep = np.sqrt(np.maximum(1 - across**2 - up**2, 0.0))
    width, side = _level_unit(np.stack((across, np.copysign(deep, pointer))))
    # From the picture's axes to those along the target's line.
    return np.stack((c * side - s * width, s * side + c * width))


def _towards_camera(scene: Scene) -> Array:
    assert scene.space is not None
    c, s = scene.space.turn_of_target()
    return np.stack((-s, c))


def _level_unit(vector: Array) -> Array:
    return np.asarray(vector / np.maximum(np.hypot(vector[0], vector[1]), 1e-9))


def _camera_part(measure: FacingMeasure, scene: Scene, frame: int) -> Reading:
    """Cosine of the angle between facing and the camera: seen width ÷ reference."""
    if measure.line == "feet":
        raise_for = measure.towards == "camera"
        if raise_for:
            raise NotSeen("feet that point at the camera look short; ask for hips or shoulders towards the camera")
        return Reading(value=0.0, unit="share", u=0.0, frames=(frame,))
    refs = tuple(measure.ref(name) for name in _ENDS[measure.line])
    positions = scene.points(refs, frame)
    px, u_px, name = _width_px(measure, scene)
    value, parts = evaluate(lambda p: (p[0, 0] - p[1, 0]) / px, positions, np.array([(p.x, p.y) for p in positions]), scene)
    # The picture is seen from the front: a performer who faces it has the left side to the right.
    parts[name] = parts.get(name, 0.0) - value * u_px / px
    shown = max(-1.0, min(1.0, value))
    return Reading(value=shown, unit="share", u=geometry.uncertainty_of(parts), frames=(frame,), parts=parts)


def _width_px(measure: FacingMeasure, scene: Scene) -> tuple[float, float, tuple[str, ...]]:
    if measure.line == "head":
        height = scene.height_px(measure.body)
        return HEAD_BREADTH * height, HEAD_BREADTH_U * HEAD_BREADTH * height, ("unit", measure.body, "head_breadth")
    unit = _WIDTHS[measure.line]
    return scene.pixels_per(unit, (measure.ref("left_hip").name or ""))


def _side_part(measure: FacingMeasure, scene: Scene, frame: int, to_camera: Reading) -> Reading:
    """Cosine of the angle between facing and the right of the picture."""
    if measure.line == "feet":
        return _feet(measure, scene, frame)
    pointer, pointer_u = _pointer(measure, scene, frame)
    if abs(pointer) < SURE_SIGN * pointer_u:
        what = "the nose points" if measure.line == "head" else "the toes point"
        raise NotSeen(f"{what} to neither side surely enough, so front and back cannot be told; film square to it")
    width = abs(to_camera.value)
    if width > FLAT_WIDTH:
        raise NotSeen("it lies square to the camera, where a small turn does not show; film from the side")
    value = math.copysign(math.sqrt(1 - width**2), pointer)
    slope = -width / abs(value)
    parts = geometry.combined((math.copysign(slope, value * slope), to_camera.parts))
    # Near side on, a width of nothing changes little at first: its own scatter is what is left.
    least = to_camera.u**2 / 2
    u = math.hypot(geometry.uncertainty_of(parts), least)
    return replace(to_camera, value=value, u=u, parts=parts)


def _feet(measure: FacingMeasure, scene: Scene, frame: int) -> Reading:
    """How far both feet point to the right: seen length ÷ the foot's own, the mean of both."""
    positions = scene.points(measure.points_used, frame)
    lengths = [scene.pixels_per("foot", measure.ref(f"{side}_toe").name or "") for side in ("left", "right")]

    def formula(p: Array) -> Array:
        return np.asarray(sum((p[2 * i + 1, 0] - p[2 * i, 0]) / px for i, (px, _, _) in enumerate(lengths)) / 2)

    value, parts = evaluate(formula, positions, np.array([(p.x, p.y) for p in positions]), scene)
    share = math.hypot(*(u / px for px, u, _ in lengths)) / 2
    parts[("unit", measure.body, "feet")] = -value * share
    shown = max(-1.0, min(1.0, value))
    return Reading(value=shown, unit="share", u=geometry.uncertainty_of(parts), frames=(frame,), parts=parts)


def _pointer(measure: FacingMeasure, scene: Scene, frame: int) -> tuple[float, float]:
    """How far nose or toes lie to the right of what they belong to, pixels, and its u."""
    names: tuple[str, ...]
    if measure.line == "head":
        names = ("nose", "left_ear", "right_ear")

        def formula(p: Array) -> Array:
            return np.asarray(p[0, 0] - (p[1, 0] + p[2, 0]) / 2)
    else:
        names = ("left_heel", "left_toe", "right_heel", "right_toe")

        def formula(p: Array) -> Array:
            return np.asarray((p[1, 0] - p[0, 0] + p[3, 0] - p[2, 0]) / 2)

    positions = scene.points([measure.ref(name) for name in names], frame)
    value, parts = evaluate(formula, positions, np.array([(p.x, p.y) for p in positions]), scene)
    return value, geometry.uncertainty_of(parts)


def _partner_x(measure: FacingMeasure, scene: Scene, frame: int) -> float:
    """+1 where the other body lies to the right in the picture, −1 to the left."""
    other = "partner" if measure.body == "performer" else "performer"
    prefix = "partner." if other == "partner" else ""
    own, its = scene.points((measure.ref("mid_hip"), PointRef(name=f"{prefix}mid_hip")), frame)
    if abs(its.x - own.x) < SURE_SIGN * math.hypot(own.sigma, its.sigma):
        raise NotSeen(f"the {other} stands before or behind in this view, so facing them cannot be told; film from the side")
    return 1.0 if its.x > own.x else -1.0


def _turned(measure: FacingMeasure, scene: Scene, frame: int) -> Reading:
    """Degrees turned since the rep's first frame, positive to the working side, by the shorter way."""
    (then, u_then), (now, u_now) = (_heading(measure, scene, at) for at in (scene.rep.range[0], frame))
    turned = (now - then + 180.0) % 360.0 - 180.0
    value = turned if scene.rep.side == "right" else -turned
    # What is not known of a frame's heading is the same wherever that frame is held against another one.
    first = scene.rep.range[0]
    parts: geometry.Parts = {}
    if frame != first:
        parts = {("heading", measure.body, measure.line, str(at)): u for at, u in ((frame, u_now), (first, -u_then))}
    u = geometry.uncertainty_of(parts)
    return Reading(value=value, unit="deg", u=u, frames=(first, frame), cyclic=True, parts=parts)


def _heading(measure: FacingMeasure, scene: Scene, frame: int) -> tuple[float, float]:
    """Where it faces seen from above, degrees with the clock from the camera's way of looking, and its u."""
    camera = _camera_part(measure, scene, frame)
    pointer, pointer_u = _pointer(measure, scene, frame)
    width = camera.value
    if abs(width) < FLAT_WIDTH and abs(pointer) < SURE_SIGN * pointer_u:
        raise NotSeen("nose and toes point to neither side surely enough, so the turn cannot be told")
    across = math.copysign(math.sqrt(max(1 - width**2, 0.0)), pointer)
    # From above, with the camera below: facing away is 0, to the right of the picture 90.
    return math.degrees(math.atan2(across, -width)), math.degrees(camera.u / max(abs(across), camera.u, 0.1))


KIND = Kind(name="facing", measure_model=FacingMeasure, read=at_event(read_at), frame_rule=read_at)
