"""The front kick: the knee first, then the lower leg; a snap that folds back, or a push that drives on."""

from __future__ import annotations

import numpy as np

from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Moment, Move, merge
from lacertus.studio.moves.parts import put_in

STANCE = {
    "x": 0.0, "y": 0.0, "z": 0.500, "yaw": -30.0, "lean": 4.0, "roll": 0.0, "bow": 3.0, "twist": 2.0, "nod": 4.0, "look": 26.0,
    "left_plant": 1.0, "left_foot_x": 0.27, "left_foot_y": 0.10, "left_foot_z": 0.0, "left_foot_yaw": -8.0, "left_heel_up": 0.0,
    "right_plant": 1.0, "right_foot_x": -0.17, "right_foot_y": -0.12, "right_foot_z": 0.0, "right_foot_yaw": -42.0,
    "right_heel_up": 6.0, "right_toe_up": 0.0,
    "right_leg_flex": -14.0, "right_leg_bend": 24.0, "right_leg_abd": 4.0, "right_leg_rot": 0.0,
    "left_arm_flex": 46.0, "left_arm_abd": 8.0, "left_arm_bend": 100.0, "left_arm_rot": -16.0,
    "right_arm_flex": 26.0, "right_arm_abd": 8.0, "right_arm_bend": 124.0, "right_arm_rot": -20.0,
}  # fmt: skip

FAULTS = (
    Fault(code="low-chamber", unit="deg", most=60.0, says="the thigh is lifted so much less before the leg opens"),
    Fault(code="loose-chamber", unit="deg", most=60.0, says="the knee is folded less tightly"),
    Fault(code="bent-reach", unit="deg", most=60.0, says="the leg stays bent at full reach"),
    Fault(code="parked-knee", unit="ms", most=600.0, says="the knee waits at the top before the leg opens"),
    Fault(code="no-return", unit="ms", most=500.0, says="the leg is folded back late"),
    Fault(code="locked-support", unit="cm", most=1.6, says="the hips stand so much higher, until the standing knee locks"),
    Fault(code="thrown-back", unit="deg", most=70.0, says="the trunk is thrown back at full reach"),
    Fault(code="low-reach", unit="deg", most=62.0, says="the thigh stays so much lower at full reach"),
    Fault(code="no-refold", unit="deg", most=80.0, says="the knee is not folded again"),
    Fault(code="hands-drop", unit="deg", most=70.0, says="the elbow opens so far as the hands fall"),
)


