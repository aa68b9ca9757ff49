"""The pendulum sweep: arm and thigh held, the upper body bent aside, the legs open and turn together, and up on top."""

from __future__ import annotations

from dataclasses import replace

from lacertus.studio.body.figure import Joints
from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Move
from lacertus.studio.body.vectors import UP, Vector
from lacertus.studio.moves.on_the_mat import read_poses
from lacertus.studio.moves.parts import apart_and_again, on_limb, on_mat, plus

POSES = read_poses("pendulum-sweep")
ME, OTHER = POSES.me, POSES.other

FAULTS = (
    Fault(code="sweeps-one-who-sits", unit="deg", most=48.0, says="the partner sits back and does not lean forward"),
    Fault(code="holds-too-high", unit="cm", most=12.0, says="the hand holds so much further up the bare arm", options={"arm": "wrist"}),
    Fault(code="lets-the-arm-post", unit="ms", most=1500.0, says="the arm is let go so long before the partner lies"),
    Fault(code="loses-the-thigh", unit="cm", most=40.0, says="the hooking hand is so far from the thigh when the partner tips"),
    Fault(code="lies-straight", unit="deg", most=40.0, says="the upper body bends less aside"),
    Fault(code="hips-run-away", unit="cm", most=36.0, says="the hips go aside with the body"),
    Fault(code="opens-narrow", unit="deg", most=46.0, says="each thigh opens so much less"),
    Fault(code="kicks-the-seat", unit="deg", most=124.0, says="the top leg swings so much lower"),
    Fault(code="bent-pendulum", unit="deg", most=90.0, says="the top leg swings bent"),
    Fault(code="leg-left-under", unit="ms", most=900.0, says="the lower leg comes out so late"),
    Fault(code="one-leg-works", unit="cm", most=50.0, says="the lower leg stays up so high while the top leg swings"),
    Fault(code="stops-beside", unit="cm", most=30.0, says="the hips stay beside the partner’s and so much lower"),
    Fault(code="lies-and-looks", unit="ms", most=900.0, says="the performer comes up late"),
)
POST_S = 0.45
"""How much longer it takes against a hand that posts."""


def _steps(how: How) -> list[Step]:
    found = [*_held(how), *(_sits_up(how) if how.reaction == "partner_leans_back" else _sweep(how))]
    swings = {"kicks-the-seat", "bent-pendulum", "one-leg-works", "loses-the-thigh"} & how.faults.keys()
    return _let_go(how, POSES.joined(found, ("tips",) if swings else ()))


def _aside(how: How) -> dict[str, float]:
    """What the faults of the upper body change from the hook on."""
    return {"side": -how.fault("lies-straight"), "y": -how.fault("hips-run-away") / 100}


def _held(how: How) -> list[Step]:
    """Up to the hand under the thigh: what every rep begins with."""
    sits = {"lean": -0.8 * how.fault("sweeps-one-who-sits"), "bow": 0.25 * how.fault("sweeps-one-who-sits")}
    high = {"left_grip_z": how.fault("holds-too-high") / 100}
    return [
        Step(at=0.0, name="start", performer=ME["start"], partner=plus(OTHER["start"], sits), fixed=True),
        Step(at=0.5, name="held", performer=plus(ME["held"], high), partner=plus(OTHER["held"], sits)),
        Step(at=0.95, name="hooked", performer=plus(ME["hooked"], high), partner=plus(OTHER["hooked"], sits)),
    ]


def _sweep(how: How) -> list[Step]:
    aside, lost = _aside(how), how.fault("loses-the-thigh") / 100
    narrow = {f"{side}_leg_abd": -how.fault("opens-narrow") for side in ("left", "right")}
    swing = {
        "right_leg_flex": -how.fault("kicks-the-seat"), "right_leg_bend": how.fault("bent-pendulum"), "left_leg_flex": 1.2 * how.fault("one-leg-works"),
        "right_grip_x": -lost,
    }  # fmt: skip
    beside = how.fault("stops-beside") / 100
    bends, drawn, opened = 1.45, 1.80, 2.15
    tips = opened + 0.38 + (POST_S if how.reaction == "partner_posts" else 0.0)
    clear = tips + 0.42 + how.fault("leg-left-under") / 1000
    over = max(tips + 0.78, clear + 0.30)
    top = over + 0.36 + how.fault("lies-and-looks") / 1000
    free = {"right_grip": 0.0, "right_grip_x": 0.0, "right_grip_z": 0.0}
    return [
        Step(at=bends, name="aside", performer=plus(ME["aside"], aside), partner=OTHER["aside"]),
        Step(at=drawn, name="drawn", performer=plus(ME["drawn"], aside), partner=OTHER["drawn"]),
        Step(at=opened, name="open", performer=plus(ME["open"], aside | narrow), partner=OTHER["open"]),
        *(_lifts_over_the_post(opened, aside) if how.reaction == "partner_posts" else []),
        Step(at=tips - 0.34, name="turn", performer={"right_grip_x": 0.0}),
        Step(at=tips, name="tips", performer=plus(ME["tips"], swing), partner=OTHER["tips"]),
        Step(at=tips + 0.42, partner=OTHER["clear"]),
        Step(at=clear, name="clear", performer=ME["clear"] | free | {"right_grip": 1.0}),
        Step(at=over, name="over", performer=ME["over"] | free, partner=OTHER["over"]),
        Step(at=top, name="top", performer=plus(ME["mounted"], {"z": -beside / 1.7, "x": -2.0 * beside}), partner=OTHER["mounted"]),
        Step(at=top + 0.45, name="end", performer={"bow": 14.0}, partner={"left_arm_bend": 90.0}, fixed=True),
        *apart_and_again(top + 0.45, ME["mounted"] | free, OTHER["mounted"], ME["start"], OTHER["start"]),
    ]  # fmt: skip


