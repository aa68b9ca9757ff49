"""The scissor sweep: shin across the belly, partner drawn onto it, legs cut past each other, come up on top."""

from __future__ import annotations

from lacertus.studio.body.figure import Joints
from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Move
from lacertus.studio.body.vectors import Vector
from lacertus.studio.moves.parts import along, height, lapel, put_in, sleeve

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

FAULTS = (
    Fault(code="no-hip-escape", unit="cm", most=18.0, says="the hips slide out by so much less"),
    Fault(code="no-pull", unit="ms", most=700.0, says="the legs cut so long before the weight has been drawn on"),
    Fault(code="flat-back", unit="deg", most=50.0, says="the body stays flat and does not turn onto its side"),
    Fault(code="legs-apart-in-time", unit="ms", most=500.0, says="shin and lower leg do not cut together"),
    Fault(code="not-loaded", unit="deg", most=28.0, says="the partner’s trunk stays so much more upright"),
    Fault(code="no-tip", unit="ms", most=600.0, says="the partner tips so long after the cut"),
    Fault(code="shin-low", unit="cm", most=26.0, says="the shin lies so much lower across the thighs"),
    Fault(code="elbow-open", unit="deg", most=70.0, says="the collar elbow opens from the ribs"),
    Fault(code="late-follow", unit="ms", most=900.0, says="the performer comes up late"),
)


