"""Channels of two figures solved for what touches: one pose, or the poses between two steps.

Least squares over chosen channels. Residuals are overlaps of the two bodies, what lies under the mat, what is
wanted (a hand on a place, a knee on the mat, two solids that touch), and how far each channel has gone.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from scipy.optimize import least_squares

from lacertus.core.measuring.body import BODIES, BodyName
from lacertus.studio.body.contact import ARMS, NAMES, Numbers, Solids, gaps, solids_of
from lacertus.studio.body.figure import Joints, Look, pose, rest_channels
from lacertus.studio.body.move import Anchor
from lacertus.studio.body.vectors import Vector

Pair = dict[BodyName, dict[str, float]]
"""Channels of both bodies."""
Both = Mapping[BodyName, Joints]
Want = Callable[[Both], Vector]
"""Joints of many trials → residuals (trials, n), in about a tenth of a metre."""

PRESSED_M, MAT_M = 0.014, 0.008
"""How deep bodies may press each other and the mat before it counts."""
HARD = 22.0
"""How many times a metre of overlap weighs what a metre off a wanted place does, by ten."""
PLACE_M, TURN_DEG = 0.10, 25.0
"""One step of a channel: what is a place, and what is an angle."""
LIMITS = {
    "bow": (-15.0, 54.0), "side": (-52.0, 52.0), "twist": (-50.0, 50.0), "nod": (-50.0, 50.0), "look": (-75.0, 75.0),
    "leg_flex": (-25.0, 135.0), "leg_abd": (-28.0, 75.0), "leg_bend": (0.0, 148.0), "leg_rot": (-75.0, 75.0),
    "arm_flex": (-45.0, 178.0), "arm_abd": (-45.0, 150.0), "arm_bend": (0.0, 148.0), "arm_rot": (-90.0, 90.0),
}  # fmt: skip
"""How far a joint goes, degrees."""
_FIRM = np.array([[0.0 if "hand" in a or "hand" in b else 0.7 if {a, b} & set(ARMS) else 1.0 for b in NAMES] for a in NAMES])
"""A hand closes round what it holds, and an arm bends round it."""


@dataclass(frozen=True, kw_only=True)
class Figures:
    """Two bodies, and what their hands and feet hold."""

    looks: Mapping[BodyName, Look]
    holds: Mapping[BodyName, Mapping[str, Anchor]] = field(default_factory=dict)

    def joints(self, channels: Mapping[BodyName, Mapping[str, Numbers]]) -> dict[BodyName, Joints]:
        """Both figures, at as many trials as the channels have values."""
        full = {body: {**rest_channels(), **channels[body]} for body in BODIES}
        count = max(np.size(value) for body in BODIES for value in full[body].values())
        spread = {
            body: {name: np.broadcast_to(np.asarray(v, float), (count,)) for name, v in full[body].items()} for body in BODIES
        }
        found: dict[BodyName, Joints] = {body: pose(dict(spread[body]), self.looks[body]) for body in BODIES}
        order: tuple[BodyName, ...] = ("performer", "partner", "performer")
        for body in order:
            other = found["partner" if body == "performer" else "performer"]
            held = {limb: anchor(found[body], other) for limb, anchor in self.holds.get(body, {}).items()}
            found[body] = pose(dict(spread[body]), self.looks[body], held)
        return found

    def solids(self, joints: Both) -> tuple[Solids, Solids]:
        return solids_of(joints["performer"], self.looks["performer"]), solids_of(joints["partner"], self.looks["partner"])

    def sunk(self, joints: Both) -> Numbers:
        """Residuals (trials, n) of bodies in each other and in the mat."""
        one, other = self.solids(joints)
        gap, _ = gaps(one, other)
        parts = [(np.minimum(gap + PRESSED_M, 0.0) * _FIRM).reshape(len(gap), -1)]
        for body in (one, other):
            lowest = np.minimum(body.a[..., 2] - body.ra, body.b[..., 2] - body.rb)
            parts.append(np.minimum(lowest + MAT_M, 0.0))
        return np.concatenate(parts, axis=1) * HARD


def step_of(channel: str) -> float:
    """How much of a channel counts as one step of the solver."""
    return PLACE_M if channel in ("x", "y", "z") or channel.endswith(("_x", "_y", "_z")) else TURN_DEG


def limits_of(channel: str) -> tuple[float, float]:
    found = (limits for name, limits in LIMITS.items() if channel == name or channel.endswith(f"_{name}"))
    return next(found, (-1e4, 1e4))


def place(body: BodyName, landmark: str, at: Sequence[float | None], weight: float = 6.0) -> Want:
    """A landmark at a place, metres; axes that are None are free."""

    def want(joints: Both) -> Vector:
        spot = joints[body].at[landmark]
        return np.stack([(spot[..., axis] - value) * weight for axis, value in enumerate(at) if value is not None], axis=-1)

    return want


def touch(figures: Figures, performer: str, partner: str, gap_m: float = -0.006, weight: float = 6.0) -> Want:
    """Two solids (contact.py) with so much between their surfaces."""
    i, k = NAMES.index(performer), NAMES.index(partner)

    def want(joints: Both) -> Vector:
        found: Vector = (gaps(*figures.solids(joints))[0][:, i, k] - gap_m)[:, None] * weight
        return found

    return want


def solve_pose(
    figures: Figures, start: Pair, free: Mapping[BodyName, Sequence[str]], wants: Sequence[Want], stiff: float = 0.06
) -> Pair:
    """The pose nearest to a first guess in which what is wanted holds and nothing sinks in.

    Args:
        figures: the two bodies.
        start: the first guess; channels that are not named rest.
        free: the channels that may change, by body.
        wants: what is wanted.
        stiff: the weight of a channel's way from the guess, by step.
    """
    names = [(body, channel) for body in BODIES for channel in free.get(body, ())]
    steps = np.array([step_of(channel) for _, channel in names])
    low, high = (np.array(limit) for limit in zip(*(limits_of(channel) for _, channel in names), strict=True))
    guess = np.array([start[body].get(channel, rest_channels()[channel]) for body, channel in names], dtype=float)
    guess = np.clip(guess, low + 1e-3, high - 1e-3)

    def residuals(trials: Vector) -> Vector:
        channels = {body: {name: np.full(len(trials), value) for name, value in start[body].items()} for body in BODIES}
        for column, (body, channel) in zip(trials.T, names, strict=True):
            channels[body][channel] = column
        joints = figures.joints(channels)
        parts = [figures.sunk(joints), *(want(joints) for want in wants), (trials - guess) / steps * stiff]
        return np.concatenate(parts, axis=1)

    solved = _least(lambda ways: residuals(guess + ways * steps), len(names), (low - guess) / steps, (high - guess) / steps)
    found: Pair = {body: dict(start[body]) for body in BODIES}
    for (body, channel), value in zip(names, guess + solved * steps, strict=True):
        found[body][channel] = float(value)
    return found


def _least(residuals: Callable[[Vector], Vector], count: int, low: Vector, high: Vector, most: int = 60) -> Vector:
    """The ways (count,) with the least residuals; a slope is one call over as many trials as there are ways."""

    def slopes(ways: Vector) -> Vector:
        trials = np.concatenate([ways[None], ways[None] + np.eye(count) * 1e-4])
        values = residuals(trials)
        return np.asarray((values[1:] - values[0]).T / 1e-4)

    found = least_squares(lambda ways: residuals(ways[None])[0], np.zeros(count), jac=slopes, bounds=(low, high), max_nfev=most)
    return np.asarray(found.x)
