"""The lead-leg fake: palm to the shoulder, hand to the lead foot, a step outside the toe; the foot is pulled and the stance is square."""

from __future__ import annotations

import numpy as np

from lacertus.studio.body.figure import Joints
from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Moment, Move
from lacertus.studio.body.vectors import Vector
from lacertus.studio.moves.arm_drag import PARTNER as FACED
from lacertus.studio.moves.arm_drag import PERFORMER as FACING
from lacertus.studio.moves.parts import ON_MAT_M, height

PERFORMER = FACING | {
    "x": -0.34, "y": 0.0, "z": 0.462, "lean": 26.0, "bow": 10.0, "nod": -16.0, "look": 0.0, "left_foot_x": -0.44, "left_foot_y": 0.17, "left_heel_up": 14.0, "right_foot_x": -0.12, "right_foot_y": -0.14, "left_grip": 0.0, "right_grip": 0.0,
    "left_arm_flex": 40.0, "left_arm_bend": 80.0, "left_arm_abd": 4.0, "right_arm_flex": 40.0, "right_arm_bend": 80.0, "right_arm_abd": 0.0, "left_flare": 20.0, "right_flare": 10.0,
}  # fmt: skip
PARTNER = FACED | {
    "x": 0.66, "y": 0.0, "z": 0.478, "lean": 20.0, "bow": 8.0, "nod": -10.0, "right_grip": 0.0, "left_foot_x": 0.40, "left_foot_y": -0.14, "right_foot_x": 0.78, "right_foot_y": 0.16, "right_heel_up": 12.0, "right_arm_flex": 44.0, "right_arm_bend": 80.0,
    "right_arm_abd": 4.0, "left_arm_flex": 44.0, "left_arm_bend": 80.0, "left_arm_abd": 4.0,
}  # fmt: skip

FAULTS = (
    Fault(code="fakes-from-far", unit="cm", most=30.0, says="it is tried from so much further away"),
    Fault(code="lazy-hand", unit="ms", most=1600.0, says="the hand takes so much longer from shoulder to foot"),
    Fault(code="head-stays", unit="deg", most=16.0, says="the partner’s trunk and head are drawn down by so much less"),
    Fault(code="steps-on-the-toe", unit="cm", most=24.0, says="the foot lands with so much less room beside the toe"),
    Fault(code="hand-then-foot", unit="ms", most=420.0, says="the foot steps so long after the hand is there"),
    Fault(code="reaches-for-the-knee", unit="cm", most=46.0, says="the hand reaches so much higher than the heel"),
    Fault(code="wrong-line-inside", unit="cm", most=26.0, says="the hand goes so much further in, to the inside of the foot"),
    Fault(code="toe-outside", unit="cm", most=34.0, says="the own toe stands so much further out at the end"),
    Fault(code="wrong-line-outside", unit="cm", most=44.0, says="the hand goes so much further out, to the outside of the foot", options={"line": "inside"}),
    Fault(code="leg-out-of-reach", unit="cm", most=50.0, says="the foot stands so much further away", options={"shot": "one"}),
    Fault(code="toe-between-the-legs", unit="cm", most=34.0, says="the foot stands so much further in", options={"shot": "one"}),
    Fault(code="fake-let-go", unit="ms", most=500.0, says="the hand leaves the foot so long before it is pulled"),
    Fault(code="late-pivot", unit="ms", most=420.0, says="the rear foot leaves so much later"),
    Fault(code="backs-out", unit="cm", most=70.0, says="the hips go back by so much before the partner stands again"),
    Fault(code="head-down", unit="deg", most=50.0, says="the trunk is bowed by so much more at the end"),
    Fault(code="stands-up", unit="cm", most=32.0, says="the hips stand so much higher at the end"),
    Fault(code="squares-oneself", unit="cm", most=46.0, says="the own rear foot comes so much further forward"),
    Fault(code="stance-unchanged", unit="cm", most=52.0, says="the partner’s foot stands so much further forward again"),
)  # fmt: skip

