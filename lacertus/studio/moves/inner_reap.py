"""The inner reap from an underhook: a step outside turns the partner square, the level drops, the leg draws an arc along the mat."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from lacertus.studio.body.figure import Joints
from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Moment, Move
from lacertus.studio.body.vectors import Vector
from lacertus.studio.moves.arm_drag import PARTNER as FACED
from lacertus.studio.moves.arm_drag import PERFORMER as FACING
from lacertus.studio.moves.parts import ON_MAT_M, height

PERFORMER = FACING | {
    "x": -0.12, "y": 0.02, "z": 0.500, "lean": 10.0, "bow": 6.0, "left_foot_x": -0.06, "left_foot_y": 0.17, "right_foot_x": 0.04, "right_foot_y": -0.14, "left_grip": 0.0, "right_grip": 1.0, "right_flare": 12.0,
    "left_arm_flex": 40.0, "left_arm_bend": 80.0, "left_arm_abd": 4.0, "left_flare": 40.0,
}  # fmt: skip
PARTNER = FACED | {
    "x": 0.44, "y": 0.0, "right_grip": 0.0, "left_foot_x": 0.50, "left_foot_y": -0.16, "right_foot_x": 0.24, "right_foot_y": 0.15, "right_arm_flex": 50.0, "right_arm_bend": 60.0, "right_arm_abd": 4.0, "left_arm_flex": 54.0,
    "left_arm_bend": 44.0, "left_arm_abd": 4.0,
}  # fmt: skip

FAULTS = (
    Fault(code="reaps-a-staggered-stance", unit="cm", most=62.0, says="the partner’s rear foot stays so far back"),
    Fault(code="dives-for-the-underhook", unit="ms", most=400.0, says="the elbow is knocked so much later"),
    Fault(code="shallow-underhook", unit="cm", most=42.0, says="the hand lies so much lower than over the shoulder"),
    Fault(code="steps-inside", unit="cm", most=40.0, says="the foot lands so much further in"),
    Fault(code="short-step", unit="cm", most=32.0, says="the step is so much shorter"),
    Fault(code="pulls-standing", unit="ms", most=450.0, says="the foot steps so long after the pull"),
    Fault(code="no-turn", unit="ms", most=700.0, says="the partner’s foot comes so much later"),
    Fault(code="stays-tall", unit="cm", most=22.0, says="the hips sink by so much less"),
    Fault(code="bows-in", unit="deg", most=40.0, says="the trunk bows by so much more"),
    Fault(code="lifts-the-foot", unit="cm", most=40.0, says="the reaping foot is lifted so much higher"),
    Fault(code="late-hand", unit="ms", most=500.0, says="the hand takes the knee so long after the hook", options={"leg_help": "hand"}),
    Fault(code="hooks-and-waits", unit="ms", most=450.0, says="the drive comes so long after the hook"),
    Fault(code="leans-only", unit="cm", most=60.0, says="the hips go so much less far into the partner"),
    Fault(code="hips-stay", unit="deg", most=34.0, says="the hips turn by so much less with the step"),
    Fault(code="single-step", unit="cm", most=16.0, says="the second step is so much shorter", options={"step": "short"}),
    Fault(code="stretched-out", unit="cm", most=38.0, says="the stepping foot stands so much further back and out"),
    Fault(code="head-out", unit="deg", most=100.0, says="the head hangs so far out to the side"),
    Fault(code="daylight", unit="cm", most=45.0, says="the chest stays so much further from the partner’s"),
)  # fmt: skip

KNOCK, DEEP, PULL, LANDS, SQUARE, LOW, HOOK = 0.26, 0.52, 0.74, 0.80, 1.06, 1.22, 1.42
STAGGERED = 0.76
"""How much longer it takes where the partner stays staggered and the foot steps once more, seconds."""
QUICK = 0.26
"""And where it steps twice, short and quick."""


def _waits(how: How) -> float:
    """How much later everything after the step comes, seconds."""
    return (how.fault("pulls-standing") + how.fault("no-turn")) / 1000 + (STAGGERED if how.reaction == "stagger_stays" else QUICK if _short(how) else 0.0)


def _steps(how: How) -> list[Step]:
    rest = _follows(how) if how.reaction == "partner_hops_out" else _fall(how)
    again = _steps_again(how) if how.reaction == "stagger_stays" else _quick_step(how) if _short(how) else []
    return sorted([*_underhook(how), *_square(how), *again, *_reap(how), *rest], key=lambda step: step.at)


def _start(how: How) -> dict[str, float]:
    """Where the rep begins; the hand that is to take a knee holds nothing before."""
    free = {"right_grip": 0.0, "right_arm_flex": 44.0, "right_arm_bend": 80.0}
    under = {"x": -0.06, "y": 0.05, "left_grip": 1.0, "left_flare": 20.0, "lean": 12.0}
    return PERFORMER | (free if how.reaction == "partner_posts" or _takes_the_leg(how) else {}) | (under if _has_it(how) else {})


def _start_of_partner(how: How) -> dict[str, float]:
    return PARTNER | ({"x": 0.43, "right_arm_abd": 46.0, "right_arm_flex": 50.0, "right_arm_bend": 40.0} if _has_it(how) else {})


def _has_it(how: How) -> bool:
    """Whether the underhook is there from the start."""
    return how.options.get("entry") == "have_it"


def _takes_the_leg(how: How) -> bool:
    """Whether the free hand closes behind the other knee as the leg hooks."""
    return how.options.get("leg_help") == "hand"


def _underhook(how: How) -> list[Step]:
    """The free hand knocks the elbow across, the other arm goes under it and over the shoulder."""
    late, low = how.fault("dives-for-the-underhook") / 1000, how.fault("shallow-underhook") / 100
    start = Step(at=0.0, name="start", performer=_start(how), partner=_start_of_partner(how), fixed=True)
    if _has_it(how):
        return [start, Step(at=DEEP, name="deep", performer={"x": -0.02, "y": 0.06, "left_grip": 1.0, "left_grip_z": -low}, partner={"x": 0.43})]
    return [
        start,
        Step(at=KNOCK, performer={"left_grip": 0.0, "left_arm_flex": 56.0, "left_arm_bend": 40.0, "left_arm_abd": 0.0, "x": -0.11}),
        Step(at=KNOCK + late, name="knock", partner={"right_arm_flex": 50.0, "right_arm_abd": 4.0, "right_arm_bend": 60.0}),
        Step(at=KNOCK + late + 0.12, partner={"right_arm_abd": 40.0, "right_arm_flex": 60.0, "right_arm_bend": 40.0}, performer={"left_arm_flex": 60.0, "left_arm_bend": 30.0}),
        Step(at=DEEP, name="deep", performer={"x": -0.02, "y": 0.06, "left_grip": 1.0, "left_grip_z": -low, "left_flare": 20.0, "lean": 12.0}, partner={"x": 0.43} | ({} if late else {"right_arm_abd": 46.0, "right_arm_flex": 50.0})),
    ]  # fmt: skip


def _foot(how: How) -> dict[str, float]:
    """Where the stepping foot stands."""
    short, inside, wide = (how.fault(code) / 100 for code in ("short-step", "steps-inside", "stretched-out"))
    further = AGAIN_M if how.reaction == "stagger_stays" else 0.0
    return {"left_foot_x": 0.24 + further - short + inside * 0.5 - wide * 0.9, "left_foot_y": 0.42 + further - inside - short * 0.8 + wide * 0.4, "left_foot_z": 0.0}


WAY_CM = 16.0
"""How long the second of two short steps is; what is left out of it has been gone with the first."""
A_STEP_CM = 6.0
"""A foot that goes less far than this has shifted and not stepped. A convention."""
AGAIN_M = 0.07
"""How much further the foot stands, forward and out, after a second step."""


def _first(how: How) -> dict[str, float]:
    """Where the foot stands after the first step."""
    if how.reaction == "stagger_stays":
        return {"left_foot_x": 0.24, "left_foot_y": 0.42, "left_foot_z": 0.0}
    if not _short(how):
        return _foot(how)
    there, gone = _foot(how), min(how.fault("single-step") / WAY_CM, 1.0)
    return {"left_foot_x": 0.10 + (there["left_foot_x"] - 0.10) * gone, "left_foot_y": 0.35 + (there["left_foot_y"] - 0.35) * gone, "left_foot_z": 0.0}


def _short(how: How) -> bool:
    """Whether two short steps are taken for a long one."""
    return how.options.get("step") == "short"


def _quick_step(how: How) -> list[Step]:
    """A second short step straight after the first one."""
    again = LANDS + 0.30
    return [
        Step(at=again - 0.20, performer={**_first(how), "left_heel_up": 6.0}),
        Step(at=again - 0.10, performer={"left_foot_z": 0.04}),
        Step(at=again, name="again_down", performer={**_foot(how), "left_heel_up": 0.0, "x": 0.05, "y": 0.18, "yaw": -22.0, "twist": -6.0}, partner={"left_foot_x": 0.50, "left_foot_y": -0.16, "left_foot_z": 0.0, "twist": -12.0}),
    ]  # fmt: skip


def _steps_again(how: How) -> list[Step]:
    """The partner answers the pull with a short step and stays staggered; the foot steps outside once more, with a second pull."""
    stays, again = SQUARE, SQUARE + 0.46
    back = {"left_foot_x": 0.44, "left_foot_y": -0.17, "left_foot_z": 0.0}
    return [
        Step(at=stays - 0.10, partner={"left_foot_z": 0.03, "left_heel_up": 10.0}),
        Step(at=stays, name="stays", performer={**_first(how), "x": 0.03, "y": 0.16, "yaw": -18.0, "twist": -2.0, "lean": 15.0}, partner={**back, "x": 0.42, "yaw": 176.0, "twist": -4.0, "left_heel_up": 0.0}),
        Step(at=again - 0.22, performer={**_first(how), "left_heel_up": 10.0}, partner=back),
        Step(at=again - 0.12, performer={"left_foot_z": 0.05}, partner={"twist": 2.0}),
        Step(at=again, name="again_down", performer={**_foot(how), "left_heel_up": 0.0, "x": 0.05, "y": 0.20, "yaw": -24.0, "twist": -10.0}, partner={**back, "twist": -16.0, "yaw": 174.0, "left_heel_up": 10.0}),
    ]  # fmt: skip


def _square(how: How) -> list[Step]:
    """A step outside with the pull; the partner's rear foot swings forward, level with the other."""
    lands, stays = LANDS + how.fault("pulls-standing") / 1000, how.fault("reaps-a-staggered-stance") / 100
    square = SQUARE + _waits(how)
    low, stay = how.fault("shallow-underhook") / 100, how.fault("hips-stay")
    start = {"left_foot_x": 0.50, "left_foot_y": -0.16, "left_foot_z": 0.0}
    foot = {"left_foot_x": 0.20 + stays, "left_foot_y": -0.22, "left_foot_z": 0.0}
    return [
        Step(at=lands - 0.24, name="lifts", performer={"left_foot_x": -0.06, "left_foot_y": 0.17, "left_foot_z": 0.0, "left_heel_up": 10.0, "left_plant": 1.0}),
        Step(at=lands - 0.12, performer={"left_foot_z": 0.055}),
        Step(at=PULL, name="pull", performer={"twist": 0.0, "left_grip_z": -low}, partner={"yaw": 180.0, "twist": 0.0}),
        Step(at=lands, name="lands", performer={"x": 0.06, "y": 0.14, "z": 0.490, "yaw": -16.0 + stay * 0.67, "twist": -10.0, "lean": 14.0, "left_heel_up": 0.0, "left_foot_yaw": -20.0, "right_heel_up": 14.0, **_first(how)}, partner={"twist": -16.0, "yaw": 174.0, **start, "left_heel_up": 10.0}),
        Step(at=square - 0.14, partner={"left_foot_z": 0.05, "left_heel_up": 10.0}),
        Step(at=square, name="square", performer={"x": 0.00, "y": 0.18, "yaw": -24.0 + stay, "twist": 0.0, "lean": 16.0}, partner={"x": 0.40, "yaw": 170.0, "twist": 0.0, "left_heel_up": 0.0, "left_foot_yaw": 184.0, "right_foot_x": 0.24, "right_foot_y": 0.15, **foot}),
    ]  # fmt: skip


