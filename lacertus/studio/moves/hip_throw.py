"""The hip throw: the foot goes in, the back turns under a partner on the toes, the legs stretch, and the partner goes over the hip."""

from __future__ import annotations

from lacertus.studio.body.figure import Joints
from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Moment, Move
from lacertus.studio.body.vectors import Vector
from lacertus.studio.moves.foot_sweep import PARTNER as FACED
from lacertus.studio.moves.foot_sweep import PERFORMER as FACING
from lacertus.studio.moves.parts import ON_MAT_M, height, lapel, nape, sleeve

PERFORMER = FACING | {
    "x": -0.22, "y": 0.02, "z": 0.512, "left_foot_x": -0.08, "left_foot_y": 0.17, "right_foot_x": -0.12, "right_foot_y": -0.14, "right_grip": 0.0, "right_arm_flex": 44.0,
    "right_arm_bend": 70.0, "right_arm_abd": 6.0, "left_grip": 1.0, "spin": 0.0,
}  # fmt: skip
PARTNER = FACED | {
    "x": 0.46, "left_foot_x": 0.34, "left_foot_y": -0.15, "right_foot_x": 0.32, "right_foot_y": 0.15, "left_foot_yaw": 190.0, "right_foot_yaw": 170.0, "left_grip": 0.0, "right_grip": 1.0,
    "left_arm_flex": 40.0, "left_arm_bend": 70.0,
}  # fmt: skip

FAULTS = (
    Fault(code="reaches-from-far", unit="cm", most=85.0, says="the lead foot stands so far in front as the pull starts"),
    Fault(code="turns-without-pull", unit="ms", most=600.0, says="the hands pull so long after the hips have turned"),
    Fault(code="lands-flat", unit="deg", most=32.0, says="the heel of the first foot is so much lower"),
    Fault(code="stands-off", unit="cm", most=34.0, says="the feet stand so much further from the partner’s"),
    Fault(code="turns-under-a-rooted-partner", unit="deg", most=30.0, says="the partner’s heels rise so much less"),
    Fault(code="looks-at-the-partner", unit="deg", most=150.0, says="the head is turned so far back to the partner"),
    Fault(code="hand-too-high", unit="cm", most=48.0, says="the hand lies so much higher than the belt"),
    Fault(code="loose-neck", unit="cm", most=34.0, says="the hand stays so far before the neck", options={"hand": "neck"}),
    Fault(code="arm-slips-down", unit="cm", most=32.0, says="the hand slips so far down", options={"hand": "neck"}),
    Fault(code="collar-slips-behind", unit="cm", most=24.0, says="the hand slips so far on behind the neck", options={"hand": "collar"}),
    Fault(code="low-collar", unit="cm", most=36.0, says="the hand lies so much lower", options={"hand": "collar"}),
    Fault(code="hand-too-low", unit="cm", most=36.0, says="the hand lies so much lower", options={"hand": "underarm"}),
    Fault(code="leg-too-short", unit="cm", most=34.0, says="the throwing foot stands so much less far out", options={"finish": "hip_and_leg"}),
    Fault(code="feet-outside", unit="cm", most=45.0, says="the feet stand so far to the side of the partner’s"),
    Fault(code="hips-too-high", unit="cm", most=26.0, says="the hips stay so much higher"),
    Fault(code="daylight", unit="cm", most=36.0, says="the hips are so much further from the partner’s"),
    Fault(code="straight-legs", unit="cm", most=66.0, says="the other foot stands so much further out, on a straight leg"),
    Fault(code="throws-by-bending", unit="cm", most=18.0, says="the legs lift the hips by so much less"),
    Fault(code="stops-under", unit="ms", most=800.0, says="the partner hangs on the back for so long"),
)  # fmt: skip

PULL, FOOT, TURNED, SEAT = 0.42, 0.62, 0.94, 1.04
LEG = 1.26
"""When the throwing leg is past the partner's foot, where it throws along, seconds."""


def _steps(how: How) -> list[Step]:
    rest = _out_again() if how.reaction == "partner_blocks" else [*_leg(how), *_throw(how), *_after(how)]
    return sorted([*_turn(how), *rest], key=lambda step: step.at)


