"""A jointed figure: channels of a pose → the place of every joint, with segments that do not stretch.

All functions take one pose or the poses of many times at once (body/vectors.py).

Channels are degrees unless they say otherwise. A standing figure at yaw 0 faces +x, its left is +y.
Legs and arms are posed by joint angles, or drawn to a target (a planted foot, a grip, a hook) by weight.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import lru_cache

import numpy as np

from lacertus.core.measuring.body import PROPORTIONS, mirrored
from lacertus.studio.body.vectors import AHEAD, UP, Number, Vector, cross, dot, each, turn, two_bone, unit, vector

ANKLE_HEIGHT = 0.039
HEAD_HEIGHT = 0.130
NECK = 0.034
HAND = 0.108
BALL = 0.72
"""Shares of standing height, same source as body.PROPORTIONS; the ball of the foot as a share of its length."""

SIDES = ("left", "right")


@dataclass(frozen=True, kw_only=True)
class Look:
    """Stature in metres, build (1 is ordinary), and the colours of a figure (red, green, blue, 0–1)."""

    stature_m: float = 1.74
    build: float = 1.0
    cloth: tuple[float, float, float] = (0.90, 0.89, 0.85)
    belt: tuple[float, float, float] = (0.10, 0.11, 0.20)
    skin: tuple[float, float, float] = (0.78, 0.58, 0.46)
    hair: tuple[float, float, float] = (0.13, 0.10, 0.09)


Channels = dict[str, Number]
LIMB = {"flex": 0.0, "abd": 0.0, "bend": 0.0, "rot": 0.0}


def rest_channels() -> Channels:
    """Every channel at rest: standing, arms hanging."""
    channels: Channels = {"x": 0.0, "y": 0.0, "z": 0.53, "yaw": 0.0, "lean": 0.0, "roll": 0.0}
    channels |= {"spin": 0.0, "bow": 0.0, "side": 0.0, "twist": 0.0, "nod": 0.0, "look": 0.0, "tilt": 0.0}
    for side in SIDES:
        for limb in ("leg", "arm"):
            channels |= {f"{side}_{limb}_{key}": value for key, value in LIMB.items()}
        channels |= {f"{side}_plant": 0.0, f"{side}_foot_x": 0.0, f"{side}_foot_y": 0.0, f"{side}_foot_z": 0.0}
        channels |= {f"{side}_foot_yaw": 0.0, f"{side}_toe_up": 0.0, f"{side}_heel_up": 0.0, f"{side}_hook": 0.0}
        channels |= {
            f"{side}_grip": 0.0,
            f"{side}_flare": 30.0,
            f"{side}_grip_x": 0.0,
            f"{side}_grip_y": 0.0,
            f"{side}_grip_z": 0.0,
            f"{side}_switch": 1.0,
        }
    return channels


@dataclass(frozen=True, kw_only=True)
class Frame3:
    """Forward, left and up of a body part."""

    forward: Vector
    left: Vector
    up: Vector

    def turned(self, axis: Vector, deg: Number) -> Frame3:
        """The three together: the angle is worked out once."""
        axes = np.array((self.forward, self.left, self.up))
        over_times = (1,) * (max(np.ndim(deg), axis.ndim - 1) - (axes.ndim - 2))
        forward, left, up = turn(axes.reshape(3, *over_times, *axes.shape[1:]), axis, deg)
        return Frame3(forward=forward, left=left, up=up)


@dataclass(frozen=True, kw_only=True)
class Joints:
    """Where everything is: landmarks by name, and the frames of pelvis, chest and head. Metres."""

    at: dict[str, Vector]
    pelvis: Frame3
    chest: Frame3
    head: Frame3
    stature_m: float
    soles: dict[str, Vector] = field(default_factory=dict)

    def frames(self, count: int) -> list[Joints]:
        """One for each of so many times."""

        def parts(frame: Frame3) -> list[Frame3]:
            axes = (np.broadcast_to(axis, (count, 3)) for axis in (frame.forward, frame.left, frame.up))
            return [Frame3(forward=forward, left=left, up=up) for forward, left, up in zip(*axes, strict=True)]

        places = np.stack(list(self.at.values()), axis=1)
        soles = np.stack(list(self.soles.values()), axis=1)
        return [
            Joints(
                at=dict(zip(self.at, place, strict=True)),
                pelvis=pelvis,
                chest=chest,
                head=head,
                stature_m=self.stature_m,
                soles=dict(zip(self.soles, sole, strict=True)),
            )
            for place, sole, pelvis, chest, head in zip(
                places, soles, parts(self.pelvis), parts(self.chest), parts(self.head), strict=True
            )
        ]


def placed(joints: Joints, turn_deg: float, mirror: bool) -> Joints:
    """A figure seen from elsewhere: mirrored across the plane y = 0 where wanted, then turned about the vertical."""
    if not mirror and turn_deg == 0.0:
        return joints
    matrix = _placing(turn_deg, mirror)

    def flip(v: Vector) -> Vector:
        there: Vector = v @ matrix
        return there

    def flip_frame(frame: Frame3) -> Frame3:
        left = flip(frame.left)
        return Frame3(forward=flip(frame.forward), left=-left if mirror else left, up=flip(frame.up))

    name = mirrored if mirror else str
    places = flip(np.array(list(joints.at.values())))
    return Joints(
        at={name(key): place for key, place in zip(joints.at, places, strict=True)},
        pelvis=flip_frame(joints.pelvis),
        chest=flip_frame(joints.chest),
        head=flip_frame(joints.head),
        stature_m=joints.stature_m,
        soles={name(key): flip(sole) for key, sole in joints.soles.items()},
    )


def placed_points(points: Vector, turn_deg: float, mirror: bool) -> Vector:
    """Points (…, 3) of a figure seen from elsewhere, as `placed`; in the mirror a left point is the right one's place."""
    if not mirror and turn_deg == 0.0:
        return points
    there: Vector = points @ _placing(turn_deg, mirror)
    return there