def _steps(how: How) -> list[Step]:
    stay, flat = put_in(how, FAULTS, "no-hip-escape"), how.fault("flat-back")
    flare = 20.0 + how.fault("elbow-open")
    out = 0.55
    shin = out + 0.34
    pull = shin + 0.14 + how.fault("no-pull") / 1000
    cut = shin + 0.34
    lower = cut + how.fault("legs-apart-in-time") / 1000
    tips = cut + 0.22 + how.fault("no-tip") / 1000
    side = tips + 0.24
    back = side + 0.22
    top = back + 0.24 + how.fault("late-follow") / 1000
    aside = 1 - stay
    # The shin sinks faster the further it has left its hold; the power makes centimetres and degree go together.
    upright, sunk = put_in(how, FAULTS, "not-loaded"), put_in(how, FAULTS, "shin-low") ** 0.6
    found = [
        Step(at=0.0, name="start", performer=GUARD, partner=KNEELING, fixed=True),
        Step(
            at=out - 0.20,
            performer={"left_plant": 0.0, "left_leg_bend": 96.0, "left_leg_rot": 6.0, "right_leg_bend": 100.0, "right_leg_rot": 0.0, "spin": 0.0, "y": 0.0, "right_flare": 30.0},
        ),
        Step(
            at=out,
            name="out",
            performer={
                "x": -0.16 - 0.06 * aside, "y": -0.17 * aside, "z": 0.085, "yaw": 8.0 * aside, "spin": 46.0 - 0.7 * flat, "bow": 18.0, "side": 6.0, "right_flare": flare,
                "left_leg_flex": 70.0, "left_leg_abd": 8.0, "left_leg_bend": 84.0, "left_leg_rot": 0.0,
                "right_leg_flex": 100.0, "right_leg_abd": 20.0, "right_leg_bend": 112.0, "right_leg_rot": -10.0,
            },
            partner={"x": 0.34, "z": 0.232, "lean": 12.0},
        ),
        Step(
            at=shin,
            name="shin",
            performer={
                "x": -0.20, "y": -0.15 * aside, "z": 0.096, "yaw": 10.0 * aside, "spin": 62.0 - flat, "right_hook": 1.0 - sunk, "right_leg_flex": 92.0, "right_leg_abd": 12.0, "right_leg_bend": 96.0, "right_leg_rot": -38.0,
                "right_plant": sunk, "right_foot_x": 0.30 - 0.12 * sunk, "right_foot_y": -0.34 + 0.24 * sunk, "right_foot_z": 0.02 + 0.02 * sunk,
                "left_leg_flex": 40.0, "left_leg_abd": 4.0, "left_leg_bend": 40.0, "left_leg_rot": 0.0, "left_hook": 0.0,
            },
            partner={"lean": 14.0, "x": 0.34},
        ),
        Step(at=pull, name="pull", partner={"lean": 14.0, "bow": 8.0, "z": 0.232, "right_arm_flex": 40.0}),
        Step(at=pull + 0.17, name="drawn", partner={"lean": 34.0 - 28.0 * upright, "bow": 16.0 - 12.0 * upright, "z": 0.275 - 0.04 * upright, "x": 0.26, "nod": -8.0, "right_arm_flex": 30.0, "left_heel_up": 120.0, "right_heel_up": 120.0}),
        Step(at=cut, name="cut", performer={"spin": 62.0 - flat, "right_leg_flex": 92.0, "lean": -84.0, "yaw": 10.0 * aside, "right_hook": 1.0}, partner={"roll": 0.0, "y": 0.0, "twist": 0.0, **{name: KNEELING[name] for name in ("right_foot_x", "right_foot_y", "right_arm_abd")}}),
        Step(at=lower, name="lower", performer={"left_leg_flex": 44.0, "left_leg_abd": 14.0, "left_leg_bend": 30.0}),
        Step(at=lower + 0.24, performer={"left_leg_flex": 46.0, "left_leg_abd": -16.0, "left_leg_bend": 24.0}),
        Step(
            at=tips,
            name="tips",
            performer={"x": -0.18, "y": -0.06, "spin": 56.0 - flat * 0.8, "yaw": 22.0, "right_leg_flex": 80.0, "right_leg_bend": 70.0, "lean": -78.0},
            partner={"roll": 26.0, "y": 0.06, "z": 0.262, "x": 0.27, "left_plant": 0.9, "left_foot_z": 0.06, "lean": 30.0, "right_plant": 0.8},
        ),
        Step(
            at=side,
            name="side",
            performer={
                "x": -0.06, "y": 0.02, "z": 0.13, "spin": 34.0, "yaw": 44.0, "lean": -50.0, "bow": 18.0, "nod": 20.0, "right_hook": 0.2, "right_leg_flex": 84.0, "right_leg_bend": 90.0, "right_leg_rot": 0.0,
                "left_leg_flex": 60.0, "left_leg_bend": 80.0, "left_leg_abd": 10.0, "left_plant": 0.1, "right_plant": 0.1,
            },
            partner={
                "x": 0.28, "y": 0.22, "z": 0.130, "roll": 80.0, "spin": 8.0, "lean": 14.0, "bow": 18.0, "side": -8.0, "left_plant": 0.0, "right_plant": 0.0, "left_foot_z": 0.10,
                "left_leg_flex": 66.0, "left_leg_bend": 84.0, "left_leg_abd": 26.0, "right_leg_flex": 62.0, "right_leg_bend": 92.0, "right_leg_abd": 4.0, "right_arm_flex": 30.0,
            },
        ),
        Step(
            at=back,
            name="back",
            partner={
                "x": 0.26, "y": 0.34, "z": 0.072, "roll": 88.0, "spin": 76.0, "lean": 2.0, "bow": 10.0, "nod": 26.0, "side": 0.0,
                "left_leg_flex": 58.0, "left_leg_bend": 80.0, "left_leg_abd": 22.0, "right_leg_flex": 52.0, "right_leg_bend": 78.0, "right_leg_abd": 22.0,
                "left_arm_flex": 34.0, "left_arm_abd": 24.0, "left_arm_bend": 88.0, "right_arm_flex": 40.0, "right_arm_abd": 40.0, "right_arm_bend": 60.0,
            },
        ),
        Step(
            at=top,
            name="top",
            performer={
                "x": 0.25, "y": 0.42, "z": 0.255, "spin": 0.0, "yaw": 90.0, "lean": 22.0, "bow": 12.0, "side": 0.0, "nod": 18.0, "right_hook": 0.0, "left_plant": 1.0, "right_plant": 1.0,
                "left_foot_x": 0.02, "left_foot_y": 0.16, "left_foot_z": 0.035, "left_foot_yaw": 84.0, "left_heel_up": 158.0, "left_toe_up": 0.0,
                "right_foot_x": 0.50, "right_foot_y": 0.16, "right_foot_z": 0.035, "right_foot_yaw": 96.0, "right_heel_up": 158.0, "right_toe_up": 0.0,
                "left_leg_flex": 30.0, "left_leg_bend": 110.0, "left_leg_abd": 24.0, "right_leg_flex": 30.0, "right_leg_bend": 110.0, "right_leg_abd": 24.0, "right_flare": 40.0,
            },
            partner={"x": 0.26, "y": 0.36, "z": 0.068, "spin": 86.0, "roll": 90.0, "lean": 0.0, "nod": 12.0, "left_leg_bend": 88.0, "right_leg_bend": 88.0},
        ),
        Step(at=top + 0.45, name="end", performer={"z": 0.250, "lean": 18.0}, partner={"spin": 88.0}, fixed=True),
        Step(
            at=top + 1.05,
            performer={"x": -0.38, "y": 0.10, "z": 0.21, "yaw": 30.0, "lean": -12.0, "left_plant": 0.3, "right_plant": 0.3, "left_grip": 0.4, "right_grip": 0.2},
            partner={"x": 0.36, "y": 0.20, "z": 0.10, "roll": 52.0, "spin": 40.0, "bow": 20.0},
        ),
        Step(
            at=top + 1.55,
            performer={"x": -0.26, "y": 0.02, "z": 0.10, "yaw": 6.0, "lean": -60.0, "left_plant": 0.0, "right_plant": 0.0},
            partner={"x": 0.40, "y": 0.05, "z": 0.20, "roll": 14.0, "spin": 8.0, "left_plant": 0.6, "right_plant": 0.6},
        ),
        Step(at=top + 2.05, name="again", performer=GUARD, partner=KNEELING, fixed=True),
    ]  # fmt: skip
    if how.reaction:
        last = pull if how.reaction == "partner_leans_back" else lower
        found = [*(step for step in found if step.at <= last), *_answers(how, last)]
    return sorted(found, key=lambda step: step.at)


