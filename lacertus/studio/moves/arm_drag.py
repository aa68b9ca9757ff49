"""The arm drag: the posting hand is cleared, the upper arm drawn across, and the feet go past it to the back.

What the partner does about it, and what answers that, is in arm_drag_reactions.py.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from lacertus.studio.body.figure import Joints
from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Moment, Move
from lacertus.studio.body.vectors import Vector
from lacertus.studio.moves.arm_drag_reactions import ANSWERED, HELD, TAKES, Again, locked, reaction_events
from lacertus.studio.moves.foot_sweep import PARTNER as FACED
from lacertus.studio.moves.foot_sweep import PERFORMER as FACING
from lacertus.studio.moves.parts import ON_MAT_M, height

PERFORMER = FACING | {
    "x": -0.20, "y": 0.02, "z": 0.500, "lean": 12.0, "bow": 8.0, "left_foot_x": -0.10, "left_foot_y": 0.18, "right_foot_x": 0.02, "right_foot_y": -0.16, "left_grip": 0.0,
    "right_grip": 0.0, "left_arm_flex": 44.0, "left_arm_bend": 84.0, "left_arm_abd": 6.0, "right_arm_flex": 38.0, "right_arm_bend": 80.0, "right_arm_abd": 2.0, "left_leg_bend": 20.0, "right_leg_bend": 20.0,
}  # fmt: skip
PARTNER = FACED | {
    "x": 0.48, "y": 0.0, "z": 0.495, "lean": 12.0, "bow": 8.0, "right_grip": 1.0, "right_flare": 20.0, "left_grip": 0.0, "left_foot_x": 0.46, "left_foot_y": -0.17, "right_foot_x": 0.30, "right_foot_y": 0.15,
    "right_arm_flex": 66.0, "right_arm_bend": 10.0, "right_arm_abd": 0.0, "left_arm_flex": 30.0, "left_arm_bend": 70.0, "left_arm_abd": 6.0,
}  # fmt: skip

FAULTS = (
    Fault(code="wide-circle", unit="cm", most=55.0, says="the clearing hand sweeps so far out"),
    Fault(code="hand-already-posted", unit="cm", most=42.0, says="the partner’s hand is so much nearer to the shoulder already", options={"grip": "wrist"}),
    Fault(code="grips-the-forearm", unit="cm", most=26.0, says="the second hand takes the arm so much nearer to the hand"),
    Fault(code="elbow-up", unit="deg", most=125.0, says="the drawing elbow is lifted by so much"),
    Fault(code="drags-standing", unit="ms", most=420.0, says="the foot steps so long after the pull"),
    Fault(code="half-drag", unit="cm", most=48.0, says="the arm is drawn so much less far"),
    Fault(code="steps-between", unit="cm", most=46.0, says="the foot steps so much further in, between the partner’s feet"),
    Fault(code="steps-away", unit="cm", most=30.0, says="the foot steps so far out to the side"),
    Fault(code="looks-away", unit="deg", most=110.0, says="the head is turned so far away from the partner"),
    Fault(code="hips-turn-away", unit="deg", most=105.0, says="the hips are turned so far away as the feet go round"),
    Fault(code="stays-at-arms-length", unit="cm", most=55.0, says="the hips stay so much further from the partner’s"),
    Fault(code="wide-walk", unit="cm", most=75.0, says="the hips go round in so much wider a curve"),
    Fault(code="misses-the-leg", unit="cm", most=50.0, says="the hand takes the leg so much higher than the knee", options={"take": "leg"}),
    Fault(code="misses-the-far-leg", unit="cm", most=50.0, says="the hand takes the far leg so much higher than the knee", options={"take": "far_leg"}),
    Fault(code="head-outside", unit="cm", most=42.0, says="the hips stay so much higher, and the head with them", options={"take": "under"}),
    Fault(code="stops-at-the-arm", unit="ms", most=1100.0, says="the feet wait so long at the arm"),
)  # fmt: skip

ON, CLEARED, CAUGHT, PULL = 0.35, 0.56, 0.62, 0.80
LOCKED_S = 0.70
"""How much longer it takes where the partner's fingers hold the clearing hand, seconds."""


