"""The flying side kick: a short run, both legs folded in the air, one thrust and folded again, and a landing on bent knees."""

from __future__ import annotations

from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Move
from lacertus.studio.moves.front_kick import STANCE
from lacertus.studio.moves.parts import ON_MAT_M, both, flight_s, height, span

FAULTS = (
    Fault(code="long-run", unit="cm", most=124.0, says="the run begins so much further back"),
    Fault(code="runs-straight-in", unit="cm", most=34.0, says="the run bends out by so much less", options={"approach": "curved"}),
    Fault(code="runs-round", unit="cm", most=90.0, says="the run bends out by so much more"),
    Fault(code="long-step", unit="cm", most=32.0, says="the hips rise by so much less"),
    Fault(code="no-chamber", unit="deg", most=92.0, says="the kicking knee is folded by so much less in the air"),
    Fault(code="dangling-leg", unit="deg", most=100.0, says="the other leg hangs so much straighter"),
    Fault(code="bent-reach", unit="deg", most=66.0, says="the kicking leg stays so much more bent"),
    Fault(code="drops-the-shoulder", unit="deg", most=34.0, says="the trunk leans away by so much more"),
    Fault(code="leans-behind-it", unit="cm", most=54.0, says="the tucked leg is so far ahead of the shoulders"),
    Fault(code="folds-late", unit="ms", most=170.0, says="the leg is folded so much later", options={"kick": "snap"}),
    Fault(code="touches-and-goes", unit="ms", most=150.0, says="the leg is drawn back so much sooner", options={"kick": "push"}),
    Fault(code="lands-on-kick", unit="ms", most=130.0, says="the leg stays out so much longer"),
    Fault(code="lands-on-the-kick", unit="cm", most=60.0, says="the kicking foot is left so far out in front"),
    Fault(code="lands-apart", unit="cm", most=48.0, says="the feet land so much further apart"),
    Fault(code="stiff-landing", unit="deg", most=70.0, says="the knees give by so much less"),
    Fault(code="no-give", unit="cm", most=18.0, says="the hips are so much lower already as the feet land"),
    Fault(code="falls-on-landing", unit="deg", most=50.0, says="the trunk tips by so much more"),
    Fault(code="hands-drop", unit="cm", most=50.0, says="the hands hang so much lower as the foot lands"),
)  # fmt: skip

STRIDE_M, STRIDE_S = 0.62, 0.27
TAKE_OFF_X = 0.05
"""Where the take-off foot stands, metres along the line to the target."""
RISE_M = 0.385
"""How far the hips rise in the air: with gravity that is 0.56 s of flight."""
LANDS_X = 1.00


def _places(how: How) -> list[tuple[str, float]]:
    """Every step of the run: the foot and where it comes down, the take-off foot last."""
    curved = how.options.get("approach") == "curved"
    steps = 2 + curved + _strides_more(how)
    return [("left" if (steps - i) % 2 else "right", TAKE_OFF_X - STRIDE_M * (steps - 1 - i)) for i in range(steps)]


def _strides_more(how: How) -> int:
    """How many strides more a run takes that begins further back."""
    return round(how.fault("long-run") / 100 / STRIDE_M)


def _start(how: How) -> dict[str, float]:
    """The stance so far back that the run comes out at the take-off."""
    rear, first = _places(how)[0]
    lead = "right" if rear == "left" else "left"
    # What is no whole stride more is in the first one.
    back = first - 0.62 - (how.fault("long-run") / 100 - _strides_more(how) * STRIDE_M)
    feet = {f"{lead}_foot_x": back + 0.27, f"{rear}_foot_x": back - 0.17, f"{lead}_foot_yaw": -8.0, f"{rear}_foot_yaw": -42.0 if rear == "right" else 34.0}
    return STANCE | feet | {"x": back, "y": 0.0}


def _out(how: How, share: float) -> float:
    """How far the run bends out to the kicking side, metres, at a share of its way from the first step on."""
    first = _places(how)[0][1]
    begun = _start(how)["x"]
    at = (first - begun) / (TAKE_OFF_X - begun)
    share = max(0.0, (share - at) / (1.0 - at))
    most = how.fault("runs-round") / 100 + (0.42 - how.fault("runs-straight-in") / 100 if how.options.get("approach") == "curved" else 0.0)
    return -4.0 * most * share * (1.0 - share)