KNOCK, REACH, PULLED, PIVOT_OFF, PIVOT_DOWN, SETTLED = 0.30, 0.66, 0.92, 1.00, 1.20, 1.30
HEEL_M = 0.06
"""How far over the mat the hand is at the heel, metres."""
INSIDE_M = 0.30
"""How much further in the hand goes on the inside line, metres."""


def _steps(how: How) -> list[Step]:
    answered = {"leg_is_left": _keeps, "partner_circles": _cuts}.get(how.reaction)
    rest = answered() if answered else [*_pivots(how), *_shoots(how)]
    return sorted([*_attacks(how), *rest], key=lambda step: step.at)


def _waits(how: How) -> float:
    return how.fault("lazy-hand") / 1000


def _attacks(how: How) -> list[Step]:
    """The palm moves the shoulder; then the hand goes to the foot as the own lead foot steps outside the toe."""
    far, high, inside = (how.fault(code) / 100 for code in ("fakes-from-far", "reaches-for-the-knee", "wrong-line-inside"))
    inside += INSIDE_M - how.fault("wrong-line-outside") / 100 if how.options.get("line") == "inside" else 0.0
    wait = _waits(how)
    reach = REACH + wait
    step = reach + how.fault("hand-then-foot") / 1000
    start = PERFORMER | {"x": -0.34 - far, "left_foot_x": -0.44 - far, "right_foot_x": -0.12 - far}
    let_go, stays, near = how.fault("fake-let-go") / 1000, how.fault("head-stays"), how.fault("steps-on-the-toe") / 100
    pulled = PULLED + wait + max(how.fault("hand-then-foot") / 1000 - 0.2, 0.0) + let_go * 0.5
    gone = [Step(at=pulled - let_go * 0.8, performer={"right_grip": 1.0}), Step(at=pulled - let_go * 0.8 + 0.14, performer={"right_grip": 0.0, "right_arm_flex": 60.0, "right_arm_bend": 90.0})] if let_go else []
    return [
        *gone,
        Step(at=0.0, name="start", performer=start, partner=PARTNER, fixed=True),
        Step(at=KNOCK, name="knock", performer={"x": -0.20 - far * 0.7, "lean": 26.0, "bow": 10.0, "right_arm_flex": 112.0, "right_arm_bend": 20.0, "right_grip": 0.0, "right_foot_x": -0.12 - far, "right_foot_y": -0.14, "right_foot_z": 0.0, "right_heel_up": 6.0}, partner={"x": 0.66, "lean": 20.0, "side": 0.0, "twist": 0.0}),
        Step(at=KNOCK + 0.12, performer={"x": -0.16 - far * 0.4}, partner={"lean": 10.0, "x": 0.68, "twist": 8.0, "side": -6.0}),
        Step(at=step - 0.16, performer={"right_foot_z": 0.05, "right_heel_up": 8.0, "right_foot_x": 0.04 - far * 0.6}),
        Step(at=step, name="step", performer={"right_foot_x": 0.34, "right_foot_y": -0.34 + near, "right_foot_z": 0.0, "right_heel_up": 0.0, "right_foot_yaw": 6.0}),
        Step(at=reach - 0.08, performer={"right_grip": 0.7, "right_grip_z": high, "right_grip_y": inside}),
        Step(at=reach, name="reach", performer={"x": 0.06, "y": -0.22, "z": 0.340, "lean": 52.0, "bow": 20.0, "nod": -34.0, "right_grip": 1.0, "right_grip_z": high, "right_grip_y": inside, "right_arm_flex": 60.0, "right_arm_bend": 20.0, "left_heel_up": 40.0, "left_arm_flex": 60.0, "left_arm_bend": 60.0}),
        Step(at=reach, partner={"lean": 27.0 - stays, "bow": 10.0 - stays * 0.4, "x": 0.69}),
        Step(at=reach + 0.06, partner={"lean": 26.0 - stays, "bow": 10.0 - stays * 0.4, "left_foot_x": 0.40, "left_foot_y": -0.14, "left_foot_z": 0.0, "left_heel_up": 0.0}),
    ]  # fmt: skip


