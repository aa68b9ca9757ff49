"""The triangle: one arm in, one out; the leg over the neck, the angle taken, locked in the knee pit; released at the tap."""

from __future__ import annotations

import numpy as np

from lacertus.studio.body.figure import Joints
from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Moment, Move
from lacertus.studio.body.vectors import Vector, unit
from lacertus.studio.moves.parts import height, nape, sleeve
from lacertus.studio.moves.scissor_sweep import GUARD, KNEELING

START = GUARD | {"left_hook": 0.0, "right_grip": 0.0}
BASE = KNEELING | {"x": 0.32, "lean": 20.0, "bow": 12.0, "left_grip": 0.0, "right_grip": 0.0}

FAULTS = (
    Fault(code="hips-stay-down", unit="share", most=1.0, says="the hips are not lifted to the shoulder"),
    Fault(code="hips-on-mat", unit="share", most=1.0, says="the seat stays on the mat"),
    Fault(code="slow-entry", unit="ms", most=900.0, says="the leg goes over late"),
    Fault(code="open-lock", unit="share", most=1.0, says="the locking knee is not folded over the ankle"),
    Fault(code="no-angle", unit="deg", most=40.0, says="the body stays square and takes no angle"),
    Fault(code="late-lock", unit="ms", most=900.0, says="the lock is closed late"),
    Fault(code="loose-lock", unit="deg", most=50.0, says="the locking knee stays open"),
    Fault(code="posture-kept", unit="share", most=1.0, says="the partner’s posture is not broken"),
    Fault(code="held-after-tap", unit="ms", most=900.0, says="the hold is kept after the tap"),
)


def _steps(how: How) -> list[Step]:
    low = max(how.fault("hips-stay-down"), how.fault("hips-on-mat"))
    square, posture = how.fault("no-angle"), how.fault("posture-kept")
    loose, unfolded = how.fault("loose-lock"), how.fault("open-lock")
    angle = 34.0 - square
    pushed = 0.55
    lifted = pushed + 0.34
    over = lifted + 0.28 + how.fault("slow-entry") / 1000
    turned = over + 0.36
    locked = turned + 0.34 + how.fault("late-lock") / 1000
    squeezed = locked + 0.45
    tap = squeezed + 0.40
    free = tap + 0.24 + how.fault("held-after-tap") / 1000
    bent = 16.0 - 34.0 * posture
    found = [
        Step(at=0.0, name="start", performer=START, partner=BASE, fixed=True),
        Step(
            at=pushed,
            name="pushed",
            performer={"left_leg_flex": 92.0, "right_leg_flex": 92.0, "right_leg_abd": 30.0, "left_leg_abd": 30.0, "z": 0.064, "x": -0.10, "yaw": 0.0},
            partner={"left_arm_flex": 22.0, "left_arm_bend": 78.0, "left_arm_abd": 6.0, "right_arm_flex": 62.0, "right_arm_bend": 20.0, "lean": 24.0, "twist": -6.0},
        ),
        Step(
            at=lifted,
            name="lifted",
            performer={
                "x": 0.00, "z": 0.165 - 0.085 * low, "lean": -104.0 + 14.0 * low, "bow": 24.0, "nod": 30.0, "spin": 0.0,
                "right_leg_flex": 108.0, "right_leg_abd": 40.0, "right_leg_bend": 40.0, "right_leg_rot": 0.0,
                "left_leg_flex": 96.0, "left_leg_abd": 30.0, "left_leg_bend": 70.0, "left_leg_rot": 10.0, "right_hook": 0.0,
            },
            partner={"lean": 36.0 + bent * 0.4, "bow": 20.0, "x": 0.36, "z": 0.20},
        ),
        Step(
            at=over,
            name="over",
            performer={
                "x": 0.01, "z": 0.150 - 0.07 * low, "lean": -104.0 + 14.0 * low, "right_hook": 1.0, "right_leg_flex": 112.0, "right_leg_abd": 26.0, "right_leg_bend": 80.0, "right_leg_rot": -50.0,
                "left_leg_flex": 104.0, "left_leg_abd": 32.0, "left_leg_bend": 50.0, "left_hook": 0.0, "yaw": 0.0,
            },
            partner={"lean": 44.0 + bent * 0.6, "bow": 26.0, "x": 0.40, "z": 0.175, "nod": 6.0 + bent * 0.5, "right_arm_flex": 76.0, "right_arm_abd": -14.0, "right_arm_bend": 20.0},
        ),
        Step(
            at=turned,
            name="turned",
            performer={"yaw": angle, "x": 0.02, "y": -0.04, "side": 10.0 * angle / 34.0, "left_leg_flex": 118.0, "left_leg_abd": 26.0, "left_leg_bend": 40.0},
            partner={"lean": 48.0 + bent, "x": 0.41, "z": 0.165, "nod": 10.0 + bent},
        ),
        Step(
            at=locked,
            name="locked",
            performer={"left_hook": 1.0 - unfolded, "left_leg_flex": 116.0 - 30.0 * unfolded, "left_leg_abd": 6.0, "left_leg_bend": 128.0 - loose - 90.0 * unfolded, "left_leg_rot": 0.0, "right_grip": 1.0, "left_grip": 1.0, "yaw": angle},
            partner={"lean": 50.0 + bent, "right_arm_flex": 84.0, "right_arm_abd": -22.0},
        ),
        Step(
            at=squeezed,
            name="squeezed",
            performer={"left_leg_flex": 120.0, "left_leg_abd": -2.0, "right_leg_abd": 20.0, "bow": 32.0, "nod": 34.0},
            partner={"lean": 52.0 + bent * 1.2, "bow": 30.0, "z": 0.162, "nod": 20.0 + bent, "left_arm_flex": 22.0, "left_arm_bend": 78.0, "left_arm_abd": 6.0},
        ),
        Step(at=tap - 0.16, partner={"left_arm_flex": 50.0, "left_arm_abd": 34.0, "left_arm_bend": 50.0}),
        Step(at=tap, name="tap", performer={"left_hook": 1.0, "right_hook": 1.0, "right_grip": 1.0}, partner={"left_arm_flex": 40.0, "left_arm_abd": 26.0, "left_arm_bend": 66.0, "lean": 52.0 + bent * 1.2}),
        Step(at=tap + 0.12, partner={"left_arm_flex": 54.0, "left_arm_abd": 36.0, "left_arm_bend": 48.0}),
        Step(at=max(free - 0.14, tap + 0.04), name="opens", performer={"left_hook": 1.0, "right_hook": 1.0, "left_leg_abd": 0.0, "right_leg_abd": 4.0}),
        Step(
            at=free,
            name="free",
            performer={
                "left_hook": 0.0, "right_hook": 0.15, "left_leg_abd": 44.0, "left_leg_flex": 96.0, "left_leg_bend": 60.0, "right_leg_abd": 40.0, "right_leg_flex": 100.0, "right_leg_bend": 46.0,
                "right_grip": 0.0, "left_grip": 0.0, "bow": 18.0,
            },
            partner={"lean": 46.0, "nod": 6.0},
        ),
        Step(at=free + 0.30, name="end", performer={"yaw": angle * 0.4, "z": 0.08, "lean": -92.0, "right_hook": 0.0}, partner={"lean": 28.0, "z": 0.20, "x": 0.36, "left_arm_flex": 40.0, "left_arm_bend": 34.0}, fixed=True),
        Step(at=free + 1.00, name="again", performer=START, partner=BASE, fixed=True),
    ]  # fmt: skip
    return sorted(found, key=lambda step: step.at)