def _let_go(how: How, steps: list[Step]) -> list[Step]:
    """The hand that holds the arm opens too soon, and lies on the mat, where that is the fault."""
    if "lets-the-arm-post" not in how.faults:
        return steps
    at = {step.name: step.at for step in steps}
    opens = at["over"] - how.fault("lets-the-arm-post") / 1000
    lies = {"left_grip": 0.0, "left_arm_flex": -20.0, "left_arm_abd": 70.0, "left_arm_bend": 20.0}
    last = [Step(at=opens - 0.1, performer={"left_grip": 1.0}), Step(at=opens, performer=lies)]
    kept = [step if step.at < opens - 0.1 or step.at > at["end"] else replace(step, performer={**step.performer, **lies}) for step in steps]
    return sorted([*kept, *last], key=lambda step: step.at)


def _lifts_over_the_post(opened: float, aside: dict[str, float]) -> list[Step]:
    """The free hand comes across to the mat; the hooked thigh is lifted until the hand carries nothing."""
    across = {"left_grip_x": -0.46, "left_grip_y": 0.10}
    return [
        Step(at=opened + 0.16, name="posts", performer=plus(ME["open"], aside), partner=OTHER["open"] | across),
        Step(at=opened + 0.44, name="lifts", performer=plus(ME["open"], aside | {"right_grip_z": 0.10}), partner=plus(OTHER["open"], {"roll": 12.0, "z": 0.02}) | across),
    ]  # fmt: skip


def _sits_up(how: How) -> list[Step]:
    """The partner sits back: the performer comes up with him, which is the way to another sweep."""
    return [
        Step(at=1.35, name="leans_back", performer=ME["back"], partner=OTHER["back"]),
        Step(at=1.80, name="changes", performer=ME["sits_up"], partner=OTHER["sits_up"]),
        Step(at=2.3, name="end", performer=ME["sits_up"], partner=OTHER["sits_up"], fixed=True),
        *apart_and_again(2.3, ME["sits_up"], OTHER["sits_up"], ME["start"], OTHER["start"]),
    ]


def _thigh(me: Joints, other: Joints) -> Vector:
    """Where the wrist is when the hand hooks the partner's left thigh from below."""
    return on_limb(other, "left_hip", "left_knee", 0.60, me.at["right_shoulder"] - other.at["left_knee"] - UP * 0.2, 0.13)


def _sleeve(me: Joints, other: Joints) -> Vector:
    return on_limb(other, "right_elbow", "right_wrist", 0.50, me.at["left_shoulder"] - other.at["right_wrist"], 0.055)


def _wrist(me: Joints, other: Joints) -> Vector:
    return on_limb(other, "right_elbow", "right_wrist", 0.98, me.at["left_shoulder"] - other.at["right_wrist"], 0.02)


def _events(how: How) -> dict[str, Finder]:
    found = {"arm_held": Finder(step="held"), "leg_hooked": Finder(step="hooked")}
    if how.reaction == "partner_leans_back":
        return found | {"leans_back": Finder(step="leans_back"), "changes_sweep": Finder(step="changes")}
    found |= {
        "body_aside": Finder(step="aside"),
        "drawn_forward": Finder(step="drawn"),
        "legs_open": Finder(step="open"),
        "turn_start": Finder(step="turn"),
        "partner_tips": Finder(step="tips"),
        "lower_leg_clear": Finder(step="clear"),
        "partner_over": Finder(step="over"),
        "mounted": Finder(step="top"),
    }  # fmt: skip
    if how.reaction == "partner_posts":
        found |= {"posts_hand": Finder(step="posts"), "leg_lifts": Finder(step="lifts")}
    return found


MOVE = Move(
    technique="pendulum-sweep",
    partner=True,
    faults=FAULTS,
    options={"arm": ("sleeve", "wrist")},
    steps=_steps,
    events=_events,
    holds={"performer": {"left_hand": _sleeve, "right_hand": _thigh}, "partner": {"left_hand": on_mat, "right_hand": on_mat}},
    held_by_choice={"wrist": {"performer": {"left_hand": _wrist}}},
    reactions={"partner_leans_back": {}, "partner_posts": {}},
    middle=(0.05, 0.1),
    height=0.45,
    gives="partner",
    contacts={
        "leg_hooked": (("performer.pelvis", "mat"), ("performer.right_hand", "partner.left_thigh")),
        "partner_over": (("partner.chest", "mat"),),
        "mounted": (("performer.pelvis", "partner.belly"), ("partner.pelvis", "mat"), ("performer.left_shank", "mat")),
    },
    facing_deg=180.0,
)
