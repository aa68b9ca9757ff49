"""The outer reap: beside the partner on one foot, the other leg swings past and takes the loaded leg at the ankle."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace

from lacertus.studio.body.figure import Joints
from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Moment, Move
from lacertus.studio.body.vectors import Vector
from lacertus.studio.moves.foot_sweep import PARTNER as FACED
from lacertus.studio.moves.foot_sweep import PERFORMER as FACING
from lacertus.studio.moves.parts import ON_MAT_M, height, lapel, nape, sleeve

PERFORMER = FACING | {
    "x": -0.12, "y": 0.05, "left_foot_x": 0.02, "left_foot_y": 0.17, "right_foot_x": -0.02, "right_foot_y": -0.14,
    "right_leg_abd": 0.0, "left_arm_abd": 10.0,
}  # fmt: skip
PARTNER = FACED | {
    "x": 0.40, "left_foot_x": 0.20, "left_foot_y": -0.14, "right_foot_x": 0.36, "right_foot_y": 0.15, "left_grip": 1.0, "left_flare": 36.0,
}  # fmt: skip

FAULTS = (
    Fault(code="low-lapel", unit="cm", most=45.0, says="the lapel hand holds so much lower than the collarbone"),
    Fault(code="steps-then-pulls", unit="ms", most=420.0, says="the hands pull so long after the foot has stepped"),
    Fault(code="steps-straight", unit="cm", most=54.0, says="the support foot steps so much further in, towards the partner’s middle"),
    Fault(code="short-step", unit="cm", most=38.0, says="the support foot stands so much too short"),
    Fault(code="reaps-a-free-leg", unit="cm", most=22.0, says="the partner’s weight stays so far over the other leg"),
    Fault(code="half-weight", unit="cm", most=60.0, says="the body stays so far behind the support foot as the leg swings"),
    Fault(code="hips-behind", unit="cm", most=26.0, says="the partner’s hips get so far ahead of the own ones as the leg swings"),
    Fault(code="no-swing", unit="deg", most=62.0, says="the leg swings so much less to the front"),
    Fault(code="pushes-with-the-arms", unit="deg", most=105.0, says="the lapel arm is stretched by so much more"),
    Fault(code="reaps-high", unit="cm", most=20.0, says="the ankle meets the leg so much higher"),
    Fault(code="reaps-the-knee", unit="cm", most=46.0, says="the calf meets the leg so much higher, at the knee"),
    Fault(code="stays-upright", unit="deg", most=54.0, says="the trunk bows so much more at the hips as the leg reaps"),
    Fault(code="trunk-stays-up", unit="deg", most=40.0, says="the trunk stays so much more upright as the leg reaps"),
    Fault(code="daylight", unit="cm", most=55.0, says="the partner’s chest is let so much further away as the leg reaps"),
    Fault(code="hand-slips-behind", unit="cm", most=30.0, says="the hand slips so far on behind the neck"),
    Fault(code="hand-before-the-neck", unit="cm", most=30.0, says="the hand stays so far before the neck", options={"grip": "neck"}),
    Fault(code="arm-slips-down", unit="cm", most=32.0, says="the hand slips so far down", options={"grip": "neck"}),
    Fault(code="shallow-underhook", unit="cm", most=40.0, says="the hand stays so much lower", options={"grip": "underhook"}),
    Fault(code="hand-stays-in-front", unit="cm", most=30.0, says="the hand stays so far before the shoulder", options={"grip": "underhook"}),
    Fault(code="stays-behind", unit="cm", most=40.0, says="the hips sink by so much less", options={"finish": "fall_through"}),
    Fault(code="falls-on-the-partner", unit="cm", most=45.0, says="the hips sink so much lower as the partner lands"),
)  # fmt: skip

LANDS, PAST, HIGH, REAP = 0.56, 0.80, 0.94, 1.14
DOWN = 1.60
THROUGH = 0.26
"""How much lower the hips of a thrower are who falls along, a share of stature."""


def _steps(how: How) -> list[Step]:
    if how.reaction == "partner_leans":
        return sorted([*(step for step in _entry(how) if step.at < PAST), *_stops()], key=lambda step: step.at)
    if how.reaction == "partner_moves_away":
        return sorted([*(step for step in _entry(how) if step.at <= LANDS), *_comes_to_the_hands()], key=lambda step: step.at)
    if how.reaction == "partner_steps_back":
        return _chased(how)
    return sorted([*_entry(how), *_throw(how), *_after()], key=lambda step: step.at)


HOPPED_M, HOPPED_S = 0.30, 0.62
"""How much further and later the throw comes after a hop, metres and seconds."""


def _chased(how: How) -> list[Step]:
    """The partner’s near leg steps back out of the step; one hop on the support foot after it, then the throw from there."""
    usual = [*_entry(how), *_throw(how), *_after()]
    again = replace(usual[-1], at=usual[-1].at + HOPPED_S)
    late = [_further(step) for step in usual[:-1] if step.at > LANDS]
    lifted = {"left_foot_x": 0.02 + HOPPED_M, "left_foot_z": 0.03, "right_foot_x": -0.02 + HOPPED_M, "right_foot_z": 0.03}
    walks = [Step(at=again.at - 1.28, performer=lifted), Step(at=again.at - 0.10, performer={"left_foot_z": 0.03, "right_foot_z": 0.03})]
    return sorted([*(step for step in usual if step.at <= LANDS), *_hops_after(), *late, *walks, again], key=lambda step: step.at)


def _further(step: Step) -> Step:
    def moved(channels: Mapping[str, float]) -> dict[str, float]:
        return {name: value + HOPPED_M if name in ("x", "left_foot_x", "right_foot_x") else value for name, value in channels.items()}

    return replace(step, at=step.at + HOPPED_S, performer=moved(step.performer), partner=moved(step.partner))


def _hops_after() -> list[Step]:
    """The leg steps back, the other after it; the support foot hops as far."""
    steps, there = LANDS + 0.12, LANDS + HOPPED_S
    off, on = there - 0.26, there - 0.06
    beside = {"left_foot_x": 0.66, "left_foot_y": 0.47, "left_foot_z": 0.0}
    hopped = beside | {"left_foot_x": 0.66 + HOPPED_M}
    right = {"right_foot_x": 0.36, "right_foot_y": 0.15, "right_foot_z": 0.0}
    back = right | {"right_foot_x": 0.36 + HOPPED_M}
    left = {"left_foot_x": 0.20, "left_foot_y": -0.14, "left_foot_z": 0.0}
    followed = left | {"left_foot_x": 0.20 + HOPPED_M}
    return [
        Step(at=LANDS + 0.02, partner={**left, **right, "x": 0.42}),
        Step(at=LANDS + 0.10, performer={"x": 0.44, "y": 0.32, "right_plant": 0.6, "right_foot_x": 0.14, "right_foot_y": 0.12, "right_foot_z": 0.06, "right_heel_up": 34.0, "right_leg_flex": 0.0, "right_leg_bend": 50.0}, partner={"right_foot_z": 0.05, "x": 0.46, "lean": 4.0}),
        Step(at=steps + 0.10, name="back", performer={"right_plant": 0.0, "right_leg_flex": 6.0, "right_leg_bend": 56.0, "right_leg_abd": 4.0, "x": 0.50, "z": 0.510}, partner={**back, **left, "x": 0.52, "left_heel_up": 12.0}),
        Step(at=off - 0.06, performer={"z": 0.496, "lean": 8.0}, partner={"left_foot_z": 0.05}),
        Step(at=off, name="hop_off", performer={**beside, "x": 0.56, "z": 0.520, "left_heel_up": 14.0}, partner={"x": 0.62}),
        Step(at=(off + on) / 2, performer={"left_foot_z": 0.07, "left_heel_up": 20.0}, partner={**followed, **back, "left_heel_up": 0.0, "x": 0.68}),
        Step(at=on, name="hop_on", performer={**hopped, "left_heel_up": 8.0, "x": 0.74, "y": 0.34, "z": 0.512}, partner={"x": 0.70, "y": -0.02}),
        Step(at=there, performer={**hopped, "left_heel_up": 0.0, "x": 0.76, "y": 0.36, "z": 0.508}, partner={**followed, **back, "lean": 2.0, "side": 0.0, "twist": 0.0, "x": 0.71}),
    ]  # fmt: skip


def _entry(how: How) -> list[Step]:
    """Grip, step and pull, up to all the weight on the support foot."""
    pull = LANDS - 0.06 + how.fault("steps-then-pulls") / 1000
    inward, short = how.fault("steps-straight") / 100, how.fault("short-step") / 100
    free = how.fault("reaps-a-free-leg") / 100
    behind = max(short * 0.7, how.fault("half-weight") / 100)
    arm = _lapel_arm(how)
    foot = {"left_foot_x": 0.66 - short, "left_foot_y": 0.47 - inward}
    drawn = {"side": 5.0, "twist": 8.0}
    return [
        Step(at=0.0, name="start", performer=PERFORMER, partner=PARTNER, fixed=True),
        Step(at=0.26, name="lifts", performer={"x": -0.08, "y": 0.03, "left_foot_z": 0.0, "left_heel_up": 8.0, "left_foot_x": 0.02, "left_foot_y": 0.17, "left_foot_yaw": 16.0, "right_grip": 1.0, **_hand(how), "right_arm_flex": 24.0, "right_arm_bend": 50.0}),
        Step(at=0.42, performer={"left_foot_z": 0.055, "left_heel_up": 10.0}),
        Step(
            at=LANDS,
            name="lands",
            performer={
                "right_grip_x": 0.0, "right_grip_z": 0.0, "x": 0.40 - short * 0.5, "y": 0.30 - inward * 0.4, "z": 0.510, "lean": 5.0, "yaw": -8.0, "right_heel_up": 30.0, "right_foot_x": -0.02, "right_foot_z": 0.0,
                "right_plant": 1.0, "left_foot_z": 0.0, "left_heel_up": 0.0, "left_foot_yaw": 4.0, "right_foot_y": -0.14, "right_foot_yaw": -10.0, **foot, **arm,
            },
        ),
        Step(at=pull, name="pull", partner={"lean": 2.0, "y": -0.02, "side": 0.0, "twist": 0.0, "x": 0.40, "left_heel_up": 0.0}, performer={"twist": 0.0}),
        Step(at=pull + 0.18, performer={"twist": 10.0}, partner={**drawn, "lean": -8.0 + free * 60, "x": 0.475 - free, "y": 0.04}),
        Step(at=LANDS + 0.12, performer={"x": 0.485 - behind, "right_plant": 0.85, "right_foot_x": 0.14, "right_foot_y": 0.10, "right_foot_z": 0.06, "right_heel_up": 34.0, "right_leg_flex": 0.0, "right_leg_bend": 50.0}),
        Step(
            at=PAST,
            name="past",
            performer={
                "x": 0.555 - behind, "y": 0.42 - inward, "z": 0.520, "lean": 6.0, "yaw": -26.0, "roll": 5.0, **arm, "right_plant": 0.0, "right_leg_flex": 26.0 - how.fault("no-swing") * 0.4, "right_leg_bend": 46.0, "right_leg_abd": 2.0,
                "right_toe_up": 0.0, **foot,
            },
            partner={"left_heel_up": 14.0 if not free else 0.0, "right_heel_up": 0.0},
        ),
    ]  # fmt: skip


def _comes_to_the_hands() -> list[Step]:
    """The partner moves away from the step: the own body goes after the hands, with both feet, until the chest is there again."""
    away, there = LANDS + 0.16, LANDS + 0.66
    beside = {"left_foot_x": 0.66, "left_foot_y": 0.47, "left_foot_z": 0.0}
    close = {"left_foot_x": 0.88, "left_foot_y": 0.44, "left_foot_z": 0.0, "right_foot_x": 0.52, "right_foot_y": 0.28, "right_foot_z": 0.0}
    back = {"left_foot_x": 0.54, "left_foot_y": -0.14, "left_foot_z": 0.0, "right_foot_x": 0.66, "right_foot_y": 0.16, "right_foot_z": 0.0}
    return [
        Step(at=away - 0.04, partner={"left_foot_x": 0.20, "left_foot_y": -0.14, "left_foot_z": 0.0, "right_foot_x": 0.36, "right_foot_y": 0.15, "right_foot_z": 0.0, "x": 0.44}),
        Step(at=away, name="away", performer={"x": 0.42, "y": 0.33, "right_plant": 0.85, "right_foot_x": 0.14, "right_foot_y": 0.12, "right_foot_z": 0.05, **beside}, partner={"right_foot_z": 0.04, "x": 0.48, "lean": 4.0, "side": 0.0, "twist": 0.0}),
        Step(at=away + 0.16, partner={**back, "left_foot_x": 0.20, "right_foot_x": 0.66, "x": 0.58, "left_heel_up": 10.0}),
        Step(at=away + 0.20, performer={"x": 0.48, "right_plant": 1.0, "right_foot_x": 0.52, "right_foot_y": 0.28, "right_foot_z": 0.0, "right_heel_up": 4.0, **beside}),
        Step(at=away + 0.26, partner={"left_foot_z": 0.05, "left_foot_x": 0.40}),
        Step(at=away + 0.34, performer={"x": 0.58, "left_foot_z": 0.05, "left_foot_x": 0.78, "left_foot_y": 0.45, "right_foot_x": 0.52, "right_foot_y": 0.28, "right_foot_z": 0.0}),
        Step(at=away + 0.40, partner={**back, "x": 0.68, "lean": 3.0, "left_heel_up": 0.0}),
        Step(at=there, name="there", performer={**close, "x": 0.66, "y": 0.34, "z": 0.510, "lean": 6.0, "yaw": -20.0, "twist": 0.0}, partner={**back, "x": 0.70}),
        Step(at=there + 0.40, name="end", performer={**close, "x": 0.66}, partner=back, fixed=True),
        Step(at=there + 0.42, performer=close, partner=back),
        Step(at=there + 0.90, performer={"x": 0.2, "left_foot_x": 0.4, "left_foot_z": 0.05, "right_foot_x": 0.2, "right_foot_z": 0.05}, partner={"left_foot_z": 0.04, "right_foot_z": 0.03, "x": 0.56}),
        Step(at=there + 1.60, name="again", performer=PERFORMER, partner=PARTNER, fixed=True),
    ]  # fmt: skip


def _stops() -> list[Step]:
    """The partner leans forward against the pull: the leg is set down instead of swung, and both stand as before."""
    leans, stops = LANDS + 0.26, LANDS + 0.66
    beside = {"left_foot_x": 0.66, "left_foot_y": 0.47, "left_foot_z": 0.0}
    return [
        Step(at=leans, name="leans", performer={"x": 0.46, "y": 0.34, "right_plant": 0.85, "right_foot_x": 0.14, "right_foot_y": 0.12, "right_foot_z": 0.06, **beside}, partner={"lean": -4.0, "x": 0.46, "left_heel_up": 4.0}),
        Step(at=leans + 0.20, performer={"x": 0.40, "y": 0.34, "right_foot_x": 0.24, "right_foot_y": 0.26}, partner={"lean": 22.0, "bow": 10.0, "x": 0.40, "side": 0.0, "twist": 0.0, "left_heel_up": 0.0}),
        Step(at=stops, name="stops", performer={"x": 0.38, "y": 0.36, "z": 0.505, "lean": 4.0, "yaw": -16.0, "twist": 0.0, "right_plant": 1.0, "right_foot_x": 0.26, "right_foot_y": 0.28, "right_foot_z": 0.0, "right_heel_up": 0.0, **beside}, partner={"lean": 20.0, "x": 0.40}),
        Step(at=stops + 0.40, name="end", performer={"x": 0.36, "right_foot_x": 0.26, "right_foot_y": 0.28, "right_foot_z": 0.0, **beside}, partner={"lean": 14.0}, fixed=True),
        Step(at=stops + 0.42, performer={"right_foot_x": 0.26, "right_foot_y": 0.28, "right_foot_z": 0.0, **beside}),
        Step(at=stops + 0.80, performer={"x": 0.10, "left_foot_x": 0.3, "left_foot_y": 0.3, "left_foot_z": 0.05, "right_foot_z": 0.03}),
        Step(at=stops + 1.40, name="again", performer=PERFORMER, partner=PARTNER, fixed=True),
    ]  # fmt: skip


def _hand(how: How) -> dict[str, float]:
    """How far the right hand is from the place that it should hold, metres."""
    down = how.fault("low-lapel") + how.fault("arm-slips-down") + how.fault("shallow-underhook")
    back = how.fault("hand-slips-behind") - how.fault("hand-before-the-neck") - how.fault("hand-stays-in-front")
    return {"right_grip_x": back / 100, "right_grip_z": -down / 100}


def _lapel_arm(how: How) -> dict[str, float]:
    """The lapel arm drawn in, or stretched by so many degrees."""
    stretched = how.fault("pushes-with-the-arms")
    return {"right_grip": 0.0, "right_arm_flex": 56.0, "right_arm_bend": 110.0 - stretched} if stretched else {"right_grip": 1.0}


def _throw(how: How) -> list[Step]:
    """The leg past, the reap, and the partner on the mat."""
    short, away = how.fault("short-step") / 100, how.fault("hips-behind") / 100
    half = max(short * 0.7, how.fault("half-weight") / 100)
    swing, bow, up = how.fault("no-swing"), how.fault("stays-upright"), how.fault("trunk-stays-up")
    # The partner's shoulders are half a metre above the hips about which they tip.
    let_up = math.degrees(math.asin(max(-0.95, math.sin(math.radians(14.0)) - how.fault("daylight") / 50)))
    arm = _lapel_arm(how)
    lift = max(how.fault("reaps-high"), how.fault("reaps-the-knee")) / 100
    along = how.options.get("finish") == "fall_through"
    sunk = (how.fault("falls-on-the-partner") - how.fault("stays-behind")) / 174 + (THROUGH if along else 0.0)
    arms = {"right_flare": 24.0, "left_flare": 30.0}
    lean = 41.0 - up
    return [
        Step(
            at=HIGH,
            name="highest",
            performer={
                "x": 0.575 - half, "y": 0.42, "z": 0.520, "lean": 6.0, "yaw": -34.0, "roll": 6.0, "bow": 4.0, "right_leg_flex": 58.0 - swing, "right_leg_bend": 16.0,
                "right_leg_abd": 4.0, "right_plant": 0.0, "right_toe_up": -20.0, **arms, **arm,
            },
            partner={"lean": -9.0 - away * 40, "x": 0.495 + away, "z": 0.500, "right_plant": 1.0, "left_plant": 1.0, "left_foot_x": 0.20, "left_foot_y": -0.14, "right_foot_x": 0.36, "right_foot_y": 0.15, "left_heel_up": 18.0},
        ),
        Step(
            at=REAP,
            name="reap",
            performer={
                "x": 0.66 - half * 0.6, "y": 0.44, "z": 0.520, "lean": lean + bow * 0.8, "yaw": -42.0, "roll": 6.0, "bow": 4.0 + bow * 0.2, "nod": 10.0, "right_plant": 0.97, "right_foot_x": 0.66, "right_foot_y": 0.22,
                "right_foot_z": 0.055 + lift, "right_heel_up": 36.0, "right_foot_yaw": -4.0, "right_leg_flex": 0.0, "right_leg_bend": 8.0, **arm,
            },
            partner={"x": 0.505, "y": 0.05, "z": 0.496, "lean": -let_up, "bow": 0.0, "yaw": 186.0, "left_heel_up": 30.0, "right_plant": 1.0, "left_plant": 1.0, "nod": 10.0},
        ),
        Step(at=REAP + 0.03, partner={"right_plant": 0.9, "right_foot_x": 0.36, "right_foot_y": 0.15, "right_foot_z": 0.0}),
        Step(
            at=REAP + 0.20,
            name="through",
            performer={
                "x": 0.63, "z": 0.515, "lean": 62.0, "yaw": -26.0, "bow": 6.0, "right_plant": 0.0, "right_leg_flex": 4.0, "right_leg_bend": 22.0, "right_leg_abd": 0.0,
                "right_foot_x": 0.10, "right_foot_y": 0.14, "right_foot_z": 0.42, "right_heel_up": 60.0, "left_foot_x": 0.66 - short,
            },
            partner={
                "x": 0.68, "y": 0.04, "z": 0.340, "lean": -54.0, "bow": 8.0, "right_plant": 0.0, "right_leg_flex": 62.0, "right_leg_bend": 20.0, "left_plant": 0.6,
                "left_foot_x": 0.20, "left_heel_up": 40.0, "left_leg_flex": 40.0, "left_leg_bend": 40.0, "nod": 24.0, "right_grip": 0.4, "left_grip": 0.3, "left_arm_flex": 40.0, "left_arm_abd": 40.0, "left_arm_bend": 20.0,
            },
        ),
        Step(at=REAP + 0.34, performer={"lean": 56.0, "right_leg_flex": 20.0, "right_leg_bend": 40.0}, partner={"z": 0.165, "lean": -74.0, "left_plant": 0.1, "right_grip": 0.0, "left_grip": 0.0, "left_leg_flex": 62.0}),
        Step(
            at=DOWN,
            name="down",
            performer={
                "x": 0.50, "y": 0.38, "z": 0.455 - sunk, "lean": 44.0 + sunk * 60, "bow": 20.0, "yaw": -30.0, "nod": 16.0, "right_plant": 1.0, "right_foot_x": 0.24, "right_foot_y": 0.24,
                "right_foot_z": 0.0, "right_heel_up": 24.0, "right_foot_yaw": -30.0, "left_grip": 1.0, "right_grip": 0.0, "right_arm_flex": 50.0, "right_arm_bend": 60.0, "right_arm_abd": 0.0,
            },
            partner={
                "x": 0.90, "y": 0.02, "z": 0.076, "lean": -84.0, "bow": 12.0, "twist": 6.0, "side": 0.0, "nod": 32.0, "yaw": 184.0, "left_plant": 0.0, "right_plant": 0.0,
                "right_leg_flex": 64.0, "right_leg_bend": 46.0, "right_leg_abd": 10.0, "left_leg_flex": 56.0, "left_leg_bend": 50.0, "left_leg_abd": 12.0, "left_arm_flex": -2.0, "left_arm_abd": 46.0, "left_arm_bend": 6.0,
                "right_arm_flex": 74.0, "right_arm_bend": 14.0, "right_arm_abd": 14.0,
            },
        ),
        Step(
            at=DOWN + 0.42,
            name="end",
            performer={"x": 0.48, "z": 0.465 - sunk, "lean": 38.0 + sunk * 60, "bow": 18.0},
            partner={"x": 0.92, "z": 0.070, "lean": -88.0, "nod": 16.0, "bow": 6.0, "right_leg_flex": 42.0, "right_leg_bend": 66.0, "left_leg_flex": 40.0, "left_leg_bend": 70.0},
            fixed=True,
        ),
    ]  # fmt: skip


def _after() -> list[Step]:
    """Up again and back to where it began; no part of the rep."""
    return [
        Step(at=DOWN + 0.9, performer={"x": 0.20, "y": 0.12, "lean": 10.0, "bow": 6.0, "z": 0.50, "left_grip": 0.0, "left_foot_z": 0.05, "right_foot_z": 0.04, "left_foot_x": 0.3, "left_foot_y": 0.3}, partner={"left_plant": 0.5, "right_plant": 0.5, "left_grip": 0.0}),
        Step(
            at=DOWN + 1.4,
            performer={"x": -0.12, "left_foot_x": 0.02, "left_foot_y": 0.17, "left_foot_z": 0.0, "right_foot_x": -0.02, "right_foot_y": -0.14, "right_foot_z": 0.0, "right_plant": 1.0},
            partner={
                "x": 0.88, "y": 0.0, "z": 0.085, "lean": -28.0, "bow": 26.0, "nod": 10.0, "left_plant": 1.0, "right_plant": 1.0, "left_leg_flex": 84.0, "left_leg_bend": 100.0, "right_leg_flex": 84.0,
                "right_leg_bend": 100.0, "left_foot_x": 0.52, "left_foot_z": 0.0, "left_heel_up": 0.0, "right_foot_x": 0.46, "right_foot_z": 0.0, "right_heel_up": 0.0,
            },
        ),
        Step(at=DOWN + 2.1, partner={"x": 0.62, "z": 0.270, "lean": 34.0, "bow": 16.0, "left_plant": 1.0, "right_plant": 1.0, "left_heel_up": 20.0, "right_heel_up": 24.0, "left_foot_x": 0.52, "right_foot_x": 0.46, "left_foot_z": 0.0, "right_foot_z": 0.0}),
        Step(at=DOWN + 2.45, partner={"left_foot_z": 0.05, "right_foot_z": 0.05}),
        Step(at=DOWN + 2.8, name="again", performer=PERFORMER, partner=PARTNER, fixed=True),
    ]  # fmt: skip


def _past(moment: Moment) -> float:
    """How far the right hip is past the partner's, metres."""
    return float(moment["performer"].at["right_hip"][0] - moment["partner"].at["right_hip"][0])


