"""A jointed figure: channels of a pose → the place of every joint, with segments that do not stretch.

Channels are degrees unless they say otherwise. A standing figure at yaw 0 faces +x, its left is +y.
Legs and arms are posed by joint angles, or drawn to a target (a planted foot, a grip) by weight.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np

from lacertus.core.body import PROPORTIONS
from lacertus.studio.vectors import UP, Vector, cross, turn, two_bone, unit

ANKLE_HEIGHT = 0.039
HEAD_HEIGHT = 0.130
NECK = 0.034
HAND = 0.108
"""Shares of standing height, same source as body.PROPORTIONS."""

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
    channels |= {"bow": 0.0, "twist": 0.0, "nod": 0.0, "look": 0.0}
    for side in SIDES:
        for limb in ("leg", "arm"):
            channels |= {f"{side}_{limb}_{key}": value for key, value in LIMB.items()}
        channels |= {f"{side}_plant": 0.0, f"{side}_foot_x": 0.0, f"{side}_foot_y": 0.0, f"{side}_foot_z": 0.0}
        channels |= {f"{side}_foot_yaw": 0.0, f"{side}_toe_up": 0.0, f"{side}_grip": 0.0}
    return channels


Channels = dict[str, float]


@dataclass(frozen=True, kw_only=True)
class Frame3:
    """Forward, left and up of a body part."""

    forward: Vector
    left: Vector
    up: Vector

    def turned(self, axis: Vector, deg: float) -> Frame3:
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


def pose(channels: Channels, look: Look, grips: dict[str, Vector] | None = None) -> Joints:
    """Place every joint of a figure.

    Args:
        channels: as `rest_channels`; z is the pelvis's height as a share of stature.
        look: stature and build.
        grips: for a side, where the wrist is drawn to, by the channel `…_grip` (0–1).
    """
    h = look.stature_m
    pelvis = _body_frame(channels)
    root = np.array([channels["x"], channels["y"], channels["z"] * h])
    root = _lowered(root, pelvis, channels, h)
    chest = pelvis.turned(pelvis.left, channels["bow"])
    chest = chest.turned(chest.up, channels["twist"])
    at: dict[str, Vector] = {}
    soles: dict[str, Vector] = {}
    for side in SIDES:
        _place_leg(side, root, pelvis, channels, h, at, soles)
    top = root + pelvis.up * 0.10 * h + chest.up * 0.188 * h
    for side in SIDES:
        _place_arm(side, top, chest, channels, h, at, grips or {})
    head = _place_head(top, chest, channels, h, at)
    return Joints(at=at, pelvis=pelvis, chest=chest, head=head, stature_m=h, soles=soles)


def _body_frame(channels: Channels) -> Frame3:
    frame = Frame3(forward=np.array([1.0, 0, 0]), left=np.array([0, 1.0, 0]), up=UP.copy())
    frame = frame.turned(UP, channels["yaw"])
    frame = frame.turned(frame.left, channels["lean"])
    return frame.turned(frame.forward, channels["roll"])


def _hip(side: str, root: Vector, pelvis: Frame3, h: float) -> Vector:
    outward = pelvis.left if side == "left" else -pelvis.left
    return root + outward * (PROPORTIONS["hip_width"] * h / 2)


def _foot_target(side: str, channels: Channels, h: float) -> Vector:
    keys = (channels[f"{side}_foot_x"], channels[f"{side}_foot_y"], channels[f"{side}_foot_z"] + ANKLE_HEIGHT * h)
    return np.array(keys)


def _lowered(root: Vector, pelvis: Frame3, channels: Channels, h: float) -> Vector:
    """Sink the pelvis until every fully planted foot is within the leg's reach."""
    reach = (PROPORTIONS["thigh"] + PROPORTIONS["shank"]) * h * 0.995
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
    side: str, root: Vector, pelvis: Frame3, channels: Channels, h: float, at: dict[str, Vector], soles: dict[str, Vector]
) -> None:
    outward = pelvis.left if side == "left" else -pelvis.left
    hand = -1.0 if side == "left" else 1.0
    thigh, shank = PROPORTIONS["thigh"] * h, PROPORTIONS["shank"] * h
    flex, abd, bend, rot = (channels[f"{side}_leg_{key}"] for key in LIMB)
    hip = _hip(side, root, pelvis, h)
    direction, front = _swing(pelvis, outward, flex, abd, hand * rot)
    k = math.radians(bend)
    lower = direction * math.cos(k) - front * math.sin(k)
    free = hip + direction * thigh + lower * shank
    weight = channels[f"{side}_plant"]
    target = free + (_foot_target(side, channels, h) - free) * weight
    toes_out = channels[f"{side}_foot_yaw"]
    level = turn(unit(np.array([pelvis.forward[0], pelvis.forward[1], 0.0])), UP, -hand * toes_out)
    knee, ankle = two_bone(hip, target, thigh, shank, front * (1 - weight) + (level + 0.15 * outward) * weight)
    along = unit(ankle - knee)
    ahead = turn(level, UP, 0.0) * weight + unit(front - along * float(np.dot(front, along))) * (1 - weight)
    across = unit(cross(UP * weight - along * (1 - weight), ahead))
    ahead = turn(unit(ahead), across, -channels[f"{side}_toe_up"])
    sole_up = unit(cross(ahead, across))
    foot = PROPORTIONS["foot"] * h
    heel = ankle - sole_up * (ANKLE_HEIGHT * h) - ahead * (0.24 * foot)
    names = {"hip": hip, "knee": knee, "ankle": ankle, "heel": heel, "toe": heel + ahead * foot}
    at.update({f"{side}_{name}": place for name, place in names.items()})
    soles[side] = sole_up