def _turn(how: How) -> list[Step]:
    """Pull, the first foot in, and the turn until the seat is under the partner."""
    pull = PULL + how.fault("turns-without-pull") / 1000
    far, flat = how.fault("reaches-from-far") / 100, how.fault("lands-flat")
    off, aside, out = how.fault("stands-off") / 100, how.fault("feet-outside") / 100, how.fault("straight-legs") / 100
    rooted, look, high = how.fault("turns-under-a-rooted-partner"), how.fault("looks-at-the-partner"), how.fault("hand-too-high") / 100
    high -= sum(how.fault(code) for code in ("arm-slips-down", "low-collar", "hand-too-low")) / 100
    behind = (how.fault("collar-slips-behind") - how.fault("loose-neck")) / 100
    up, room = how.fault("hips-too-high") / 100 / 1.7, max(off, how.fault("daylight") / 100)
    first = {"right_foot_x": 0.03 - off, "right_foot_y": 0.10 - aside}
    second = {"left_foot_x": 0.03 - off - out * 0.8, "left_foot_y": -0.13 - aside - out * 0.25}
    toes = 30.0 - rooted
    return [
        Step(at=0.0, name="start", performer=PERFORMER, partner=PARTNER, fixed=True),
        Step(at=0.28, performer={"right_foot_x": -0.12 + far, "right_foot_z": 0.0, "right_heel_up": 4.0, "x": -0.22, "yaw": 4.0}),
        Step(at=pull, name="pull", performer={"left_flare": 30.0, "twist": 0.0}, partner={"lean": 2.0, "x": 0.46, "left_heel_up": 0.0, "right_heel_up": 0.0, "right_arm_flex": 50.0, "right_arm_bend": 60.0}),
        Step(at=pull + 0.30, performer={"left_flare": 70.0}, partner={"right_arm_flex": 78.0, "right_arm_bend": 34.0, "left_heel_up": toes * 0.7, "right_heel_up": toes * 0.7}),
        Step(at=FOOT - 0.20, performer={"right_foot_x": -0.12 + far, "right_foot_y": -0.14, "right_foot_z": 0.0}),
        Step(at=FOOT - 0.10, performer={"right_foot_z": 0.05, "right_heel_up": 32.0 - flat, "yaw": 16.0}),
        Step(at=FOOT, name="foot", performer={"x": -0.08 - off * 0.5, "y": 0.05, "z": 0.490, "yaw": 38.0, "lean": 4.0, "right_foot_z": 0.0, "right_heel_up": 32.0 - flat, "right_foot_yaw": 24.0, "left_heel_up": 12.0, "left_foot_x": -0.08, "left_foot_y": 0.17, "left_foot_z": 0.0, **first}),
        Step(at=FOOT + 0.14, performer={"yaw": 100.0, "left_foot_z": 0.05, "left_foot_x": -0.22, "left_foot_y": 0.06, "left_foot_yaw": 110.0, "right_foot_yaw": 120.0, "right_arm_flex": 70.0, "right_arm_abd": 30.0, "right_arm_bend": 30.0, "right_grip": 0.4}),
        Step(
            at=TURNED,
            name="turned",
            performer={
                "x": 0.10 - room, "y": -0.02 - aside, "z": 0.430 + up, "yaw": 168.0, "lean": 8.0, "bow": 4.0, "look": 24.0 - look * 0.6, "twist": -look * 0.3, "left_foot_z": 0.0, "left_foot_yaw": 178.0,
                "left_heel_up": 4.0, "right_foot_yaw": 172.0, "right_heel_up": 4.0, "right_grip": 1.0, "right_grip_z": high, "right_grip_x": behind, **first, **second,
            },
            partner={"x": 0.44, "z": 0.515, "lean": 8.0, "bow": 6.0, "left_heel_up": toes, "right_heel_up": toes},
        ),
        Step(
            at=SEAT,
            name="seat",
            performer={"x": 0.14 - room, "z": 0.405 + up, "yaw": 176.0, "lean": 16.0, "bow": 8.0, "look": 34.0 - look * 0.7, "twist": -look * 0.3, "right_grip_z": high, "right_grip_x": behind, **first, **second},
            partner={"x": 0.41, "z": 0.520, "lean": 14.0, "bow": 8.0, "right_plant": 1.0, "left_plant": 1.0, "left_heel_up": toes, "right_heel_up": toes, "yaw": 180.0, "y": 0.0, "roll": 0.0, "nod": 12.0},
        ),
    ]  # fmt: skip


def _leg_passes(how: How) -> bool:
    return how.options.get("finish") == "hip_and_leg" or how.reaction == "partner_goes_round"


def _passes_at(how: How) -> float:
    """When the leg is past: later after a partner who has stepped round first, seconds."""
    return LEG + (0.16 if how.reaction else 0.0)


