"""The side kick: the knee folded in front, the standing foot turned away, the heel thrust out in a line and drawn back."""

from __future__ import annotations

from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Move
from lacertus.studio.moves.front_kick import STANCE
from lacertus.studio.moves.parts import ON_MAT_M, height, span

OFF, TOP = 0.38, 0.66
LIFTS = {"knee": -44.0, "ribs": 0.0, "head": 22.0}
"""How much further the leg is lifted and the trunk carried over for the asked height, degrees."""

FAULTS = (
    Fault(code="loose-chamber", unit="deg", most=88.0, says="the knee is folded so much less"),
    Fault(code="low-chamber", unit="deg", most=60.0, says="the knee is lifted by so much less"),
    Fault(code="slow-chamber", unit="ms", most=600.0, says="the knee takes so much longer to come up"),
    Fault(code="leans-in-chamber", unit="deg", most=47.0, says="the trunk leans back by so much as the knee rises"),
    Fault(code="bent-reach", unit="deg", most=60.0, says="the leg stays so much more bent at full reach"),
    Fault(code="bent-at-hip", unit="deg", most=70.0, says="the trunk is kept so much more upright, so that the body is bent at the hips"),
    Fault(code="swings-up", unit="deg", most=72.0, says="the knee opens by so much before the hips turn over"),
    Fault(code="locked-support", unit="deg", most=40.0, says="the standing knee is so much straighter"),
    Fault(code="heel-not-turned", unit="deg", most=130.0, says="the standing foot is turned by so much less"),
    Fault(code="drops-the-shoulder", unit="deg", most=30.0, says="the trunk leans away by so much more"),
    Fault(code="falls-away", unit="cm", most=34.0, says="the body is so far behind the standing foot"),
    Fault(code="no-return", unit="ms", most=500.0, says="the leg is folded so much later"),
    Fault(code="heel-off-its-height", unit="deg", most=46.0, says="the leg is lifted by so much less"),
    Fault(code="kicks-from-the-knee", unit="cm", most=26.0, says="the hips go in by so much less", options={"extension": "thrust"}),
    Fault(code="falls-into-the-step", unit="cm", most=75.0, says="the foot comes down so much further forward"),
    Fault(code="steps-back-from-it", unit="cm", most=75.0, says="the foot comes down so much further back", options={"extension": "thrust"}),
    Fault(code="no-refold", unit="deg", most=88.0, says="the knee is folded by so much less on the way back"),
)


def _steps(how: How) -> list[Step]:
    loose, low, bent = how.fault("loose-chamber"), how.fault("low-chamber"), how.fault("bent-reach")
    fold, opens, lock = how.fault("bent-at-hip"), how.fault("swings-up"), how.fault("locked-support") / 40.0 * 0.095
    turned, dropped, away = how.fault("heel-not-turned"), how.fault("drops-the-shoulder"), how.fault("falls-away") / 100
    back, again = how.fault("leans-in-chamber"), how.fault("no-refold")
    lift = LIFTS[how.options.get("height", "ribs")] - how.fault("heel-off-its-height")
    top = TOP + how.fault("slow-chamber") / 1000
    full = top + 0.20
    goes_in = 0.13 - how.fault("kicks-from-the-knee") / 100 if _thrusts(how) else 0.0
    stays = 0.20 if _thrusts(how) else 0.0
    folded = full + 0.22 + stays + how.fault("no-return") / 1000
    down = folded + 0.34
    reached = {
        "x": 0.20 - away + goes_in, "y": 0.06, "z": 0.530 + lock + abs(goes_in) * 0.16 + (0.008 if lift > 10 else 0.0), "yaw": 92.0, "lean": 2.0, "bow": 3.0, "roll": -52.0 - dropped + fold * 0.8 - lift * 0.4, "look": -80.0, "side": 4.0, "left_foot_yaw": 150.0 - turned, "right_plant": 0.0,
        "right_leg_flex": 0.0, "right_leg_bend": 3.0 + bent, "right_leg_abd": 46.0 + fold * 0.8 + lift * 0.6 - dropped * 0.9, "right_leg_rot": 10.0 - bent * 1.2, "right_toe_up": 30.0,
    }  # fmt: skip
    held = [Step(at=full + stays, performer=reached)] if stays else []
    return [
        Step(at=0.0, name="start", performer=STANCE, fixed=True),
        Step(at=OFF - 0.14, performer={"x": 0.03, "yaw": -24.0, "right_heel_up": 14.0, "right_plant": 1.0}),
        Step(
            at=OFF,
            name="off",
            performer={
                "x": 0.13, "y": 0.03, "z": 0.506, "yaw": -4.0, "lean": 2.0, "look": 4.0, "right_heel_up": 46.0, "right_plant": 1.0, "right_foot_z": 0.0, "right_foot_x": STANCE["right_foot_x"],
                "right_foot_y": STANCE["right_foot_y"], "right_foot_yaw": STANCE["right_foot_yaw"], "right_leg_flex": 6.0, "right_leg_bend": 60.0, "left_foot_yaw": 10.0,
            },
        ),
        Step(
            at=top,
            name="top",
            performer={
                "x": 0.20, "y": 0.06, "z": 0.506, "yaw": 44.0, "lean": 2.0 - back * 0.75, "bow": 3.0 - back * 0.55, "roll": -8.0, "look": -44.0, "left_foot_yaw": 70.0 - turned * 0.5, "right_plant": 0.0, "right_foot_z": 0.16, "right_heel_up": 10.0,
                "right_leg_flex": 104.0 - low, "right_leg_bend": 122.0 - loose, "right_leg_abd": 14.0, "right_toe_up": 20.0,
            },
        ),
        Step(at=full - 0.10, performer={"yaw": 74.0, "roll": -26.0, "right_leg_flex": 74.0 - opens * 0.8 - low * 0.4, "right_leg_bend": 84.0 - opens * 0.9 - loose * 0.3, "right_leg_abd": 34.0 - opens * 0.3, "left_foot_yaw": 120.0 - turned * 0.8}),
        Step(at=full, name="full", performer=reached),
        *held,
        Step(
            at=folded,
            name="folded",
            performer={
                "x": 0.18, "y": 0.06, "z": 0.508, "yaw": 60.0, "roll": -14.0, "look": -54.0, "side": 0.0, "left_foot_yaw": 90.0 - turned * 0.5, "right_plant": 0.0, "bow": 3.0, "right_leg_flex": 96.0, "right_leg_bend": 116.0 - again, "right_leg_abd": 16.0,
                "right_leg_rot": 0.0, "right_toe_up": 16.0, "right_foot_z": 0.2,
            },
        ),
        Step(at=down - 0.11, performer={"right_plant": 0.5, "right_foot_z": 0.14, "right_leg_flex": 34.0, "right_leg_bend": 92.0 - again * 0.8, **_lands(how)}),
        *_after(how, down),
    ]  # fmt: skip


