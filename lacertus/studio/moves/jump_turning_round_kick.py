"""The jump-turning round kick: the front heel turns to the target, the rear knee passes under, the legs switch, and the front leg kicks round.

The partner steps back, circles or attacks before it, where the rep says so.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Move
from lacertus.studio.moves.parts import ON_MAT_M, both, flight_s, height, plus, span

FAULTS = (
    Fault(code="turns-on-the-spot", unit="cm", most=46.0, says="the body goes so much less far forward"),
    Fault(code="runs-past-them", unit="cm", most=90.0, says="the body goes so much further forward", options={"use": "cut_off"}),
    Fault(code="arms-come-late", unit="ms", most=420.0, says="the arms are tucked so much later than the heel turns"),
    Fault(code="arms-thrown-around", unit="deg", most=110.0, says="the arms are stretched out by so much"),
    Fault(code="swings-wide", unit="cm", most=70.0, says="the knee swings so far out of its way"),
    Fault(code="turns-on-the-mat", unit="cm", most=18.0, says="the hips rise by so much less"),
    Fault(code="lands-first", unit="ms", most=240.0, says="the leg stretches so much later"),
    Fault(code="straight-swing", unit="deg", most=96.0, says="the knee is folded by so much less before the kick"),
    Fault(code="bent-reach", unit="deg", most=64.0, says="the leg stays so much more bent"),
    Fault(code="foot-off-its-height", unit="deg", most=60.0, says="the leg is lifted by so much less"),
    Fault(code="thrown-back", unit="deg", most=50.0, says="the trunk leans away by so much more"),
    Fault(code="leg-left-out", unit="ms", most=360.0, says="the leg is folded so much later"),
    Fault(code="front-not-kept", unit="cm", most=70.0, says="the foot comes down so much further back"),
    Fault(code="back-not-drawn", unit="cm", most=52.0, says="the foot comes down so much further forward", options={"recovery": "back"}),
    Fault(code="spins-on", unit="deg", most=130.0, says="the body turns on by so much more"),
    Fault(code="stops-in-between", unit="deg", most=74.0, says="the body turns on by so much less", options={"recovery": "through"}),
    Fault(code="stiff-landing", unit="deg", most=60.0, says="the knee gives by so much less"),
)  # fmt: skip

STANCE = {
    "x": -0.42, "y": 0.0, "z": 0.500, "yaw": 30.0, "lean": 4.0, "roll": 0.0, "bow": 3.0, "twist": -2.0, "nod": 4.0, "look": -26.0, "side": 0.0,
    "right_plant": 1.0, "right_foot_x": -0.16, "right_foot_y": -0.10, "right_foot_z": 0.0, "right_foot_yaw": 8.0, "right_heel_up": 0.0, "right_toe_up": 0.0,
    "left_plant": 1.0, "left_foot_x": -0.60, "left_foot_y": 0.12, "left_foot_z": 0.0, "left_foot_yaw": 42.0, "left_heel_up": 6.0, "left_toe_up": 0.0,
    "left_leg_flex": -14.0, "left_leg_bend": 24.0, "left_leg_abd": 4.0, "left_leg_rot": 0.0, "right_leg_flex": 10.0, "right_leg_bend": 20.0, "right_leg_abd": 4.0, "right_leg_rot": 0.0,
    "right_arm_flex": 46.0, "right_arm_abd": 8.0, "right_arm_bend": 100.0, "right_arm_rot": -16.0,
    "left_arm_flex": 26.0, "left_arm_abd": 8.0, "left_arm_bend": 124.0, "left_arm_rot": -20.0,
}  # fmt: skip
HEEL, KNEE, OFF = 0.36, 0.58, 0.64
DRAWS_BACK_S = 0.62
"""How long the draw back from an attack takes before the turn begins."""
PARTNER = {
    "x": 1.48, "y": 0.0, "z": 0.500, "yaw": 150.0, "lean": 4.0, "bow": 3.0, "nod": 4.0, "look": 26.0,
    "left_plant": 1.0, "left_foot_x": 1.21, "left_foot_y": -0.10, "left_foot_yaw": 172.0, "left_foot_z": 0.0, "left_heel_up": 0.0,
    "right_plant": 1.0, "right_foot_x": 1.65, "right_foot_y": 0.12, "right_foot_yaw": 138.0, "right_foot_z": 0.0, "right_heel_up": 6.0,
    "left_arm_flex": 46.0, "left_arm_abd": 8.0, "left_arm_bend": 100.0, "left_arm_rot": -16.0,
    "right_arm_flex": 26.0, "right_arm_abd": 8.0, "right_arm_bend": 124.0, "right_arm_rot": -20.0,
}  # fmt: skip
RISE_M = 0.16
"""How far the hips rise in the air: with gravity that is 0.36 s of flight."""
LIFTS = {"body": 0.0, "head": 36.0}
TURN = 360.0


def _learns(how: How) -> bool:
    """Whether the foot lands, with the knee folded, before the kick."""
    return how.options.get("timing") == "landed"


def _flight_s(how: How) -> float:
    return flight_s(max(RISE_M * (0.6 if _learns(how) else 1.0) - how.fault("turns-on-the-mat") / 100, 0.004))


def _steps(how: How) -> list[Step]:
    found = [*_turn(how), *_kick(how), *_recover(how)]
    if _pulls_away(how):
        found = [*_draws_back(), *(replace(step, at=step.at + DRAWS_BACK_S) for step in found if step.name != "start")]
    return sorted([*_partner(how, max(step.at for step in found)), *found], key=lambda step: step.at)


def _pulls_away(how: How) -> bool:
    return how.options.get("use") == "pull_away"


def _way(how: How) -> float:
    """How far the body goes forward, metres: round with a partner who circles, with one who goes away as far as it carries."""
    way = {"cut_off": 0.0, "pull_away": 0.20}.get(how.options.get("use", ""), 0.62)
    return way + (how.fault("runs-past-them") - how.fault("turns-on-the-spot")) / 100


def _draws_back() -> list[Step]:
    """From an attack: the rear foot back, the head off its line, and forward again."""
    rear = {"left_foot_x": STANCE["left_foot_x"] - 0.26, "left_foot_y": STANCE["left_foot_y"] + 0.04}
    return [
        Step(at=0.0, name="start", performer=STANCE, fixed=True),
        Step(at=0.14, performer={"left_foot_z": 0.03, **rear}),
        Step(at=0.24, name="stepped_back", performer={"x": STANCE["x"] - 0.20, "left_foot_z": 0.0, "left_heel_up": 16.0, **rear}),
        Step(at=0.38, name="head_off", performer={"x": STANCE["x"] - 0.22, "z": 0.478, "lean": -10.0, "roll": 14.0, **rear}),
        Step(at=0.50, performer={"x": STANCE["x"] - 0.10, "lean": 2.0, "roll": 4.0, "left_foot_z": 0.03}),
        Step(at=DRAWS_BACK_S, performer=STANCE),
    ]


def _partner(how: How, end: float) -> list[Step]:
    """The partner stands; or steps back, circles to the back side, or attacks with the front hand."""
    near = plus(PARTNER, dict.fromkeys(("x", "left_foot_x", "right_foot_x"), -0.36))
    start = near if how.reaction or how.options.get("use", "distance") != "distance" else PARTNER
    found = [Step(at=0.0, partner=start)]
    if how.reaction == "partner_steps_back":
        found += _walks(start, {"x": 0.42}, {"left_foot_x": 0.42}, {"right_foot_x": 0.42})
    elif how.reaction == "partner_circles":
        found += _walks(start, {"y": 0.50, "x": -0.08}, {"left_foot_y": 0.46, "left_foot_x": -0.08}, {"right_foot_y": 0.54, "right_foot_x": -0.08})
    elif how.reaction == "partner_attacks":
        found += _strikes(start)
    # The way back to the beginning, which is no part of the rep, takes the last 1.36 seconds.
    return [*found, Step(at=end - 1.36, partner=found[-1].partner), Step(at=end, partner=start)]


def _walks(start: Mapping[str, float], body: Mapping[str, float], front: Mapping[str, float], rear: Mapping[str, float]) -> list[Step]:
    """Two steps, the rear foot first; each foot is lifted as it goes."""
    rear_at = plus(start, rear)
    there = plus(rear_at, dict(body) | dict(front))
    half = {key: value / 2 for key, value in body.items()}
    return [
        Step(at=0.10, name="reacts", partner=plus(start, {"right_foot_z": 0.02})),
        Step(at=0.22, partner=plus(start, {key: value / 2 for key, value in rear.items()} | half | {"right_foot_z": 0.05})),
        Step(at=0.34, partner=plus(rear_at, half)),
        Step(at=0.46, partner=plus(rear_at, dict(body) | {key: value / 2 for key, value in front.items()} | {"left_foot_z": 0.05})),
        Step(at=0.60, partner=there),
    ]


def _strikes(start: Mapping[str, float]) -> list[Step]:
    """A straight front hand at the head, and home again."""
    out = {"x": -0.14, "left_arm_flex": 44.0, "left_arm_bend": -92.0, "lean": 6.0}
    return [
        Step(at=0.06, name="reacts", partner=start),
        Step(at=0.26, partner=plus(start, out)),
        Step(at=0.52, partner=start),
    ]


def _turn(how: How) -> list[Step]:
    """Heel to the target, arms in, the eyes round, and the rear knee close under."""
    late, wide, flung = how.fault("arms-come-late") / 1000, how.fault("swings-wide"), how.fault("arms-thrown-around")
    tucked = both(arm_flex=40.0, arm_abd=4.0 + flung * 0.7, arm_bend=122.0 - flung)
    start = STANCE["x"]
    rear = {"left_foot_x": STANCE["left_foot_x"], "left_foot_y": STANCE["left_foot_y"]}
    front = {"right_foot_x": STANCE["right_foot_x"], "right_foot_y": STANCE["right_foot_y"], "right_foot_z": 0.0}
    return [
        Step(at=0.0, name="start", performer=STANCE, fixed=True),
        Step(at=0.18, performer={"x": start + 0.05, "yaw": 52.0, "z": 0.490, "right_heel_up": 16.0, "right_foot_yaw": 30.0, **front}),
        Step(at=HEEL, name="heel", performer={"x": start + 0.14, "y": -0.04, "yaw": 130.0, "z": 0.492, "lean": 2.0, "look": 40.0, "twist": 10.0, "right_heel_up": 22.0, "right_foot_yaw": 158.0, "left_plant": 1.0, "left_foot_z": 0.0, "left_heel_up": 44.0, "left_foot_yaw": 60.0, **rear, **front}),
        Step(at=HEEL + 0.02 + late, name="arms", performer=tucked),
        Step(at=HEEL + 0.12, performer={"left_plant": 0.3, "left_foot_z": 0.20, "left_foot_x": STANCE["left_foot_x"] + 0.10, "left_leg_flex": 40.0 + wide * 0.4, "left_leg_bend": 84.0, "left_leg_abd": 8.0 + wide * 0.9, "yaw": 190.0, "y": -0.02 - wide * 0.004, "look": 60.0}),
        Step(at=KNEE, name="knee", performer={"x": start + 0.24, "y": 0.0, "yaw": 256.0, "z": 0.510, "look": 66.0, "left_plant": 0.0, "left_leg_flex": 92.0, "left_leg_bend": 96.0, "left_leg_abd": 8.0 + wide * 0.2, "right_foot_yaw": 176.0, "right_heel_up": 40.0, **front}),
        Step(at=OFF, name="off", performer={"x": start + 0.34, "y": 0.0, "z": 0.545, "yaw": 290.0, "look": 52.0, "right_plant": 1.0, "right_heel_up": 54.0, "right_foot_yaw": 184.0, **front}),
        Step(at=OFF + 0.05, performer={"right_plant": 0.2, "right_foot_z": 0.14, "right_leg_flex": 20.0, "right_leg_bend": 60.0}),
    ]  # fmt: skip


def _times(how: How) -> tuple[float, float, float, float]:
    """When the other foot is down, the knee folded, the leg at its reach and folded again."""
    down = OFF + _flight_s(how)
    late = how.fault("lands-first") / 1000
    chambered = down + 0.06 if _learns(how) else OFF + 0.14
    reach = chambered + 0.13 + late
    return down, chambered, reach, reach + 0.15 + how.fault("leg-left-out") / 1000


def _kick(how: How) -> list[Step]:
    """The legs switch, the knee is folded, and the leg kicks round and comes back."""
    _, chambered, reach, folded = _times(how)
    loose, bent, back = how.fault("straight-swing"), how.fault("bent-reach"), how.fault("thrown-back")
    # On the mat again the hips are lower, and the leg has to rise further.
    lift = LIFTS[how.options.get("height", "body")] - how.fault("foot-off-its-height") + (10.0 if _learns(how) else 0.0)
    x = STANCE["x"]
    arms = both(arm_flex=40.0, arm_abd=8.0, arm_bend=116.0)
    return [
        Step(at=OFF + 0.10, name="switch", performer={"yaw": 322.0, "left_leg_flex": 50.0, "left_leg_bend": 70.0, "left_leg_abd": 6.0, "right_plant": 0.0, "right_leg_flex": 66.0, "right_leg_bend": 104.0 - loose * 0.6, "right_leg_abd": 10.0, "right_toe_up": -10.0}),
        Step(at=chambered, name="chambered", performer={"x": x + 0.34 + _way(how) * 0.5, "yaw": TURN + 14.0, "roll": -12.0, "look": -8.0, "twist": 0.0, "right_leg_flex": 92.0 + lift * 0.3, "right_leg_bend": 118.0 - loose, "right_leg_abd": 22.0, "right_toe_up": -24.0, **arms}),
        Step(
            at=reach,
            name="reach",
            performer={
                "x": x + 0.40 + _way(how) * 0.55, "yaw": TURN + 66.0, "lean": 2.0, "roll": -24.0 - back - max(lift, 0.0) * 0.5, "look": -60.0, "right_plant": 0.0, "right_leg_flex": 14.0, "right_leg_bend": 10.0 + bent,
                "right_leg_abd": 56.0 + lift * 0.6 - back * 0.6, "right_leg_rot": -30.0, "right_toe_up": -40.0,
            },
        ),
        Step(at=folded, name="folded", performer={"yaw": TURN + 44.0, "roll": -8.0, "look": -38.0, "right_leg_flex": 84.0, "right_leg_bend": 108.0, "right_leg_abd": 14.0, "right_leg_rot": 0.0, "right_toe_up": -10.0}),
    ]  # fmt: skip


def _recover(how: How) -> list[Step]:
    """The other foot under the hips, the kicking foot in front or drawn back; then back, which is no part of the rep."""
    down, _, _, folded = _times(how)
    back, through = how.options.get("recovery") == "back", how.options.get("recovery") == "through"
    x = STANCE["x"] + 0.40 + _way(how) * 0.6
    stiff = how.fault("stiff-landing")
    kick_down = max(folded + 0.24, down + 0.30)
    settled = kick_down + 0.14
    left = {"left_foot_x": x + 0.02, "left_foot_y": 0.10, "left_foot_z": 0.0}
    off = (how.fault("back-not-drawn") - how.fault("front-not-kept")) / 100
    right = {"right_foot_x": x + (-0.34 if back else 0.36) + off, "right_foot_y": -0.12, "right_foot_z": 0.0, "right_foot_yaw": TURN + (-36.0 if back else 8.0)}
    yaw = TURN + (176.0 - how.fault("stops-in-between") if through else -26.0 if back else 26.0) + how.fault("spins-on")
    right |= {"right_foot_x": x + 0.04, "right_foot_y": 0.42, "right_foot_yaw": TURN + 170.0} if through else {}
    turned = TURN * (2 if through else 1)
    guard = {name: value for name, value in STANCE.items() if "_arm_" in name}
    return [
        Step(at=down - 0.10, performer={"left_plant": 0.3, "left_foot_z": 0.16, "left_foot_x": x, "left_foot_y": 0.10, "left_leg_flex": 26.0, "left_leg_bend": 40.0, "left_foot_yaw": TURN + 60.0}),
        Step(at=down, name="down", performer={"x": x - 0.02, "y": 0.03, "z": 0.500 + stiff * 0.0003, "left_plant": 1.0, "left_heel_up": 10.0, "left_foot_yaw": TURN + 90.0, **left}),
        Step(at=down + 0.12, performer={"z": 0.488 + stiff * 0.0007, "left_heel_up": 0.0}),
        Step(at=kick_down - 0.10, performer={"right_plant": 0.5, "right_foot_z": 0.10, "right_foot_x": right["right_foot_x"], "right_foot_y": right["right_foot_y"], "right_foot_yaw": right["right_foot_yaw"], "right_leg_flex": 30.0, "right_leg_bend": 60.0, "right_toe_up": 0.0, "left_foot_yaw": TURN + (110.0 if through else 60.0)}),
        Step(at=kick_down, name="kick_down", performer={"x": x + (-0.10 if back else 0.03 if through else 0.12), "y": 0.24 if through else 0.03, "z": 0.486 + stiff * 0.0006, "yaw": yaw, "roll": 0.0, "look": -(yaw - TURN), "lean": 4.0, "right_plant": 1.0, "right_heel_up": 10.0, "left_foot_yaw": TURN + (130.0 if through else 40.0), **right, **left}),
        Step(at=settled, name="settled", performer={"x": x + (-0.12 if back else 0.03 if through else 0.14), "z": 0.402 + stiff * 0.0026, "right_heel_up": 0.0, "left_foot_yaw": TURN + (140.0 if through else 10.0 if back else 40.0), **right, **left, **guard}),
        *(_steps_through(settled, x) if through else ()),
        *(() if through else (Step(at=settled + 0.30, name="end", performer={"z": 0.494, "yaw": yaw, **right, **left}, fixed=True), Step(at=settled + 0.32, performer={**right, **left}))),
        Step(at=settled + 0.46, performer={"left_foot_z": 0.05, "right_foot_z": 0.05}),
        Step(at=settled + 1.20, performer={"left_foot_z": 0.05, "right_foot_z": 0.05}),
        Step(at=settled + 1.36, name="again", performer=STANCE | {name: value + turned for name, value in STANCE.items() if name.endswith("yaw")}, fixed=True),
    ]  # fmt: skip


def _steps_through(settled: float, x: float) -> list[Step]:
    """On round over the kicking foot, the other foot stepping back behind it, into the stance."""
    front = {"right_foot_x": x + 0.04, "right_foot_y": 0.42, "right_foot_z": 0.0}
    rear = {"left_foot_x": x - 0.40, "left_foot_y": 0.56}
    return [
        Step(at=settled + 0.12, performer={"x": x, "y": 0.34, "z": 0.490, "yaw": TURN + 230.0, "look": -40.0, "right_foot_yaw": TURN + 230.0, "left_foot_z": 0.06, "left_foot_x": x - 0.16, "left_foot_y": 0.24, "left_foot_yaw": TURN + 220.0, **front}),
        Step(at=settled + 0.30, performer={"x": x - 0.10, "y": 0.44, "yaw": TURN + 340.0, "look": -10.0, "right_foot_yaw": TURN + 340.0, "left_foot_z": 0.0, "left_foot_yaw": TURN + 380.0, **rear, **front}),
        Step(at=settled + 0.42, name="end", performer={"x": x - 0.14, "y": 0.48, "z": 0.494, "yaw": 2 * TURN + 26.0, "look": -26.0, "right_foot_yaw": 2 * TURN + 8.0, "left_foot_yaw": 2 * TURN + 42.0, **rear, **front}, fixed=True),
        Step(at=settled + 0.44, performer={**rear, **front}),
    ]  # fmt: skip


def _events(how: How) -> dict[str, Finder]:
    told = {"partner_steps_back": "steps_back", "partner_circles": "circles", "partner_attacks": "attacks"}
    met = {told[how.reaction]: Finder(step="reacts")} if how.reaction else {}
    met |= {"stepped_back": Finder(step="stepped_back"), "head_off_line": Finder(step="head_off")} if _pulls_away(how) else {}
    return met | _kick_events()


def _kick_events() -> dict[str, Finder]:
    reach = span("performer", "right_hip", "right_ankle")
    soles = ("right_toe", "right_heel")
    return {
        "heel_turned": Finder(step="heel"),
        "arms_in": Finder(step="arms"),
        "target_seen": Finder(step="knee", rule="rises", measure=lambda moment: float(moment["performer"].head.forward[0]), level=0.5, before_s=0.20, after_s=0.0),
        "knee_lifted": Finder(step="knee", rule="highest", measure=height("performer", "left_knee"), before_s=0.08, after_s=0.06),
        "take_off": Finder(step="off", rule="rises", measure=height("performer", *soles), level=ON_MAT_M, before_s=0.02, after_s=0.08),
        "switch": Finder(step="switch"),
        "chambered": Finder(step="chambered"),
        "full_reach": Finder(step="reach", rule="highest", measure=reach, before_s=0.05, after_s=0.05),
        "folded": Finder(step="folded", rule="lowest", measure=reach, before_s=0.06, after_s=0.06),
        "support_down": Finder(step="down", rule="falls", measure=height("performer", "left_toe", "left_heel"), level=ON_MAT_M, before_s=0.08, after_s=0.04),
        "kick_foot_down": Finder(step="kick_down", rule="falls", measure=height("performer", *soles), level=ON_MAT_M, before_s=0.10, after_s=0.04),
        "settled": Finder(step="settled", rule="lowest", measure=height("performer", "left_hip", "right_hip"), before_s=0.10, after_s=0.10),
    }  # fmt: skip


MOVE = Move(
    technique="jump-turning-round-kick",
    partner=True,
    faults=FAULTS,
    options={"use": ("distance", "cut_off", "pull_away"), "recovery": ("front", "back", "through"), "timing": ("airborne", "landed"), "height": ("body", "head")},
    steps=_steps,
    events=_events,
    flights=(("performer", "off", "down"),),
    reactions={"partner_steps_back": {}, "partner_circles": {}, "partner_attacks": {}},
    goes_with={"partner_circles": {"use": "cut_off"}, "partner_attacks": {"use": "pull_away"}},
    middle=(0.0, 0.0),
    turns=1,
    turns_by_choice={"through": 2},
)
