"""The side fall: one leg slides out across, the other knee lowers the body, and the side lands along its length with both hands."""

from __future__ import annotations

from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Move
from lacertus.studio.moves.back_fall import STANDING as FEET_LEVEL
from lacertus.studio.moves.parts import ON_MAT_M, bend, height

STANDING = FEET_LEVEL | {"roll": 0.0, "side": 0.0, "tilt": 0.0, "look": 0.0}

FAULTS = (
    Fault(code="drops-from-height", unit="deg", most=95.0, says="the other knee bends so much less, and the foot leaves the mat"),
    Fault(code="bent-leg", unit="deg", most=70.0, says="the falling leg is bent so much as its heel touches"),
    Fault(code="heel-hits", unit="cm", most=34.0, says="the heel is kicked down from so high"),
    Fault(code="seat-first", unit="ms", most=500.0, says="the heel touches so much later"),
    Fault(code="one-hand-forgotten", unit="cm", most=60.0, says="the other hand stays so high above the mat"),
    Fault(code="hands-apart", unit="ms", most=450.0, says="the other hand strikes so much later"),
    Fault(code="lets-go-of-the-partner", unit="cm", most=55.0, says="the hand that holds sinks by so much", options={"arms": "one"}),
    Fault(code="strikes-early", unit="ms", most=400.0, says="the hand strikes so long before the side is down"),
    Fault(code="arm-at-shoulder-height", unit="deg", most=62.0, says="the striking arm is so much further from the body"),
    Fault(code="head-back", unit="deg", most=60.0, says="the chin leaves the chest by so much"),
    Fault(code="head-touches", unit="deg", most=88.0, says="the head hangs down to the mat by so much"),
    Fault(code="knees-knock", unit="cm", most=26.0, says="the knees lie so much closer together"),
)  # fmt: skip

LOWERS, HEEL, SEAT, STRIKE, REST = 0.35, 0.62, 0.98, 1.16, 1.60
HAND_M = 0.075
"""A hand lower than this lies on the mat."""


def _steps(how: How) -> list[Step]:
    return sorted([*_legs(how), *_trunk(how), *_arms(how), *_up()], key=lambda step: step.at)


def _trunk(how: How) -> list[Step]:
    back, hangs = how.fault("head-back"), how.fault("head-touches")
    drop = how.fault("drops-from-height") / 95.0
    nod = 30.0 - back
    return [
        Step(at=0.0, name="start", performer=STANDING, fixed=True),
        Step(at=LOWERS, name="lowers", performer={"x": 0.0, "y": 0.0, "z": 0.526, "lean": 1.0, "bow": 2.0, "roll": 0.0, "nod": 8.0}),
        Step(at=HEEL, performer={"x": -0.03, "y": 0.03, "z": 0.385 + 0.135 * drop, "lean": 6.0, "bow": 12.0, "roll": 2.0, "nod": nod * 0.8}),
        Step(at=0.80, performer={"x": -0.05, "y": -0.03, "z": 0.262 + 0.12 * drop, "lean": 4.0, "bow": 14.0, "roll": 12.0, "nod": nod}),
        Step(at=SEAT, name="seat", performer={"x": -0.04, "y": -0.13, "z": 0.118, "lean": 0.0, "bow": 14.0, "roll": 40.0, "side": -6.0, "nod": nod, "tilt": 0.0}),
        Step(at=STRIKE, name="strike", performer={"x": -0.03, "y": -0.18, "z": 0.112, "lean": 0.0, "bow": 10.0, "roll": 82.0, "side": -2.0, "nod": nod, "tilt": -6.0 + hangs}),
        Step(at=REST, name="rest", performer={"y": -0.18, "z": 0.112, "bow": 8.0, "roll": 80.0, "nod": nod, "tilt": -6.0 + hangs}),
        Step(at=REST + 0.40, name="end", performer={"y": -0.18, "z": 0.112, "roll": 80.0}, fixed=True),
    ]  # fmt: skip


