"""Where two bodies touch: each as a few round solids, and the gaps between their surfaces."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from lacertus.studio.body.figure import SIDES, Joints, Look
from lacertus.studio.body.vectors import Vector, dot, unit

Numbers = NDArray[np.float64]
Rows = NDArray[np.int64]


@dataclass(frozen=True, kw_only=True)
class Solids:
    """The solids of a figure at many times: tapered capsules from `a` to `b` (times, solids, 3) with radii (solids,), metres."""

    names: tuple[str, ...]
    a: Vector
    b: Vector
    ra: Numbers
    rb: Numbers

    def some(self, rows: Rows) -> Solids:
        """The same solids at some of the times."""
        return replace(self, a=self.a[rows], b=self.b[rows])

    def only(self, wanted: Rows) -> Solids:
        """Some of the solids at all times, by their numbers."""
        names = tuple(self.names[i] for i in wanted)
        return Solids(names=names, a=self.a[:, wanted], b=self.b[:, wanted], ra=self.ra[wanted], rb=self.rb[wanted])


TRUNK = ("pelvis", "belly", "chest", "shoulders")
HEAD = ("neck", "head")
LEGS = tuple(f"{side}_{part}" for side in SIDES for part in ("thigh", "shank", "foot"))
ARMS = tuple(f"{side}_{part}" for side in SIDES for part in ("upper_arm", "forearm", "hand"))
NAMES = (*TRUNK, *HEAD, *LEGS, *ARMS)
CLOTH_M = 0.008
"""How much of a limb's thickness is cloth that lies loose and gives way at once."""


def solids_of(joints: Joints, look: Look) -> Solids:
    """The solids of one figure, at one time (1, solids, 3) or at many; as thick as the figure is drawn, less the loose cloth."""
    at, h, b = joints.at, joints.stature_m, look.build
    hips, shoulders = (np.asarray(at[f"left_{name}"] + at[f"right_{name}"]) / 2 for name in ("hip", "shoulder"))
    middle = hips + (shoulders - hips) * 0.36
    chest, pelvis = joints.chest, joints.pelvis
    ears = (at["left_ear"] + at["right_ear"]) / 2

    def across(centre: Vector, left: Vector, half: float) -> tuple[Vector, Vector]:
        return centre - left * (half * h), centre + left * (half * h)

    found: dict[str, tuple[tuple[Vector, Vector], float, float]] = {
        "pelvis": (across(hips - pelvis.up * (0.022 * h), pelvis.left, 0.036), 0.088 * h * b, 0.088 * h * b),
        "belly": (across(middle, chest.left, 0.026), 0.068 * h * b, 0.068 * h * b),
        "chest": (across(shoulders - chest.up * (0.070 * h), chest.left, 0.032), 0.076 * h * b, 0.076 * h * b),
        "shoulders": ((at["left_shoulder"], at["right_shoulder"]), 0.042 * h * b, 0.042 * h * b),
        "neck": ((at["neck"], ears - joints.head.up * (0.03 * h)), 0.034 * h, 0.031 * h),
        "head": ((ears - joints.head.up * (0.012 * h), ears + joints.head.up * (0.014 * h)), 0.052 * h, 0.052 * h),
    }
    for side in SIDES:
        hip, knee, ankle, heel, toe = (at[f"{side}_{name}"] for name in ("hip", "knee", "ankle", "heel", "toe"))
        shoulder, elbow, wrist, hand = (at[f"{side}_{name}"] for name in ("shoulder", "elbow", "wrist", "hand"))
        ball = heel + (toe - heel) * 0.72 + joints.soles[side] * (0.016 * h)
        cuff = elbow + (wrist - elbow) * 0.78
        found |= {
            f"{side}_thigh": ((hip, knee), 0.064 * h * b - CLOTH_M, 0.045 * h * b - CLOTH_M),
            f"{side}_shank": ((knee, ankle), 0.044 * h * b - CLOTH_M, 0.036 * h * b - CLOTH_M),
            f"{side}_foot": ((ankle, ball), 0.022 * h, 0.017 * h),
            f"{side}_upper_arm": ((shoulder, elbow), 0.044 * h * b - CLOTH_M, 0.037 * h * b - CLOTH_M),
            f"{side}_forearm": ((elbow, cuff), 0.037 * h * b - CLOTH_M, 0.030 * h * b - CLOTH_M),
            f"{side}_hand": ((wrist, hand), 0.019 * h, 0.021 * h),
        }
    ends = [[np.atleast_2d(found[name][0][i]) for name in NAMES] for i in (0, 1)]
    a, b_ends = (np.stack(np.broadcast_arrays(*part), axis=1) for part in ends)
    return Solids(names=NAMES, a=a, b=b_ends, ra=np.array([found[n][1] for n in NAMES]), rb=np.array([found[n][2] for n in NAMES]))


def gaps(one: Solids, other: Solids) -> tuple[Numbers, Vector]:
    """Between each solid of one figure and each of another, at each time.

    Returns:
        The gap between the surfaces (times, solids, solids), metres, negative where they overlap; and the
        direction (times, solids, solids, 3) from the other to the one, along which they would part.
    """
    gap, between = apart(one, other)
    return gap, unit(between)


def apart(one: Solids, other: Solids) -> tuple[Numbers, Vector]:
    """As `gaps`, with the way from the other to the one in metres in place of its direction."""
    p, q = one.a[:, :, None], other.a[:, None, :]
    d1, d2 = (one.b - one.a)[:, :, None], (other.b - other.a)[:, None, :]
    s, t = _nearest(p, d1, q, d2)
    between = (p + d1 * s) - (q + d2 * t)
    length = np.sqrt(np.maximum(dot(between, between), 1e-12))
    r1 = one.ra[None, :, None] * (1 - s[..., 0]) + one.rb[None, :, None] * s[..., 0]
    r2 = other.ra[None, None, :] * (1 - t[..., 0]) + other.rb[None, None, :] * t[..., 0]
    return length[..., 0] - r1 - r2, between


def _nearest(p: Vector, d1: Vector, q: Vector, d2: Vector) -> tuple[Vector, Vector]:
    """Shares along two segments at which they are nearest to each other (solved line against line, then held to the ends)."""
    r = p - q
    a, e, f = dot(d1, d1) + 1e-12, dot(d2, d2) + 1e-12, dot(d2, r)
    b, c = dot(d1, d2), dot(d1, r)
    across = np.maximum(a * e - b * b, 1e-12)
    s = np.clip((b * f - c * e) / across, 0.0, 1.0)
    t = np.clip((b * s + f) / e, 0.0, 1.0)
    s = np.clip((b * t - c) / a, 0.0, 1.0)
    return s, np.clip((b * s + f) / e, 0.0, 1.0)