def _place_arm(
    side: str, top: Vector, chest: Frame3, channels: Channels, h: float, at: dict[str, Vector], grips: dict[str, Vector]
) -> None:
    outward = chest.left if side == "left" else -chest.left
    hand = -1.0 if side == "left" else 1.0
    upper, fore = PROPORTIONS["upper_arm"] * h, PROPORTIONS["forearm"] * h
    flex, abd, bend, rot = (channels[f"{side}_arm_{key}"] for key in LIMB)
    shoulder = top + outward * (PROPORTIONS["shoulder_width"] * 0.82 * h / 2) - chest.up * 0.012 * h
    direction, front = _swing(chest, outward, flex, abd, hand * rot)
    k = math.radians(bend)
    free = shoulder + direction * upper + (direction * math.cos(k) + front * math.sin(k)) * fore
    weight = channels[f"{side}_grip"] if side in grips else 0.0
    target = free + (grips.get(side, free) - free) * weight
    pole = -front * (1 - weight) + (-UP * 0.9 + outward * 0.5) * weight
    elbow, wrist = two_bone(shoulder, target, upper, fore, pole)
    names = {"shoulder": shoulder, "elbow": elbow, "wrist": wrist}
    at.update({f"{side}_{name}": place for name, place in names.items()})
    at[f"{side}_hand"] = wrist + unit(wrist - elbow) * (HAND * 0.5 * h)


def _place_head(top: Vector, chest: Frame3, channels: Channels, h: float, at: dict[str, Vector]) -> Frame3:
    head = chest.turned(chest.up, channels["look"])
    head = head.turned(head.left, channels["nod"])
    neck = top + chest.up * 0.012 * h
    chin = neck + head.up * NECK * 0.75 * h + head.forward * 0.042 * h
    crown = neck + head.up * (NECK + HEAD_HEIGHT) * h
    middle = crown - head.up * HEAD_HEIGHT * 0.5 * h
    at.update({"neck": neck, "chin": chin, "head_top": crown})
    at["nose"] = middle + head.forward * 0.062 * h - head.up * 0.008 * h
    at["left_ear"] = middle + head.left * 0.043 * h
    at["right_ear"] = middle - head.left * 0.043 * h
    return head