def _legs(how: How) -> list[Step]:
    """The falling leg slides across in front; the other one lowers, or shoots out where the body drops."""
    bent, late, high = how.fault("bent-leg"), how.fault("seat-first") / 1000, how.fault("heel-hits") / 100
    stiff, close = how.fault("drops-from-height"), how.fault("knees-knock") / 26.0
    touch, drop = HEEL + late, stiff / 95.0
    # The lower the hips are as the heel comes down, the further out a straight leg has it.
    further = 0.10 * min(1.0, late / 0.14)
    short = 0.0038 * bent
    long = {"right_leg_flex": 34.0, "right_leg_abd": -26.0, "right_leg_bend": 4.0 + bent}
    planted = 1.0 if not stiff else 0.0
    out = {"left_plant": planted, "left_leg_flex": 20.0 + 0.5 * stiff, "left_leg_bend": 126.0 - stiff, "left_leg_abd": 6.0}
    return [
        Step(at=LOWERS, performer={"right_plant": 1.0, "right_foot_x": 0.12, "right_foot_y": -0.13, "right_foot_z": 0.0, "right_heel_up": 4.0, "right_toe_up": 0.0, "right_foot_yaw": -12.0, "right_leg_rot": 0.0, "left_plant": 1.0, "left_leg_bend": 8.0}),
        Step(at=touch - 0.13, performer={"right_plant": 0.98, "right_foot_x": 0.24, "right_foot_y": 0.38 - short * 0.8 - 0.25 * drop, "right_foot_z": 0.12 + high * 0.9, "right_heel_up": 0.0, "right_toe_up": 18.0, "right_foot_yaw": 50.0}),
        Step(at=touch - 0.05, performer={"right_foot_y": 0.565 + further - short - 0.36 * drop, "right_foot_z": 0.102 + high}),
        Step(at=touch, name="heel", performer={"right_plant": 0.98, "right_foot_x": 0.12, "right_foot_y": 0.63 + further - short - 0.36 * drop, "right_foot_z": 0.074, "right_toe_up": 24.0, "right_foot_yaw": 82.0, **long}),
        Step(at=SEAT, performer={"left_foot_x": 0.12, "left_foot_y": 0.13, "left_foot_z": 0.0, "left_foot_yaw": 12.0, "left_heel_up": 0.0, **out}),
        Step(at=SEAT + 0.04, performer={"left_plant": 0.98 * planted, "left_foot_x": 0.12, "left_foot_y": 0.13}),
        Step(at=max(SEAT, touch + 0.1), performer={"right_plant": 0.98, "right_foot_x": 0.24, "right_foot_y": 0.64 + further * 0.6, "right_foot_z": 0.06, "right_foot_yaw": 80.0, "right_toe_up": 20.0}),
        Step(
            at=REST - 0.10,
            performer={
                "right_foot_x": 0.14, "right_foot_z": 0.04, "right_foot_y": 0.70, "right_toe_up": 12.0, "left_plant": 0.98 * (1 - close), "left_foot_x": 0.34, "left_foot_y": 0.30, "left_foot_z": 0.0, "left_leg_flex": 60.0 - 44.0 * close, "left_leg_abd": 6.0 - 14.0 * close,
                "left_foot_yaw": 60.0, "left_leg_bend": 90.0 - 58.0 * close, "right_plant": 0.98,
            },
        ),
    ]  # fmt: skip