def _reap(how: How) -> list[Step]:
    """Down by the knees; the far leg is reaped in an arc along the mat as the hips and chest drive."""
    wait, lift, bow = _waits(how), how.fault("lifts-the-foot") / 100, how.fault("bows-in")
    tall, off, out = how.fault("stays-tall") / 174, how.fault("daylight") / 100, how.fault("head-out")
    low, hook = LOW + wait, HOOK + wait
    drive = hook + 0.04 + how.fault("hooks-and-waits") / 1000
    stays = how.fault("reaps-a-staggered-stance") / 100
    planted = {"right_foot_x": 0.24, "right_foot_y": 0.15, "left_foot_x": 0.20 + stays, "left_foot_y": -0.22, "left_foot_z": 0.0}
    late = how.fault("late-hand") / 1000
    taken = [
        Step(at=low, performer={"right_grip": 0.0, "right_arm_flex": 70.0, "right_arm_bend": 40.0}),
        Step(at=hook + 0.02 + late, name="hand", performer={"right_grip": 1.0, "right_flare": 30.0}),
        Step(at=hook + 0.14 + late, performer={"right_grip": 1.0}),
    ]
    return [
        *(taken if _takes_the_leg(how) else []),
        Step(at=low, name="low", performer={"x": -0.02 - off * 0.5, "y": 0.19, "z": 0.400 + tall, "yaw": -24.0, "lean": 20.0 + bow * 0.8, "bow": 8.0 + bow * 0.2, "nod": -6.0, "tilt": -out, "side": -0.4 * out, "right_foot_x": 0.04, "right_foot_y": -0.14, "right_foot_z": 0.0, "right_heel_up": 20.0, "right_foot_yaw": -18.0, **_foot(how)}, partner={"z": 0.490, "lean": 8.0}),
        Step(at=low + 0.07, performer={"right_foot_x": 0.14, "right_foot_y": -0.02, "right_foot_z": 0.02 + lift * 0.8, "right_heel_up": 6.0, "right_foot_yaw": -30.0}),
        Step(at=hook - 0.05, performer={"right_foot_x": 0.40, "right_foot_y": -0.06, "right_foot_z": 0.02 + lift, "right_foot_yaw": -70.0}),
        Step(at=hook, name="hook", performer={"x": 0.00 - off, "y": 0.18, "z": 0.400 + tall, "lean": 22.0 + bow * 0.8 - off * 20, "tilt": -out, "side": -0.4 * out, "right_foot_x": 0.47, "right_foot_y": -0.20, "right_foot_z": 0.02 + lift * 0.5, "right_foot_yaw": -100.0, "right_heel_up": 10.0}, partner={"x": 0.40, "z": 0.494, "lean": 2.0, **planted}),
        Step(at=drive, name="drive", performer={"x": 0.02 - off, "right_foot_x": 0.46, "right_foot_y": -0.22, "right_foot_z": 0.02 + lift * 0.3, **_foot(how)}, partner={"x": 0.405, "lean": 0.0, **planted}),
    ]  # fmt: skip