@lru_cache(maxsize=64)
def _placing(turn_deg: float, mirror: bool) -> Vector:
    """The matrix (3, 3) that a vector, as a row, is multiplied with to be mirrored and turned."""
    mirrored_first = np.diag([1.0, -1.0 if mirror else 1.0, 1.0])
    return turn(mirrored_first, UP, turn_deg)


def pose(channels: Channels, look: Look, holds: Mapping[str, Vector] | None = None) -> Joints:
    """Place every joint of a figure.

    Channels of the trunk: `x`, `y` (metres) and `z` (share of stature) of the pelvis; `yaw` about the
    vertical, `lean` forward, `roll` to the right, `spin` about the spine; `bow` forward, `side` and
    `twist` bend the chest against the pelvis; `look` and `nod` turn the head, `tilt` bends it to the right. Of each limb: `flex`
    forward, `abd` outward, `bend` of knee or elbow, `rot` about its own length. `plant` draws the
    ball of a foot to `foot_x`, `foot_y`, `foot_z` (metres), toes along `foot_yaw` (from +x, anticlockwise), the
    heel raised by `heel_up` or the toes by `toe_up`; `hook` and `grip` draw ankle and wrist to what is held, by weight 0–1;
    `flare` lifts a gripping elbow away from the ribs; `switch` is 0 while a hand still holds what it usually does, in a rep whose
    choice or reaction gives it something else to hold (the scene reads it); `grip_x`, `grip_y`, `grip_z` (metres) move the hand
    away from the place that it holds.

    Args:
        channels: as `rest_channels`.
        look: stature and build.
        holds: where a wrist (`left_hand`) or an ankle (`left_foot`) is drawn to, in metres.
    """
    h = look.stature_m
    pelvis = _body_frame(channels)
    root = vector(channels["x"], channels["y"], channels["z"] * h)
    root = _lowered(root, pelvis, channels, h)
    chest = pelvis.turned(pelvis.left, channels["bow"]).turned(pelvis.forward, channels["side"])
    chest = chest.turned(chest.up, channels["twist"])
    at: dict[str, Vector] = {}
    soles: dict[str, Vector] = {}
    for side in SIDES:
        _place_leg(side, root, pelvis, channels, h, at, soles, holds or {})
    top = root + pelvis.up * 0.10 * h + chest.up * 0.188 * h
    for side in SIDES:
        _place_arm(side, top, chest, channels, h, at, holds or {})
    head = _place_head(top, chest, channels, h, at)
    return Joints(at=at, pelvis=pelvis, chest=chest, head=head, stature_m=h, soles=soles)


def _body_frame(channels: Channels) -> Frame3:
    frame = Frame3(forward=AHEAD, left=cross(UP, AHEAD), up=UP)
    frame = frame.turned(UP, channels["yaw"])
    frame = frame.turned(frame.left, channels["lean"])
    frame = frame.turned(frame.forward, channels["roll"])
    return frame.turned(frame.up, channels["spin"])


