"""Short moves of the families that have no featured technique yet: into the position, held, and out again.

The arm drag (takedown entries), the back held with both hooks (back takes) and the underhook from half
guard (guard work), each with the poses that its techniques start from or arrive at.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Anchor, Finder, How, Move
from lacertus.studio.moves.foot_sweep import PARTNER as STANDING_PARTNER
from lacertus.studio.moves.foot_sweep import PERFORMER as STANDING
from lacertus.studio.moves.parts import lapel, nape, sleeve

FACING = STANDING | {"x": -0.34, "left_grip": 0.0, "right_grip": 0.0, "lean": 10.0, "bow": 10.0, "z": 0.505}
FACED = STANDING_PARTNER | {"x": 0.44, "right_grip": 0.0, "lean": 8.0, "bow": 8.0, "right_arm_flex": 62.0, "right_arm_bend": 24.0}


def _drag(how: How) -> list[Step]:
    """The arm is drawn across and past, the feet step to the outside, and the chest comes to the partner's shoulder."""
    return [
        Step(at=0.0, name="start", performer=FACING, partner=FACED, fixed=True),
        Step(at=0.35, name="takes", performer={"left_grip": 1.0, "right_grip": 0.6, "x": -0.30}, partner={"right_arm_flex": 58.0}),
        Step(
            at=0.75,
            name="past",
            performer={
                "x": -0.06, "y": 0.30, "yaw": -26.0, "lean": 14.0, "bow": 12.0, "z": 0.490, "left_grip": 1.0, "right_grip": 1.0, "left_foot_x": 0.06, "left_foot_y": 0.40,
                "left_foot_yaw": -20.0, "right_foot_x": -0.06, "right_foot_y": 0.14, "right_foot_yaw": -34.0,
            },
            partner={"twist": 24.0, "lean": 12.0, "right_arm_flex": 46.0, "right_arm_abd": -30.0, "right_arm_bend": 10.0, "look": 10.0},
        ),
        Step(at=1.3, name="end", performer={"x": 0.02, "y": 0.28, "yaw": -34.0}, partner={"twist": 26.0}, fixed=True),
        Step(at=2.1, name="again", performer=FACING, partner=FACED, fixed=True),
    ]  # fmt: skip


SEATED = {
    "x": 0.16, "y": 0.0, "z": 0.066, "yaw": 0.0, "lean": -22.0, "bow": 18.0, "nod": 12.0, "roll": 0.0, "spin": 0.0, "side": 0.0, "twist": 0.0, "look": 0.0,
    "left_leg_flex": 84.0, "left_leg_bend": 76.0, "left_leg_abd": 16.0, "right_leg_flex": 84.0, "right_leg_bend": 76.0, "right_leg_abd": 16.0,
    "left_arm_flex": 46.0, "left_arm_bend": 96.0, "right_arm_flex": 46.0, "right_arm_bend": 96.0,
}  # fmt: skip
BEHIND = {
    "x": -0.14, "y": 0.0, "z": 0.070, "yaw": 0.0, "lean": -20.0, "bow": 20.0, "nod": 16.0, "roll": 0.0, "side": 6.0, "look": 0.0,
    "left_leg_flex": 80.0, "left_leg_abd": 34.0, "left_leg_bend": 70.0, "left_leg_rot": 34.0, "right_leg_flex": 80.0, "right_leg_abd": 34.0, "right_leg_bend": 70.0,
    "right_leg_rot": 34.0, "left_hook": 0.0, "right_hook": 0.0, "left_grip": 0.0, "right_grip": 0.0, "left_arm_flex": 60.0, "left_arm_bend": 50.0, "right_arm_flex": 70.0,
    "right_arm_bend": 50.0, "left_flare": 30.0, "right_flare": 50.0,
}  # fmt: skip


def _back(how: How) -> list[Step]:
    """Sitting behind: one arm over the shoulder, one under the arm, then both feet inside the thighs."""
    held = {"left_grip": 1.0, "right_grip": 1.0, "x": -0.10, "lean": -14.0, "bow": 24.0}
    return [
        Step(at=0.0, name="start", performer=BEHIND, partner=SEATED, fixed=True),
        Step(at=0.5, name="arms", performer=held, partner={"nod": 20.0}),
        Step(at=0.95, name="hooks", performer={**held, "left_hook": 1.0, "right_hook": 1.0}, partner={"lean": -30.0, "nod": 22.0}),
        Step(at=1.7, name="end", performer={**held, "lean": -26.0, "x": -0.12}, partner={"lean": -38.0, "nod": 24.0}, fixed=True),
        Step(at=2.5, name="again", performer=BEHIND, partner=SEATED, fixed=True),
    ]


