"""What several moves share: measures of a moment, and places on a body to hold."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

import numpy as np

from lacertus.core.measuring.body import mirrored
from lacertus.studio.body.figure import BALL, Joints
from lacertus.studio.body.motion import GRAVITY, Step
from lacertus.studio.body.move import Fault, How, Moment
from lacertus.studio.body.vectors import Vector, dot, unit

ON_MAT_M = 0.015
"""A foot lower than this stands on the mat."""
Measure = Callable[[Moment], float]


def both(**channels: float) -> dict[str, float]:
    """The same channels for both sides."""
    return {f"{side}_{name}": value for side in ("left", "right") for name, value in channels.items()}


def flight_s(rise_m: float) -> float:
    """How long a body is in the air that rises so far and comes down as deep, seconds (t = √(8 h / g))."""
    return float(np.sqrt(8.0 * rise_m / GRAVITY))


_TURNED = ("side", "twist", "look", "tilt", "roll", "spin", "y", "left_foot_y", "right_foot_y", "left_grip_y", "right_grip_y")
_HEADINGS = ("yaw", "left_foot_yaw", "right_foot_yaw")


def to_the_other_side(step: Step) -> Step:
    """A step as in a mirror along the line between the two: what the right limbs did, the left ones do."""
    return replace(step, performer=_mirrored(step.performer, 0.0), partner=_mirrored(step.partner, 360.0))


def _mirrored(channels: Mapping[str, float], whole: float) -> dict[str, float]:
    swapped = {mirrored(name): value for name, value in channels.items()}
    turned = {name: -value for name, value in swapped.items() if name in _TURNED}
    return swapped | turned | {name: whole - value for name, value in swapped.items() if name in _HEADINGS}


def height(body: str, *landmarks: str) -> Measure:
    """Height of the lowest of some landmarks above the mat, metres."""
    return lambda moment: float(min(moment[body].at[name][2] for name in landmarks))


def along(body: str, landmark: str, axis: int) -> Measure:
    """A landmark's place along an axis (0: to the target, 1: to the left), metres."""
    return lambda moment: float(moment[body].at[landmark][axis])


def span(body: str, a: str, b: str) -> Measure:
    """Distance of two landmarks of one body, metres."""
    return lambda moment: float(np.linalg.norm(moment[body].at[a] - moment[body].at[b]))


def bend(body: str, side: str) -> Measure:
    """How far a knee is bent, degrees: 0 is straight."""

    def of(moment: Moment) -> float:
        hip, knee, ankle = (moment[body].at[f"{side}_{name}"] for name in ("hip", "knee", "ankle"))
        a, b = knee - hip, ankle - knee
        return float(np.degrees(np.arccos(np.clip(a @ b / np.linalg.norm(a) / np.linalg.norm(b), -1.0, 1.0))))

    return of


def ball_to_shank(moment: Moment) -> float:
    """Distance of the ball of the performer's right foot from the partner's left shank, between ankle and knee, metres."""
    at, other = moment["performer"].at, moment["partner"].at
    ball = at["right_heel"] * (1 - BALL) + at["right_toe"] * BALL
    ankle, shank = other["left_ankle"], other["left_knee"] - other["left_ankle"]
    share = float(np.clip((ball - ankle) @ shank / (shank @ shank), 0.0, 1.0))
    return float(np.linalg.norm(ball - ankle - shank * share))


def sleeve(joints: Joints, side: str) -> Vector:
    """Where a sleeve is held: on the forearm, above the wrist."""
    return joints.at[f"{side}_elbow"] * 0.50 + joints.at[f"{side}_wrist"] * 0.50


def lapel(joints: Joints, across: float, down: float = 0.10) -> Vector:
    """Where a lapel is held: on the chest, `across` to the body's left and `down` from the shoulders, shares of stature."""
    h = joints.stature_m
    middle = (joints.at["left_shoulder"] + joints.at["right_shoulder"]) / 2
    return middle - joints.chest.up * down * h + joints.chest.forward * 0.095 * h + joints.chest.left * across * h


def nape(joints: Joints) -> Vector:
    """The back of the neck."""
    return joints.at["neck"] + joints.head.up * 0.015 * joints.stature_m - joints.head.forward * 0.05 * joints.stature_m


def on_limb(joints: Joints, a: str, b: str, share: float, toward: Vector, off_m: float) -> Vector:
    """A place on the skin of a limb: a share of the way from joint `a` to `b`, so far off its middle on the side towards a direction."""
    start, end = joints.at[a], joints.at[b]
    way = unit(end - start)
    return start * (1 - share) + end * share + unit(toward - way * dot(toward, way)) * off_m


def on_mat(me: Joints, other: Joints) -> Vector:
    """The middle of the mat: a hand that grips it stands where its `grip_x`, `grip_y` and `grip_z` say."""
    return me.at["neck"] * 0.0


def put_in(how: How, faults: Sequence[Fault], code: str) -> float:
    """A fault's degree as a share of its most, where several channels move with it."""
    most = next(fault.most for fault in faults if fault.code == code)
    return how.fault(code) / most


def plus(channels: Mapping[str, float], changes: Mapping[str, float]) -> dict[str, float]:
    """A pose with some channels so much further."""
    return {**channels, **{name: channels.get(name, 0.0) + by for name, by in changes.items()}}


APART_M = 0.9
LIFTED = 0.25


def apart_and_again(
    end_s: float, me: Mapping[str, float], other: Mapping[str, float], me_again: Mapping[str, float], other_again: Mapping[str, float]
) -> list[Step]:
    """From the end of a rep on the mat to its beginning: up, away from each other, and together; no part of the rep.

    Args:
        end_s: when the rep ends.
        me, other: the whole poses at the end.
        me_again, other_again: the whole poses at the beginning.
    """
    free = {f"{side}_{held}": 0.0 for side in ("left", "right") for held in ("grip", "hook", "plant")}
    up = {**plus(me, {"z": LIFTED}), **{k: v for k, v in free.items() if k in me}}
    off = {**plus(me_again, {"x": -APART_M}), **{k: v for k, v in free.items() if k in me_again}}
    return [
        Step(at=end_s + 0.01, performer=me, partner=other),
        Step(at=end_s + 0.40, performer=up, partner=other),
        Step(at=end_s + 0.90, performer=off, partner=other),
        Step(at=end_s + 1.12, partner={"z": max(other["z"], other_again["z"]) + 0.12}),
        Step(at=end_s + 1.30, performer=off, partner=other_again),
        Step(at=end_s + 1.90, name="again", performer=me_again, partner=other_again, fixed=True),
    ]