def _steps(how: How) -> list[Step]:
    steps = sorted([*_drag(how), *_after_the_drag(how)], key=lambda step: step.at)
    if how.reaction != "hand_is_locked":
        return steps
    later = [replace(step, at=step.at + LOCKED_S) if step.at > ON else step for step in steps]
    return sorted([*later, *locked(ON, LOCKED_S)], key=lambda step: step.at)


def _hand_of_partner(how: How) -> dict[str, float]:
    """The partner's hand posts on the shoulder, or is caught by the wrist on its way there."""
    if how.options.get("grip") != "wrist":
        return {"right_grip": 1.0}
    return {"right_grip": how.fault("hand-already-posted") / 42, "right_arm_flex": 34.0, "right_arm_bend": 62.0, "right_arm_abd": 0.0}


def _start_of_partner(how: How) -> dict[str, float]:
    return PARTNER | _hand_of_partner(how)


def _lands(how: How) -> float:
    return PULL - 0.02 + how.fault("drags-standing") / 1000


def _drag(how: How) -> list[Step]:
    """The hand cleared, the arm caught, the step and the pull."""
    wide, low, up = how.fault("wide-circle") / 55.0, how.fault("grips-the-forearm") / 100, how.fault("elbow-up")
    short, look = how.fault("half-drag") / 100, how.fault("looks-away")
    lands, hand = _lands(how), _hand_of_partner(how)
    drawn = {"right_arm_flex": 54.0 - 240.0 * short, "right_arm_bend": 12.0 + 100.0 * short}
    foot = {"left_foot_x": 0.40 - how.fault("steps-away") / 180, "left_foot_y": 0.50 - how.fault("steps-between") / 100 + how.fault("steps-away") / 150}
    return [
        Step(at=0.0, name="start", performer=PERFORMER, partner=_start_of_partner(how), fixed=True),
        Step(at=ON, name="on", performer={"x": -0.18, "left_grip": 1.0, "left_switch": 0.0, "right_switch": 0.0, "right_grip": 0.0, "right_flare": 24.0}, partner={"x": 0.47, "right_switch": 0.0, **hand}),
        Step(at=(ON + CLEARED) / 2, performer={"left_grip": 1.0 - wide, "left_arm_flex": 70.0 + 75.0 * wide, "left_arm_abd": 6.0, "left_arm_bend": 84.0 - 60.0 * wide}),
        Step(at=CLEARED - 0.04, partner={"lean": 13.0, "twist": 0.0, "yaw": 180.0, "right_arm_flex": 62.0, "right_arm_abd": 0.0, "right_arm_bend": 14.0, **hand}),
        Step(at=CLEARED, name="cleared", performer={"left_grip": 1.0, "right_arm_flex": 62.0, "right_arm_bend": 40.0, "right_arm_abd": -14.0}, partner={"right_grip": hand["right_grip"] * 0.4}),
        Step(at=CAUGHT, name="caught", performer={"right_grip": 1.0, "right_grip_x": -low, "right_grip_z": -low * 0.35, "x": -0.16, "lean": 12.0}, partner={"right_grip": 0.0, "right_arm_flex": 56.0, "right_arm_abd": -4.0, "right_arm_bend": 16.0, "x": 0.46}),
        Step(at=lands - 0.26, name="lifts", performer={"left_foot_x": -0.10, "left_foot_y": 0.18, "left_foot_z": 0.0, "left_heel_up": 10.0, "left_plant": 1.0, "left_foot_yaw": 10.0, "right_plant": 1.0, "right_foot_x": 0.02, "right_foot_y": -0.16, "right_heel_up": 0.0}),
        Step(at=lands - 0.13, performer={"left_foot_z": 0.06, "left_heel_up": 6.0}),
        Step(at=CAUGHT + 0.08, partner=drawn),
        Step(at=PULL, name="pull", performer={"right_grip": 1.0, "right_grip_x": -low, "right_grip_z": -low * 0.35, "right_flare": 24.0 + up, "lean": 14.0}, partner={"right_arm_abd": -8.0, **drawn, "right_foot_yaw": 166.0, "left_foot_yaw": 196.0, "twist": 2.0, "lean": 14.0, "yaw": 180.0, "x": 0.45}),
        Step(
            at=lands,
            name="lands",
            performer={"x": 0.16, "y": 0.26, "z": 0.480, "yaw": -30.0, "lean": 16.0, "look": -14.0 + look * 0.76, "twist": look * 0.24, "left_foot_z": 0.0, "left_heel_up": 0.0, "left_foot_yaw": -30.0, "right_heel_up": 24.0, **foot},
        ),
        Step(
            at=PULL + 0.16,
            performer={"left_grip": 0.4, "right_flare": 20.0 + up},
            partner={"right_arm_flex": 40.0 + short * 60, "right_arm_abd": -38.0 + short * 70, "right_arm_bend": 8.0 + short * 90, "twist": 22.0, "lean": 18.0, "yaw": 196.0, "x": 0.43, "y": -0.02, "look": 6.0},
        ),
    ]  # fmt: skip


