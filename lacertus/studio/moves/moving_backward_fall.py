"""The backward fall while walking forward: the feet walk on, the body gives way, turns over a soft hand and comes up facing back."""

from __future__ import annotations

import numpy as np

from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Move
from lacertus.studio.moves.back_fall import STANDING as FEET_LEVEL
from lacertus.studio.moves.parts import both, height

WALKING = FEET_LEVEL | {
    "x": -0.80, "z": 0.518, "spin": 0.0, "roll": 0.0, "side": 0.0, "tilt": 0.0, "nod": 0.0, "left_foot_x": -0.58, "left_foot_y": 0.10, "left_foot_yaw": 4.0, "right_foot_x": -0.92, "right_foot_y": -0.10, "right_foot_yaw": -4.0,
    "right_grip": 0.0, "right_heel_up": 20.0,
}  # fmt: skip

FAULTS = (
    Fault(code="turns-the-head-away", unit="deg", most=120.0, says="the head is turned so far from the arm that comes"),
    Fault(code="turns-too-soon", unit="ms", most=420.0, says="the body turns so much sooner"),
    Fault(code="stays-upright", unit="deg", most=46.0, says="the trunk stays so much more upright"),
    Fault(code="head-runs-in", unit="deg", most=32.0, says="the upper body and the head go on forward by so much"),
    Fault(code="feet-stop", unit="cm", most=96.0, says="the foot that walks on goes so much less far"),
    Fault(code="leg-folds", unit="cm", most=46.0, says="the leg that slides through is drawn in by so much"),
    Fault(code="posts-the-arm", unit="cm", most=34.0, says="the hand is set down so much further away, on a straight arm"),
    Fault(code="pauses-on-the-hand", unit="ms", most=700.0, says="the body waits so long on the hand"),
    Fault(code="half-turn", unit="deg", most=90.0, says="the hips turn so much less far"),
    Fault(code="head-touches", unit="deg", most=70.0, says="the head hangs so much further down to the mat"),
)  # fmt: skip

CUE, STRETCH, PAST, TURN, HAND = 0.52, 0.66, 0.92, 1.04, 1.22
ARM, SHOULDER, HIP = 0.07, 0.14, 0.20
"""How long after the hand the forearm, the shoulder and the hip touch, seconds."""
ON_MAT = np.array([-0.30, -0.30, 0.055])
"""Where the hand finds the mat, metres."""
SUPPORT = {"right_foot_x": -0.12, "right_foot_y": -0.12, "right_foot_z": 0.0}


def _steps(how: How) -> list[Step]:
    return sorted([*_walks(how), *_gives_way(how), *_turns(how), *_rises(how)], key=lambda step: step.at)


def _walks(how: How) -> list[Step]:
    return [
        Step(at=0.0, name="start", performer=WALKING, fixed=True),
        Step(at=0.20, performer={"right_foot_z": 0.05, "right_foot_x": -0.50, "right_heel_up": 10.0, "x": -0.62, **both(arm_flex=20.0)}),
        Step(at=0.42, performer={**SUPPORT, "right_heel_up": 0.0, "right_toe_up": 0.0, "x": -0.32, "z": 0.512, "left_foot_x": -0.58, "left_foot_y": 0.10, "left_foot_z": 0.0, "left_heel_up": 24.0}),
        Step(at=CUE, name="cue", performer={"x": -0.22, "z": 0.505, "lean": 0.0, "bow": 2.0, "look": 0.0, "spin": 0.0}),
    ]  # fmt: skip


