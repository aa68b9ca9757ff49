"""A jointed figure: channels of a pose → the place of every joint, with segments that do not stretch.

Channels are degrees unless they say otherwise. A standing figure at yaw 0 faces +x, its left is +y.
Legs and arms are posed by joint angles, or drawn to a target (a planted foot, a grip, a hook) by weight.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from lacertus.core.measuring.body import PROPORTIONS, mirrored
from lacertus.studio.body.vectors import UP, Vector, cross, turn, two_bone, unit

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


LIMB = {"flex": 0.0, "abd": 0.0, "bend": 0.0, "rot": 0.0}


def rest_channels() -> dict[str, float]:
    """Every channel at rest: standing, arms hanging."""
    channels = {"x": 0.0, "y": 0.0, "z": 0.53, "yaw": 0.0, "lean": 0.0, "roll": 0.0}
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
        }
    return channels


Channels = dict[str, float]


@dataclass(frozen=True, kw_only=True)
class Frame3:
    """Forward, left and up of a body part."""

    forward: Vector
    left: Vector
    up: Vector

    def turned(self, axis: Vector, deg: float) -> Frame3:
        if deg == 0.0:
            return self
        return Frame3(forward=turn(self.forward, axis, deg), left=turn(self.left, axis, deg), up=turn(self.up, axis, deg))


@dataclass(frozen=True, kw_only=True)
class Joints:
    """Where everything is: landmarks by name, and the frames of pelvis, chest and head. Metres."""

    at: dict[str, Vector]
    pelvis: Frame3
    chest: Frame3
    head: Frame3
    stature_m: float
    soles: dict[str, Vector] = field(default_factory=dict)


def placed(joints: Joints, turn_deg: float, mirror: bool) -> Joints:
    """A figure seen from elsewhere: mirrored across the plane y = 0 where wanted, then turned about the vertical."""

    if not mirror and turn_deg == 0.0:
        return joints
    turned = np.array([turn(axis, UP, turn_deg) for axis in np.eye(3)])
    moves = turned * _MIRROR[:, None] if mirror else turned

    def flip(v: Vector) -> Vector:
        placed_there: Vector = v @ moves
        return placed_there

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


_MIRROR = np.array([1.0, -1.0, 1.0])


def pose(channels: Channels, look: Look, holds: Mapping[str, Vector] | None = None) -> Joints:
    """Place every joint of a figure.

    Channels of the trunk: `x`, `y` (metres) and `z` (share of stature) of the pelvis; `yaw` about the
    vertical, `lean` forward, `roll` to the right, `spin` about the spine; `bow` forward, `side` and
    `twist` bend the chest against the pelvis; `look` and `nod` turn the head, `tilt` bends it to the right. Of each limb: `flex`
    forward, `abd` outward, `bend` of knee or elbow, `rot` about its own length. `plant` draws the
    ball of a foot to `foot_x`, `foot_y`, `foot_z` (metres), toes along `foot_yaw` (from +x, anticlockwise), the
    heel raised by `heel_up` or the toes by `toe_up`; `hook` and `grip` draw ankle and wrist to what is held, by weight 0–1;
    `flare` lifts a gripping elbow away from the ribs; `grip_x`, `grip_y`, `grip_z` (metres) move the hand away from the place
    that it holds.

    Args:
        channels: as `rest_channels`.
        look: stature and build.
        holds: where a wrist (`left_hand`) or an ankle (`left_foot`) is drawn to, in metres.
    """
    h = look.stature_m
    pelvis = _body_frame(channels)
    root = np.array([channels["x"], channels["y"], channels["z"] * h])
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
    frame = Frame3(forward=np.array([1.0, 0, 0]), left=np.array([0, 1.0, 0]), up=UP.copy())
    frame = frame.turned(UP, channels["yaw"])
    frame = frame.turned(frame.left, channels["lean"])
    frame = frame.turned(frame.forward, channels["roll"])
    return frame.turned(frame.up, channels["spin"])


def _hip(side: str, root: Vector, pelvis: Frame3, h: float) -> Vector:
    outward = pelvis.left if side == "left" else -pelvis.left
    return root + outward * (PROPORTIONS["hip_width"] * h / 2)


def _foot_axes(side: str, channels: Channels) -> tuple[Vector, Vector]:
    """Toes' direction and the sole's upward normal of a planted foot."""
    level = turn(np.array([1.0, 0.0, 0.0]), UP, channels[f"{side}_foot_yaw"])
    across = cross(UP, level)
    ahead = turn(level, across, channels[f"{side}_heel_up"] - channels[f"{side}_toe_up"])
    return ahead, cross(ahead, across)


def _foot_target(side: str, channels: Channels, h: float) -> Vector:
    """Where the ankle of a planted foot is: the foot turns and rises about its ball, which stays."""
    ball = np.array([channels[f"{side}_foot_{axis}"] for axis in "xyz"])
    ahead, sole_up = _foot_axes(side, channels)
    return ball + sole_up * (ANKLE_HEIGHT * h) - ahead * ((BALL - 0.24) * PROPORTIONS["foot"] * h)


def _lowered(root: Vector, pelvis: Frame3, channels: Channels, h: float) -> Vector:
    """Sink the pelvis until every fully planted foot is within the leg's reach."""
    reach = (PROPORTIONS["thigh"] + PROPORTIONS["shank"]) * h * 0.999
    for side in SIDES:
        weight = channels[f"{side}_plant"]
        hip, foot = _hip(side, root, pelvis, h), _foot_target(side, channels, h)
        flat = math.hypot(hip[0] - foot[0], hip[1] - foot[1])
        excess = hip[2] - (foot[2] + math.sqrt(max(reach**2 - flat**2, 0.01)))
        if excess > 0 and weight > 0:
            root = root - UP * excess * min(weight, 1.0)
    return root