def _goes_round() -> list[Step]:
    """The partner's near foot steps round the hip to the outside."""
    return [
        Step(at=SEAT + 0.02, partner={"right_foot_x": 0.32, "right_foot_y": 0.15, "right_foot_z": 0.0, "right_heel_up": 20.0}),
        Step(at=SEAT + 0.12, partner={"right_foot_z": 0.06, "y": 0.02}),
        Step(at=SEAT + 0.22, name="round", partner={"right_foot_x": 0.26, "right_foot_y": 0.40, "right_foot_z": 0.0, "right_heel_up": 14.0, "y": 0.07, "left_heel_up": 30.0}),
    ]


def _leg_out(how: How) -> dict[str, float]:
    """Where the throwing foot stands once it is past the partner's, if the leg throws along or holds a partner who goes round."""
    if not _leg_passes(how):
        return {}
    if how.reaction:
        return {"right_foot_x": 0.26, "right_foot_y": 0.62, "right_foot_yaw": 140.0}
    return {"right_foot_x": 0.30, "right_foot_y": 0.46 - how.fault("leg-too-short") / 100, "right_foot_yaw": 150.0}


def _leg(how: How) -> list[Step]:
    """The throwing leg goes on from between the feet, past the partner's foot on the outside."""
    out, leg = _leg_out(how), _passes_at(how)
    if not out:
        return []
    between = {"right_foot_x": 0.03, "right_foot_y": 0.10, "right_foot_z": 0.0}
    return [
        *(_goes_round() if how.reaction else []),
        Step(at=leg - 0.20, performer=between),
        Step(at=leg - 0.10, performer={"right_foot_z": 0.05, "right_foot_x": 0.10, "right_foot_y": 0.34, "right_heel_up": 10.0}),
        Step(at=leg, name="leg", performer={**out, "right_foot_z": 0.0, "right_heel_up": 24.0, "left_foot_x": 0.03, "left_foot_y": -0.13}),
    ]


def _out_again() -> list[Step]:
    """The partner pushes the hips forward against the seat: out again, facing the partner, and the pull once more."""
    blocks, out = SEAT + 0.10, SEAT + 0.86
    inside = {"right_foot_x": 0.03, "right_foot_y": 0.10, "right_foot_z": 0.0, "left_foot_x": 0.03, "left_foot_y": -0.13, "left_foot_z": 0.0}
    outside = {"left_foot_x": -0.08, "left_foot_y": 0.17, "left_foot_z": 0.0, "right_foot_x": -0.12, "right_foot_y": -0.14, "right_foot_z": 0.0}
    rooted = {"left_heel_up": 0.0, "right_heel_up": 0.0}
    return [
        Step(at=blocks, name="blocks", performer={"x": 0.14, "yaw": 176.0, **inside}, partner={"lean": 10.0, "x": 0.41}),
        Step(at=blocks + 0.18, performer={"x": 0.10, "z": 0.430, "lean": 6.0, "bow": -2.0}, partner={"lean": -8.0, "bow": -2.0, "x": 0.36, "z": 0.502, **rooted}),
        Step(at=blocks + 0.34, performer={"x": 0.00, "z": 0.480, "yaw": 130.0, "right_grip": 0.3, "left_foot_z": 0.05, "left_foot_yaw": 130.0, "right_foot_yaw": 140.0, "right_heel_up": 20.0, "look": 0.0}),
        Step(at=blocks + 0.50, performer={"x": -0.12, "yaw": 70.0, "left_foot_x": -0.08, "left_foot_y": 0.17, "left_foot_z": 0.0, "left_foot_yaw": 60.0, "right_foot_z": 0.05, "right_foot_yaw": 60.0, "right_grip": 0.0}, partner={"lean": 0.0, "x": 0.42}),
        Step(at=out, name="out", performer={"x": -0.20, "y": 0.02, "z": 0.510, "yaw": 10.0, "lean": 2.0, "bow": 2.0, "right_foot_yaw": -14.0, "left_foot_yaw": 18.0, "right_heel_up": 0.0, "left_heel_up": 0.0, "right_arm_flex": 44.0, "right_arm_bend": 70.0, "right_arm_abd": 6.0, "left_flare": 60.0, **outside}, partner={"lean": 4.0, "bow": 3.0, "x": 0.45, "z": 0.507}),
        Step(at=out + 0.40, name="end", performer={"x": -0.21, **outside}, partner={"lean": 3.0}, fixed=True),
        Step(at=out + 1.00, name="again", performer=PERFORMER, partner=PARTNER, fixed=True),
    ]  # fmt: skip


def _lifts(how: How) -> float:
    """When the legs begin to stretch, seconds."""
    seat = _passes_at(how) if _leg_passes(how) else SEAT
    return seat + 0.06 + how.fault("stops-under") / 1000