def _fall(how: How) -> list[Step]:
    """Driven backward over the reaped leg to the mat; then up and back, which is no part of the rep."""
    down = HOOK + 0.56 + _waits(how) + how.fault("hooks-and-waits") / 1000 + (POSTED if how.reaction == "partner_posts" else 0.0)
    posts = how.reaction == "partner_posts"
    posted = _posted() if posts else []
    less = how.fault("leans-only") / 100
    return [
        *posted,
        Step(at=down - 0.26, performer={"x": 0.06 - less * 0.5, "y": 0.18, "z": 0.420, "lean": 30.0, "left_heel_up": 26.0, "right_foot_x": 0.30, "right_foot_y": -0.36, "right_foot_z": 0.04, **_foot(how)}, partner={"x": 0.50, "z": 0.430, "lean": -18.0, "nod": 18.0, "left_plant": 0.4, "left_foot_x": 0.10, "left_foot_y": -0.40, "left_foot_z": 0.12, "left_leg_flex": 60.0, "left_leg_bend": 30.0, "right_foot_x": 0.50 if posts else 0.24, "right_foot_y": 0.15, "right_foot_z": 0.0, "right_toe_up": 6.0}),
        Step(
            at=down - 0.10,
            performer={"x": 0.18 - less, "z": 0.370, "lean": 38.0, "right_foot_x": 0.14, "right_foot_y": -0.34, "right_foot_z": 0.02, "left_grip": 0.2, "right_grip": 0.0, "left_arm_flex": 50.0, "left_arm_bend": 80.0, "right_arm_flex": 50.0, "right_arm_bend": 80.0},
            partner={"x": 0.66, "z": 0.230, "lean": -44.0, "bow": 16.0, "nod": 30.0, "right_plant": 0.4, "right_leg_flex": 84.0, "right_leg_bend": 80.0, "left_leg_flex": 80.0, "left_leg_bend": 50.0, "left_plant": 0.0, "left_arm_flex": 20.0, "left_arm_abd": 44.0, "left_arm_bend": 14.0, "right_arm_flex": 70.0, "right_arm_abd": 10.0, "right_arm_bend": 30.0},
        ),
        Step(
            at=down,
            name="down",
            performer={"x": 0.30 - less, "y": 0.10, "z": 0.330, "lean": 44.0, "bow": 14.0, "left_grip": 0.0, "right_grip": 0.0, "left_arm_flex": 74.0, "left_arm_bend": 24.0, "right_arm_flex": 74.0, "right_arm_bend": 24.0, "right_foot_x": 0.06, "right_foot_y": -0.20, "right_foot_z": 0.0, "right_heel_up": 60.0, "right_foot_yaw": -20.0, "left_heel_up": 40.0},
            partner={
                "x": 0.80, "y": 0.0, "z": 0.072, "lean": -78.0, "bow": 16.0, "nod": 34.0, "twist": 0.0, "right_plant": 0.0, "left_plant": 0.0, "right_leg_flex": 66.0, "right_leg_bend": 56.0, "right_leg_abd": 22.0, "left_leg_flex": 66.0,
                "left_leg_bend": 56.0, "left_leg_abd": 26.0, "left_arm_flex": -2.0, "left_arm_abd": 46.0, "left_arm_bend": 6.0, "right_arm_flex": 0.0, "right_arm_abd": 46.0, "right_arm_bend": 6.0,
            },
        ),
        Step(at=down + 0.45, name="end", performer={"z": 0.310, "lean": 40.0, "right_foot_x": 0.06, "right_foot_y": -0.20, "right_foot_z": 0.0, **_foot(how)}, partner={"lean": -88.0, "nod": 18.0, "bow": 6.0, "right_leg_flex": 46.0, "right_leg_bend": 72.0, "left_leg_flex": 46.0, "left_leg_bend": 72.0}, fixed=True),
        Step(at=down + 0.95, performer={"x": -0.02, "z": 0.47, "lean": 14.0, "left_foot_z": 0.05, "right_foot_z": 0.05, "left_heel_up": 10.0, "right_heel_up": 10.0, "left_foot_x": 0.0, "right_foot_x": -0.1}, partner={"left_plant": 0.5, "right_plant": 0.5}),
        Step(
            at=down + 1.35,
            performer={"x": -0.14, "left_foot_x": -0.06, "left_foot_y": 0.17, "left_foot_z": 0.0, "right_foot_x": 0.04, "right_foot_y": -0.14, "right_foot_z": 0.0},
            partner={
                "x": 0.88, "y": 0.0, "z": 0.085, "lean": -28.0, "bow": 26.0, "nod": 10.0, "left_plant": 1.0, "right_plant": 1.0, "left_leg_flex": 84.0, "left_leg_bend": 100.0, "right_leg_flex": 84.0, "right_leg_bend": 100.0,
                "left_foot_x": 0.52, "left_foot_y": -0.16, "left_foot_z": 0.0, "right_foot_x": 0.46, "right_foot_y": 0.15, "right_foot_z": 0.0, "left_heel_up": 0.0, "right_heel_up": 0.0, "right_toe_up": 0.0, "yaw": 180.0,
            },
        ),
        Step(at=down + 1.95, partner={"x": 0.62, "z": 0.270, "lean": 34.0, "bow": 16.0, "left_heel_up": 20.0, "right_heel_up": 24.0, "left_foot_x": 0.52, "right_foot_x": 0.46, "left_foot_z": 0.0, "right_foot_z": 0.0}),
        Step(at=down + 2.25, partner={"left_foot_z": 0.05, "right_foot_z": 0.05}),
        Step(at=down + 2.6, name="again", performer=_start(how), partner=_start_of_partner(how), fixed=True),
    ]  # fmt: skip


