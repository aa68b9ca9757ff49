"""What the partner does about an arm drag, and what answers it: each from the drag, or in its place, to the end of the rep."""

from __future__ import annotations

from collections.abc import Callable

from lacertus.studio.body.figure import Joints
from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Anchor, Finder, How
from lacertus.studio.body.vectors import Vector
from lacertus.studio.moves.parts import nape

Again = Callable[[float], Step]
"""The step at which both stand again as they began, at a time."""
Answer = Callable[[How, float, Again], list[Step]]
"""How a rep is done, when the pull begins (seconds), and how both begin again → the steps from the pull on."""
BESIDE = {"left_foot_x": 0.40, "left_foot_y": 0.50, "left_foot_z": 0.0}
"""Where the foot that stepped stands, outside the partner's near foot."""
REAR = {"right_foot_x": 0.02, "right_foot_y": -0.16, "right_foot_z": 0.0}
LOW = {"z": 0.330, "lean": 44.0, "bow": 16.0, "nod": -20.0, "look": 0.0, "twist": 0.0}
"""Down to a leg, the head up."""


def _to_the_leg(how: How, pull: float, again: Again) -> list[Step]:
    """The elbow is pulled away: the arm is let go, and the near leg taken behind the knee."""
    back = pull + 0.26
    taken, high = back + 0.40, how.fault("misses-the-leg") / 100
    return [
        Step(at=back, name="elbow_back", performer={"left_switch": 0.0, **BESIDE, **REAR}, partner={"right_arm_flex": 34.0, "right_arm_bend": 20.0, "twist": 18.0, "yaw": 194.0}),
        Step(at=back + 0.18, performer={"right_grip": 0.0, "left_grip": 0.0, "left_switch": 0.0}, partner={"right_arm_flex": -46.0, "right_arm_bend": 86.0, "right_arm_abd": 6.0, "twist": -16.0, "yaw": 184.0, "lean": 8.0}),
        Step(at=back + 0.24, performer={"left_switch": 1.0}),
        Step(
            at=taken,
            name="leg_taken",
            performer={
                "x": 0.18, "y": 0.38, **LOW, "yaw": -52.0, "left_grip": 1.0, "left_grip_z": high, "left_flare": 40.0, "right_arm_flex": 74.0, "right_arm_bend": 40.0,
                "right_arm_abd": 10.0, "left_heel_up": 14.0, "right_heel_up": 40.0,
            },
            partner={"right_arm_flex": 10.0, "right_arm_bend": 60.0, "twist": 0.0, "lean": 16.0},
        ),
        Step(at=taken + 0.5, name="end", performer={"z": 0.320, "lean": 46.0, **BESIDE, **REAR}, fixed=True),
        *_up_again(taken + 0.52, again),
    ]  # fmt: skip


def _up_again(at: float, again: Again) -> list[Step]:
    """From a leg back to where both began, which is no part of the rep."""
    return [
        Step(at=at, performer={**BESIDE, **REAR}),
        Step(at=at + 0.48, performer={"left_foot_z": 0.05, "right_foot_z": 0.03, "left_foot_x": 0.1, "left_foot_y": 0.3, "lean": 14.0, "z": 0.48, "left_grip": 0.0, "right_grip": 0.0}),
        again(at + 1.08),
    ]  # fmt: skip