def _again(how: How) -> Again:
    return lambda at: Step(at=at, name="again", performer=PERFORMER | {"left_grip_z": 0.0, "right_grip_z": 0.0}, partner=_start_of_partner(how), fixed=True)


def _reaction(how: How) -> str:
    """The reaction that is shown, or that opens what is taken."""
    return how.reaction or TAKES.get(how.options.get("take", ""), "")


def _after_the_drag(how: How) -> list[Step]:
    answered = ANSWERED.get(_reaction(how))
    return answered(how, PULL, _again(how)) if answered else _behind(how)


def _behind(how: How) -> list[Step]:
    """Round the arm to the back, the hips facing the partner all the way; the arm let go and the waist held."""
    lands = _lands(how)
    wait = how.fault("stops-at-the-arm") / 1000
    away, off, wide = how.fault("hips-turn-away"), how.fault("stays-at-arms-length") / 100, how.fault("wide-walk") / 100
    left = {"left_foot_x": 0.40 - how.fault("steps-away") / 180, "left_foot_y": 0.50 - how.fault("steps-between") / 100 + how.fault("steps-away") / 150}
    there = max(lands, PULL) + wait
    behind = there + 0.50
    # Both feet stay where they came down until the rep is over.
    stand = {**left, "left_foot_z": 0.0, "right_foot_x": 0.66, "right_foot_y": 0.62, "right_foot_z": 0.0}
    place = {"x": 0.60 + off * 0.36, "y": 0.32 + off * 0.94}
    held = [] if not wait else [Step(at=there, performer={"x": 0.18, "y": 0.27, "yaw": -32.0, "lean": 14.0}, partner={"yaw": 200.0})]
    return [
        *held,
        Step(at=there + 0.06, performer={"right_foot_x": 0.02, "right_foot_y": -0.16, "right_foot_z": 0.0, "right_foot_yaw": -18.0, **left}),
        Step(
            at=there + 0.24,
            name="round",
            performer={
                "x": 0.38 + wide * 1.25, "y": 0.42 + wide * 0.5, "z": 0.485, "yaw": -66.0 - 80.0 * wide + away, "twist": -away * 0.6, "right_grip_x": 0.0, "right_grip_z": 0.0, "lean": 12.0, "look": 0.0, "right_foot_x": 0.34, "right_foot_y": 0.66 + wide * 0.5, "right_foot_z": 0.05, "right_foot_yaw": -60.0, "right_heel_up": 10.0,
                "left_heel_up": 16.0, "left_foot_yaw": -70.0, "left_grip": 0.0, "right_grip": 1.0,
            },
            partner={"yaw": 216.0, "twist": 16.0, "lean": 16.0, "right_heel_up": 10.0},
        ),
        Step(at=there + 0.36, performer={"right_foot_x": 0.66, "right_foot_y": 0.62, "right_foot_z": 0.0, "right_foot_yaw": -104.0, "right_heel_up": 0.0}, partner={"left_heel_up": 8.0}),
        Step(
            at=behind,
            name="behind",
            performer={**place, "z": 0.480, "yaw": -106.0 + away * 0.3, "twist": 0.0, "lean": 16.0, "bow": 14.0, "right_grip": 0.0, "right_arm_flex": 58.0, "right_arm_abd": 20.0, "right_arm_bend": 60.0, "left_arm_flex": 58.0, "left_arm_abd": 20.0, "left_arm_bend": 60.0},
            partner={"yaw": 236.0, "twist": 8.0, "lean": 12.0, "right_arm_flex": 20.0, "right_arm_abd": 0.0, "right_arm_bend": 30.0, "right_foot_yaw": 200.0, "left_foot_yaw": 222.0},
        ),
        Step(at=behind + 0.45, name="end", performer={"yaw": -108.0 + away * 0.2, "lean": 18.0, **stand}, partner={"yaw": 238.0}, fixed=True),
        Step(at=behind + 0.46, performer=stand),
        Step(at=behind + 0.95, performer={"x": 0.2, "y": 0.4, "lean": 8.0, "left_foot_z": 0.05, "right_foot_z": 0.05, "left_foot_x": 0.1, "right_foot_x": 0.3, "right_foot_y": 0.3}, partner={"yaw": 200.0, "left_foot_z": 0.03, "right_foot_z": 0.03}),
        Step(at=behind + 1.60, name="again", performer=PERFORMER, partner=_start_of_partner(how), fixed=True),
    ]  # fmt: skip