def _follows(how: How) -> list[Step]:
    """The partner pulls the reaped foot out and hops back on the other; both own feet go after it, the hook in the air."""
    out, follows = HOOK + 0.14, HOOK + 0.62
    stood = {"left_foot_x": 0.24, "left_foot_y": 0.42, "left_foot_z": 0.0}
    after = {"left_foot_x": 0.44, "left_foot_y": 0.40, "left_foot_z": 0.0, "right_foot_x": 0.66, "right_foot_y": -0.18, "right_foot_z": 0.0}
    hopped = {"right_foot_x": 0.50, "right_foot_y": 0.15, "right_foot_z": 0.0, "left_foot_x": 0.74, "left_foot_y": -0.22, "left_foot_z": 0.0}
    return [
        Step(at=out - 0.06, partner={"left_foot_x": 0.20, "left_foot_y": -0.22, "left_foot_z": 0.0, "right_foot_x": 0.24, "right_foot_y": 0.15, "right_foot_z": 0.0}),
        Step(at=out, name="out", performer={"x": 0.06, **stood}, partner={"left_foot_z": 0.05, "left_foot_x": 0.28, "x": 0.45}),
        Step(at=out + 0.12, performer={"right_foot_x": 0.52, "right_foot_y": -0.18, "right_foot_z": 0.06}, partner={"left_foot_x": 0.56, "left_foot_z": 0.10, "right_foot_x": 0.24, "right_foot_y": 0.15, "right_foot_z": 0.0}),
        Step(at=out + 0.20, partner={"right_foot_x": 0.38, "right_foot_z": 0.05, "x": 0.60}),
        Step(at=out + 0.28, performer={**stood, "right_foot_x": 0.66, "right_foot_y": -0.18, "right_foot_z": 0.0, "right_foot_yaw": -40.0, "right_heel_up": 0.0, "x": 0.16, "z": 0.420}, partner={**hopped, "left_heel_up": 10.0}),
        Step(at=out + 0.38, performer={"left_foot_x": 0.36, "left_foot_z": 0.05, "x": 0.26}),
        Step(at=follows, name="follows", performer={**after, "x": 0.34, "y": 0.14, "z": 0.440, "lean": 20.0, "right_foot_yaw": -30.0, "left_heel_up": 10.0}, partner={**hopped, "x": 0.68, "lean": 2.0, "z": 0.496}),
        Step(at=follows + 0.40, name="end", performer={**after, "x": 0.36}, partner=hopped, fixed=True),
        Step(at=follows + 0.42, performer=after, partner=hopped),
        Step(at=follows + 0.90, performer={"x": 0.0, "z": 0.48, "left_foot_z": 0.05, "right_foot_z": 0.05, "left_foot_x": 0.1, "right_foot_x": 0.2}, partner={"left_foot_z": 0.04, "right_foot_z": 0.03}),
        Step(at=follows + 1.60, name="again", performer=_start(how), partner=_start_of_partner(how), fixed=True),
    ]  # fmt: skip