def _apart(moment: Moment) -> float:
    """Distance of the reaping ankle from the partner's, level and square to the picture, metres."""
    off = moment["performer"].at["right_ankle"] - moment["partner"].at["right_ankle"]
    return float(abs(off[0]))


def _events(how: How) -> dict[str, Finder]:
    found = _usual_events()
    if how.reaction == "partner_moves_away":
        kept = {name: found[name] for name in ("pull_start", "step_starts", "step_down")}
        return kept | {"moves_away": Finder(step="away"), "body_to_hands": Finder(step="there")}
    if how.reaction == "partner_steps_back":
        return found | {"leg_back": Finder(step="back"), "hops_after": Finder(step="hop_on")}
    if how.reaction == "partner_leans":
        kept = {name: found[name] for name in ("pull_start", "step_starts", "step_down")}
        return kept | {"leans_forward": Finder(step="leans"), "stops": Finder(step="stops")}
    return found


def _usual_events() -> dict[str, Finder]:
    return {
        "pull_start": Finder(step="pull"),
        "step_starts": Finder(step="lifts", rule="rises", measure=height("performer", "left_toe"), level=ON_MAT_M, before_s=0.04, after_s=0.20),
        "step_down": Finder(step="lands", rule="falls", measure=height("performer", "left_heel", "left_toe"), level=ON_MAT_M, before_s=0.10, after_s=0.06),
        "hip_past": Finder(step="past", rule="rises", measure=_past, before_s=0.20, after_s=0.12),
        "leg_highest": Finder(step="highest", rule="highest", measure=height("performer", "right_toe"), before_s=0.10, after_s=0.10),
        "reap_contact": Finder(step="reap", rule="lowest", measure=_apart, before_s=0.07, after_s=0.02),
        "partner_down": Finder(step="down", rule="falls", measure=height("partner", "left_shoulder", "right_shoulder"), level=0.15, before_s=0.25, after_s=0.20),
    }  # fmt: skip