def _shoulder(me: Joints, other: Joints) -> Vector:
    """Where the partner's hand posts: on the near shoulder."""
    return other.at["left_shoulder"] + other.chest.forward * 0.03 * other.stature_m + other.chest.up * 0.02 * other.stature_m


def _faces_the_back(moment: Moment) -> float:
    """How much the performer is on the side of the partner's back, metres."""
    me, other = moment["performer"], moment["partner"]
    middle = (other.at["left_hip"] + other.at["right_hip"]) / 2
    mine = (me.at["left_hip"] + me.at["right_hip"]) / 2
    return float(-(mine - middle) @ other.pelvis.forward)


def _posts(moment: Moment) -> float:
    """Distance of the partner's hand from the shoulder that it posts on, metres."""
    me = moment["performer"]
    return float(np.linalg.norm(moment["partner"].at["right_wrist"] - _shoulder(moment["partner"], me)))


def _events(how: How) -> dict[str, Finder]:
    found = _usual_events()
    reaction = _reaction(how)
    dropped: tuple[str, ...] = () if reaction in ("", "partner_turns_in", "hand_is_locked") else ("behind",)
    if how.options.get("grip") == "wrist":
        dropped = (*dropped, "cleared")
    kept = {name: finder for name, finder in found.items() if name not in dropped}
    return kept | reaction_events(reaction)


def _usual_events() -> dict[str, Finder]:
    return {
        "hand_on": Finder(step="on"),
        "cleared": Finder(step="cleared", rule="rises", measure=_posts, level=0.05, before_s=0.10, after_s=0.12),
        "arm_caught": Finder(step="caught"),
        "pull_start": Finder(step="pull"),
        "step_down": Finder(step="lands", rule="falls", measure=height("performer", "left_heel", "left_toe"), level=ON_MAT_M, before_s=0.10, after_s=0.06),
        "behind": Finder(step="behind", rule="rises", measure=_faces_the_back, level=0.20, before_s=0.30, after_s=0.20),
    }  # fmt: skip


MOVE = Move(
    technique="arm-drag",
    partner=True,
    faults=FAULTS,
    options={"grip": ("post", "wrist"), "take": ("back", "leg", "far_leg", "under")},
    steps=_steps,
    events=_events,
    holds={
        "performer": {
            "left_hand": lambda me, other: other.at["right_wrist"] * 0.66 + other.at["right_elbow"] * 0.34,
            "right_hand": lambda me, other: other.at["right_shoulder"] * 0.38 + other.at["right_elbow"] * 0.62,
        },
        "partner": {"right_hand": _shoulder},
    },
    held_by_choice={take: HELD[reaction] for take, reaction in TAKES.items()},
    reactions=HELD,
    goes_with={reaction: {"take": take} for take, reaction in TAKES.items()},
    middle=(0.30, 0.1),
    height=0.82,
    facing_deg=180.0,
    rung="static_partner",
)