def _run(how: How) -> list[Step]:
    """Steps one after the other, the body over each foot as it comes down."""
    start, places = _start(how), _places(how)
    at = {side: (start[f"{side}_foot_x"], start[f"{side}_foot_y"]) for side in ("left", "right")}
    found = [Step(at=0.0, name="start", performer=start, fixed=True)]
    begun = start["x"]
    for i, (side, x) in enumerate(places):
        lands = _lands(i)
        share = (x - begun) / (TAKE_OFF_X - begun)
        y = _out(how, share) + (0.08 if side == "left" else -0.08)
        other = "right" if side == "left" else "left"
        still = {f"{other}_foot_x": at[other][0], f"{other}_foot_y": at[other][1], f"{other}_foot_z": 0.0}
        lifted = {f"{side}_foot_x": at[side][0], f"{side}_foot_y": at[side][1], f"{side}_foot_z": 0.0, f"{side}_heel_up": 30.0}
        found += [
            Step(at=lands - 0.24, performer={**lifted, f"{side}_plant": 1.0}),
            Step(at=lands - 0.12, performer={f"{side}_foot_z": 0.10, f"{side}_foot_yaw": -4.0, f"{side}_heel_up": 30.0}),
            Step(at=lands, name=f"step_{i}", performer={f"{side}_foot_x": x, f"{side}_foot_y": y, f"{side}_foot_z": 0.0, f"{side}_heel_up": 0.0, "x": x - 0.12, "y": _out(how, share - 0.04), "z": 0.498, "yaw": -10.0 if side == "left" else 8.0, "lean": 8.0, "look": 0.0, "twist": 0.0, **still}),
        ]  # fmt: skip
        at[side] = (x, y)
    return found


def _lands(number: int) -> float:
    return 0.42 + STRIDE_S * number


def _take_off(how: How) -> float:
    return _lands(len(_places(how)) - 1) + 0.20


def _flight_s(how: How) -> float:
    return flight_s(RISE_M - how.fault("long-step") / 100)


def _steps(how: How) -> list[Step]:
    return sorted([*_run(how), *_flight(how), *_landing(how)], key=lambda step: step.at)


def _flight(how: How) -> list[Step]:
    """Off the last foot, folded, turned over and thrust, and folded again."""
    off = _take_off(how)
    pushes = how.options.get("kick") == "push"
    # A shorter flight leaves less time for everything in it.
    quick = _flight_s(how) / 0.56
    chambered, full = off + (0.05 if pushes else 0.11) * quick, off + (0.16 if pushes else 0.26) * quick
    held = full + (0.17 * quick - how.fault("touches-and-goes") / 1000 if pushes else 0.0) + how.fault("lands-on-kick") / 1000
    folded = held + 0.11 * quick + how.fault("folds-late") / 1000
    loose, hangs = how.fault("no-chamber"), how.fault("dangling-leg")
    dropped, behind = how.fault("drops-the-shoulder"), how.fault("leans-behind-it") * 1.5
    tucked = {"left_leg_flex": 64.0 - hangs * 0.5, "left_leg_bend": 122.0 - hangs, "left_leg_abd": 10.0 - behind, "left_leg_rot": 0.0, "left_toe_up": -10.0}
    left = tucked | {"left_plant": 0.0, "left_foot_z": 0.30}
    reached = {
        "yaw": 90.0, "lean": 2.0, "roll": -44.0 - dropped, "look": -76.0, "side": 4.0, "right_leg_flex": 0.0, "right_leg_bend": 3.0 + how.fault("bent-reach"),
        "right_leg_abd": 40.0 - dropped * 0.8, "right_leg_rot": 10.0 - how.fault("bent-reach") * 1.2, "right_toe_up": 26.0, **left,
    }  # fmt: skip
    guard = both(arm_flex=44.0, arm_abd=8.0, arm_bend=112.0)
    return [
        Step(at=off - 0.10, performer={"right_plant": 0.4, "right_foot_x": -0.20, "right_foot_z": 0.24, "right_leg_flex": 40.0, "right_leg_bend": 90.0, "x": TAKE_OFF_X - 0.02, "z": 0.484}),
        Step(at=off, name="off", performer={"x": TAKE_OFF_X + 0.12, "y": 0.0, "z": 0.548, "yaw": 16.0, "lean": 2.0, "roll": -4.0, "left_plant": 1.0, "left_foot_x": TAKE_OFF_X, "left_foot_y": 0.08, "left_foot_z": 0.0, "left_heel_up": 42.0, "right_plant": 0.0, "right_leg_flex": 84.0, "right_leg_bend": 112.0 - loose, "right_leg_abd": 6.0, **guard}),
        Step(at=off + 0.06, performer={"left_plant": 0.2, "left_foot_z": 0.14, "left_heel_up": 30.0}),
        Step(at=chambered, name="chambered", performer={"yaw": 46.0, "roll": -8.0, "look": -40.0, "right_leg_flex": 104.0, "right_leg_bend": 120.0 - loose, "right_leg_abd": 14.0, "right_toe_up": 20.0, **left}),
        Step(at=(chambered + full) / 2 + 0.02, performer={"right_leg_flex": 74.0, "right_leg_bend": 82.0 - loose * 0.4, "right_leg_abd": 32.0}),
        Step(at=full, name="full", performer=reached),
        *([Step(at=held, performer=reached)] if held > full else []),
        Step(at=folded, name="folded", performer={"yaw": 52.0, "roll": -10.0, "look": -44.0, "side": 0.0, "right_leg_flex": 84.0, "right_leg_bend": 112.0, "right_leg_abd": 14.0, "right_leg_rot": 0.0, **tucked}),
    ]  # fmt: skip