def _gives_way(how: How) -> list[Step]:
    """The upper body goes back while the other foot walks on and slides through."""
    away, upright, stop = (how.fault(code) for code in ("turns-the-head-away", "stays-upright", "feet-stop"))
    soon, runs = how.fault("turns-too-soon") / 1000, how.fault("head-runs-in")
    back = -34.0 + upright * 0.9
    early = [Step(at=TURN - soon, name="turns", performer={"spin": 0.0}), Step(at=TURN - soon + 0.16, performer={"spin": -24.0})] if soon else [Step(at=TURN, name="turns", performer={"spin": 0.0})]
    foot = {"left_foot_x": 0.46 - stop / 100, "left_foot_y": 0.12, "left_foot_z": 0.01}
    return [
        *early,
        Step(at=STRETCH, name="stretch", performer={"x": -0.08, "z": 0.470, "lean": -10.0 + upright * 0.2, "bow": -4.0, "nod": 14.0, "left_foot_z": 0.04, "left_foot_x": -0.16 - stop / 250, "left_heel_up": 8.0, "look": away, **both(arm_flex=40.0, arm_bend=40.0)}),
        Step(at=PAST - 0.06, performer={**foot, "left_heel_up": 0.0, "left_toe_up": 10.0}),
        Step(at=PAST, name="past", performer={"x": 0.10, "z": 0.360, "lean": back, "bow": -4.0 + runs, "nod": 22.0 + runs, "look": away, **foot, **SUPPORT, "right_heel_up": 16.0}),
        Step(at=TURN, name="turn", performer={"x": 0.18, "z": 0.290, "lean": -50.0 + upright * 0.6, "bow": -1.0, "look": away, "right_arm_flex": 0.0, "right_arm_abd": 40.0, "right_arm_bend": 40.0}),
    ]  # fmt: skip


def _turns(how: How) -> list[Step]:
    """Over the soft hand, the arm, the shoulder and the hip, on to the front."""
    folds, far, hangs = how.fault("leg-folds") / 100, how.fault("posts-the-arm") / 100, how.fault("head-touches")
    hand = HAND
    wait = how.fault("pauses-on-the-hand") / 1000
    down = hand + wait
    hip, half = down + HIP, how.fault("half-turn")
    on_hand = {"x": 0.24, "z": 0.205, "lean": -66.0, "bow": 2.0, "spin": -46.0, "nod": 26.0, "tilt": -16.0, "look": 0.0}
    held = [Step(at=down, performer=on_hand)] if wait else []
    return [
        *held,
        Step(at=hand - 0.08, performer={"right_grip": 0.5, "right_flare": 30.0, "right_grip_x": -far, "right_grip_y": -far * 0.4}),
        Step(at=hand, name="hand", performer={**on_hand, "right_grip": 1.0, "right_grip_x": -far, "right_grip_y": -far * 0.4, "left_foot_x": 1.15 - folds, "left_foot_y": 0.14, "left_foot_z": 0.01, "left_foot_yaw": 4.0, "right_foot_yaw": -4.0, "left_toe_up": 20.0, "right_plant": 0.5, **SUPPORT, "right_heel_up": 20.0, "right_leg_flex": 64.0, "right_leg_bend": 112.0, "right_leg_abd": 26.0}),
        Step(at=down + ARM, name="arm", performer={"right_grip": 1.0, "right_flare": 60.0}),
        Step(at=down + SHOULDER, name="shoulder", performer={"x": 0.28, "z": 0.165, "lean": -80.0, "spin": -74.0 + half * 0.3, "tilt": -26.0 + hangs, "right_plant": 0.0}),
        Step(at=hip, name="hip", performer={"x": 0.30, "z": 0.118, "lean": -86.0, "right_grip": 0.4, "right_arm_flex": 100.0, "right_arm_bend": 96.0, "right_arm_abd": -30.0, "left_foot_yaw": 4.0, "right_foot_yaw": -4.0, "spin": -92.0 + half * 0.4, "nod": 20.0, "tilt": -28.0 + hangs, "left_plant": 0.6, "left_leg_flex": 20.0, "left_leg_bend": 12.0, "right_leg_flex": 64.0, "right_leg_bend": 100.0, "right_leg_abd": 10.0}),
        Step(
            at=hip + 0.26,
            name="over",
            performer={
                "x": 0.28, "z": 0.132, "lean": -86.0, "spin": -158.0 + half, "nod": -10.0, "tilt": -10.0 + hangs * 0.6, "left_plant": 0.0, "right_plant": 0.0, "left_foot_z": 0.1, "right_foot_z": 0.1, "left_leg_flex": 20.0,
                "left_leg_bend": 40.0, "right_leg_flex": 24.0, "right_leg_bend": 50.0, "right_leg_abd": 4.0, "right_grip": 0.0, "right_arm_flex": 100.0, "right_arm_bend": 90.0, "right_arm_abd": 86.0, "left_arm_flex": 140.0, "left_arm_bend": 90.0, "left_arm_abd": 24.0,
            },
        ),
    ]  # fmt: skip