POSTED = 0.50
"""How much longer it takes where the partner posts the other leg, seconds."""


def _posted() -> list[Step]:
    """The partner sets the other foot back to hold; the free hand closes behind that knee, and the drive goes on."""
    posts, taken = HOOK + 0.10, HOOK + 0.46
    back = {"right_foot_x": 0.50, "right_foot_y": 0.15, "right_foot_z": 0.0}
    return [
        Step(at=posts, name="posts", performer={"x": 0.03, "right_grip": 0.0}, partner={"right_foot_x": 0.24, "right_foot_y": 0.15, "right_foot_z": 0.0, "x": 0.41}),
        Step(at=posts + 0.10, partner={"right_foot_z": 0.05}),
        Step(at=posts + 0.22, partner={**back, "x": 0.45, "lean": -2.0}),
        Step(at=taken, name="taken", performer={"x": 0.06, "y": 0.14, "z": 0.380, "lean": 30.0, "right_grip": 1.0, "right_flare": 30.0, "right_foot_x": 0.48, "right_foot_y": -0.20, "right_foot_z": 0.02}, partner={"x": 0.46, "lean": -4.0, **back}),
    ]  # fmt: skip


def _over_the_shoulder(me: Joints, other: Joints) -> Vector:
    """Under the partner's right arm, up behind and over that shoulder."""
    h = other.stature_m
    return other.at["right_shoulder"] + other.chest.up * 0.025 * h - other.chest.forward * 0.05 * h + other.chest.left * 0.02 * h