def _circling_on(how: How, pull: float, again: Again) -> list[Step]:
    """The partner turns in to face: the feet keep circling, one step more, to the back as it is then."""
    circles, behind = pull + 0.62, pull + 1.05
    right = {"right_foot_x": 0.66, "right_foot_y": 0.60, "right_foot_z": 0.0}
    stand = {"left_foot_x": 1.00, "left_foot_y": -0.12, "left_foot_z": 0.0, "right_foot_x": 1.00, "right_foot_y": 0.14, "right_foot_z": 0.0}
    arms = {"right_arm_flex": 58.0, "right_arm_abd": 20.0, "right_arm_bend": 60.0, "left_arm_flex": 58.0, "left_arm_abd": 20.0, "left_arm_bend": 60.0}
    return [
        Step(at=pull + 0.06, performer={**REAR, "right_foot_yaw": -18.0, **BESIDE}),
        Step(at=pull + 0.24, name="turns_in", performer={"x": 0.36, "y": 0.42, "z": 0.485, "yaw": -66.0, "lean": 12.0, "look": 0.0, "left_grip": 0.0, "right_foot_x": 0.34, "right_foot_y": 0.66, "right_foot_z": 0.05, "right_foot_yaw": -60.0, "left_foot_yaw": -70.0}, partner={"yaw": 214.0, "twist": 16.0, "lean": 16.0}),
        Step(at=pull + 0.38, performer={**right, "right_foot_yaw": -110.0, "left_heel_up": 14.0}, partner={"twist": -4.0, "yaw": 190.0}),
        Step(at=pull + 0.42, performer={**BESIDE, **right}),
        Step(at=pull + 0.52, performer={"x": 0.62, "y": 0.40, "yaw": -108.0, "left_foot_z": 0.06, "left_foot_x": 0.66, "left_foot_y": 0.34, "left_foot_yaw": -130.0, "right_grip": 0.0}, partner={"yaw": 158.0, "lean": 12.0, "right_arm_flex": 40.0, "right_arm_abd": 10.0, "right_arm_bend": 50.0, "right_foot_yaw": 140.0, "left_foot_yaw": 170.0}),
        Step(at=circles, name="circles_on", performer={"left_foot_x": 1.00, "left_foot_y": -0.12, "left_foot_z": 0.0, "left_foot_yaw": -176.0, "left_heel_up": 0.0, **right}, partner={"yaw": 150.0}),
        Step(at=pull + 0.80, performer={"x": 0.86, "y": 0.18, "yaw": -158.0, "right_foot_z": 0.06, "right_foot_x": 1.00, "right_foot_y": 0.36, "right_foot_yaw": -170.0, **arms}),
        Step(at=pull + 0.94, performer={**stand, "right_foot_yaw": -200.0}),
        Step(at=behind, name="behind", performer={"x": 0.80, "y": -0.08, "z": 0.480, "yaw": -200.0, "lean": 16.0, "bow": 14.0, **arms}, partner={"yaw": 150.0, "lean": 12.0}),
        Step(at=behind + 0.45, name="end", performer={"yaw": -202.0, "lean": 18.0, **stand}, partner={"yaw": 150.0}, fixed=True),
        Step(at=behind + 0.46, performer=stand),
        Step(at=behind + 1.10, performer={"x": 0.5, "y": 0.5, "yaw": -100.0, "left_foot_z": 0.05, "right_foot_z": 0.05}, partner={"yaw": 180.0, "left_foot_z": 0.03, "right_foot_z": 0.03}),
        again(behind + 1.90),
    ]  # fmt: skip


def _under_the_arm(how: How, pull: float, again: Again) -> list[Step]:
    """The near foot steps back, which straightens the trunk: the head goes under the arm, both hands behind the knees."""
    steps, under, tall = pull + 0.26, pull + 0.74, how.fault("head-outside") / 174
    near = {"right_foot_x": 0.72, "right_foot_y": 0.20, "right_foot_z": 0.0}
    return [
        Step(at=steps - 0.02, performer={**BESIDE, **REAR, "left_switch": 0.0, "right_switch": 0.0}, partner={"right_foot_x": 0.30, "right_foot_y": 0.15, "right_foot_z": 0.0}),
        Step(at=steps + 0.12, performer={"right_grip": 1.0, "left_grip": 0.0}, partner={"right_foot_x": 0.52, "right_foot_y": 0.18, "right_foot_z": 0.05, "left_heel_up": 0.0}),
        Step(at=steps + 0.24, name="stepped", performer={"right_grip": 0.0, "right_switch": 0.0}, partner={**near, "x": 0.54, "lean": 2.0, "bow": 2.0, "twist": 10.0, "yaw": 190.0, "right_arm_flex": 62.0, "right_arm_abd": 36.0, "right_arm_bend": 20.0}),
        Step(at=steps + 0.28, performer={"right_switch": 1.0, "left_switch": 1.0}),
        Step(
            at=under,
            name="under",
            performer={"x": 0.22, "y": 0.26, **LOW, "z": 0.296 + tall, "yaw": -30.0, "lean": 44.0, "left_grip": 0.8, "right_grip": 0.8, "left_flare": 60.0, "right_flare": 50.0, "left_heel_up": 10.0, "right_heel_up": 50.0},
            partner={"right_arm_flex": 88.0, "right_arm_abd": 44.0, "right_arm_bend": 30.0, "twist": 4.0, "lean": 10.0},
        ),
        Step(at=under + 0.20, name="legs_taken", performer={"x": 0.24, "left_grip": 1.0, "right_grip": 1.0}, partner={"lean": 24.0, "bow": 12.0}),
        Step(at=under + 0.60, name="end", performer={"z": 0.305 + tall, **BESIDE, **REAR}, partner=near, fixed=True),
        *_up_again(under + 0.62, again),
        Step(at=under + 0.64, partner=near),
        Step(at=under + 1.20, partner={"right_foot_z": 0.05}),
    ]  # fmt: skip