def _rises(how: How) -> list[Step]:
    """Knees under, up to a stance that faces back; then round again to where it began, which is no part of the rep."""
    hip = HAND + HIP + how.fault("pauses-on-the-hand") / 1000
    half = how.fault("half-turn")
    back = hip + 0.95
    stand = {"left_foot_x": 0.12, "left_foot_y": -0.12, "left_foot_z": 0.0, "right_foot_x": 0.62, "right_foot_y": 0.12, "right_foot_z": 0.0}
    turned = {"left_foot_yaw": -176.0 + half, "right_foot_yaw": -184.0 + half}
    return [
        Step(at=hip + 0.40, performer={"x": 0.26, "z": 0.232, "lean": -72.0, "spin": -176.0 + half, "nod": -16.0, "tilt": 0.0, "left_leg_flex": 56.0, "left_leg_bend": 90.0, "right_leg_flex": 46.0, "right_leg_bend": 86.0, "right_arm_flex": 80.0, "right_arm_abd": 10.0, "right_arm_bend": 40.0, "left_arm_flex": 80.0, "left_arm_bend": 30.0, **turned}),
        Step(at=hip + 0.58, name="foot", performer={"x": 0.28, "z": 0.270, "lean": -52.0, "bow": 14.0, "left_plant": 1.0, "right_plant": 1.0, "left_heel_up": 30.0, "left_toe_up": 0.0, "right_heel_up": 50.0, **stand}),
        Step(at=back, name="back", performer={"x": 0.34, "z": 0.500, "lean": -6.0, "bow": 4.0, "spin": -180.0 + half, "nod": 0.0, "left_heel_up": 0.0, "right_heel_up": 10.0, **both(arm_flex=40.0, arm_bend=60.0, arm_abd=4.0), **stand}),
        Step(at=back + 0.30, name="end", performer={"z": 0.515, "lean": -2.0, "spin": -180.0 + half, **stand}, fixed=True),
        Step(at=back + 0.32, performer=stand),
        Step(at=back + 0.90, performer={"x": -0.30, "spin": -90.0, "lean": 0.0, "left_foot_z": 0.05, "right_foot_z": 0.05, "left_foot_x": -0.2, "right_foot_x": -0.4}),
        Step(at=back + 1.60, name="again", performer=WALKING, fixed=True),
    ]  # fmt: skip


def _events(how: How) -> dict[str, Finder]:
    return {
        "cue": Finder(step="cue"),
        "stretches": Finder(step="stretch"),
        "hips_past": Finder(step="past"),
        "turn_start": Finder(step="turns"),
        "hand_touch": Finder(step="hand", rule="falls", measure=height("performer", "right_hand"), level=0.07, before_s=0.12, after_s=0.10),
        "arm_touch": Finder(step="arm"),
        "shoulder_touch": Finder(step="shoulder"),
        "hip_touch": Finder(step="hip"),
        "foot_down": Finder(step="foot"),
        "faces_back": Finder(step="back"),
    }  # fmt: skip


MOVE = Move(
    technique="moving-backward-fall",
    partner=False,
    faults=FAULTS,
    options={"way": ("slide",)},
    steps=_steps,
    events=_events,
    holds={"performer": {"right_hand": lambda me, other: ON_MAT}},
    middle=(0.0, 0.0),
    height=0.70,
    rung="walking_alone",
)
