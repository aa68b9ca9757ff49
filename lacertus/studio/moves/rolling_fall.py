"""The rolling fall: hand, arm and shoulder to the opposite hip, the head tucked away from the mat; strike and stay, or stand up."""

from __future__ import annotations

from dataclasses import replace

from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Move
from lacertus.studio.moves.back_fall import STANDING as FEET_LEVEL
from lacertus.studio.moves.parts import both, height

STANDING = FEET_LEVEL | {
    "x": -0.55, "roll": 0.0, "side": 0.0, "tilt": 0.0, "right_foot_x": -0.26, "right_foot_y": -0.12, "left_foot_x": -0.62, "left_foot_y": 0.13, "z": 0.515,
}  # fmt: skip

FAULTS = (
    Fault(code="posts-the-arm", unit="deg", most=84.0, says="the leading elbow is so much straighter as the hand goes down"),
    Fault(code="head-up", unit="deg", most=75.0, says="the chin is so much further from the chest"),
    Fault(code="head-touches", unit="deg", most=60.0, says="the head hangs so much further down to the mat"),
    Fault(code="opens-too-soon", unit="deg", most=90.0, says="the hips are opened by so much as they go over"),
    Fault(code="stalls", unit="ms", most=700.0, says="the roll stops so long on the back"),
    Fault(code="strikes-late", unit="ms", most=450.0, says="the hand strikes so long after the hip has landed"),
    Fault(code="arm-at-shoulder-height", unit="deg", most=56.0, says="the striking arm is so much further from the body"),
    Fault(code="gets-up-halfway", unit="deg", most=60.0, says="the trunk comes up again by so much"),
    Fault(code="sits-down", unit="ms", most=1100.0, says="the body sits so long before it stands up", options={"finish": "stand"}),
    Fault(code="stays-low", unit="cm", most=42.0, says="the hips come up so much less high at the end", options={"finish": "stand"}),
    Fault(code="shoulders-level", unit="deg", most=24.0, says="the shoulders are turned by so much less as they come down"),
    Fault(code="feet-part", unit="deg", most=36.0, says="each leg is spread by so much", options={"line": "straight"}),
    Fault(code="falls-back", unit="deg", most=60.0, says="the trunk bows so much further as the feet carry again", options={"finish": "stand"}),
)  # fmt: skip

HAND, SHOULDER, OVER, SEAT = 0.66, 0.86, 0.98, 1.26
WHEEL = 360.0
"""One whole turn over the own shoulder, degrees."""


def _steps(how: How) -> list[Step]:
    finish = _stands(how) if how.options.get("finish") == "stand" else _stays(how)
    found = [_levelled(step, how.fault("shoulders-level")) for step in (*_enters(how), *_rolls(how))]
    if how.options.get("line") == "straight":
        found = [_straightened(step, how.fault("feet-part")) for step in found]
    return sorted([*found, *finish], key=lambda step: step.at)


def _levelled(step: Step, by: float) -> Step:
    """The same moment with the shoulders turned by so many degrees less."""
    less = {name: value * (1 - by / 24.0) for name, value in step.performer.items() if name in ("twist", "roll")}
    return replace(step, performer={**step.performer, **less})


def _straightened(step: Step, part: float) -> Step:
    """The same moment of a roll over the middle: no twist, both arms and both legs alike, the feet together or so far apart."""
    found = {name: value for name, value in step.performer.items() if name not in ("twist", "roll", "tilt")}
    found |= {name: 0.0 for name in ("twist", "roll", "tilt") if name in step.performer}
    for name, value in step.performer.items():
        if name.startswith("right_arm"):
            found[name.replace("right", "left")] = value
        if name.startswith("left_leg"):
            found[name.replace("left", "right")] = value
    if "left_leg_flex" in found:
        found |= both(leg_abd=part)
    if "nod" in found and step.name:
        found["nod"] += 30.0
    if step.name == "over":
        found["z"] += 0.024
    return replace(step, performer=found)


def _enters(how: How) -> list[Step]:
    """A step, down into the knees, and the leading hand on the mat, its elbow round."""
    straight = how.fault("posts-the-arm")
    return [
        Step(at=0.0, name="start", performer=STANDING, fixed=True),
        Step(at=0.40, performer={"x": -0.40, "z": 0.420, "lean": 42.0, "bow": 34.0, "twist": 8.0, "nod": 24.0, "right_arm_flex": 78.0, "right_arm_bend": 82.0 - straight * 0.97, "left_arm_flex": 50.0, "left_arm_bend": 40.0, "left_heel_up": 20.0}),
        Step(
            at=HAND,
            name="hand",
            performer={
                "x": -0.20, "z": 0.320, "lean": 84.0, "bow": 44.0, "twist": 22.0, "roll": -8.0, "nod": 44.0, "tilt": -34.0, "right_arm_flex": 120.0, "right_arm_abd": 4.0, "right_arm_bend": 86.0 - straight,
                "left_arm_flex": 70.0, "left_arm_bend": 50.0, "left_heel_up": 46.0, "right_heel_up": 34.0,
            },
        ),
        Step(at=HAND + 0.06, performer={"left_plant": 1.0, "right_plant": 1.0, "left_foot_x": -0.62, "left_foot_y": 0.13, "left_foot_z": 0.0, "right_foot_x": -0.26, "right_foot_y": -0.12, "right_foot_z": 0.0}),
    ]  # fmt: skip