def _behind_the_other_knee(me: Joints, other: Joints) -> Vector:
    return other.at["right_knee"] - other.pelvis.forward * 0.06 * other.stature_m


def _ankles(moment: Moment) -> float:
    """Distance of the reaping ankle from the partner's other one, metres."""
    return float(np.linalg.norm(moment["performer"].at["right_ankle"] - moment["partner"].at["left_ankle"]))


def _events(how: How) -> dict[str, Finder]:
    found = _usual_events() | ({"hand_behind": Finder(step="hand")} if _takes_the_leg(how) else {})
    if _has_it(how):
        found.pop("elbow_knocked")
    if how.reaction == "partner_hops_out":
        found.pop("partner_down")
        found |= {"hops_out": Finder(step="out", rule="rises", measure=height("partner", "left_toe"), level=ON_MAT_M, before_s=0.08, after_s=0.06), "follows": Finder(step="follows")}
    second = _short(how) and WAY_CM - how.fault("single-step") >= A_STEP_CM
    if how.reaction == "stagger_stays" or second:
        found["outside_step"] = replace(found["outside_step"], again=("again_down",))
    if how.reaction == "stagger_stays":
        found |= {"stays_staggered": Finder(step="stays"), "steps_again": Finder(step="again_down")}
    if how.reaction == "partner_posts":
        found |= {"posts_leg": Finder(step="posts"), "hand_takes_it": Finder(step="taken")}
    return found