def _answers(how: How, at: float) -> list[Step]:
    """The partner leans back, and one comes up along; or posts a hand, and the knee that is left is pushed away."""
    if how.reaction == "partner_leans_back":
        comes = Step(at=at + 0.40, name="leans", performer={"bow": 22.0}, partner={"lean": -12.0, "bow": 2.0, "x": 0.42, "z": 0.215, "nod": 10.0})
        goes = Step(
            at=at + 1.05,
            name="up",
            performer={
                "x": -0.06, "y": -0.06, "z": 0.115, "spin": 10.0, "yaw": 8.0, "lean": -26.0, "bow": 18.0, "right_hook": 0.2, "right_leg_flex": 92.0, "right_leg_bend": 100.0, "right_leg_abd": 20.0, "right_leg_rot": 0.0,
                "left_leg_flex": 74.0, "left_leg_bend": 90.0, "left_leg_abd": 30.0,
            },
            partner={"lean": -22.0, "x": 0.46, "z": 0.20},
        )  # fmt: skip
    else:
        posted = {"roll": 16.0, "y": 0.05, "z": 0.262, "lean": 36.0, "twist": 14.0, "right_arm_flex": 54.0, "right_arm_abd": 52.0, "right_arm_bend": 4.0}
        comes = Step(at=at + 0.45, name="posted", performer={"left_grip": 0.0, "left_arm_flex": 70.0, "left_arm_bend": 60.0}, partner=posted)
        goes = Step(
            at=at + 1.00,
            name="pushed",
            performer={"left_leg_flex": 62.0, "left_leg_bend": 6.0, "left_leg_abd": 14.0, "x": -0.22, "spin": 50.0},
            partner={"roll": 22.0, "z": 0.225, "right_foot_x": 0.86, "right_foot_y": 0.24, "right_leg_bend": 80.0},
        )
    end = goes.at + 0.45
    return [
        comes,
        goes,
        Step(at=end, name="end", performer=goes.performer, partner=goes.partner, fixed=True),
        Step(at=end + 0.90, name="again", performer=GUARD, partner=KNEELING, fixed=True),
    ]


def _far_hip(me: Joints, other: Joints) -> Vector:
    """In front of the partner's right hip, where the foot of the shin across hooks."""
    h = other.stature_m
    return other.at["right_hip"] + other.pelvis.forward * 0.11 * h + other.pelvis.up * 0.05 * h


TOLD = {"partner_leans_back": ("leans_back", "leans", "comes_up", "up"), "partner_posts": ("posts", "posted", "pushes_the_knee", "pushed")}
"""By reaction: its event and step, and those of the answer."""


def _events(how: How) -> dict[str, Finder]:
    found = _whole()
    if how.reaction:
        event, step, answer, answered = TOLD[how.reaction]
        before = ["hips_out", "shin_across", "pull_starts"] + (["shin_cuts", "lower_leg_cuts"] if how.reaction == "partner_posts" else [])
        found = {name: found[name] for name in before} | {event: Finder(step=step), answer: Finder(step=answered)}
    return found


def _whole() -> dict[str, Finder]:
    return {
        "hips_out": Finder(step="out", rule="lowest", measure=along("performer", "right_hip", 1), before_s=0.14, after_s=0.16),
        "shin_across": Finder(step="shin"),
        "pull_starts": Finder(step="pull"),
        "shin_cuts": Finder(step="cut"),
        "lower_leg_cuts": Finder(step="lower"),
        "partner_tips": Finder(step="tips", rule="rises", measure=height("partner", "left_knee"), level=0.11, before_s=0.20, after_s=0.20),
        "back_on_mat": Finder(step="back", rule="falls", measure=height("partner", "left_shoulder"), level=0.22, before_s=0.24, after_s=0.24),
        "on_top": Finder(step="top", rule="falls", measure=height("performer", "left_knee"), level=0.10, before_s=0.24, after_s=0.20),
    }  # fmt: skip


MOVE = Move(
    technique="scissor-sweep",
    partner=True,
    faults=FAULTS,
    options={},
    reactions={reaction: {} for reaction in TOLD},
    steps=_steps,
    events=_events,
    holds={
        "performer": {
            "left_hand": lambda me, other: sleeve(other, "right"),
            "right_hand": lambda me, other: lapel(other, -0.02, 0.04),
            "right_foot": _far_hip,
        },
    },
    middle=(0.15, 0.1),
    height=0.45,
    rung="static_partner",
    facing_deg=180.0,
)