GUARD = {
    "x": -0.10, "y": 0.0, "z": 0.062, "yaw": 0.0, "lean": -84.0, "roll": 0.0, "spin": 0.0, "bow": 14.0, "twist": 0.0, "side": 0.0, "nod": 26.0, "look": 0.0,
    "left_plant": 0.0, "right_plant": 0.0, "left_foot_x": 0.30, "left_foot_y": 0.34, "left_foot_z": 0.02, "left_foot_yaw": 10.0, "left_heel_up": 0.0,
    "right_foot_x": 0.30, "right_foot_y": -0.34, "right_foot_z": 0.02, "right_foot_yaw": -10.0, "right_heel_up": 0.0, "right_hook": 0.0,
    "left_leg_flex": 86.0, "left_leg_abd": 34.0, "left_leg_bend": 62.0, "left_leg_rot": 24.0, "left_toe_up": -10.0,
    "right_leg_flex": 86.0, "right_leg_abd": 34.0, "right_leg_bend": 62.0, "right_leg_rot": 24.0, "right_toe_up": -10.0,
    "left_grip": 1.0, "right_grip": 1.0, "left_flare": 30.0, "right_flare": 30.0,
    "left_arm_flex": 60.0, "left_arm_bend": 60.0, "right_arm_flex": 60.0, "right_arm_bend": 60.0,
}  # fmt: skip
KNEELING = {
    "x": 0.34, "y": 0.0, "z": 0.225, "yaw": 180.0, "lean": 8.0, "roll": 0.0, "spin": 0.0, "bow": 6.0, "twist": 0.0, "side": 0.0, "nod": 6.0, "look": 0.0,
    "left_plant": 1.0, "left_foot_x": 0.66, "left_foot_y": -0.15, "left_foot_z": 0.035, "left_foot_yaw": 180.0, "left_heel_up": 158.0, "left_toe_up": 0.0,
    "right_plant": 1.0, "right_foot_x": 0.66, "right_foot_y": 0.15, "right_foot_z": 0.035, "right_foot_yaw": 180.0, "right_heel_up": 158.0, "right_toe_up": 0.0,
    "left_leg_flex": 60.0, "left_leg_bend": 130.0, "left_leg_abd": 18.0, "right_leg_flex": 60.0, "right_leg_bend": 130.0, "right_leg_abd": 18.0,
    "left_arm_flex": 40.0, "left_arm_bend": 34.0, "left_arm_abd": 12.0, "left_arm_rot": 0.0, "right_arm_flex": 40.0, "right_arm_bend": 34.0, "right_arm_abd": 12.0,
}  # fmt: skip

HALF = GUARD | {"spin": 40.0, "y": -0.06, "left_leg_flex": 62.0, "left_leg_bend": 84.0, "left_leg_abd": 16.0, "right_leg_flex": 84.0, "right_leg_bend": 96.0, "right_leg_abd": 26.0, "left_grip": 0.0, "right_grip": 0.0}  # fmt: skip
ON_TOP = KNEELING | {"x": 0.26, "lean": 46.0, "bow": 18.0, "z": 0.235, "y": 0.06}


def _underhook(how: How) -> list[Step]:
    """On the side, the near arm threads under the partner's arm to the back, the head comes to the chest, the hips rise."""
    return [
        Step(at=0.0, name="start", performer=HALF, partner=ON_TOP, fixed=True),
        Step(at=0.45, name="threads", performer={"right_grip": 1.0, "spin": 56.0, "bow": 20.0, "right_flare": 20.0}, partner={"left_arm_abd": 40.0, "left_arm_flex": 60.0}),
        Step(at=1.0, name="up", performer={"lean": -58.0, "bow": 30.0, "x": -0.04, "z": 0.085, "spin": 50.0, "left_grip": 0.0, "left_arm_flex": 10.0, "left_arm_abd": 30.0, "left_arm_bend": 30.0}, partner={"lean": 40.0, "z": 0.25}),
        Step(at=1.6, name="end", performer={"lean": -52.0}, partner={"lean": 38.0}, fixed=True),
        Step(at=2.4, name="again", performer=HALF, partner=ON_TOP, fixed=True),
    ]  # fmt: skip


def _held(how: How) -> dict[str, Finder]:
    return {"held": Finder(step="end")}


def _entry(
    technique: str,
    steps: Callable[[How], Sequence[Step]],
    holds: Mapping[str, Anchor],
    middle: tuple[float, float],
    height: float = 0.86,
    facing_deg: float = 0.0,
) -> Move:
    return Move(
        technique=technique, partner=True, faults=(), options={}, steps=steps, events=_held, holds={"performer": holds},
        middle=middle, height=height, facing_deg=facing_deg,
    )  # fmt: skip


POSES: dict[str, Move] = {
    "takedown entry": _entry(
        "arm-drag",
        _drag,
        {
            "left_hand": lambda me, other: sleeve(other, "right"),
            "right_hand": lambda me, other: other.at["right_shoulder"] * 0.35 + other.at["right_elbow"] * 0.65,
        },
        middle=(0.05, 0.1),
    ),
    "back take": _entry(
        "inverted-back-take",
        _back,
        {
            "left_hand": lambda me, other: lapel(other, -0.03, 0.12),
            "right_hand": lambda me, other: lapel(other, 0.03, 0.05),
            "left_foot": lambda me, other: other.at["left_knee"] * 0.55 + other.at["right_hip"] * 0.20 + other.at["left_hip"] * 0.25,
            "right_foot": lambda me, other: other.at["right_knee"] * 0.55 + other.at["left_hip"] * 0.20 + other.at["right_hip"] * 0.25,
        },
        middle=(0.05, 0.0),
        height=0.42,
    ),
    "guard work": _entry(
        "half-guard-underhook",
        _underhook,
        {"right_hand": lambda me, other: nape(other) - other.chest.up * 0.22 * other.stature_m - other.chest.left * -0.06 * other.stature_m},
        middle=(0.1, 0.0),
        height=0.45,
        facing_deg=180.0,
    ),
}
"""A short move for each family without a featured technique; they have no script and no judged events yet."""