def _throw(how: How) -> list[Step]:
    """The legs stretch, and the partner goes over the hip onto the back."""
    off, aside, out = how.fault("stands-off") / 100, how.fault("feet-outside") / 100, how.fault("straight-legs") / 100
    room, low = max(off, how.fault("daylight") / 100), how.fault("throws-by-bending") / 100 / 1.7
    lift = _lifts(how)
    feet = {
        "right_foot_x": 0.03 - off, "right_foot_y": 0.10 - aside, "right_foot_z": 0.0, "left_foot_x": 0.03 - off - out * 0.8, "left_foot_y": -0.13 - aside - out * 0.25, "left_foot_z": 0.0,
    } | _leg_out(how)  # fmt: skip
    x = 0.14 - room
    return [
        Step(at=lift, name="stretch", performer={"x": x, "z": 0.405, "lean": 18.0, "bow": 10.0, "yaw": 176.0, **feet}, partner={"x": 0.40 - room * 0.3, "z": 0.525, "lean": 20.0}),
        Step(at=lift + 0.11, performer={"z": 0.462 - low}, partner={"left_plant": 1.0, "right_plant": 1.0, "z": 0.560}),
        Step(
            at=lift + 0.22,
            name="off",
            performer={"x": x + 0.02, "z": 0.480 - low, "lean": 52.0, "bow": 18.0, "yaw": 180.0, "twist": 10.0, "look": 30.0, "right_grip": 1.0, "left_grip": 1.0},
            partner={
                "x": 0.26 - room * 0.6, "y": 0.0, "z": 0.640, "lean": 66.0, "bow": 16.0, "yaw": 178.0, "left_plant": 0.0, "right_plant": 0.0, "left_leg_flex": 10.0, "left_leg_bend": 30.0, "right_leg_flex": 6.0,
                "right_leg_bend": 26.0, "nod": 24.0, "right_grip": 0.0, "left_heel_up": 40.0, "right_heel_up": 40.0, "left_arm_flex": 50.0, "left_arm_abd": 20.0,
            },
        ),
        Step(
            at=lift + 0.38,
            name="over",
            performer={"z": 0.500 - low, "lean": 68.0, "bow": 24.0, "twist": 24.0, "right_grip": 0.5, "right_grip_x": 0.0, "right_grip_z": 0.0},
            partner={"x": 0.00 - room * 0.7, "y": 0.06, "z": 0.650, "lean": 132.0, "bow": 18.0, "yaw": 152.0, "left_leg_flex": 24.0, "left_leg_bend": 20.0, "right_leg_flex": 12.0, "right_leg_bend": 24.0},
        ),
        Step(
            at=lift + 0.56,
            performer={"lean": 64.0, "right_grip": 0.0, "right_arm_flex": 50.0, "right_arm_abd": 10.0, "right_arm_bend": 50.0},
            partner={"x": -0.30 - room * 0.7, "y": 0.12, "z": 0.400, "lean": 206.0, "yaw": 116.0, "nod": 34.0, "left_leg_flex": 50.0, "right_leg_flex": 40.0},
        ),
        Step(
            at=lift + 0.74,
            name="down",
            performer={"x": x - 0.06, "z": 0.455 - low, "lean": 52.0, "bow": 22.0, "twist": 14.0, "nod": 10.0, "look": 10.0, "left_grip": 1.0, "left_flare": 40.0, **feet},
            partner={
                "x": -0.46 - room * 0.7, "y": 0.16, "z": 0.084, "lean": 264.0, "bow": 12.0, "yaw": 92.0, "nod": 34.0, "left_leg_flex": 60.0, "left_leg_bend": 40.0, "right_leg_flex": 54.0, "right_leg_bend": 46.0,
                "left_arm_flex": -2.0, "left_arm_abd": 46.0, "left_arm_bend": 6.0, "right_arm_flex": 78.0, "right_arm_abd": 12.0, "right_arm_bend": 12.0,
            },
        ),
        Step(
            at=lift + 1.16,
            name="end",
            performer={"x": x - 0.06, "z": 0.465 - low, "lean": 46.0, "bow": 20.0, **feet},
            partner={"x": -0.48 - room * 0.7, "z": 0.072, "lean": 271.0, "bow": 6.0, "nod": 14.0, "left_leg_flex": 42.0, "left_leg_bend": 66.0, "right_leg_flex": 40.0, "right_leg_bend": 70.0},
            fixed=True,
        ),
    ]  # fmt: skip


