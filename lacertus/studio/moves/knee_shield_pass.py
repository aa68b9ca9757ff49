"""The pass of the knee shield: the arm woven round the far thigh, the chest turned away until the knees close, the feet past, and then flat."""

from __future__ import annotations

from lacertus.studio.body.figure import Joints
from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Move
from lacertus.studio.body.vectors import UP, Vector
from lacertus.studio.moves.on_the_mat import read_poses
from lacertus.studio.moves.parts import on_limb, plus

POSES = read_poses("knee-shield-pass")
ME, OTHER = POSES.me, POSES.other

FAULTS = (
    Fault(code="weaves-the-near-leg", unit="cm", most=44.0, says="the hand is so far from the far thigh"),
    Fault(code="stays-facing", unit="deg", most=44.0, says="the chest turns away so much less"),
    Fault(code="knees-stay-open", unit="deg", most=70.0, says="the partner’s knees stay so far open"),
    Fault(code="hand-in-reach", unit="cm", most=70.0, says="the hand stands so far up towards the partner’s shoulders"),
    Fault(code="sits-up-on-it", unit="cm", most=34.0, says="the hips stay so high on the shield"),
    Fault(code="leaves-them-on-the-side", unit="deg", most=60.0, says="the partner stays so far on the side"),
    Fault(code="pushes-the-knees", unit="cm", most=50.0, says="the hand pushes so far from the hips, at the knees"),
    Fault(code="leaves-room-to-bridge", unit="cm", most=46.0, says="so much room is left between the chests"),
    Fault(code="stops-at-the-side", unit="ms", most=2600.0, says="it stays so long at the side", options={"end": "north_south"}),
)


def _steps(how: How) -> list[Step]:
    found = _to_the_turn(how)
    found += _turns_more(how) if how.reaction == "partner_pulls_the_knee" else _passes(how)
    return POSES.joined(found, ("together",) if "knees-stay-open" in how.faults else ())


def _to_the_turn(how: How) -> list[Step]:
    off, near, square = how.fault("weaves-the-near-leg") / 100, how.fault("hand-in-reach") / 100, how.fault("stays-facing")
    wide = {"right_grip_x": -0.8 * off, "right_grip_y": 0.2 * off, "right_grip_z": 0.5 * off}
    return [
        Step(at=0.0, name="start", performer=ME["start"], partner=OTHER["start"], fixed=True),
        Step(at=0.55, name="woven", performer=plus(ME["woven"], wide), partner=OTHER["woven"]),
        Step(at=0.95, name="posted", performer=plus(ME["posted"], {"left_arm_flex": 120.0 * near, "left_arm_abd": -20.0 * near}), partner=OTHER["posted"]),
        Step(at=1.35, name="turned", performer=plus(ME["turned"], {"twist": square}), partner=OTHER["turned"]),
    ]  # fmt: skip


def _passes(how: How) -> list[Step]:
    square, opened, high = how.fault("stays-facing"), how.fault("knees-stay-open"), how.fault("sits-up-on-it") / 100
    knees, room, aside = how.fault("pushes-the-knees") / 100, how.fault("leaves-room-to-bridge") / 100, how.fault("leaves-them-on-the-side")
    walk = 2.95 + (0.6 if how.reaction == "partner_underhooks" else 0.0)
    flat, passed = walk + 0.55, walk + 1.10
    shield = {"left_leg_abd": opened, "left_leg_flex": 0.2 * opened}
    hug = plus(ME["passed"], {"y": 0.5 * room, "z": 0.5 * room})
    return [
        Step(at=1.70, name="together", performer=plus(ME["together"], {"twist": square}), partner=plus(OTHER["together"], shield)),
        Step(at=2.05, name="weight", performer=plus(ME["weight"], {"twist": square, "z": high / 1.7, "lean": -60.0 * high}), partner=plus(OTHER["weight"], shield)),
        Step(at=2.60, name="feet_passed", performer=ME["feet_passed"], partner=OTHER["feet_passed"]),
        *(_overhooks() if how.reaction == "partner_underhooks" else []),
        Step(at=walk, name="walk", performer=plus(ME["walk"], {"left_grip_x": -knees, "left_grip_y": 0.2 * knees}), partner=OTHER["walk"]),
        Step(at=flat, name="flat", performer=ME["flat"] | {"left_grip_x": 0.0, "left_grip_y": 0.0}, partner=plus(OTHER["flat"], {"spin": -aside})),
        Step(at=passed, name="passed", performer=hug, partner=OTHER["passed"]),
        *(_to_north_south(how, passed) if how.options.get("end") == "north_south" else POSES.ends(passed, hug, OTHER["passed"], still_s=0.5)),
    ]  # fmt: skip


