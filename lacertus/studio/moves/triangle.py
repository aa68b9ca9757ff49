"""The triangle: one arm in, one out; the leg over the neck, the angle taken, locked in the knee pit; released at the tap."""

from __future__ import annotations

import numpy as np

from lacertus.studio.body.figure import Joints
from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Moment, Move
from lacertus.studio.body.vectors import Vector, unit
from lacertus.studio.moves.parts import height, nape, put_in, sleeve
from lacertus.studio.moves.scissor_sweep import GUARD, KNEELING

START = GUARD | {"left_hook": 0.0, "right_grip": 0.0}
BASE = KNEELING | {"x": 0.32, "lean": 20.0, "bow": 12.0, "left_grip": 0.0, "right_grip": 0.0}

FAULTS = (
    Fault(code="hips-on-mat", unit="cm", most=14.0, says="the seat stays so much nearer to the mat"),
    Fault(code="slow-entry", unit="ms", most=900.0, says="the leg goes over late"),
    Fault(code="open-lock", unit="deg", most=90.0, says="the locking knee stays so much straighter"),
    Fault(code="no-angle", unit="deg", most=40.0, says="the body stays square and takes no angle"),
    Fault(code="late-lock", unit="ms", most=900.0, says="the lock is closed late"),
    Fault(code="loose-lock", unit="deg", most=50.0, says="the locking knee stays open"),
    Fault(code="posture-kept", unit="deg", most=34.0, says="the partner’s trunk stays so much higher"),
    Fault(code="held-after-tap", unit="ms", most=900.0, says="the hold is kept after the tap"),
)


def _steps(how: How) -> list[Step]:
    low = put_in(how, FAULTS, "hips-on-mat")
    square, posture = how.fault("no-angle"), put_in(how, FAULTS, "posture-kept")
    loose, unfolded = how.fault("loose-lock"), put_in(how, FAULTS, "open-lock")
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
    if how.reaction:
        found = [*(step for step in found if step.at <= over), *_answers(how, over)]
    return sorted(found, key=lambda step: step.at)


def _answers(how: How, over: float) -> list[Step]:
    """With the leg over, the partner rises or drives in; the body turns out to the side, and the posture is broken again."""
    drives = how.reaction == "partner_drives_in"
    if drives:
        comes = Step(
            at=over + 0.40,
            name="drives",
            performer={"x": -0.10, "z": 0.19, "lean": -112.0, "bow": 34.0},
            partner={"x": 0.28, "z": 0.235, "lean": 54.0, "bow": 20.0},
        )
        goes = Step(
            at=over + 0.95,
            name="turned_out",
            performer={"x": -0.10, "y": -0.16, "z": 0.13, "yaw": 56.0, "lean": -100.0, "side": 14.0, "bow": 26.0, "left_leg_flex": 118.0, "left_leg_abd": 26.0, "left_leg_bend": 40.0},
            partner={"x": 0.32, "z": 0.20, "lean": 56.0},
        )  # fmt: skip
    else:
        comes = Step(at=over + 0.40, name="rises", performer={"z": 0.16, "lean": -106.0}, partner={"lean": 22.0, "bow": 8.0, "z": 0.215, "x": 0.40, "nod": -6.0})
        goes = Step(
            at=over + 1.05,
            name="broken",
            performer={"yaw": 34.0, "x": 0.02, "y": -0.04, "z": 0.14, "side": 10.0, "lean": -102.0, "right_grip": 1.0, "left_leg_flex": 118.0, "left_leg_abd": 26.0, "left_leg_bend": 40.0},
            partner={"lean": 54.0, "bow": 28.0, "x": 0.41, "z": 0.165, "nod": 20.0},
        )  # fmt: skip
    at = goes.at + 0.45
    return [
        comes,
        goes,
        Step(at=at, name="end", performer=goes.performer, partner=goes.partner, fixed=True),
        Step(at=at + 0.35, performer={"right_hook": 0.2, "right_grip": 0.0, "yaw": 14.0}, partner={"lean": 28.0, "z": 0.20}),
        Step(at=at + 0.90, name="again", performer=START, partner=BASE, fixed=True),
    ]


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


TOLD = {"partner_postures_up": ("postures_up", "rises", "breaks_it_again", "broken"), "partner_drives_in": ("drives_in", "drives", "turns_the_angle", "turned_out")}
"""By reaction: its event and step, and those of the answer."""


def _events(how: How) -> dict[str, Finder]:
    found = _whole()
    if how.reaction:
        event, step, answer, answered = TOLD[how.reaction]
        found = {name: found[name] for name in ("arm_pushed", "hips_top", "leg_over")} | {event: Finder(step=step), answer: Finder(step=answered)}
    return found


def _whole() -> dict[str, Finder]:
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
    reactions={reaction: {} for reaction in TOLD},
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
