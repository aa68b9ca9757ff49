"""Joints → solid parts: tapered capsules and ellipsoids with their colours."""

from __future__ import annotations

from dataclasses import dataclass

from lacertus.studio.body.figure import SIDES, Frame3, Joints, Look
from lacertus.studio.body.vectors import Vector, cross, unit

Colour = tuple[float, float, float]
CLOTH_FOLDS, PLAIN = 1.0, 0.0


@dataclass(frozen=True, kw_only=True)
class Capsule:
    """A capsule from a to b with radii in metres."""

    a: Vector
    b: Vector
    ra: float
    rb: float
    colour: Colour
    folds: float = PLAIN


@dataclass(frozen=True, kw_only=True)
class Ellipsoid:
    """An ellipsoid with half axes (forward, left, up) in metres."""

    centre: Vector
    frame: Frame3
    size: tuple[float, float, float]
    colour: Colour
    folds: float = PLAIN


Part = Capsule | Ellipsoid


def parts_of(joints: Joints, look: Look) -> list[Part]:
    """All solid parts of a figure."""
    return [
        *_trunk(joints, look),
        *_head(joints, look),
        *(p for s in SIDES for p in (*_leg(s, joints, look), *_arm(s, joints, look))),
    ]


def _trunk(joints: Joints, look: Look) -> list[Part]:
    at, h, b = joints.at, joints.stature_m, look.build
    hips = (at["left_hip"] + at["right_hip"]) / 2
    shoulders = (at["left_shoulder"] + at["right_shoulder"]) / 2
    spine = unit(shoulders - hips)
    chest, pelvis = joints.chest, joints.pelvis
    middle = hips + (shoulders - hips) * 0.36
    cloth, belt = look.cloth, look.belt
    lapel = tuple(c * 0.80 for c in cloth)
    front = chest.forward * 0.066 * h * b
    neckline = shoulders + chest.up * 0.012 * h
    parts: list[Part] = [
        # The jacket's skirt hangs over hips and seat.
        Ellipsoid(
            centre=hips - pelvis.up * 0.022 * h,
            frame=pelvis,
            size=(0.092 * h * b, 0.124 * h * b, 0.098 * h),
            colour=cloth,
            folds=CLOTH_FOLDS,
        ),
        Ellipsoid(centre=middle, frame=chest, size=(0.068 * h * b, 0.094 * h * b, 0.105 * h), colour=cloth, folds=CLOTH_FOLDS),
        Ellipsoid(
            centre=shoulders - chest.up * 0.070 * h,
            frame=chest,
            size=(0.076 * h * b, 0.108 * h * b, 0.112 * h),
            colour=cloth,
            folds=CLOTH_FOLDS,
        ),
        Capsule(
            a=at["left_shoulder"] - chest.up * 0.006 * h,
            b=at["right_shoulder"] - chest.up * 0.006 * h,
            ra=0.042 * h * b,
            rb=0.042 * h * b,
            colour=cloth,
        ),
        Ellipsoid(centre=hips + spine * 0.052 * h, frame=pelvis, size=(0.0775 * h * b, 0.1035 * h * b, 0.020 * h), colour=belt),
    ]
    knot = hips + spine * 0.052 * h + pelvis.forward * 0.076 * h * b
    parts.append(Ellipsoid(centre=knot, frame=pelvis, size=(0.014 * h, 0.022 * h, 0.016 * h), colour=belt))
    for side in (1, -1):
        end = knot - pelvis.up * 0.085 * h + pelvis.left * (0.030 * side * h) + pelvis.forward * 0.008 * h
        parts.append(Capsule(a=knot, b=end, ra=0.010 * h, rb=0.009 * h, colour=belt))
        collar = neckline + chest.left * (0.040 * side * h) + chest.forward * 0.02 * h
        parts.append(Capsule(a=collar, b=middle + front - chest.up * 0.05 * h, ra=0.016 * h, rb=0.012 * h, colour=lapel))  # type: ignore[arg-type]
    parts.append(
        Ellipsoid(
            centre=shoulders - chest.up * 0.02 * h + chest.forward * 0.045 * h,
            frame=chest,
            size=(0.034 * h, 0.036 * h, 0.060 * h),
            colour=look.skin,
        )
    )
    return parts