def _rolls(how: How) -> list[Step]:
    """Over the arm and the shoulder, round, to the opposite hip."""
    up, hangs, opens, stall = how.fault("head-up"), how.fault("head-touches"), how.fault("opens-too-soon"), how.fault("stalls") / 1000
    head = {"nod": 50.0 - up, "tilt": -50.0 + hangs, "look": 10.0}
    tucked = {"left_leg_flex": 96.0 - opens, "left_leg_bend": 70.0 - opens * 0.6, "right_leg_flex": 84.0 - opens, "right_leg_bend": 80.0 - opens * 0.6}
    on_the_back = {"x": 0.34, "z": 0.210, "lean": 212.0, "bow": 46.0, "twist": 14.0, "roll": -6.0}
    stalled = [Step(at=OVER + 0.14 + stall, performer=on_the_back)] if stall else []
    return [
        Step(
            at=SHOULDER,
            name="shoulder",
            performer={
                "x": -0.02, "z": 0.332, "lean": 128.0, "bow": 46.0, "twist": 24.0, "roll": -14.0, **head, "right_arm_flex": 96.0, "right_arm_bend": 96.0, "left_plant": 0.0, "right_plant": 0.3,
                "left_foot_z": 0.3, "left_leg_flex": 60.0, "left_leg_bend": 30.0, "right_leg_flex": 70.0, "right_leg_bend": 40.0,
            },
        ),
        Step(at=OVER, name="over", performer={"x": 0.14, "z": 0.338, "lean": 164.0, "bow": 48.0, "twist": 16.0, "roll": -9.0, **head, "right_plant": 0.0, "right_arm_flex": 60.0, "right_arm_bend": 100.0, **tucked}),
        Step(at=OVER + 0.14, performer={**on_the_back, "left_arm_flex": 70.0, "left_arm_bend": 20.0}),
        *stalled,
        Step(at=SEAT + stall, name="seat", performer={"x": 0.58, "z": 0.082, "lean": 262.0, "bow": 34.0, "twist": 4.0, "roll": 8.0, "nod": 40.0 - up * 0.4, "tilt": 0.0, "look": 0.0, "left_leg_flex": 90.0, "left_leg_bend": 70.0, "right_leg_flex": 80.0, "right_leg_bend": 70.0}),
    ]  # fmt: skip


def _stays(how: How) -> list[Step]:
    """The other hand strikes, and the body lies; then up to where it began, which is no part of the rep."""
    seat = SEAT + how.fault("stalls") / 1000
    strike, high = seat + 0.02 + how.fault("strikes-late") / 1000, how.fault("arm-at-shoulder-height")
    rest, up = seat + 0.50, how.fault("gets-up-halfway")
    return [
        Step(at=strike - 0.16, performer={"left_arm_flex": 70.0, "left_arm_abd": 10.0, "left_arm_bend": 20.0}),
        Step(at=strike, name="strike", performer={"left_arm_flex": -4.0 - high, "left_arm_abd": 44.0 + high, "left_arm_bend": 4.0}),
        Step(at=rest, name="rest", performer={"x": 0.60, "z": 0.068, "lean": 270.0 + up, "bow": 10.0 + up * 0.5, "twist": 0.0, "roll": 6.0, "nod": 28.0, "left_leg_flex": 50.0, "left_leg_bend": 84.0, "left_leg_abd": 14.0, "right_leg_flex": 40.0, "right_leg_bend": 60.0, "right_arm_flex": 30.0, "right_arm_bend": 60.0}),
        Step(at=max(rest, strike) + 0.25, name="end", performer={"z": 0.068, "lean": 270.0 + up}, fixed=True),
        *_back(max(rest, strike) + 0.25),
    ]  # fmt: skip