def _arms(how: How) -> list[Step]:
    early, apart = how.fault("strikes-early") / 1000, how.fault("hands-apart") / 1000
    wide, free = how.fault("arm-at-shoulder-height"), how.fault("one-hand-forgotten")
    strike = STRIKE - early
    down = {"right_arm_flex": 45.0 + wide, "right_arm_abd": 9.0, "right_arm_bend": 4.0}
    if how.options.get("arms") == "one":
        sunk = how.fault("lets-go-of-the-partner")
        other = {"left_arm_flex": 40.0, "left_arm_abd": 78.0 - sunk * 2.0, "left_arm_bend": 12.0}
        return [
            Step(at=LOWERS, performer={"right_arm_flex": 20.0, "right_arm_abd": 4.0, "right_arm_bend": 20.0, "left_arm_flex": 60.0, "left_arm_abd": 10.0, "left_arm_bend": 40.0}),
            Step(at=max(0.5, strike - 0.22), performer={"right_arm_flex": 74.0, "right_arm_abd": -10.0, "right_arm_bend": 50.0, "left_arm_flex": 66.0, "left_arm_abd": 30.0, "left_arm_bend": 30.0}),
            Step(at=strike, name="hand", performer=down),
            Step(at=STRIKE, performer=other),
            Step(at=REST, performer={**down, **other}),
        ]  # fmt: skip
    lift = {"left_arm_flex": 62.0, "left_arm_abd": -36.0 + free * 0.9, "left_arm_bend": 8.0}
    return [
        Step(at=LOWERS, performer={"right_arm_flex": 20.0, "right_arm_abd": 4.0, "right_arm_bend": 20.0, "left_arm_flex": 20.0, "left_arm_abd": 4.0, "left_arm_bend": 20.0}),
        Step(at=max(0.5, strike - 0.22), performer={"right_arm_flex": 74.0, "right_arm_abd": -10.0, "right_arm_bend": 50.0}),
        Step(at=STRIKE - 0.22 - early, performer={"left_arm_flex": 70.0, "left_arm_abd": 0.0, "left_arm_bend": 40.0}),
        Step(at=strike, name="hand", performer=down),
        Step(at=STRIKE - 0.01 - early, performer=lift | ({"left_arm_abd": -20.0} if apart else {})),
        Step(at=STRIKE - early + apart, name="other", performer=lift),
        Step(at=max(REST, STRIKE + 0.03 + apart), performer={**down, **lift}),
    ]  # fmt: skip


def _up() -> list[Step]:
    """Up again over the knee; no part of the rep."""
    return [
        Step(at=REST + 1.10, performer={"y": -0.10, "z": 0.20, "roll": 30.0, "lean": 16.0, "bow": 24.0, "nod": 10.0, "left_plant": 0.98, "right_plant": 0.98, "right_foot_x": 0.14, "right_foot_y": 0.30, "right_foot_z": 0.05, "left_foot_z": 0.03, "tilt": 0.0, "side": 0.0}),
        Step(at=REST + 1.70, performer={"y": 0.0, "z": 0.38, "roll": 0.0, "lean": 20.0, "right_foot_y": -0.10, "right_foot_z": 0.04}),
        Step(at=REST + 2.30, name="again", performer=STANDING, fixed=True),
    ]  # fmt: skip


def _events(how: How) -> dict[str, Finder]:
    found = {
        "lowers": Finder(step="lowers", rule="rises", measure=bend("performer", "left"), level=14.0, before_s=0.0, after_s=0.30),
        "heel_touches": Finder(step="heel", rule="falls", measure=height("performer", "right_heel"), level=ON_MAT_M, before_s=0.11, after_s=0.08),
        "seat_touches": Finder(step="seat", rule="falls", measure=height("performer", "right_hip"), level=0.15, before_s=0.20, after_s=0.14),
        "arm_strikes": Finder(step="hand", rule="falls", measure=height("performer", "right_hand"), level=HAND_M, before_s=0.16, after_s=0.12),
        "at_rest": Finder(step="rest"),
    }
    if how.options.get("arms") != "one":
        found["other_hand"] = Finder(step="other", rule="falls", measure=height("performer", "left_hand"), level=HAND_M, before_s=0.16, after_s=0.14)
    return found


MOVE = Move(
    technique="side-fall",
    partner=False,
    faults=FAULTS,
    options={"arms": ("both", "one")},
    steps=_steps,
    events=_events,
    middle=(0.0, 0.0),
    height=0.72,
    rung="ordinary_pace",
)