def _usual_events() -> dict[str, Finder]:
    return {
        "elbow_knocked": Finder(step="knock"),
        "underhook_deep": Finder(step="deep"),
        "pull_start": Finder(step="pull"),
        "outside_step": Finder(step="lands", rule="falls", measure=height("performer", "left_heel", "left_toe"), level=ON_MAT_M, before_s=0.10, after_s=0.06),
        "partner_square": Finder(step="square"),
        "level_low": Finder(step="low", rule="lowest", measure=height("performer", "left_hip", "right_hip"), before_s=0.12, after_s=0.08),
        "hook_contact": Finder(step="hook", rule="lowest", measure=_ankles, before_s=0.06, after_s=0.03),
        "drive_start": Finder(step="drive"),
        "partner_down": Finder(step="down"),
    }  # fmt: skip


MOVE = Move(
    technique="inner-reap",
    partner=True,
    faults=FAULTS,
    options={"entry": ("knock", "have_it"), "step": ("long", "short"), "leg_help": ("none", "hand")},
    steps=_steps,
    events=_events,
    holds={
        "performer": {
            "left_hand": _over_the_shoulder,
            "right_hand": lambda me, other: other.at["left_shoulder"] * 0.45 + other.at["left_elbow"] * 0.55,
        },
    },
    held_by_choice={"hand": {"performer": {"right_hand": _behind_the_other_knee}}},
    reactions={"stagger_stays": {}, "partner_hops_out": {}, "partner_posts": {"performer": {"right_hand": _behind_the_other_knee}}},
    middle=(0.35, 0.05),
    height=0.78,
    rung="static_partner",
)