def _legs_from_the_front(how: How, pull: float, again: Again) -> list[Step]:
    """The partner stands up tall against the drag: down in front, both hands behind the knees."""
    rises, taken = pull + 0.26, pull + 0.78
    return [
        Step(at=rises, name="rises", performer={**BESIDE, **REAR, "left_switch": 0.0, "right_switch": 0.0}, partner={"lean": 15.0}),
        Step(at=rises + 0.22, performer={"right_grip": 0.0, "left_grip": 0.0, "right_switch": 0.0}, partner={"x": 0.44, "z": 0.515, "lean": -4.0, "bow": 0.0, "twist": 0.0, "yaw": 184.0, "right_arm_flex": 40.0, "right_arm_abd": 20.0, "right_arm_bend": 60.0}),
        Step(at=rises + 0.26, performer={"right_switch": 1.0, "left_switch": 1.0}),
        Step(
            at=taken,
            name="legs_taken",
            performer={"x": 0.14, "y": 0.20, **LOW, "z": 0.315, "yaw": -22.0, "left_grip": 1.0, "right_grip": 1.0, "left_flare": 60.0, "right_flare": 50.0, "left_heel_up": 6.0, "right_heel_up": 50.0},
            partner={"lean": 6.0, "right_arm_flex": 60.0, "right_arm_abd": 24.0},
        ),
        Step(at=taken + 0.40, name="end", performer={"x": 0.17, "z": 0.310, **BESIDE, **REAR}, partner={"lean": 14.0}, fixed=True),
        *_up_again(taken + 0.42, again),
    ]  # fmt: skip


def _through_to_the_far_leg(how: How, pull: float, again: Again) -> list[Step]:
    """The partner turns away from the drag: the back comes, and the working hand reaches through to the far knee."""
    turns, taken, high = pull + 0.26, pull + 0.84, how.fault("misses-the-far-leg") / 100
    feet = {"left_foot_x": 0.62, "left_foot_y": -0.10, "left_foot_z": 0.0, "right_foot_x": 0.34, "right_foot_y": 0.06, "right_foot_z": 0.0}
    before = {"left_foot_x": 0.46, "left_foot_y": -0.17, "left_foot_z": 0.0, "right_foot_x": 0.30, "right_foot_y": 0.15, "right_foot_z": 0.0}
    return [
        Step(at=turns, name="turns_away", performer={**BESIDE, **REAR, "right_switch": 0.0}, partner={**before, "yaw": 206.0}),
        Step(at=turns + 0.12, performer={"right_grip": 0.4, "left_grip": 0.0}, partner={"left_foot_x": 0.58, "left_foot_y": -0.14, "left_foot_z": 0.05, "left_foot_yaw": 240.0, "right_foot_yaw": 196.0, "yaw": 226.0, "twist": 20.0}),
        Step(at=turns + 0.24, performer={"right_grip": 0.0, "right_switch": 0.0, "right_arm_flex": 50.0, "right_arm_bend": 50.0}, partner={"left_foot_x": 0.62, "left_foot_y": -0.10, "left_foot_z": 0.0, "left_foot_yaw": 268.0, "yaw": 246.0, "twist": 10.0, "right_arm_flex": 30.0, "right_arm_abd": 4.0, "right_arm_bend": 70.0, **{k: v for k, v in before.items() if k.startswith("right")}}),
        Step(at=turns + 0.28, performer={"right_switch": 1.0}),
        Step(at=turns + 0.34, partner={"right_foot_x": 0.32, "right_foot_y": 0.10, "right_foot_z": 0.03, "right_foot_yaw": 236.0}),
        Step(at=turns + 0.42, partner={**feet, "right_foot_yaw": 262.0, "yaw": 262.0, "twist": 0.0, "lean": 14.0, "x": 0.47, "y": 0.02}),
        Step(
            at=taken,
            name="far_leg_taken",
            performer={"x": 0.26, "y": 0.40, **LOW, "z": 0.320, "yaw": -50.0, "right_grip": 1.0, "right_grip_z": high, "right_flare": 40.0, "left_arm_flex": 60.0, "left_arm_abd": 6.0, "left_arm_bend": 60.0, "left_heel_up": 10.0, "right_heel_up": 46.0},
            partner={"yaw": 266.0, "lean": 16.0},
        ),
        Step(at=taken + 0.45, name="end", performer={"z": 0.315, **BESIDE, **REAR}, partner={"yaw": 266.0, **feet}, fixed=True),
        *_up_again(taken + 0.47, again),
        Step(at=taken + 0.49, partner=feet),
        Step(at=taken + 1.05, partner={"left_foot_z": 0.05, "right_foot_z": 0.05, "yaw": 210.0}),
    ]  # fmt: skip