def _swing(frame: Frame3, outward: Vector, flex: float, abd: float, rot: float) -> tuple[Vector, Vector]:
    """Direction of a limb's upper segment, and the direction that its end bends to the front."""
    a, b = math.radians(flex), math.radians(abd)
    down = -frame.up * math.cos(a) + frame.forward * math.sin(a)
    front = frame.up * math.sin(a) + frame.forward * math.cos(a)
    direction = unit(down * math.cos(b) + outward * math.sin(b))
    front = unit(front - direction * float(np.dot(front, direction)))
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
    k = math.radians(bend)
    lower = direction * math.cos(k) - front * math.sin(k)
    target = hip + direction * thigh + lower * shank
    plant, hook = channels[f"{side}_plant"], _weight(f"{side}_hook", f"{side}_foot", channels, holds)
    target = target + (_foot_target(side, channels, h) - target) * plant
    target = target + (holds.get(f"{side}_foot", target) - target) * hook
    # A standing knee points where the toes point.
    toes = turn(np.array([1.0, 0.0, 0.0]), UP, channels[f"{side}_foot_yaw"])
    pole = front * (1 - plant) + (toes + 0.3 * pelvis.forward) * plant
    for _ in range(2):
        knee, ankle = two_bone(hip, target, thigh, shank, pole)
        heel, toe, sole_up = _place_foot(side, knee, ankle, front, channels, h)
        sunk = -min(float(heel[2]), float(toe[2]))
        if plant > 0.99 or sunk <= 0:
            break
        target = target + UP * sunk  # The mat carries a free foot too.
    names = {"hip": hip, "knee": knee, "ankle": ankle, "heel": heel, "toe": toe}
    at.update({f"{side}_{name}": place for name, place in names.items()})
    soles[side] = sole_up


def _place_foot(
    side: str, knee: Vector, ankle: Vector, front: Vector, channels: Channels, h: float
) -> tuple[Vector, Vector, Vector]:
    """Heel, toe and the sole's upward normal: square to the shank, or flat on the mat by the weight of the plant."""
    plant = channels[f"{side}_plant"]
    along = unit(ankle - knee)
    loose_ahead = unit(front - along * float(np.dot(front, along)))
    loose_ahead = turn(loose_ahead, cross(-along, loose_ahead), -channels[f"{side}_toe_up"])
    planted_ahead, planted_up = _foot_axes(side, channels)
    ahead = unit(planted_ahead * plant + loose_ahead * (1 - plant))
    across = unit(cross(planted_up * plant - along * (1 - plant), ahead))
    sole_up = cross(ahead, across)
    foot = PROPORTIONS["foot"] * h
    heel = ankle - sole_up * (ANKLE_HEIGHT * h) - ahead * (0.24 * foot)
    return heel, heel + ahead * foot, sole_up


def _weight(channel: str, limb: str, channels: Channels, holds: Mapping[str, Vector]) -> float:
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
    k = math.radians(bend)
    free = shoulder + direction * upper + (direction * math.cos(k) + front * math.sin(k)) * fore
    weight = _weight(f"{side}_grip", f"{side}_hand", channels, holds)
    slip = np.array([channels[f"{side}_grip_{axis}"] for axis in "xyz"])
    target = free + (holds.get(f"{side}_hand", free) + slip - free) * weight
    target = np.array([target[0], target[1], max(target[2], 0.03 * h)])
    flare = math.radians(channels[f"{side}_flare"])
    pole = -front * (1 - weight) + (-chest.up * math.cos(flare) + outward * math.sin(flare)) * weight
    elbow, wrist = two_bone(shoulder, target, upper, fore, pole)
    names = {"shoulder": shoulder, "elbow": elbow, "wrist": wrist}
    at.update({f"{side}_{name}": place for name, place in names.items()})
    at[f"{side}_hand"] = wrist + _hand_direction(wrist, elbow, h) * (HAND * 0.5 * h)


def _hand_direction(wrist: Vector, elbow: Vector, h: float) -> Vector:
    """In line with the forearm, bent at the wrist where the mat is in the way."""
    direction = unit(wrist - elbow)
    lowest = -(float(wrist[2]) - 0.012 * h) / (HAND * 0.5 * h)
    if direction[2] >= lowest:
        return direction
    flat = unit(np.array([direction[0], direction[1], 0.0]) + 1e-6)
    down = max(lowest, -0.98)
    return flat * math.sqrt(1 - down * down) + UP * down


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
