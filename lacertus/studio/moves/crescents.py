"""What the crescent and the reverse crescent share: a folded knee, a swing across the own middle, and back to the stance."""

from __future__ import annotations

from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Move, merge
from lacertus.studio.moves.front_kick import STANCE
from lacertus.studio.moves.parts import ON_MAT_M, along, height, span

LIFT = {"knee": 72.0, "belt": 95.0, "ribs": 112.0, "head": 144.0}
"""How far the thigh is lifted for the asked height, degrees."""
OFF, TOP = 0.36, 0.62

FAULTS = (
    Fault(code="loose-chamber", unit="deg", most=80.0, says="the knee is folded so much less on the way up"),
    Fault(code="knee-on-the-wrong-side", unit="deg", most=66.0, says="the knee comes up so much further to the other side"),
    Fault(code="half-arc", unit="deg", most=60.0, says="the leg swings so much less far across"),
    Fault(code="low-arc", unit="deg", most=52.0, says="the leg is lifted by so much less"),
    Fault(code="no-snap", unit="deg", most=70.0, says="the knee opens by so much less"),
    Fault(code="parked-knee", unit="ms", most=600.0, says="the knee waits so long at the top"),
    Fault(code="shoulders-tell", unit="deg", most=70.0, says="the shoulders turn by so much before the foot has crossed"),
    Fault(code="leans-back", unit="deg", most=45.0, says="the trunk leans back by so much more"),
    Fault(code="on-the-toes", unit="deg", most=44.0, says="the standing heel is lifted by so much"),
    Fault(code="locked-support", unit="deg", most=34.0, says="the standing knee is so much straighter"),
    Fault(code="falls-off-the-foot", unit="cm", most=46.0, says="the hips are so far beside the standing foot"),
    Fault(code="no-refold", unit="deg", most=80.0, says="the knee is folded by so much less on the way down"),
    Fault(code="drops-the-leg", unit="ms", most=340.0, says="the foot is down so much sooner"),
    Fault(code="lands-anywhere", unit="cm", most=60.0, says="the foot comes down so far out to the side"),
    Fault(code="falls-into-the-step", unit="cm", most=70.0, says="the foot comes down so much further forward"),
    Fault(code="bends-in-the-swing", unit="deg", most=70.0, says="the knee folds by so much in the swing", options={"school": "swing"}),
)


def _across(inward: bool, share: float) -> float:
    """How far the leg is spread outwards, degrees, from where the swing begins (0) to where it ends (1)."""
    starts, ends = (46.0, -32.0) if inward else (-46.0, 40.0)
    return starts + (ends - starts) * share


