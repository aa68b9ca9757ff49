"""The back fall: down into the knees, seat near the heels, a round roll, both arms striking, the head kept off the mat."""

from __future__ import annotations

from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Moment, Move
from lacertus.studio.moves.parts import both, height

STANDING = {
    "x": 0.0, "y": 0.0, "z": 0.526, "yaw": 0.0, "lean": 1.0, "bow": 2.0, "twist": 0.0, "nod": 8.0, "look": 0.0,
    "left_plant": 1.0, "left_foot_x": 0.12, "left_foot_y": 0.13, "left_foot_z": 0.0, "left_foot_yaw": 12.0, "left_heel_up": 0.0, "left_toe_up": 0.0,
    "right_plant": 1.0, "right_foot_x": 0.12, "right_foot_y": -0.13, "right_foot_z": 0.0, "right_foot_yaw": -12.0, "right_heel_up": 0.0, "right_toe_up": 0.0,
    "left_leg_flex": 20.0, "left_leg_bend": 30.0, "left_leg_abd": 6.0, "right_leg_flex": 20.0, "right_leg_bend": 30.0, "right_leg_abd": 6.0,
    "left_arm_flex": 20.0, "left_arm_abd": 4.0, "left_arm_bend": 20.0, "left_arm_rot": 0.0,
    "right_arm_flex": 20.0, "right_arm_abd": 4.0, "right_arm_bend": 20.0, "right_arm_rot": 0.0,
}  # fmt: skip

FAULTS = (
    Fault(code="head-back", unit="deg", most=80.0, says="the chin leaves the chest and the head goes back"),
    Fault(code="late-strike", unit="ms", most=400.0, says="the arms strike so long after the shoulders"),
    Fault(code="drops-seat", unit="share", most=1.0, says="the seat drops from height, away from the heels"),
    Fault(code="flat-back", unit="share", most=1.0, says="the back does not round and comes down at once"),
    Fault(code="hands-behind", unit="share", most=1.0, says="the hands reach back for the mat"),
)


def _steps(how: How) -> list[Step]:
    head, drop, flat, behind = (how.fault(code) for code in ("head-back", "drops-seat", "flat-back", "hands-behind"))
    low, seat = 0.55, 0.92 - 0.18 * drop
    shoulders = seat + 0.26 - 0.25 * flat
    strike = shoulders + 0.05 + how.fault("late-strike") / 1000
    rolled, rest = shoulders + 0.28, shoulders + 0.80
    bow = 46.0 * (1 - flat) + 4.0
    tucked = 34.0 - head
    reach = both(arm_flex=80.0 - 110.0 * behind, arm_abd=6.0 + 14.0 * behind, arm_bend=14.0)
    found = [
        Step(at=0.0, name="start", performer=STANDING, fixed=True),
        Step(at=low, name="low", performer={"x": -0.03, "z": 0.25 + 0.12 * drop, "lean": 22.0, "bow": 22.0, "nod": 26.0 - head * 0.3, **both(heel_up=16.0), **reach}),
        Step(
            at=seat,
            name="seat",
            performer={
                "x": -0.20 - 0.16 * drop, "z": 0.080, "lean": -14.0, "bow": bow, "nod": tucked + 4.0, **both(plant=1.0, heel_up=0.0, leg_flex=110.0, leg_bend=110.0), **reach,
            },
        ),
        Step(
            at=shoulders,
            name="shoulders",
            performer={
                "x": -0.32 - 0.16 * drop, "z": 0.072, "lean": -98.0 + 14.0 * flat, "bow": bow * 0.55, "nod": tucked,
                **both(plant=0.0, foot_z=0.12, leg_flex=100.0, leg_bend=70.0, toe_up=0.0),
            },
        ),
        Step(at=strike - 0.14, name="swings", performer=reach),
        Step(at=strike, name="strike", performer=both(arm_flex=-4.0 - 8.0 * behind, arm_abd=44.0, arm_bend=4.0)),
        Step(
            at=rolled,
            name="rolled",
            performer={"x": -0.36 - 0.16 * drop, "z": 0.080, "lean": -106.0, "bow": 26.0, "nod": tucked, **both(leg_flex=104.0, leg_bend=44.0)},
        ),
        Step(
            at=rest,
            name="rest",
            performer={"x": -0.34 - 0.16 * drop, "z": 0.064, "lean": -90.0, "bow": 10.0, "nod": tucked - 4.0, **both(leg_flex=58.0, leg_bend=84.0, arm_flex=-2.0, arm_abd=44.0, arm_bend=6.0)},
        ),
        Step(at=rest + 0.25, name="end", performer={"z": 0.064, "lean": -90.0}, fixed=True),
        Step(at=rest + 0.85, performer={"x": -0.24, "z": 0.082, "lean": -18.0, "bow": 34.0, "nod": 12.0, **both(plant=1.0, foot_z=0.0, foot_x=0.12, leg_flex=100.0, leg_bend=104.0, arm_flex=70.0, arm_abd=6.0)}),
        Step(at=rest + 1.45, performer={"x": -0.02, "z": 0.27, "lean": 34.0, "bow": 20.0, **both(heel_up=14.0)}),
        Step(at=rest + 2.10, name="again", performer=STANDING, fixed=True),
    ]  # fmt: skip
    return sorted(found, key=lambda step: step.at)


def _hands(moment: Moment) -> float:
    """Height of the higher hand, metres."""
    at = moment["performer"].at
    return float(max(at["left_hand"][2], at["right_hand"][2]))


def _events(how: How) -> dict[str, Finder]:
    return {
        "seat_down": Finder(step="seat", rule="falls", measure=height("performer", "left_hip", "right_hip"), level=0.16, before_s=0.20, after_s=0.14),
        "shoulders_down": Finder(step="shoulders", rule="falls", measure=height("performer", "left_shoulder", "right_shoulder"), level=0.17, before_s=0.16, after_s=0.20),
        "arms_strike": Finder(step="strike", rule="falls", measure=_hands, level=0.09, before_s=0.13, after_s=0.20),
        "still": Finder(step="rest"),
    }  # fmt: skip


MOVE = Move(
    technique="back-fall",
    partner=False,
    faults=FAULTS,
    options={"rise": ("stay",)},
    steps=_steps,
    events=_events,
    middle=(-0.20, 0.0),
    height=0.62,
    rung="standing",
)