def _after(how: How) -> list[Step]:
    """Apart again; the partner's turn goes on to a whole one. No part of the rep."""
    end = _lifts(how) + 1.16
    return [
        Step(at=end + 0.5, performer={"x": -0.1, "z": 0.50, "lean": 8.0, "bow": 6.0, "yaw": 120.0, "left_grip": 0.0, "left_foot_z": 0.05, "right_foot_z": 0.05}, partner={"left_plant": 0.0, "right_plant": 0.0}),
        Step(at=end + 1.2, performer={"yaw": 40.0, "left_foot_yaw": 40.0, "right_foot_yaw": 30.0}, partner={"x": -0.1, "z": 0.30, "lean": 320.0, "yaw": 120.0, "left_foot_z": 0.05, "right_foot_z": 0.05}),
        Step(at=end + 2.0, name="again", performer=PERFORMER, partner=PARTNER | {"lean": 362.0}, fixed=True),
    ]  # fmt: skip


def _waist(me: Joints, other: Joints) -> Vector:
    """The partner's back at the belt, on the far side."""
    h = other.stature_m
    hips = (other.at["left_hip"] + other.at["right_hip"]) / 2
    return hips + other.pelvis.up * 0.06 * h - other.pelvis.forward * 0.085 * h + other.pelvis.left * 0.03 * h


def _under_the_arm(me: Joints, other: Joints) -> Vector:
    """Under the partner's left arm, on the side of the back."""
    h = other.stature_m
    return other.at["left_shoulder"] - other.chest.forward * 0.05 * h - other.chest.up * 0.06 * h + other.chest.left * 0.02 * h


def _turned(moment: Moment) -> float:
    """How far the hips have turned away from the target: 0 facing it, 2 with the back to it."""
    return 1.0 - float(moment["performer"].pelvis.forward[0])


def _close(moment: Moment) -> float:
    """Distance of the middles of both pairs of hips on the mat, metres."""
    me, other = moment["performer"].at, moment["partner"].at
    return float(((other["left_hip"] + other["right_hip"]) / 2 - (me["left_hip"] + me["right_hip"]) / 2)[0])


def _events(how: How) -> dict[str, Finder]:
    found = _usual_events() | ({"leg_past": Finder(step="leg")} if _leg_passes(how) else {})
    if how.reaction == "partner_goes_round":
        found |= {"steps_round": Finder(step="round")}
    if how.reaction == "partner_blocks":
        kept = {name: found[name] for name in ("pull_start", "turn_start", "first_foot", "turned", "seat_in")}
        return kept | {"blocks_with_hips": Finder(step="blocks"), "out_again": Finder(step="out")}
    return found


def _usual_events() -> dict[str, Finder]:
    soles = ("left_toe", "right_toe", "left_heel", "right_heel")
    return {
        "pull_start": Finder(step="pull"),
        "turn_start": Finder(step="foot", rule="rises", measure=_turned, level=0.02, before_s=0.20, after_s=0.05),
        "first_foot": Finder(step="foot", rule="falls", measure=height("performer", "right_toe"), level=ON_MAT_M, before_s=0.10, after_s=0.06),
        "turned": Finder(step="turned", rule="falls", measure=height("performer", "left_toe"), level=ON_MAT_M, before_s=0.14, after_s=0.06),
        "seat_in": Finder(step="seat"),
        "legs_stretch": Finder(step="stretch"),
        "feet_off": Finder(step="off", rule="rises", measure=height("partner", *soles), level=0.03, before_s=0.18, after_s=0.06),
        "partner_down": Finder(step="down", rule="falls", measure=height("partner", "left_shoulder", "right_shoulder"), level=0.15, before_s=0.16, after_s=0.20),
    }  # fmt: skip


MOVE = Move(
    technique="hip-throw",
    partner=True,
    faults=FAULTS,
    options={"hand": ("waist", "neck", "collar", "underarm"), "finish": ("over_hip", "hip_and_leg")},
    steps=_steps,
    events=_events,
    holds={
        "performer": {"left_hand": lambda me, other: sleeve(other, "right"), "right_hand": _waist},
        "partner": {"right_hand": lambda me, other: lapel(other, 0.05, 0.08)},
    },
    held_by_choice={
        "neck": {"performer": {"right_hand": lambda me, other: nape(other)}},
        "collar": {"performer": {"right_hand": lambda me, other: lapel(other, -0.02, 0.02)}},
        "underarm": {"performer": {"right_hand": _under_the_arm}},
    },
    reactions={"partner_blocks": {}, "partner_goes_round": {}},
    goes_with={"partner_goes_round": {"finish": "hip_and_leg"}},
    middle=(0.05, 0.0),
    height=0.82,
    rung="static_partner",
    flips={"partner": 1},
)