def _head_held(how: How, pull: float, again: Again) -> list[Step]:
    """The partner draws one's own arm across: the free arm is clamped high under theirs, and the other hand holds the head."""
    draws, held = pull + 0.26, pull + 0.74
    stand = {**BESIDE, **REAR}
    return [
        Step(at=draws - 0.06, performer={"right_grip": 1.0, "left_grip": 0.4, "left_switch": 0.0, "right_switch": 0.0}, partner={"right_grip": 0.0, "right_switch": 0.0}),
        Step(at=draws, name="drags_back", performer={"x": 0.15, "right_grip": 0.5, **stand}, partner={"right_grip": 0.8, "right_switch": 1.0, "right_flare": 40.0, "twist": 0.0, "lean": 12.0}),
        Step(at=draws + 0.20, performer={"x": 0.16, "y": 0.20, "yaw": -12.0, "twist": 20.0, "lean": 18.0, "right_grip": 0.0, "left_grip": 0.0, "right_switch": 0.0, "left_switch": 0.0, "right_arm_flex": 62.0, "right_arm_abd": -10.0, "right_arm_bend": 20.0, "left_arm_flex": 40.0, "left_arm_bend": 70.0}, partner={"right_grip": 1.0, "twist": -16.0, "yaw": 190.0, "lean": 10.0, "x": 0.44}),
        Step(at=draws + 0.24, performer={"left_switch": 1.0, "right_switch": 1.0}),
        Step(
            at=held,
            name="head_held",
            performer={"x": 0.12, "y": 0.20, "z": 0.475, "yaw": -26.0, "twist": 0.0, "lean": 20.0, "bow": 10.0, "left_grip": 1.0, "right_grip": 1.0, "left_flare": 50.0, "right_flare": 50.0, "left_heel_up": 4.0, "right_heel_up": 14.0},
            partner={"right_grip": 0.0, "right_arm_flex": 50.0, "right_arm_abd": 24.0, "right_arm_bend": 50.0, "twist": 0.0, "lean": 26.0, "bow": 18.0, "nod": 16.0, "yaw": 184.0, "x": 0.48},
        ),
        Step(at=held + 0.45, name="end", performer={"lean": 22.0, **stand}, partner={"lean": 30.0, "nod": 18.0}, fixed=True),
        *_up_again(held + 0.47, again),
    ]  # fmt: skip