def _pulled(how: How) -> float:
    return PULLED + _waits(how) + max(how.fault("hand-then-foot") / 1000 - 0.2, 0.0) + how.fault("fake-let-go") / 2000


def _pivots(how: How) -> list[Step]:
    """The partner pulls the foot back and stands square; the own rear foot pivots round with it."""
    pulled, same = _pulled(how), how.fault("stance-unchanged") / 100
    off = pulled + PIVOT_OFF - PULLED + how.fault("late-pivot") / 1000
    down, settled = off + 0.20, pulled + SETTLED - PULLED
    back, bow, up = how.fault("backs-out") / 100, how.fault("head-down"), how.fault("stands-up") / 174
    rear = _rear(how)
    stood = {"left_foot_x": -0.44 - how.fault("fakes-from-far") / 100, "left_foot_y": 0.17, "left_foot_z": 0.0}
    closed, closer = max(settled - 0.01, down + 0.09), _closer(how)
    lead = {"right_foot_x": 0.34, "right_foot_y": -0.34 + how.fault("steps-on-the-toe") / 100, "right_foot_z": 0.0}
    return [
        Step(at=pulled, name="pulled", performer={"x": 0.08, "right_grip": 1.0 if not how.fault("fake-let-go") else 0.0}, partner={"left_foot_x": 0.40, "left_foot_y": -0.14, "left_foot_z": 0.0, "left_heel_up": 14.0, "x": 0.70, "lean": 22.0}),
        Step(at=pulled + 0.09, performer={"right_grip": 0.0 if how.fault("fake-let-go") else 1.0}),
        *([Step(at=pulled + 0.14, performer={"x": 0.08 - back * 0.8})] if back else []),
        Step(at=pulled + 0.20, performer={"right_grip": 0.0, "right_arm_flex": 60.0, "right_arm_bend": 70.0}),
        Step(at=pulled + 0.10, partner={"left_foot_z": 0.05, "left_foot_x": 0.56, "left_heel_up": 8.0}),
        Step(at=off, name="off", performer=stood),
        Step(at=off + 0.10, performer={"left_foot_z": 0.05, "left_foot_x": -0.16, "left_heel_up": 20.0}),
        Step(at=down, name="down", performer={"left_heel_up": 16.0, "left_foot_yaw": 4.0, **rear, **lead}),
        Step(at=down + 0.01, performer=lead),
        Step(at=(down + closed) / 2, performer={"right_foot_z": 0.03, "right_heel_up": 6.0}),
        Step(at=closed, performer={**closer, "right_heel_up": 0.0, "right_foot_yaw": 0.0}),
        Step(at=settled, name="settled", performer={"x": 0.14 - back, "y": -0.04, "z": 0.400 + up, "lean": 26.0 + bow * 0.8, "bow": 10.0 + bow * 0.2, "nod": -18.0, "left_arm_flex": 60.0, "left_arm_bend": 70.0}, partner={"x": 0.82, "z": 0.478, "lean": 20.0, "twist": 0.0, "side": 0.0, "left_foot_x": 0.80 - same, "left_foot_y": -0.20 - same * 0.3, "left_heel_up": 0.0}),
    ]  # fmt: skip


def _rear(how: How) -> dict[str, float]:
    """Where the rear foot stands after the pivot."""
    back = how.fault("backs-out") / 125 + how.fault("leg-out-of-reach") / 100
    return {"left_foot_x": 0.10 + how.fault("squares-oneself") / 100 - back, "left_foot_y": 0.14, "left_foot_z": 0.0}