def _over_neck(me: Joints, other: Joints) -> Vector:
    """Past the back of the partner's neck, for the ankle of the leg that lies across it."""
    h = other.stature_m
    return other.at["neck"] + other.chest.up * 0.005 * h - other.chest.forward * 0.06 * h - other.chest.left * 0.19 * h


def _knee_pit(me: Joints, other: Joints) -> Vector:
    """Where the other ankle goes so that the knee pit closes over the shin across: beyond it, down the partner's back."""
    h = me.stature_m
    shin = unit(me.at["right_ankle"] - me.at["right_knee"])
    return me.at["right_ankle"] - other.chest.up * 0.20 * h + other.chest.forward * 0.02 * h + shin * 0.02 * h


def _opening(moment: Moment) -> float:
    at = moment["performer"].at
    return float(np.linalg.norm(at["left_ankle"] - at["right_ankle"]))


def _events(how: How) -> dict[str, Finder]:
    return {
        "arm_pushed": Finder(step="pushed"),
        "hips_top": Finder(step="lifted", rule="highest", measure=height("performer", "left_hip", "right_hip"), before_s=0.10, after_s=0.16),
        "leg_over": Finder(step="over"),
        "angle_taken": Finder(step="turned"),
        "locked": Finder(step="locked"),
        "tap": Finder(step="tap"),
        "released": Finder(step="opens", rule="rises", measure=_opening, level=0.36, before_s=0.05, after_s=0.30),
    }  # fmt: skip


MOVE = Move(
    technique="triangle",
    partner=True,
    faults=FAULTS,
    options={},
    steps=_steps,
    events=_events,
    holds={
        "performer": {
            "left_hand": lambda me, other: sleeve(other, "right"),
            "right_hand": lambda me, other: nape(other) + other.head.up * 0.09 * other.stature_m,
            "right_foot": _over_neck,
            "left_foot": _knee_pit,
        },
    },
    middle=(0.15, 0.0),
    height=0.42,
    rung="static_partner",
)
