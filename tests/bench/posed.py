"""Bodies posed at random in space and cameras placed at random, which share nothing with the studio's figure.

World axes: x to the target, y to the left of it, z up; metres. A body stands on the mat with its lowest landmark.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Places = dict[str, Array]

SHARES = {
    "hip_width": 0.17, "shoulder_width": 0.225, "trunk": 0.285, "thigh": 0.245, "shank": 0.246, "upper_arm": 0.186,
    "forearm": 0.146, "hand": 0.055, "foot": 0.15, "neck": 0.035, "face": 0.1, "crown": 0.15, "ears": 0.087,
}  # fmt: skip
"""Lengths of an ordinary body as shares of its height."""
SPREAD = 0.04
"""People differ from them by so much, as a share of each."""


def turned(v: Array, axis: Array, deg: float) -> Array:
    """A vector turned about a unit axis, right-handed (Rodrigues)."""
    a = math.radians(deg)
    return np.asarray(v * math.cos(a) + np.cross(axis, v) * math.sin(a) + axis * (axis @ v) * (1 - math.cos(a)))


def unit(v: Array) -> Array:
    return np.asarray(v / np.linalg.norm(v))


@dataclass(frozen=True, kw_only=True)
class Limb:
    """How a limb is held: degrees."""

    flex: float
    out: float
    turn: float
    bend: float


@dataclass(frozen=True, kw_only=True)
class Posture:
    """How a body is held, degrees; `height_m` and lengths in metres by segment."""

    lengths: dict[str, float]
    height_m: float
    yaw: float
    tilt: float
    roll: float
    lean: float
    side: float
    twist: float
    nod: float
    look: float
    arms: tuple[Limb, Limb]
    legs: tuple[Limb, Limb]
    feet: tuple[float, float]


def drawn_posture(chance: np.random.Generator) -> Posture:
    """Anything between standing, kicking and squatting that joints can do."""
    height = float(chance.uniform(1.5, 1.9))
    lengths = {name: height * share * float(1 + SPREAD * chance.normal()) for name, share in SHARES.items()}

    def leg() -> Limb:
        return Limb(
            flex=chance.uniform(-20, 110), out=chance.uniform(-10, 45), turn=chance.uniform(-25, 35), bend=chance.uniform(0, 125)
        )

    def arm() -> Limb:
        return Limb(
            flex=chance.uniform(-40, 130), out=chance.uniform(0, 80), turn=chance.uniform(-60, 60), bend=chance.uniform(0, 140)
        )

    return Posture(
        lengths=lengths, height_m=height, yaw=chance.normal(0, 25), tilt=chance.normal(0, 15), roll=chance.normal(0, 8),
        lean=chance.normal(15, 20), side=chance.normal(0, 10), twist=chance.normal(0, 20), nod=chance.normal(10, 15),
        look=chance.normal(0, 25), arms=(arm(), arm()), legs=(leg(), leg()),
        feet=(chance.uniform(-35, 20), chance.uniform(-35, 20)),
    )  # fmt: skip


def between(a: Posture, b: Posture, share: float) -> Posture:
    """A posture on the way from one to another of the same body."""

    def mid(p: object, q: object) -> object:
        if isinstance(p, float | int):
            return float(p + (q - p) * share)  # type: ignore[operator]
        if isinstance(p, tuple):
            return tuple(mid(x, y) for x, y in zip(p, q, strict=True))  # type: ignore[call-overload]
        return Limb(**{k: mid(getattr(p, k), getattr(q, k)) for k in ("flex", "out", "turn", "bend")})  # type: ignore[arg-type]

    mixed = {
        name: mid(getattr(a, name), getattr(b, name))
        for name in Posture.__dataclass_fields__
        if name not in ("lengths", "height_m")
    }
    return Posture(lengths=a.lengths, height_m=a.height_m, **mixed)  # type: ignore[arg-type]


def landmarks(p: Posture) -> Places:
    """Every landmark of a body, metres; its lowest one on the mat."""
    n, at = p.lengths, {}
    up, ahead = np.array([0.0, 0.0, 1.0]), turned(np.array([1.0, 0.0, 0.0]), np.array([0.0, 0.0, 1.0]), p.yaw)
    left = np.cross(up, ahead)
    ahead, up = turned(ahead, left, p.tilt), turned(up, left, p.tilt)
    left, up = turned(left, ahead, p.roll), turned(up, ahead, p.roll)
    root = np.zeros(3)
    chest = {"up": turned(turned(up, left, p.lean), ahead, p.side), "left": turned(turned(left, ahead, p.side), up, p.twist)}
    chest["left"] = unit(chest["left"] - chest["up"] * (chest["left"] @ chest["up"]))
    chest["ahead"] = np.cross(chest["left"], chest["up"])
    top = root + chest["up"] * n["trunk"]
    for i, side in enumerate(("left", "right")):
        sign = 1.0 if side == "left" else -1.0
        at[f"{side}_hip"] = root + left * (sign * n["hip_width"] / 2)
        at[f"{side}_shoulder"] = top + chest["left"] * (sign * n["shoulder_width"] / 2)
        leg = p.legs[i]
        thigh, axis = _swung(-up, left, ahead, leg, sign)
        at[f"{side}_knee"] = at[f"{side}_hip"] + thigh * n["thigh"]
        shank = turned(thigh, axis, leg.bend)
        at[f"{side}_ankle"] = at[f"{side}_knee"] + shank * n["shank"]
        toe = turned(turned(shank, axis, -90.0), axis, -p.feet[i])
        at[f"{side}_heel"] = at[f"{side}_ankle"] + shank * 0.3 * n["foot"] - toe * 0.25 * n["foot"]
        at[f"{side}_toe"] = at[f"{side}_heel"] + toe * n["foot"]
        arm = p.arms[i]
        upper, axis = _swung(-chest["up"], chest["left"], chest["ahead"], arm, sign)
        at[f"{side}_elbow"] = at[f"{side}_shoulder"] + upper * n["upper_arm"]
        fore = turned(upper, axis, -arm.bend)
        at[f"{side}_wrist"] = at[f"{side}_elbow"] + fore * n["forearm"]
        at[f"{side}_hand"] = (
            at[f"{side}_wrist"]
            + unit(fore + 0.2 * unit(np.array([math.sin(math.radians(arm.flex)), math.cos(math.radians(arm.out)), 0.3])))
            * n["hand"]
        )
    _head(at, p, top, chest)
    low = min(float(place[2]) for place in at.values())
    return {name: place - np.array([0.0, 0.0, low]) for name, place in at.items()}


def _swung(down: Array, left: Array, ahead: Array, limb: Limb, sign: float) -> tuple[Array, Array]:
    """Direction of a thigh or upper arm, and the axis about which the joint below it bends backwards."""
    along, axis = turned(down, left, -limb.flex), left
    out = unit(ahead)
    along, axis = turned(along, out, -sign * limb.out), turned(axis, out, -sign * limb.out)
    return along, turned(axis, along, sign * limb.turn)


def _head(at: Places, p: Posture, top: Array, chest: dict[str, Array]) -> None:
    n = p.lengths
    up = turned(chest["up"], chest["left"], p.nod)
    left = turned(chest["left"], up, p.look)
    ahead = np.cross(left, up)
    neck = top + chest["up"] * n["neck"]
    at["neck"] = neck
    at["nose"] = neck + up * 0.6 * n["face"] + ahead * 0.75 * n["face"]
    at["chin"] = neck + up * 0.1 * n["face"] + ahead * 0.6 * n["face"]
    at["head_top"] = neck + up * n["crown"]
    for side, sign in (("left", 1.0), ("right", -1.0)):
        at[f"{side}_ear"] = neck + up * 0.6 * n["face"] + left * (sign * n["ears"] / 2)


@dataclass(frozen=True, kw_only=True)
class Eye:
    """A camera: where it stands, whither it looks (metres), its focal length and picture in pixels."""

    at: tuple[float, float, float]
    to: tuple[float, float, float]
    focal_px: float
    size: tuple[int, int] = (1280, 720)

    def pixels(self, places: Array) -> Array:
        """Places (… × 3, metres) → pixels (… × 2), x right, y down."""
        ahead = unit(np.array(self.to) - np.array(self.at))
        right = unit(np.cross(ahead, [0.0, 0.0, 1.0]))
        down = np.cross(ahead, right)
        away = places - np.array(self.at)
        depth = away @ ahead
        x, y = (away @ axis * self.focal_px / depth for axis in (right, down))
        return np.stack((self.size[0] / 2 + x, self.size[1] / 2 + y), axis=-1)

    def scale(self, spot: Array) -> float:
        """Pixels in a metre that stands square to the camera at a spot."""
        ahead = unit(np.array(self.to) - np.array(self.at))
        return self.focal_px / float((spot - np.array(self.at)) @ ahead)


def drawn_eye(chance: np.random.Generator, turn_deg: float, middle: Array) -> Eye:
    """A phone 3–6 m away and 1.0–1.8 m high, turned from square to the target, that has the pair in the picture."""
    away, high, turn = chance.uniform(3, 6), chance.uniform(1.0, 1.8), math.radians(turn_deg)
    at = (middle[0] + away * math.sin(turn), middle[1] - away * math.cos(turn), high)
    view = math.radians(chance.uniform(50, 70))
    to = (middle[0] + chance.normal(0, 0.15), middle[1], 0.8 + chance.normal(0, 0.1))
    return Eye(at=at, to=to, focal_px=640 / math.tan(view / 2))
