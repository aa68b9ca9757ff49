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
    Fault(code="head-back", unit="deg", most=80.0, says="the chin leaves the chest and the head goes back by so much"),
    Fault(code="head-touches", unit="deg", most=70.0, says="the head goes back by so much after the shoulders have landed"),
    Fault(code="late-strike", unit="ms", most=400.0, says="the arms strike so long after the shoulders"),
    Fault(code="arms-at-shoulder-height", unit="deg", most=46.0, says="the arms strike so much further out"),
    Fault(code="drops-seat", unit="cm", most=44.0, says="the seat lands so much further from the heels, from height"),
    Fault(code="stiff-legs", unit="deg", most=100.0, says="the knees bend so much less as the seat lands"),
    Fault(code="flat-back", unit="deg", most=46.0, says="the back is so much less round and comes down at once"),
    Fault(code="shoulders-first", unit="ms", most=420.0, says="the shoulders land so much sooner, before the seat"),
    Fault(code="hands-behind", unit="deg", most=110.0, says="the arms point so much further back as the seat lands"),
    Fault(code="legs-crash", unit="deg", most=64.0, says="the thighs fall by so much as the body rolls"),
)

LOW, SEAT = 0.55, 0.92


def _steps(how: How) -> list[Step]:
    down, end = _down(how)
    rises = _folds(end) if how.options.get("rise") == "fold" else _stays(end)
    return sorted([*down, *rises], key=lambda step: step.at)


def _times(how: How) -> tuple[float, float, float]:
    """When the seat and the shoulders land and the arms strike, seconds."""
    seat = SEAT - 0.18 * how.fault("drops-seat") / 44
    shoulders = seat + 0.26 - 0.25 * how.fault("flat-back") / 46 - how.fault("shoulders-first") / 1000
    return seat, shoulders, shoulders + 0.05 + how.fault("late-strike") / 1000


def _down(how: How) -> tuple[list[Step], float]:
    """From standing to lying still, and when that is."""
    seat, shoulders, strike = _times(how)
    head, far, behind = how.fault("head-back"), how.fault("drops-seat") / 100, how.fault("hands-behind")
    flat, touches, wide, crash = (how.fault(code) for code in ("flat-back", "head-touches", "arms-at-shoulder-height", "legs-crash"))
    early = max(0.0, seat - shoulders)
    rolled, rest = max(seat, shoulders) + 0.28, max(seat, shoulders) + 0.80
    bow = 50.0 - flat
    tucked = 34.0 - head
    reach = both(arm_flex=80.0 - behind, arm_abd=6.0 + 0.13 * behind, arm_bend=14.0)
    stiff = how.fault("stiff-legs")
    legs = both(plant=0.0, foot_z=0.0, leg_flex=118.0 - stiff * 0.4, leg_bend=118.0 - stiff) if stiff else both(plant=1.0, leg_flex=110.0, leg_bend=110.0)
    on_seat = {"x": -0.20 - far, "z": 0.080, "lean": -14.0, "bow": bow, "nod": tucked + 4.0, **legs, **both(heel_up=0.0), **reach}
    on_back = {"x": -0.32 - far, "z": 0.072, "lean": -98.0 + 0.3 * flat, "bow": bow * 0.55, "nod": tucked, **both(plant=0.0, foot_z=0.12, leg_flex=100.0, leg_bend=70.0, toe_up=0.0)}
    if early:
        # The hips are still in the air when the shoulders land, and come down after them.
        on_back |= {"z": 0.072 + 0.9 * early, "lean": -106.0 - 190.0 * early}
        on_seat = {"x": -0.34, "z": 0.082, "lean": -92.0, **both(plant=0.0, leg_flex=90.0, leg_bend=70.0), "bow": 4.0, "nod": tucked}
    return [
        Step(at=0.0, name="start", performer=STANDING, fixed=True),
        Step(at=LOW - early, name="low", performer={"x": -0.03, "z": 0.25 + 0.3 * far, "lean": 22.0, "bow": 22.0, "nod": 26.0 - head * 0.3, **both(heel_up=16.0), **reach}),
        Step(at=seat, name="seat", performer=on_seat),
        Step(at=shoulders, name="shoulders", performer=on_back),
        Step(at=strike - 0.14, name="swings", performer=reach),
        Step(at=strike, name="strike", performer=both(arm_flex=-4.0 - 0.07 * behind, arm_abd=44.0 + wide, arm_bend=4.0)),
        Step(at=rolled, name="rolled", performer={"x": -0.36 - far, "z": 0.080, "lean": -106.0, "bow": 26.0, "nod": tucked - touches, **both(plant=0.0, leg_flex=104.0 - crash, leg_bend=44.0 - crash * 0.5)}),
        Step(at=rest, name="rest", performer={"x": -0.34 - far, "z": 0.064, "lean": -90.0, "bow": 10.0, "nod": tucked - 4.0 - touches, **both(plant=0.0, leg_flex=58.0 - crash, leg_bend=84.0 - crash * 1.25, arm_flex=-2.0, arm_abd=44.0, arm_bend=6.0)}),
    ], rest  # fmt: skip