def _head(joints: Joints, look: Look) -> list[Part]:
    at, h, head = joints.at, joints.stature_m, joints.head
    skin, hair = look.skin, look.hair
    middle = (at["left_ear"] + at["right_ear"]) / 2
    face = middle + head.forward * 0.010 * h
    shade = tuple(c * 0.82 for c in skin)
    parts: list[Part] = [
        Capsule(a=at["neck"] - joints.chest.up * 0.02 * h, b=middle - head.up * 0.03 * h, ra=0.034 * h, rb=0.031 * h, colour=shade),  # type: ignore[arg-type]
        Ellipsoid(centre=face, frame=head, size=(0.050 * h, 0.042 * h, 0.062 * h), colour=skin),
        Ellipsoid(
            centre=face - head.up * 0.034 * h + head.forward * 0.012 * h,
            frame=head,
            size=(0.034 * h, 0.031 * h, 0.030 * h),
            colour=skin,
        ),
        Ellipsoid(
            centre=middle - head.forward * 0.010 * h + head.up * 0.016 * h,
            frame=head,
            size=(0.055 * h, 0.047 * h, 0.057 * h),
            colour=hair,
        ),
        Ellipsoid(
            centre=middle + head.forward * 0.014 * h + head.up * 0.048 * h,
            frame=head,
            size=(0.042 * h, 0.040 * h, 0.024 * h),
            colour=hair,
        ),
        Capsule(
            a=face + head.forward * 0.048 * h + head.up * 0.006 * h,
            b=face + head.forward * 0.058 * h - head.up * 0.012 * h,
            ra=0.005 * h,
            rb=0.009 * h,
            colour=skin,
        ),
        Capsule(
            a=face + head.forward * 0.044 * h - head.up * 0.034 * h + head.left * 0.012 * h,
            b=face + head.forward * 0.044 * h - head.up * 0.034 * h - head.left * 0.012 * h,
            ra=0.004 * h,
            rb=0.004 * h,
            colour=(0.55, 0.28, 0.24),
        ),
    ]
    for side in (1, -1):
        eye = face + head.forward * 0.043 * h + head.left * (0.018 * side * h) + head.up * 0.010 * h
        parts.append(Ellipsoid(centre=eye, frame=head, size=(0.007 * h, 0.009 * h, 0.006 * h), colour=(0.93, 0.92, 0.90)))
        parts.append(
            Ellipsoid(
                centre=eye + head.forward * 0.004 * h, frame=head, size=(0.005 * h, 0.005 * h, 0.006 * h), colour=(0.08, 0.06, 0.05)
            )
        )
        brow = eye + head.up * 0.013 * h
        parts.append(
            Capsule(a=brow - head.left * 0.009 * h, b=brow + head.left * 0.009 * h, ra=0.0035 * h, rb=0.0035 * h, colour=hair)
        )
        ear = middle + head.left * (0.045 * side * h) - head.up * 0.004 * h
        parts.append(Ellipsoid(centre=ear, frame=head, size=(0.012 * h, 0.006 * h, 0.017 * h), colour=shade))  # type: ignore[arg-type]
    return parts


def _leg(side: str, joints: Joints, look: Look) -> list[Part]:
    at, h, b = joints.at, joints.stature_m, look.build
    hip, knee, ankle, heel, toe = (at[f"{side}_{name}"] for name in ("hip", "knee", "ankle", "heel", "toe"))
    hem = knee + (ankle - knee) * 0.86
    sole = joints.soles[side]
    ball = heel + (toe - heel) * 0.72 + sole * 0.016 * h
    back = heel + (toe - heel) * 0.14 + sole * 0.020 * h
    tip = toe - (toe - heel) * 0.05 + sole * 0.010 * h
    return [
        Capsule(a=hip, b=knee, ra=0.064 * h * b, rb=0.045 * h * b, colour=look.cloth, folds=CLOTH_FOLDS),
        Capsule(a=knee, b=hem, ra=0.044 * h * b, rb=0.039 * h * b, colour=look.cloth, folds=CLOTH_FOLDS),
        Capsule(a=hem, b=ankle, ra=0.024 * h, rb=0.021 * h, colour=look.skin),
        Capsule(a=ankle, b=back, ra=0.022 * h, rb=0.020 * h, colour=look.skin),
        Capsule(a=ankle + (ball - ankle) * 0.25, b=ball, ra=0.022 * h, rb=0.017 * h, colour=look.skin),
        Capsule(a=ball, b=tip, ra=0.018 * h, rb=0.010 * h, colour=look.skin),
    ]


def _arm(side: str, joints: Joints, look: Look) -> list[Part]:
    at, h, b = joints.at, joints.stature_m, look.build
    shoulder, elbow, wrist, hand = (at[f"{side}_{name}"] for name in ("shoulder", "elbow", "wrist", "hand"))
    cuff = elbow + (wrist - elbow) * 0.78
    along = unit(hand - wrist)
    across = unit(cross(along, joints.chest.left))
    return [
        Capsule(a=shoulder, b=elbow, ra=0.044 * h * b, rb=0.037 * h * b, colour=look.cloth, folds=CLOTH_FOLDS),
        Capsule(a=elbow, b=cuff, ra=0.037 * h * b, rb=0.036 * h * b, colour=look.cloth, folds=CLOTH_FOLDS),
        Capsule(a=cuff, b=wrist, ra=0.019 * h, rb=0.016 * h, colour=look.skin),
        Capsule(a=wrist, b=hand, ra=0.017 * h, rb=0.021 * h, colour=look.skin),
        Capsule(a=hand, b=hand + along * 0.030 * h, ra=0.020 * h, rb=0.012 * h, colour=look.skin),
        Capsule(
            a=wrist + across * 0.010 * h,
            b=wrist + along * 0.036 * h + across * 0.026 * h,
            ra=0.010 * h,
            rb=0.007 * h,
            colour=look.skin,
        ),
    ]
