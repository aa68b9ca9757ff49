"""The choke with arm and head: beside the partner on the knees, the arm threaded and the elbow closed, a leg posted, and turned on the side."""

from __future__ import annotations

from lacertus.studio.body.figure import Joints
from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Move
from lacertus.studio.body.vectors import Vector
from lacertus.studio.moves.on_the_mat import read_poses
from lacertus.studio.moves.parts import plus

POSES = read_poses("arm-in-head-choke")
ME, OTHER = POSES.me, POSES.other

FAULTS = (
    Fault(code="goes-to-the-back", unit="deg", most=105.0, says="one comes so far round to the back"),
    Fault(code="too-shallow", unit="cm", most=34.0, says="the wrist stays so far short of the far shoulder"),
    Fault(code="open-elbow", unit="deg", most=90.0, says="the elbow stays so far off the ribs"),
    Fault(code="arm-slips-out", unit="deg", most=110.0, says="the partner’s arm slips so far out"),
    Fault(code="narrow-base", unit="cm", most=70.0, says="the posted foot stands so much nearer"),
    Fault(code="tries-it-on-the-knees", unit="cm", most=22.0, says="the partner’s shoulders stay so much higher"),
    Fault(code="weight-comes-off", unit="cm", most=60.0, says="the chest comes so far off"),
    Fault(code="squeezes-air", unit="cm", most=60.0, says="the chin stays so far from the far shoulder"),
    Fault(code="sprawls-high", unit="cm", most=44.0, says="the hips stay so high"),
    Fault(code="holds-after-tap", unit="ms", most=1200.0, says="the hold is kept after the tap"),
)
CALLED = {
    "partner_walks_away": (("walks_away", "walks"), ("retakes", "retakes")),
    "partner_turns_the_head": (("turns_head", "turns_head"), ("threads_deeper", "deeper")),
    "partner_rolls_back": (("rolls_back", "rolls_back"), ("weight_on", "weight_on")),
    "partner_rolls_through": (("rolls_through", "rolls_through"), ("posts_hand", "posts")),
    "partner_stands": (("stands", "stands"), ("hooks_in", "hooks")),
}
"""To each reaction its event and pose, and those of the answer."""
AFTER = {
    "partner_walks_away": "to_side",
    "partner_turns_the_head": "threaded",
    "partner_rolls_back": "flipped",
    "partner_rolls_through": "flipped",
    "partner_stands": "closed",
}
"""The step that each reaction comes after."""


def _steps(how: How) -> list[Step]:
    whole = [*_threads(how), *_turns(how)]
    if not how.reaction:
        return POSES.joined([*whole, *_to_the_tap(how, whole[-1])])
    last = next(i for i, step in enumerate(whole) if step.name == AFTER[how.reaction])
    (_, comes), (_, goes) = CALLED[how.reaction]
    at = whole[last].at
    return POSES.joined([
        *whole[: last + 1],
        Step(at=at + 0.55, name=comes, performer=ME[comes], partner=OTHER[comes]),
        Step(at=at + 1.35, name=goes, performer=ME[goes], partner=OTHER[goes]),
        *POSES.ends(at + 1.35, ME[goes], OTHER[goes]),
    ])  # fmt: skip


def _threads(how: How) -> list[Step]:
    """To the side, the head lifted, the shoulder dipped, the arm through and the elbow closed."""
    back, short, wide = how.fault("goes-to-the-back"), how.fault("too-shallow") / 100, how.fault("open-elbow")
    behind = {"yaw": back, "x": 0.006 * back}
    slip = {"right_grip_x": 0.1 * short, "right_grip_y": -short}
    return [
        Step(at=0.0, name="start", performer=ME["start"], partner=OTHER["start"], fixed=True),
        Step(at=0.60, name="to_side", performer=plus(ME["to_side"], behind), partner=OTHER["to_side"]),
        Step(at=1.00, name="lifted", performer=ME["lifted"], partner=OTHER["lifted"]),
        Step(at=1.30, name="dips", performer=ME["dips"], partner=OTHER["dips"]),
        Step(at=1.65, name="threaded", performer=plus(ME["threaded"], slip), partner=OTHER["threaded"]),
        Step(at=2.00, name="closed", performer=plus(ME["closed"], slip | ({"right_grip": -1.0, "right_arm_abd": wide, "right_arm_flex": -40.0} if wide else {})), partner=OTHER["closed"]),
    ]