def _thrusts(how: How) -> bool:
    """Whether the kick moves a person: the hips go in, the leg stays a moment, and the foot is set down in front."""
    return how.options.get("extension") == "thrust"


def _lands(how: How) -> dict[str, float]:
    """Where the foot comes down."""
    off = (how.fault("falls-into-the-step") - how.fault("steps-back-from-it")) / 100
    return {"right_foot_x": (0.66 if _thrusts(how) else STANCE["right_foot_x"]) + off, "right_foot_y": STANCE["right_foot_y"]}


def _after(how: How, down: float) -> list[Step]:
    """Down, and back to where it began, which is no part of the rep."""
    foot = _lands(how)
    forward = foot["right_foot_x"] - STANCE["right_foot_x"]
    body = {"x": 0.04 + forward * 0.5, "y": 0.01, "z": 0.498, "yaw": -18.0 + forward * 46.0, "lean": 4.0, "roll": 0.0, "look": 18.0 - forward * 40.0}
    stands = {"right_plant": 1.0, "right_foot_z": 0.0, "right_leg_flex": -8.0, "right_leg_bend": 40.0, "right_leg_abd": 4.0, "left_foot_yaw": 0.0, **foot}
    landed = Step(at=down, name="down", performer={**body, **stands, "right_heel_up": 22.0})
    if not forward:
        return [landed, Step(at=down + 0.34, name="end", performer=STANCE, fixed=True)]
    return [
        landed,
        Step(at=down + 0.34, name="end", performer={**body, **stands, "right_heel_up": 4.0}, fixed=True),
        Step(at=down + 0.36, performer=foot),
        Step(at=down + 0.80, performer={"right_foot_z": 0.05, "right_heel_up": 10.0}),
        Step(at=down + 1.20, name="again", performer=STANCE, fixed=True),
    ]  # fmt: skip


def _events(how: How) -> dict[str, Finder]:
    reach = span("performer", "right_hip", "right_ankle")
    soles = ("right_toe", "right_heel")
    return {
        "foot_off": Finder(step="off", rule="rises", measure=height("performer", *soles), level=ON_MAT_M, before_s=0.10, after_s=0.16),
        "knee_top": Finder(step="top", rule="highest", measure=height("performer", "right_knee"), before_s=0.10, after_s=0.02),
        "full_reach": Finder(step="full", rule="highest", measure=reach, before_s=0.08, after_s=0.10),
        "folded": Finder(step="folded", rule="lowest", measure=reach, before_s=0.10, after_s=0.10),
        "foot_down": Finder(step="down", rule="falls", measure=height("performer", *soles), level=ON_MAT_M, before_s=0.12, after_s=0.12),
    }  # fmt: skip


MOVE = Move(
    technique="side-kick",
    partner=False,
    faults=FAULTS,
    options={"extension": ("snap", "thrust"), "height": ("ribs", "knee", "head")},
    steps=_steps,
    events=_events,
    middle=(0.16, 0.0),
    rung="solo",
)