def _landing(how: How) -> list[Step]:
    """The kicking foot driven down under the hips, both knees giving; then back, which is no part of the rep."""
    off = _take_off(how)
    down = off + _flight_s(how)
    settled = down + 0.24
    out, apart = how.fault("lands-on-the-kick") / 100, how.fault("lands-apart") / 100
    stiff, tips, hands = how.fault("stiff-landing"), how.fault("falls-on-landing"), how.fault("hands-drop")
    left = {"left_foot_x": LANDS_X - 0.10 - apart, "left_foot_y": 0.12, "left_foot_z": 0.0, "left_foot_yaw": 6.0}
    right = {"right_foot_x": LANDS_X + 0.22 + out, "right_foot_y": -0.12, "right_foot_z": 0.0, "right_foot_yaw": -10.0}
    guard = both(arm_flex=44.0 - hands * 0.7, arm_abd=8.0, arm_bend=112.0 - hands * 1.9)
    return [
        Step(at=down - 0.12 * _flight_s(how) / 0.56, performer={"x": LANDS_X - 0.08, "yaw": 16.0, "roll": 0.0, "lean": 4.0 + tips * 0.5, "look": -8.0, "left_plant": 0.4, "right_plant": 0.3, "left_toe_up": 0.0, "right_toe_up": 0.0, "left_foot_z": 0.16, "right_foot_z": 0.22, "left_foot_x": left["left_foot_x"] - 0.04, "right_foot_x": right["right_foot_x"], "left_leg_flex": 30.0, "left_leg_bend": 40.0 - stiff * 0.4, "right_leg_flex": 40.0, "right_leg_bend": 50.0 - stiff * 0.4, **guard}),
        Step(at=down, name="down", performer={"x": LANDS_X, "y": 0.0, "z": 0.500 + stiff * 0.0004 - how.fault("no-give") / 174, "yaw": 10.0, "lean": 6.0 + tips * 0.7, "left_plant": 1.0, "left_heel_up": 10.0, "right_plant": 1.0, "right_foot_z": 0.03, "right_heel_up": 8.0, "right_foot_x": right["right_foot_x"], "right_foot_y": right["right_foot_y"], "right_foot_yaw": right["right_foot_yaw"], **left, **guard}),
        Step(at=down + 0.05, name="second", performer={**right, "right_heel_up": 4.0}),
        Step(at=settled, name="settled", performer={"x": LANDS_X + 0.04, "z": 0.420 + stiff * 0.0018, "yaw": 8.0, "lean": 12.0 + tips, "look": -4.0, "left_heel_up": 0.0, "right_heel_up": 0.0, **left, **right, **guard}),
        Step(at=settled + 0.26, performer={"z": 0.492, "lean": 6.0 + tips * 0.5, **both(arm_flex=44.0, arm_abd=8.0, arm_bend=112.0)}),
        Step(at=settled + 0.40, name="end", performer={"z": 0.494, "lean": 5.0, **left, **right}, fixed=True),
        Step(at=settled + 0.42, performer={**left, **right}),
        Step(at=settled + 0.56, performer={"left_foot_z": 0.06, "right_foot_z": 0.06}),
        Step(at=settled + 1.90, performer={"left_foot_z": 0.06, "right_foot_z": 0.06}),
        Step(at=settled + 2.06, name="again", performer=_start(how), fixed=True),
    ]  # fmt: skip


def _events(how: How) -> dict[str, Finder]:
    reach = span("performer", "right_hip", "right_ankle")
    steps = [f"step_{i}" for i in range(len(_places(how)))]
    return {
        "step": Finder(step=steps[0], again=tuple(steps[1:])),
        "take_off": Finder(step="off", rule="rises", measure=height("performer", "left_toe"), level=ON_MAT_M, before_s=0.04, after_s=0.08),
        "chambered": Finder(step="chambered"),
        "full_reach": Finder(step="full", rule="highest", measure=reach, before_s=0.05, after_s=0.04),
        "folded": Finder(step="folded", rule="lowest", measure=reach, before_s=0.06, after_s=0.05),
        "first_foot_down": Finder(step="down", rule="falls", measure=height("performer", "left_toe", "left_heel"), level=ON_MAT_M, before_s=0.10, after_s=0.03),
        "second_foot_down": Finder(step="second", rule="falls", measure=height("performer", "right_toe", "right_heel"), level=ON_MAT_M, before_s=0.10, after_s=0.03),
        "settled": Finder(step="settled", rule="lowest", measure=height("performer", "left_hip", "right_hip"), before_s=0.10, after_s=0.10),
    }  # fmt: skip


MOVE = Move(
    technique="flying-side-kick",
    partner=False,
    faults=FAULTS,
    options={"approach": ("straight", "curved"), "kick": ("push", "snap")},
    steps=_steps,
    events=_events,
    flights=(("performer", "off", "down"),),
    middle=(-0.05, 0.0),
    rung="solo",
)