def _collar(me: Joints, other: Joints) -> Vector:
    """The lapel at the collarbone, held from the side so that the hand does not reach through the chest."""
    return lapel(other, -0.03, 0.03) + other.chest.forward * 0.02 * other.stature_m


def _on_the_shoulder_blade(me: Joints, other: Joints) -> Vector:
    """Under the partner's left arm, on the back of the shoulder."""
    h = other.stature_m
    return other.at["left_shoulder"] - other.chest.forward * 0.075 * h - other.chest.up * 0.05 * h - other.chest.left * 0.03 * h


MOVE = Move(
    technique="outer-reap",
    partner=True,
    faults=FAULTS,
    options={"grip": ("collarbone", "neck", "underhook"), "finish": ("controlled", "fall_through")},
    steps=_steps,
    events=_events,
    holds={
        "performer": {"left_hand": lambda me, other: sleeve(other, "right"), "right_hand": _collar},
        "partner": {
            "left_hand": lambda me, other: sleeve(other, "right"),
            "right_hand": lambda me, other: lapel(other, 0.05, 0.10) + other.chest.forward * 0.035 * other.stature_m,
        },
    },
    held_by_choice={
        "neck": {"performer": {"right_hand": lambda me, other: nape(other)}},
        "underhook": {"performer": {"right_hand": _on_the_shoulder_blade}},
    },
    reactions={"partner_steps_back": {}, "partner_leans": {}, "partner_moves_away": {}},
    flights=(("performer", "hop_off", "hop_on"),),
    middle=(0.45, 0.1),
    height=0.82,
    facing_deg=180.0,
    rung="static_partner",
)