def _turns(how: How) -> list[Step]:
    """The leg posted, the partner turned on the side, and the arms drawn together."""
    out, near, knees = how.fault("arm-slips-out"), how.fault("narrow-base") / 100, how.fault("tries-it-on-the-knees") / 100
    off, air, high = how.fault("weight-comes-off") / 100, how.fault("squeezes-air") / 100, how.fault("sprawls-high") / 100
    slips = {"left_arm_flex": out, "left_arm_abd": 0.3 * out}
    up = {"z": knees / 1.76}
    me = {"right_leg_abd": -80.0 * near, "right_leg_flex": -60.0 * near, "z": knees / 1.7}
    away = {"x": -off - 0.5 * air, "z": 0.3 * off / 1.7}
    return [
        Step(at=2.35, name="posted", performer=ME["posted"], partner=OTHER["posted"]),
        Step(at=3.00, name="flipped", performer=plus(ME["flipped"], me), partner=plus(OTHER["flipped"], slips | up)),
        Step(at=3.45, name="squeeze", performer=plus(ME["squeeze"], away | {"nod": -60.0 * air, "z": high / 1.7, "lean": 130.0 * high}), partner=plus(OTHER["squeeze"], up)),
    ]  # fmt: skip


def _to_the_tap(how: How, squeeze: Step) -> list[Step]:
    tap = squeeze.at + 0.9
    free = tap + 0.24 + how.fault("holds-after-tap") / 1000
    me, other = squeeze.performer, OTHER["tap"]
    return [
        Step(at=tap - 0.3, performer=me, partner=squeeze.partner),
        Step(at=tap, name="tap", performer=me, partner=other),
        Step(at=max(free - 0.18, tap + 0.02), performer=me, partner=other),
        Step(at=free, name="release", performer=ME["release"], partner=OTHER["release"]),
        *POSES.ends(free, ME["release"], OTHER["release"]),
    ]


def _beyond_the_neck(me: Joints, other: Joints) -> Vector:
    """On the far side of the neck, in front."""
    chest = other.chest
    return other.at["neck"] + (chest.forward * 0.045 - chest.left * 0.085 - chest.up * 0.01) * other.stature_m


def _on_the_back(me: Joints, other: Joints) -> Vector:
    """On the back, over the far shoulder blade."""
    chest = other.chest
    middle = (other.at["left_shoulder"] + other.at["right_shoulder"]) / 2
    return middle - (chest.forward * 0.10 + chest.up * 0.03 + chest.left * 0.03) * other.stature_m


def _events(how: How) -> dict[str, Finder]:
    steps = {"to_side": "to_side", "head_lifted": "lifted", "shoulder_dips": "dips", "threaded": "threaded", "elbow_closed": "closed"}
    steps |= {"leg_posted": "posted", "flipped": "flipped", "squeeze": "squeeze", "tap": "tap", "release": "release"}
    if how.reaction:
        names = [step.name for step in _steps(how)]
        steps = {event: step for event, step in steps.items() if step in names} | dict(CALLED[how.reaction])
    return {event: Finder(step=step) for event, step in steps.items()}


MOVE = Move(
    technique="arm-in-head-choke",
    partner=True,
    faults=FAULTS,
    options={"finish": ("sprawl",)},
    steps=_steps,
    events=_events,
    holds={"performer": {"right_hand": _beyond_the_neck, "left_hand": _on_the_back}},
    reactions={reaction: {} for reaction in CALLED},
    gives="performer",
    contacts={
        "elbow_closed": (("performer.chest", "partner.shoulders"), ("partner.left_shank", "mat")),
        "flipped": (("performer.shoulders", "partner.left_upper_arm"), ("partner.right_shank", "mat")),
        "squeeze": (("performer.shoulders", "partner.chest"), ("partner.pelvis", "mat")),
    },
    middle=(0.05, -0.3),
    height=0.4,
    facing_deg=180.0,
)