def _stays(rest: float) -> list[Step]:
    """Lies still; then up to where it began, which is no part of the rep."""
    return [
        Step(at=rest + 0.25, name="end", performer={"z": 0.064, "lean": -90.0, **both(plant=0.0)}, fixed=True),
        Step(at=rest + 0.85, performer={"x": -0.24, "z": 0.082, "lean": -18.0, "bow": 34.0, "nod": 12.0, **both(plant=1.0, foot_z=0.0, foot_x=0.12, leg_flex=100.0, leg_bend=104.0, arm_flex=70.0, arm_abd=6.0)}),
        Step(at=rest + 1.45, performer={"x": -0.02, "z": 0.27, "lean": 34.0, "bow": 20.0, **both(heel_up=14.0)}),
        Step(at=rest + 2.10, name="again", performer=STANDING, fixed=True),
    ]  # fmt: skip


def _folds(rest: float) -> list[Step]:
    """Rocks forward onto a folded leg and stands up over the other foot."""
    up = {"left_plant": 0.0, "left_foot_z": 0.0, "right_plant": 1.0, "right_foot_x": 0.12, "right_foot_z": 0.0}
    folded = {"left_leg_flex": 78.0, "left_leg_abd": 26.0, "left_leg_bend": 142.0, "left_leg_rot": 44.0}
    return [
        Step(at=rest + 0.02, performer=both(plant=0.0, foot_z=0.06)),
        Step(at=rest + 0.34, performer={"x": -0.26, "z": 0.080, "lean": -40.0, "bow": 36.0, "nod": 16.0, **both(arm_flex=66.0, arm_abd=8.0, arm_bend=20.0, leg_flex=96.0, leg_bend=100.0)}),
        Step(at=rest + 0.62, name="folded", performer={"x": -0.22, "z": 0.082, "lean": 8.0, "bow": 30.0, **folded, **up, "right_leg_bend": 112.0}),
        Step(at=rest + 0.86, performer={"x": -0.13, "z": 0.160, "lean": 46.0, "bow": 22.0, "left_leg_flex": 96.0, "left_leg_abd": 14.0, "left_leg_bend": 148.0, "left_leg_rot": 20.0, **up}),
        Step(at=rest + 1.08, performer={"x": -0.03, "z": 0.290, "lean": 38.0, "bow": 14.0, "nod": 4.0, "left_leg_flex": 40.0, "left_leg_bend": 92.0, "left_leg_abd": 6.0, "left_leg_rot": 0.0, **up, "left_toe_up": -10.0}),
        Step(at=rest + 1.30, performer={"x": 0.02, "z": 0.440, "lean": 20.0, "left_plant": 0.6, "left_foot_x": 0.0, "left_foot_z": 0.03, "left_toe_up": 0.0}),
        Step(at=rest + 1.50, performer={"left_plant": 1.0, "left_foot_x": 0.12, "left_foot_z": 0.0}),
        Step(at=rest + 1.60, name="stands", performer=STANDING),
        Step(at=rest + 1.90, name="end", performer=STANDING, fixed=True),
        Step(at=rest + 2.30, name="again", performer=STANDING, fixed=True),
    ]  # fmt: skip


def _hands(moment: Moment) -> float:
    """Height of the higher hand, metres."""
    at = moment["performer"].at
    return float(max(at["left_hand"][2], at["right_hand"][2]))


def _events(how: How) -> dict[str, Finder]:
    found = {
        "seat_down": Finder(step="seat", rule="falls", measure=height("performer", "left_hip", "right_hip"), level=0.16, before_s=0.20, after_s=0.14),
        "shoulders_down": Finder(step="shoulders", rule="falls", measure=height("performer", "left_shoulder", "right_shoulder"), level=0.17, before_s=0.16, after_s=0.20),
        "arms_strike": Finder(step="strike", rule="falls", measure=_hands, level=0.09, before_s=0.13, after_s=0.20),
        "still": Finder(step="rest"),
    }  # fmt: skip
    if how.options.get("rise") == "fold":
        found |= {"leg_folded": Finder(step="folded"), "stands": Finder(step="stands")}
    return found


MOVE = Move(
    technique="back-fall",
    partner=False,
    faults=FAULTS,
    options={"rise": ("stay", "fold")},
    steps=_steps,
    events=_events,
    middle=(-0.20, 0.0),
    height=0.62,
    rung="standing",
)