def locked(on: float, by_s: float) -> list[Step]:
    """The partner's fingers close on the clearing hand; the wrist is turned inward and peeled out of them, then takes hold again."""
    locks, peeled = on + 0.14, on + by_s - 0.06
    return [
        Step(at=locks - 0.08, performer={"left_grip": 1.0}, partner={"right_switch": 0.0, "right_grip": 1.0}),
        Step(at=locks, name="locks_fingers", performer={"left_grip": 0.0, "left_arm_flex": 54.0, "left_arm_abd": 0.0, "left_arm_bend": 146.0}, partner={"right_grip": 1.0, "right_switch": 1.0, "right_flare": 24.0}),
        Step(at=locks + 0.22, performer={"left_arm_flex": 50.0, "left_arm_abd": 6.0, "left_arm_bend": 144.0, "lean": 10.0, "x": -0.20}, partner={"right_grip": 1.0}),
        Step(at=peeled - 0.10, performer={"left_arm_flex": 48.0, "left_arm_abd": 4.0, "left_arm_bend": 142.0, "left_arm_rot": 16.0}, partner={"right_grip": 1.0, "right_switch": 1.0}),
        Step(at=peeled, name="peeled", performer={"left_grip": 0.0, "left_arm_flex": 54.0, "left_arm_abd": 0.0, "left_arm_bend": 136.0, "left_arm_rot": 0.0}, partner={"right_grip": 0.0, "right_switch": 1.0, "right_arm_flex": 40.0, "right_arm_bend": 120.0}),
        Step(at=peeled + 0.06, performer={"left_grip": 1.0, "x": -0.18, "lean": 12.0}, partner={"right_grip": 0.6, "right_switch": 0.0}),
    ]  # fmt: skip


TAKES = {"leg": "partner_pulls_the_elbow", "under": "partner_steps_back", "far_leg": "partner_turns_away"}
"""What is taken, and the reaction that opens it."""
ANSWERED: dict[str, Answer] = {
    "partner_turns_in": _circling_on,
    "partner_pulls_the_elbow": _to_the_leg,
    "partner_steps_back": _under_the_arm,
    "partner_rises": _legs_from_the_front,
    "partner_turns_away": _through_to_the_far_leg,
    "partner_drags": _head_held,
}
"""By reaction: the steps from the pull on."""


def reaction_events(reaction: str) -> dict[str, Finder]:
    """The events that come with a reaction and its answer."""
    found = {
        "partner_turns_in": {"turns_in": "turns_in", "circles_on": "circles_on"},
        "partner_pulls_the_elbow": {"elbow_back": "elbow_back", "leg_taken": "leg_taken"},
        "partner_steps_back": {"leg_back": "stepped", "head_under": "under", "legs_taken": "legs_taken"},
        "partner_rises": {"rises": "rises", "legs_taken": "legs_taken"},
        "partner_turns_away": {"turns_away": "turns_away", "far_leg_taken": "far_leg_taken"},
        "partner_drags": {"drags_back": "drags_back", "head_held": "head_held"},
        "hand_is_locked": {"locks_fingers": "locks_fingers", "peeled": "peeled"},
    }  # fmt: skip
    return {event: Finder(step=step) for event, step in found.get(reaction, {}).items()}


def _behind_the_knee(side: str) -> Anchor:
    return lambda me, other: other.at[f"{side}_knee"] - other.pelvis.forward * 0.06 * other.stature_m


def _under_the_near_arm(me: Joints, other: Joints) -> Vector:
    """High on the back, under the partner's right arm."""
    h = other.stature_m
    return other.at["right_shoulder"] - other.chest.forward * 0.075 * h - other.chest.up * 0.05 * h + other.chest.left * 0.02 * h


def _above_the_elbow(me: Joints, other: Joints) -> Vector:
    return other.at["right_elbow"] * 0.7 + other.at["right_shoulder"] * 0.3


NEAR_LEG = {"performer": {"left_hand": _behind_the_knee("right")}}
BOTH_LEGS = {"performer": {"left_hand": _behind_the_knee("right"), "right_hand": _behind_the_knee("left")}}
HELD: dict[str, dict[str, dict[str, Anchor]]] = {
    "partner_turns_in": {},
    "partner_pulls_the_elbow": NEAR_LEG,
    "partner_steps_back": BOTH_LEGS,
    "partner_rises": BOTH_LEGS,
    "partner_turns_away": {"performer": {"right_hand": _behind_the_knee("left")}},
    "partner_drags": {
        "performer": {"left_hand": _under_the_near_arm, "right_hand": lambda me, other: nape(other)},
        "partner": {"right_hand": _above_the_elbow},
    },
    "hand_is_locked": {"partner": {"right_hand": lambda me, other: other.at["left_wrist"]}},
}
"""What is held otherwise with each reaction."""