def _steps(how: How) -> list[Step]:
    push = how.options.get("extension") == "push"
    low, loose, bent = how.fault("low-chamber"), how.fault("loose-chamber"), how.fault("bent-reach")
    lock, drop = put_in(how, FAULTS, "locked-support"), put_in(how, FAULTS, "hands-drop")
    thrown, sunk, open_knee = how.fault("thrown-back"), how.fault("low-reach"), how.fault("no-refold")
    off, top = 0.40, 0.66
    full = top + 0.17 + how.fault("parked-knee") / 1000
    folded = full + (0.30 if push else 0.19) + how.fault("no-return") / 1000
    down = folded + (0.26 if push else 0.33)
    thigh = (114.0 if push else 106.0) - low
    fold = 118.0 - loose
    hands = {"left_arm_flex": 36.0 - 44.0 * drop, "right_arm_flex": 12.0 - 34.0 * drop}
    hands |= {"left_arm_bend": 104.0 - 70.0 * drop, "right_arm_bend": 122.0 - 88.0 * drop}
    kneel = 0.006 * (1 - lock)
    chamber = {
        "x": 0.20, "z": 0.520 - kneel + 0.030 * lock, "yaw": 6.0, "lean": -3.0, "bow": 6.0, "twist": -6.0, "look": 0.0,
        "left_foot_yaw": 14.0, "right_plant": 0.0, "right_foot_z": 0.16, "right_heel_up": 30.0,
        "right_leg_flex": thigh, "right_leg_bend": fold, "right_leg_abd": 8.0, "right_leg_rot": 0.0, "right_toe_up": 4.0,
    }  # fmt: skip
    reach = {
        "x": 0.30 if push else 0.24, "z": 0.520 - kneel + 0.034 * lock, "yaw": 24.0 if push else 18.0,
        "lean": (-22.0 if push else -13.0) - thrown, "bow": 4.0, "twist": -12.0, "look": -12.0, "left_foot_yaw": 34.0,
        "right_plant": 0.0, "right_leg_flex": (94.0 if push else thigh - 24.0) - sunk, "right_leg_bend": 8.0 + bent, "right_leg_abd": 12.0,
        "right_toe_up": 26.0 if push else 18.0,
    }  # fmt: skip
    back = {
        "x": 0.34 if push else 0.21, "z": 0.516, "yaw": 10.0, "lean": -2.0 if push else -6.0, "twist": -4.0, "look": -4.0, "left_foot_yaw": 24.0,
        "right_plant": 0.0, "right_leg_flex": 92.0 if push else thigh - 20.0, "right_leg_bend": (84.0 if push else 106.0) - open_knee, "right_leg_abd": 8.0, "right_toe_up": 6.0,
    }  # fmt: skip
    lands = merge(STANCE, {"right_foot_x": 0.62, "right_foot_y": -0.14, "right_foot_yaw": -4.0, "x": 0.42, "yaw": 16.0, "left_foot_yaw": 24.0}) if push else {}  # fmt: skip
    steps = [
        Step(at=0.0, name="start", performer=STANCE, fixed=True),
        Step(at=off - 0.14, performer={"x": 0.03, "yaw": -26.0, "right_heel_up": 14.0, "right_plant": 1.0}),
        Step(
            at=off,
            name="off",
            performer={
                "x": 0.12, "z": 0.508, "yaw": -12.0, "lean": 3.0, "look": 14.0, "twist": 2.0, "right_heel_up": 44.0, "right_plant": 1.0,
                "right_foot_x": STANCE["right_foot_x"], "right_foot_y": STANCE["right_foot_y"], "right_foot_yaw": STANCE["right_foot_yaw"],
                "right_foot_z": 0.0, "right_leg_flex": 4.0, "right_leg_bend": 62.0, "left_arm_flex": 46.0, "right_arm_flex": 26.0,
            },
        ),
        Step(at=off + 0.10, performer={"right_plant": 0.15, "right_leg_flex": 46.0, "right_leg_bend": 100.0}),
        Step(at=top, name="top", performer=chamber | {k: 0.5 * v + 0.5 * STANCE[k] for k, v in hands.items()}),
    ]  # fmt: skip
    if how.fault("parked-knee"):
        steps.append(Step(at=full - 0.16, performer={**chamber, "x": 0.21}))
    steps += [
        Step(at=full, name="full", performer=reach | hands),
        Step(at=folded, name="folded", performer=back | {k: 0.6 * v + 0.4 * STANCE[k] for k, v in hands.items()}),
        Step(at=down - 0.10, performer={"right_plant": 0.3, "right_foot_z": 0.07}),
    ]
    if push:
        out = {key: lands[key] for key in ("right_foot_x", "right_foot_y", "right_foot_yaw")}
        steps[4] = Step(at=top, name="top", performer={**steps[4].performer, **out})
        steps += [
            Step(at=down, name="down", performer=lands | {"right_foot_z": 0.0, "right_heel_up": 0.0}),
            Step(at=down + 0.30, performer={**lands, "right_foot_z": 0.0, "lean": 4.0}),
            Step(at=down + 0.62, performer={"right_foot_z": 0.09, "right_foot_x": 0.2, "x": 0.16, "right_plant": 1.0}),
            Step(at=down + 0.95, name="end", performer=STANCE, fixed=True),
        ]
        return steps
    steps += [
        Step(at=down, name="down", performer={"right_plant": 1.0, "right_foot_z": 0.0, "right_heel_up": 24.0, "x": 0.04, "z": 0.498, "yaw": -16.0, "lean": 4.0, "left_foot_yaw": 2.0, "right_leg_flex": -8.0, "right_leg_bend": 40.0}),
        Step(at=down + 0.34, name="end", performer=STANCE, fixed=True),
    ]  # fmt: skip
    return steps


def _knee_height(moment: Moment) -> float:
    return float(moment["performer"].at["right_knee"][2])


def _straightness(moment: Moment) -> float:
    at = moment["performer"].at
    return float(np.linalg.norm(at["right_hip"] - at["right_ankle"]))


def _toe_height(moment: Moment) -> float:
    at = moment["performer"].at
    return float(min(at["right_toe"][2], at["right_heel"][2]))


def _events(how: How) -> dict[str, Finder]:
    push = how.options.get("extension") == "push"
    return {
        "foot_off": Finder(step="off", rule="rises", measure=_toe_height, level=0.015, before_s=0.12, after_s=0.14),
        "knee_top": Finder(step="top", rule="highest", measure=_knee_height, before_s=0.14, after_s=0.04),
        "full_reach": Finder(step="full", rule="highest", measure=_straightness, before_s=0.06, after_s=0.10),
        "folded": Finder(step="folded", rule="step" if push else "lowest", measure=_straightness, before_s=0.08, after_s=0.08),
        "foot_down": Finder(step="down", rule="falls", measure=_toe_height, level=0.015, before_s=0.14, after_s=0.10),
    }


MOVE = Move(
    technique="front-kick",
    partner=False,
    faults=FAULTS,
    options={"extension": ("snap", "push")},
    steps=_steps,
    events=_events,
    middle=(0.16, 0.0),
    rung="solo",
)