def swing(how: How, inward: bool) -> list[Step]:
    """One kick with the right, rear leg."""
    swings = how.options.get("school") == "swing"
    less, half = how.fault("low-arc"), how.fault("half-arc")
    turn, lean, bend = how.fault("shoulders-tell"), how.fault("leans-back"), how.fault("no-snap") + 14.0
    toes, lock, aside = how.fault("on-the-toes"), how.fault("locked-support"), how.fault("falls-off-the-foot") / 100
    head = how.options.get("height") == "head"
    lift = LIFT[how.options.get("height", "ribs")] - less
    folded = (22.0 + how.fault("bends-in-the-swing")) if swings else 116.0 - how.fault("loose-chamber")
    cross = TOP + 0.16 + how.fault("parked-knee") / 1000
    end, back = cross + 0.10, cross + 0.30
    down = back + 0.28 - how.fault("drops-the-leg") / 1000
    if how.fault("drops-the-leg"):
        back = cross + 0.30 - how.fault("drops-the-leg") / 1500
    up = 0.034 * lock / 34.0
    ends = 1.0 - half / 70.0
    begins = _across(inward, 0.0) + how.fault("knee-on-the-wrong-side") * (-1.0 if inward else 1.0)
    stand = {"left_heel_up": toes, "left_foot_yaw": 10.0}
    body = {"y": (0.07 if inward else 0.15) + aside, "twist": -6.0 + turn * 0.5, "lean": (-18.0 if head else -8.0) - lean, "bow": 4.0}
    lands = {
        "right_foot_x": STANCE["right_foot_x"] + how.fault("falls-into-the-step") / 100,
        "right_foot_y": STANCE["right_foot_y"] - how.fault("lands-anywhere") / 100,
        "right_foot_yaw": STANCE["right_foot_yaw"],
    }  # fmt: skip
    waits = [Step(at=cross - 0.15, performer={"right_leg_flex": 88.0, "right_leg_bend": folded, "right_leg_abd": begins})] if how.fault("parked-knee") else []
    return [
        Step(at=0.0, name="start", performer=STANCE, fixed=True),
        Step(at=OFF - 0.14, performer={"x": 0.03, "yaw": -26.0, "right_heel_up": 14.0, "right_plant": 1.0}),
        Step(
            at=OFF,
            name="off",
            performer={
                "x": 0.13, "y": 0.03, "z": 0.506, "yaw": -14.0 + turn * 0.3, "lean": 2.0, "look": 12.0, "twist": 2.0, "right_heel_up": 46.0, "right_plant": 1.0, "right_foot_z": 0.0,
                "right_foot_x": STANCE["right_foot_x"], "right_foot_y": STANCE["right_foot_y"], "right_foot_yaw": STANCE["right_foot_yaw"], "right_leg_flex": 2.0, "right_leg_bend": 60.0, **stand,
            },
        ),
        Step(at=OFF + 0.10, performer={"right_plant": 0.1, "right_foot_z": 0.12, "right_leg_flex": 44.0, "right_leg_bend": folded * 0.85, "right_leg_abd": begins * 0.6, "right_heel_up": 10.0}),
        Step(
            at=TOP,
            name="top",
            performer={
                "x": 0.22, "y": 0.07 + aside * 0.6, "z": 0.498 + up, "yaw": -4.0 + turn * 0.6, "look": 2.0, "lean": -2.0 - lean * 0.4, "twist": turn * 0.3, "right_plant": 0.0, "right_leg_flex": lift * 0.7 if swings else 94.0 - less * 0.5,
                "right_leg_bend": folded, "right_leg_abd": begins, "right_toe_up": 6.0, **stand,
            },
        ),
        *waits,
        Step(
            at=cross,
            name="cross",
            performer={"x": 0.23, "z": (0.500 if inward else 0.484) + up, "yaw": 2.0 + turn * 0.8, "look": -2.0, "right_plant": 0.0, "right_leg_flex": lift, "right_leg_bend": bend, "right_leg_abd": _across(inward, (0.50 if inward else 0.60) * ends), "right_toe_up": 14.0, **body, **stand},
        ),
        Step(
            at=end,
            name="end_of_swing",
            performer={"z": (0.500 if inward else 0.484) + up, "yaw": (10.0 if inward else -8.0) + turn * 0.6, "right_leg_flex": lift - 6.0, "right_leg_bend": bend + 6.0, "right_leg_abd": _across(inward, ends), **body, **stand},
        ),
        Step(
            at=back,
            name="back",
            performer={
                "x": 0.18, "y": 0.06 + aside * 0.5, "z": 0.512, "yaw": -6.0, "lean": 0.0, "twist": 0.0, "right_plant": 0.0, "right_leg_flex": 60.0 if swings else 84.0, "right_leg_bend": 40.0 if swings else 112.0 - how.fault("no-refold"),
                "right_leg_abd": _across(inward, ends) * 0.2, "right_toe_up": 6.0, "right_foot_z": 0.16, **stand,
            },
        ),
        Step(at=down - 0.11, performer={"right_plant": 0.5, "right_foot_z": 0.14, "right_leg_flex": 34.0, "right_leg_bend": 92.0 - how.fault("no-refold") * 0.8, **lands}),
        Step(at=down, name="down", performer={"x": 0.04, "y": 0.01, "z": 0.498, "yaw": -18.0, "lean": 4.0, "look": 18.0, "right_plant": 1.0, "right_foot_z": 0.0, "right_heel_up": 22.0, "right_leg_flex": -8.0, "right_leg_bend": 40.0, "right_leg_abd": 4.0, "left_heel_up": 0.0, "left_foot_yaw": 0.0, **lands}),
        Step(at=down + 0.34, name="end", performer=merge(STANCE, lands), fixed=True),
        *_home(down + 0.34, lands),
    ]  # fmt: skip


def _home(end: float, lands: dict[str, float]) -> list[Step]:
    """Back to the stance where the foot came down elsewhere; no part of the rep."""
    if lands == {key: STANCE[key] for key in lands}:
        return []
    return [Step(at=end + 0.30, performer={"right_foot_z": 0.06}), Step(at=end + 0.60, name="again", performer=STANCE, fixed=True)]


def events(inward: bool) -> dict[str, Finder]:
    """The instants of the kick, found in the motion."""
    reach = span("performer", "right_hip", "right_ankle")
    soles = ("right_toe", "right_heel")
    return {
        "foot_off": Finder(step="off", rule="rises", measure=height("performer", *soles), level=ON_MAT_M, before_s=0.10, after_s=0.16),
        "knee_top": Finder(step="top"),
        "crossing": Finder(step="cross", rule="rises" if inward else "falls", measure=along("performer", "right_ankle", 1), before_s=0.16, after_s=0.14),
        "apex": Finder(step="cross", rule="highest", measure=height("performer", "right_ankle"), before_s=0.10, after_s=0.12),
        "knee_back": Finder(step="back", rule="lowest", measure=reach, before_s=0.08, after_s=0.10),
        "foot_down": Finder(step="down", rule="falls", measure=height("performer", *soles), level=ON_MAT_M, before_s=0.12, after_s=0.12),
    }  # fmt: skip


def crescent(technique: str, inward: bool) -> Move:
    """The move of one of the two."""
    return Move(
        technique=technique,
        partner=False,
        faults=FAULTS,
        options={"height": ("ribs", "belt", "knee", "head"), "leg": ("rear",), "use": ("clear",), "school": ("chambered", "swing")},
        steps=lambda how: swing(how, inward),
        events=lambda how: events(inward),
        middle=(0.12, 0.0),
        rung="solo",
    )