def _cuts() -> list[Step]:
    """The partner steps round to the side of the hand: the own foot steps into the new way, and the chest turns after it."""
    circles, cuts = REACH + 0.34, REACH + 0.76
    feet = {"left_foot_x": -0.44, "left_foot_y": 0.17, "left_foot_z": 0.0}
    after = {"left_foot_x": 0.00, "left_foot_y": -0.34, "left_foot_z": 0.0}
    lead = {"right_foot_x": 0.34, "right_foot_y": -0.34, "right_foot_z": 0.0}
    cut = {"right_foot_x": 0.40, "right_foot_y": -0.70, "right_foot_z": 0.0}
    gone = {"left_foot_x": 0.70, "left_foot_y": -0.66, "left_foot_z": 0.0, "right_foot_x": 0.92, "right_foot_y": -0.30, "right_foot_z": 0.0}
    return [
        Step(at=circles - 0.14, performer={"right_grip": 1.0, **feet, **lead}, partner={"left_foot_x": 0.40, "left_foot_y": -0.14, "left_foot_z": 0.0, "right_foot_x": 0.78, "right_foot_y": 0.16, "right_foot_z": 0.0, "lean": 24.0}),
        Step(at=circles - 0.04, partner={"left_foot_z": 0.05, "left_foot_x": 0.54, "left_foot_y": -0.40, "y": -0.14}, performer={"right_grip": 0.4}),
        Step(at=circles, name="circles", performer={"right_grip": 0.0, "right_arm_flex": 60.0, "right_arm_bend": 60.0, **lead}, partner={"left_foot_x": 0.60, "left_foot_y": -0.54}),
        Step(at=circles + 0.08, partner={"left_foot_x": 0.70, "left_foot_y": -0.66, "left_foot_z": 0.0, "yaw": 164.0, "left_foot_yaw": 176.0, "y": -0.26, "x": 0.74}),
        Step(at=circles + 0.02, performer=feet),
        Step(at=circles + 0.12, performer={"left_foot_z": 0.05, "left_foot_x": -0.20, "left_foot_y": -0.10, "left_heel_up": 16.0}),
        Step(at=circles + 0.20, partner={"right_foot_z": 0.05, "right_foot_x": 0.86, "right_foot_y": -0.10}, performer={"x": 0.04, "y": -0.30, "z": 0.420, "lean": 34.0, "yaw": -12.0, **lead, **after}),
        Step(at=circles + 0.28, performer={"right_foot_z": 0.05, "right_foot_x": 0.38, "right_foot_y": -0.54}, partner={**gone, "y": -0.44, "x": 0.80, "yaw": 154.0, "right_foot_yaw": 150.0, "lean": 20.0}),
        Step(at=cuts, name="cuts", performer={**cut, "right_foot_yaw": -20.0, "x": 0.04, "y": -0.52, "z": 0.440, "lean": 28.0, "yaw": -16.0, "left_heel_up": 24.0, **after}, partner={**gone, "y": -0.46}),
        Step(at=cuts + 0.36, name="end", performer={**cut, **after}, partner=gone, fixed=True),
        Step(at=cuts + 0.38, performer={**cut, **after}, partner=gone),
        Step(at=cuts + 0.90, performer={"x": -0.10, "y": -0.1, "z": 0.46, "right_foot_x": 0.1, "right_foot_y": -0.3, "left_foot_z": 0.04, "right_foot_z": 0.05}, partner={"left_foot_z": 0.05, "right_foot_z": 0.04, "yaw": 170.0}),
        Step(at=cuts + 1.60, name="again", performer=PERFORMER, partner=PARTNER, fixed=True),
    ]  # fmt: skip