def _hip(side: str, root: Vector, pelvis: Frame3, h: float) -> Vector:
    outward = pelvis.left if side == "left" else -pelvis.left
    return root + outward * (PROPORTIONS["hip_width"] * h / 2)


def _foot_axes(side: str, channels: Channels) -> tuple[Vector, Vector]:
    """Toes' direction and the sole's upward normal of a planted foot."""
    level = turn(AHEAD, UP, channels[f"{side}_foot_yaw"])
    across = cross(UP, level)
    ahead = turn(level, across, channels[f"{side}_heel_up"] - channels[f"{side}_toe_up"])
    return ahead, cross(ahead, across)


def _foot_target(side: str, channels: Channels, h: float) -> Vector:
    """Where the ankle of a planted foot is: the foot turns and rises about its ball, which stays."""
    ball = vector(channels[f"{side}_foot_x"], channels[f"{side}_foot_y"], channels[f"{side}_foot_z"])
    ahead, sole_up = _foot_axes(side, channels)
    return ball + sole_up * (ANKLE_HEIGHT * h) - ahead * ((BALL - 0.24) * PROPORTIONS["foot"] * h)


def _lowered(root: Vector, pelvis: Frame3, channels: Channels, h: float) -> Vector:
    """Sink the pelvis until every fully planted foot is within the leg's reach."""
    reach = (PROPORTIONS["thigh"] + PROPORTIONS["shank"]) * h * 0.999
    for side in SIDES:
        weight = np.clip(channels[f"{side}_plant"], 0.0, 1.0)
        hip, foot = _hip(side, root, pelvis, h), _foot_target(side, channels, h)
        flat = np.hypot(hip[..., 0] - foot[..., 0], hip[..., 1] - foot[..., 1])
        excess = hip[..., 2] - (foot[..., 2] + np.sqrt(np.maximum(reach**2 - flat**2, 0.01)))
        root = root - UP * each(np.maximum(excess, 0.0) * weight)
    return root


def _swing(frame: Frame3, outward: Vector, flex: Number, abd: Number, rot: Number) -> tuple[Vector, Vector]:
    """Direction of a limb's upper segment, and the direction that its end bends to the front."""
    a, b = np.radians(each(flex)), np.radians(each(abd))
    down = -frame.up * np.cos(a) + frame.forward * np.sin(a)
    front = frame.up * np.sin(a) + frame.forward * np.cos(a)
    direction = unit(down * np.cos(b) + outward * np.sin(b))
    front = unit(front - direction * dot(front, direction))
    return direction, turn(front, direction, rot)


def _place_leg(
    side: str,
    root: Vector,
    pelvis: Frame3,
    channels: Channels,
    h: float,
    at: dict[str, Vector],
    soles: dict[str, Vector],
    holds: Mapping[str, Vector],
) -> None:
    outward = pelvis.left if side == "left" else -pelvis.left
    hand = -1.0 if side == "left" else 1.0
    thigh, shank = PROPORTIONS["thigh"] * h, PROPORTIONS["shank"] * h
    flex, abd, bend, rot = (channels[f"{side}_leg_{key}"] for key in LIMB)
    hip = _hip(side, root, pelvis, h)
    direction, front = _swing(pelvis, outward, flex, abd, hand * rot)
    k = np.radians(each(bend))
    lower = direction * np.cos(k) - front * np.sin(k)
    target = hip + direction * thigh + lower * shank
    plant = each(channels[f"{side}_plant"])
    hook = each(_weight(f"{side}_hook", f"{side}_foot", channels, holds))
    target = target + (_foot_target(side, channels, h) - target) * plant
    target = target + (holds.get(f"{side}_foot", target) - target) * hook
    # A standing knee points where the toes point; over a raised heel it points down too, as in kneeling.
    raised = np.radians(each(channels[f"{side}_heel_up"]))
    toes = turn(AHEAD, UP, channels[f"{side}_foot_yaw"]) - UP * np.sin(raised)
    pole = front * (1 - plant) + (toes + 0.3 * pelvis.forward) * plant
    for _ in range(2):
        knee, ankle = two_bone(hip, target, thigh, shank, pole)
        heel, toe, sole_up = _place_foot(side, knee, ankle, front, channels, h)
        # The mat carries a free foot too.
        sunk = each(np.maximum(-np.minimum(heel[..., 2], toe[..., 2]), 0.0)) * (plant <= 0.99)
        if not sunk.any():
            break
        target = target + UP * sunk
    names = {"hip": hip, "knee": knee, "ankle": ankle, "heel": heel, "toe": toe}
    at.update({f"{side}_{name}": place for name, place in names.items()})
    soles[side] = sole_up