def _stands(how: How) -> list[Step]:
    """The speed of the roll carries on over one foot up to a stance; then back to where it began."""
    seat = SEAT + how.fault("stalls") / 1000
    stands = seat + 0.62 + how.fault("sits-down") / 1000
    bow, low = how.fault("falls-back"), how.fault("stays-low") / 170
    sat = [Step(at=stands - 0.45, performer={"x": 0.66, "z": 0.085, "lean": 332.0, "bow": 34.0})] if how.fault("sits-down") else []
    return [
        *sat,
        Step(at=seat + 0.14, performer={"left_plant": 0.0, "right_plant": 0.0, "right_foot_x": 0.98, "left_foot_x": 0.97, "right_foot_z": 0.2, "left_foot_z": 0.1}),
        Step(at=stands - 0.34, performer={"x": 0.72, "z": 0.120, "lean": 330.0, "bow": 40.0, "roll": 0.0, "nod": 20.0, "left_plant": 1.0, "right_plant": 1.0, "left_foot_x": 0.97, "left_foot_y": 0.13, "left_foot_z": 0.0, "right_foot_x": 1.06, "right_foot_y": -0.12, "right_foot_z": 0.0, "left_heel_up": 0.0, "right_heel_up": 0.0, "left_arm_flex": 70.0, "left_arm_bend": 30.0, "right_arm_flex": 70.0, "right_arm_bend": 30.0}),
        Step(at=stands - 0.14, performer={"x": 0.84, "z": 0.270, "lean": 392.0, "bow": 26.0}),
        Step(at=stands, name="stands", performer={"x": 0.90, "z": 0.440 - low * 0.6, "lean": 388.0 + bow * 0.7, "bow": 14.0 + bow * 0.5, "nod": 0.0}),
        Step(at=stands + 0.30, name="up", performer={"x": 0.92, "z": 0.515 - low, "lean": 364.0 + low * 100, "bow": 4.0, "right_foot_x": 1.06, "left_foot_x": 0.97, "right_foot_z": 0.0, "left_foot_z": 0.0}),
        Step(at=stands + 0.50, name="end", performer={"z": 0.515 - low, "right_foot_x": 1.06, "left_foot_x": 0.97, "right_foot_z": 0.0, "left_foot_z": 0.0}, fixed=True),
        Step(at=stands + 0.90, performer={"left_foot_z": 0.05, "right_foot_z": 0.05, "x": 0.3, "left_foot_x": 0.2, "right_foot_x": 0.4}),
        Step(at=stands + 1.50, name="again", performer=STANDING | {"lean": WHEEL + 1.0}, fixed=True),
    ]  # fmt: skip


def _back(rest: float) -> list[Step]:
    """Up from the back and to where it began."""
    return [
        Step(at=rest + 0.55, performer={"x": 0.70, "z": 0.085, "lean": 338.0, "bow": 34.0, "nod": 12.0, "left_plant": 1.0, "right_plant": 1.0, "left_foot_x": 1.06, "left_foot_y": 0.13, "left_foot_z": 0.0, "right_foot_x": 1.06, "right_foot_y": -0.13, "right_foot_z": 0.0, "left_heel_up": 0.0, "right_heel_up": 0.0, "left_arm_flex": 70.0, "left_arm_abd": 6.0, "right_arm_flex": 70.0}),
        Step(at=rest + 1.15, performer={"x": 0.90, "z": 0.27, "lean": 394.0, "bow": 20.0, "left_heel_up": 14.0, "right_heel_up": 14.0}),
        Step(at=rest + 1.60, performer={"x": 0.90, "z": 0.50, "lean": 366.0, "left_foot_z": 0.03, "right_foot_z": 0.03}),
        Step(at=rest + 2.30, name="again", performer=STANDING | {"lean": WHEEL + 1.0}, fixed=True),
    ]  # fmt: skip


def _events(how: How) -> dict[str, Finder]:
    found = {
        "hand_down": Finder(step="hand", rule="falls", measure=height("performer", "right_hand"), level=0.09, before_s=0.16, after_s=0.12),
        "shoulder_down": Finder(step="shoulder", rule="falls", measure=height("performer", "right_shoulder"), level=0.17, before_s=0.14, after_s=0.10),
        "hips_over": Finder(step="over", rule="highest", measure=height("performer", "left_hip", "right_hip"), before_s=0.12, after_s=0.10),
        "seat_down": Finder(step="seat", rule="falls", measure=height("performer", "left_hip", "right_hip"), level=0.16, before_s=0.20, after_s=0.14),
    }
    if how.options.get("finish") == "stand":
        return found | {"stands": Finder(step="stands"), "at_rest": Finder(step="up")}
    return found | {"at_rest": Finder(step="rest"), "strikes": Finder(step="strike", rule="falls", measure=height("performer", "left_hand"), level=0.06, before_s=0.13, after_s=0.20)}


MOVE = Move(
    technique="rolling-fall",
    partner=False,
    faults=FAULTS,
    options={"line": ("shoulder", "straight"), "finish": ("stay", "stand")},
    steps=_steps,
    events=_events,
    middle=(0.15, 0.0),
    height=0.62,
    rung="standing",
    flips={"performer": 1},
)