def _keeps() -> list[Step]:
    """The foot is left where it is: both hands close behind that knee."""
    stays, taken = REACH + 0.26, REACH + 0.64
    feet = {"left_foot_x": -0.44, "left_foot_y": 0.17, "left_foot_z": 0.0}
    lead = {"right_foot_x": 0.34, "right_foot_y": -0.34, "right_foot_z": 0.0}
    kept = {"left_foot_x": 0.40, "left_foot_y": -0.14, "left_foot_z": 0.0}
    return [
        Step(at=stays, name="stays", performer={"right_grip": 1.0, "right_grip_x": 0.0, "right_grip_z": 0.0, "left_grip": 0.0, **feet, **lead}, partner={"lean": 28.0, **kept}),
        Step(
            at=taken,
            name="taken",
            performer={
                "x": 0.16, "y": -0.18, "z": 0.330, "lean": 46.0, "bow": 16.0, "nod": -26.0, "right_grip": 1.0, "right_grip_x": 0.06, "right_grip_z": 0.38, "left_grip": 1.0, "left_flare": 30.0, "left_foot_x": 0.02, "left_foot_y": 0.10,
                "left_foot_z": 0.0, "left_heel_up": 44.0, **lead,
            },
            partner={"lean": 24.0, **kept},
        ),
        Step(at=taken - 0.16, performer={"left_foot_z": 0.04}),
        Step(at=taken + 0.40, name="end", performer={"z": 0.340, **lead}, partner={"lean": 22.0, **kept}, fixed=True),
        Step(at=taken + 0.90, performer={"x": -0.10, "z": 0.46, "lean": 24.0, "right_grip": 0.0, "left_grip": 0.0, "left_foot_z": 0.05, "right_foot_z": 0.05, "left_foot_x": -0.2, "right_foot_x": 0.1}),
        Step(at=taken + 1.60, name="again", performer=PERFORMER | {"right_grip_x": 0.0, "right_grip_z": 0.0}, partner=PARTNER, fixed=True),
    ]  # fmt: skip


def _closer(how: How) -> dict[str, float]:
    """Where the lead foot stands after the small closing step: its toe between the partner's feet, or beside the one leg."""
    if how.options.get("shot") == "one":
        far, between = how.fault("leg-out-of-reach") / 100, how.fault("toe-between-the-legs") / 100
        return {"right_foot_x": 0.46 - far - how.fault("backs-out") / 125, "right_foot_y": -0.36 + between, "right_foot_z": 0.0}
    return {"right_foot_x": 0.44 - how.fault("backs-out") / 125, "right_foot_y": -0.06 - how.fault("toe-outside") / 100, "right_foot_z": 0.0}


def _shoots(how: How) -> list[Step]:
    """In under the hips with both arms; then apart again to where it began, which is no part of the rep."""
    settled = _pulled(how) + SETTLED - PULLED
    shot = max(settled, _pulled(how) + PIVOT_OFF - PULLED + how.fault("late-pivot") / 1000 + 0.24) + 0.30
    same = how.fault("stance-unchanged") / 100
    rear = _rear(how)
    one = how.options.get("shot") == "one"
    taken = {"right_foot_x": 0.62, "right_foot_y": -0.38 if one else -0.02, "right_foot_z": 0.0}
    feet = {"left_foot_x": 0.80 - same, "left_foot_y": -0.20 - same * 0.3, "left_foot_z": 0.0, "right_foot_x": 0.78, "right_foot_y": 0.16, "right_foot_z": 0.0}
    return [
        Step(at=shot - 0.22, performer={"right_heel_up": 8.0, **_closer(how), **rear}, partner=feet),
        Step(at=shot - 0.10, performer={"right_foot_z": 0.04}),
        Step(at=shot, name="shot", performer={"x": 0.38, "y": -0.34 if one else -0.26, "z": 0.330, "lean": 40.0, "bow": 6.0, "nod": -24.0, "side": 0.0, **taken, "right_heel_up": 0.0, "left_heel_up": 50.0, "right_arm_flex": 84.0, "right_arm_abd": 26.0, "right_arm_bend": 40.0, "left_arm_flex": 84.0, "left_arm_abd": 26.0, "left_arm_bend": 40.0}, partner={"lean": 26.0, "x": 0.84}),
        Step(at=shot + 0.40, name="end", performer={"x": 0.40, **taken, **rear}, partner={"lean": 28.0, **feet}, fixed=True),
        Step(at=shot + 0.42, performer={**rear, **taken}, partner=feet),
        Step(at=shot + 0.90, performer={"x": -0.05, "z": 0.47, "lean": 20.0, "left_foot_z": 0.05, "right_foot_z": 0.05, "left_foot_x": -0.2, "right_foot_x": 0.1}, partner={"left_foot_z": 0.04, "right_foot_z": 0.02, "lean": 20.0}),
        Step(at=shot + 1.60, name="again", performer=PERFORMER | {"x": -0.34 - how.fault("fakes-from-far") / 100, "left_foot_x": -0.44 - how.fault("fakes-from-far") / 100, "right_foot_x": -0.12 - how.fault("fakes-from-far") / 100}, partner=PARTNER, fixed=True),
    ]  # fmt: skip