def _place_foot(
    side: str, knee: Vector, ankle: Vector, front: Vector, channels: Channels, h: float
) -> tuple[Vector, Vector, Vector]:
    """Heel, toe and the sole's upward normal: square to the shank, or flat on the mat by the weight of the plant."""
    plant = each(channels[f"{side}_plant"])
    along = unit(ankle - knee)
    loose_ahead = unit(front - along * dot(front, along))
    loose_ahead = turn(loose_ahead, cross(-along, loose_ahead), -np.asarray(channels[f"{side}_toe_up"]))
    planted_ahead, planted_up = _foot_axes(side, channels)
    ahead = unit(planted_ahead * plant + loose_ahead * (1 - plant))
    across = unit(cross(planted_up * plant - along * (1 - plant), ahead))
    sole_up = cross(ahead, across)
    foot = PROPORTIONS["foot"] * h
    heel = ankle - sole_up * (ANKLE_HEIGHT * h) - ahead * (0.24 * foot)
    return heel, heel + ahead * foot, sole_up


def _weight(channel: str, limb: str, channels: Channels, holds: Mapping[str, Vector]) -> Number:
    return channels[channel] if limb in holds else 0.0


def _place_arm(
    side: str, top: Vector, chest: Frame3, channels: Channels, h: float, at: dict[str, Vector], holds: Mapping[str, Vector]
) -> None:
    outward = chest.left if side == "left" else -chest.left
    hand = -1.0 if side == "left" else 1.0
    upper, fore = PROPORTIONS["upper_arm"] * h, PROPORTIONS["forearm"] * h
    flex, abd, bend, rot = (channels[f"{side}_arm_{key}"] for key in LIMB)
    shoulder = top + outward * (PROPORTIONS["shoulder_width"] * 0.82 * h / 2) - chest.up * 0.012 * h
    direction, front = _swing(chest, outward, flex, abd, hand * rot)
    k = np.radians(each(bend))
    free = shoulder + direction * upper + (direction * np.cos(k) + front * np.sin(k)) * fore
    weight = each(_weight(f"{side}_grip", f"{side}_hand", channels, holds))
    slip = vector(channels[f"{side}_grip_x"], channels[f"{side}_grip_y"], channels[f"{side}_grip_z"])
    target = free + (holds.get(f"{side}_hand", free) + slip - free) * weight
    target = vector(target[..., 0], target[..., 1], np.maximum(target[..., 2], 0.03 * h))
    flare = np.radians(each(channels[f"{side}_flare"]))
    pole = -front * (1 - weight) + (-chest.up * np.cos(flare) + outward * np.sin(flare)) * weight
    elbow, wrist = two_bone(shoulder, target, upper, fore, pole)
    names = {"shoulder": shoulder, "elbow": elbow, "wrist": wrist}
    at.update({f"{side}_{name}": place for name, place in names.items()})
    at[f"{side}_hand"] = wrist + _hand_direction(wrist, elbow, h) * (HAND * 0.5 * h)


def _hand_direction(wrist: Vector, elbow: Vector, h: float) -> Vector:
    """In line with the forearm, bent at the wrist where the mat is in the way."""
    direction = unit(wrist - elbow)
    lowest = -(wrist[..., 2:] - 0.012 * h) / (HAND * 0.5 * h)
    flat = unit(direction * (1.0 - UP) + 1e-6 * (1.0 - UP))
    down = np.maximum(lowest, -0.98)
    bent = flat * np.sqrt(np.maximum(1 - down * down, 0.0)) + UP * down
    return np.where(direction[..., 2:] >= lowest, direction, bent)


def _place_head(top: Vector, chest: Frame3, channels: Channels, h: float, at: dict[str, Vector]) -> Frame3:
    head = chest.turned(chest.up, channels["look"])
    head = head.turned(head.left, channels["nod"]).turned(head.forward, channels["tilt"])
    neck = top + chest.up * 0.012 * h
    chin = neck + head.up * NECK * 0.75 * h + head.forward * 0.042 * h
    crown = neck + head.up * (NECK + HEAD_HEIGHT) * h
    middle = crown - head.up * HEAD_HEIGHT * 0.5 * h
    at.update({"neck": neck, "chin": chin, "head_top": crown})
    at["nose"] = middle + head.forward * 0.062 * h - head.up * 0.008 * h
    at["left_ear"] = middle + head.left * 0.043 * h
    at["right_ear"] = middle - head.left * 0.043 * h
    return head