def _to_north_south(how: How, passed: float) -> list[Step]:
    """On round the head without a stop at the side."""
    waits = how.fault("stops-at-the-side") / 1000
    there = passed + 0.9 + waits
    return [
        Step(at=passed + 0.05 + waits, performer=ME["passed"]),
        Step(at=there, name="north_south", performer=ME["north_south"], partner=OTHER["north_south"]),
        *POSES.ends(there, ME["north_south"], OTHER["north_south"], still_s=0.5),
    ]


def _turns_more(how: How) -> list[Step]:
    """The partner pulls the knee to the chest: the chest turns further, the thigh held."""
    return [
        Step(at=1.75, name="pulled", performer=ME["pulled"], partner=OTHER["pulled"]),
        Step(at=2.35, name="turns_more", performer=ME["turns_more"], partner=OTHER["turns_more"]),
        *POSES.ends(2.35, ME["turns_more"], OTHER["turns_more"], still_s=0.5),
    ]


def _overhooks() -> list[Step]:
    """The partner's arm comes under one's own: it is clamped from above, and the walk goes on."""
    return [
        Step(at=2.85, name="underhooked", performer=ME["underhooked"], partner=OTHER["underhooked"]),
        Step(at=3.15, name="overhooks", performer=ME["overhooks"], partner=OTHER["overhooks"]),
    ]


def _far_thigh(me: Joints, other: Joints) -> Vector:
    """Round the thigh that lies below, from above."""
    return on_limb(other, "right_hip", "right_knee", 0.55, other.pelvis.forward * 0.6 + UP * 0.5, 0.085)


def _his_hip(me: Joints, other: Joints) -> Vector:
    """In front of the hips, where they are pushed."""
    middle = (other.at["left_hip"] + other.at["right_hip"]) / 2
    return middle + (other.pelvis.forward * 0.115 + other.pelvis.up * 0.03) * other.stature_m


def _events(how: How) -> dict[str, Finder]:
    steps = {"thigh_woven": "woven", "hand_posted": "posted", "chest_turned": "turned"}
    if how.reaction == "partner_pulls_the_knee":
        steps |= {"knee_pulled": "pulled", "turns_more": "turns_more"}
    else:
        steps |= {"knees_together": "together", "weight_on": "weight", "feet_passed": "feet_passed", "walk_starts": "walk", "partner_flat": "flat", "passed": "passed"}  # fmt: skip
        steps |= {"underhooks": "underhooked", "overhooks": "overhooks"} if how.reaction else {}
        steps |= {"on_to_north_south": "north_south"} if how.options.get("end") == "north_south" else {}
    return {event: Finder(step=step) for event, step in steps.items()}


MOVE = Move(
    technique="knee-shield-pass",
    partner=True,
    faults=FAULTS,
    options={"end": ("head_and_underhook", "north_south")},
    steps=_steps,
    events=_events,
    holds={"performer": {"right_hand": _far_thigh, "left_hand": _his_hip}},
    reactions={"partner_pulls_the_knee": {}, "partner_underhooks": {}},
    gives="performer",
    contacts={
        "thigh_woven": (("performer.right_hand", "partner.right_thigh"), ("partner.right_thigh", "mat")),
        "weight_on": (("performer.chest", "partner.left_thigh"),),
        "passed": (("performer.chest", "partner.chest"), ("partner.chest", "mat")),
    },
    middle=(0.15, 0.2),
    height=0.4,
    facing_deg=180.0,
)