def _at_the_heel(me: Joints, other: Joints) -> Vector:
    """Beside the partner's lead heel, on the outside."""
    h = other.stature_m
    place = other.at["left_heel"] + other.pelvis.left * 0.035 * h
    return np.stack([place[..., 0], place[..., 1], np.full(place[..., 0].shape, HEEL_M)], axis=-1)


def _to_the_heel(moment: Moment) -> float:
    """Distance of the hand from the partner's lead heel, metres."""
    return float(np.linalg.norm(moment["performer"].at["right_hand"] - moment["partner"].at["left_heel"]))


def _events(how: How) -> dict[str, Finder]:
    found = _usual_events()
    if how.reaction == "leg_is_left":
        kept = {name: found[name] for name in ("knock", "toe_step", "foot_reached")}
        return kept | {"stays": Finder(step="stays"), "leg_taken": Finder(step="taken")}
    if how.reaction == "partner_circles":
        kept = {name: found[name] for name in ("knock", "toe_step", "foot_reached")}
        return kept | {"circles": Finder(step="circles"), "cuts": Finder(step="cuts")}
    return found


def _usual_events() -> dict[str, Finder]:
    return {
        "knock": Finder(step="knock"),
        "toe_step": Finder(step="step", rule="falls", measure=height("performer", "right_heel", "right_toe"), level=ON_MAT_M, before_s=0.10, after_s=0.06),
        "foot_reached": Finder(step="reach", rule="lowest", measure=_to_the_heel, before_s=0.05, after_s=0.05),
        "leg_pulled": Finder(step="pulled", rule="rises", measure=height("partner", "left_toe"), level=ON_MAT_M, before_s=0.04, after_s=0.10),
        "rear_leg_off": Finder(step="off", rule="rises", measure=height("performer", "left_toe"), level=ON_MAT_M, before_s=0.04, after_s=0.10),
        "rear_leg_down": Finder(step="down", rule="falls", measure=height("performer", "left_toe"), level=ON_MAT_M, before_s=0.08, after_s=0.06),
        "settled": Finder(step="settled"),
        "shot": Finder(step="shot"),
    }  # fmt: skip


MOVE = Move(
    technique="lead-leg-fake",
    partner=True,
    faults=FAULTS,
    options={"line": ("outside", "inside"), "shot": ("both", "one"), "school": ("staggered",)},
    steps=_steps,
    events=_events,
    holds={"performer": {"right_hand": _at_the_heel}},
    reactions={
        "partner_circles": {},
        "leg_is_left": {"performer": {"left_hand": lambda me, other: other.at["left_knee"] - other.pelvis.forward * 0.06 * other.stature_m}},
    },
    middle=(0.30, 0.0),
    height=0.78,
    rung="static_partner",
    stance="opposite_lead",
)
