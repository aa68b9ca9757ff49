"""The seated counter to a standing pass: up, the hand laid, the wait, the seat away, belt and thigh, and over the forward shoulder."""

from __future__ import annotations

from lacertus.studio.body.figure import Joints
from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Anchor, Fault, Finder, How, Move
from lacertus.studio.body.vectors import Vector
from lacertus.studio.moves.on_the_mat import read_poses
from lacertus.studio.moves.parts import on_limb, plus

POSES = read_poses("seated-counter")
ME, OTHER = POSES.me, POSES.other

FAULTS = (
    Fault(code="pulls-a-standing-partner", unit="deg", most=34.0, says="the partner’s trunk stays so much higher"),
    Fault(code="lies-back", unit="deg", most=52.0, says="the trunk leans back so much further"),
    Fault(code="hand-elsewhere", unit="deg", most=70.0, says="the arm is raised so far past the armpit"),
    Fault(code="grip-is-higher", unit="cm", most=42.0, says="the partner holds so far above the trouser end"),
    Fault(code="grip-is-lower", unit="cm", most=42.0, says="the partner holds so far below the knee", options={"grip_met": "knees"}),
    Fault(code="foot-inside", unit="deg", most=50.0, says="the leg is set so far inward"),
    Fault(code="slides-too-late", unit="ms", most=900.0, says="the seat slides so much later"),
    Fault(code="stays-in-the-way", unit="cm", most=42.0, says="the seat slides so much less far"),
    Fault(code="pulled-aside", unit="cm", most=80.0, says="the partner is drawn so far past the empty place"),
    Fault(code="belt-missed", unit="cm", most=40.0, says="the hand lies so far above the belt"),
    Fault(code="head-comes-up", unit="deg", most=80.0, says="the partner’s trunk stays so much higher"),
    Fault(code="hooks-the-knee", unit="cm", most=34.0, says="the arm lies so much further down the thigh"),
    Fault(code="drives-sideways", unit="deg", most=70.0, says="the driving leg is set so far to the side"),
)


def _steps(how: How) -> list[Step]:
    found = [*_sits_up(how), *_slides(how)]
    at = found[-1].at
    # Poses in between are those of the clean way.
    without = ("slid", "belt") if how.fault("stays-in-the-way") else ("driven", "rolls") if how.fault("drives-sideways") else ()
    return POSES.joined(found + (_pulls_over(at) if how.reaction else _drives(how, at)), without)


def _sits_up(how: How) -> list[Step]:
    """Up, the hand laid, the other hand on the mat, the foot outside."""
    knees = how.options.get("grip_met") == "knees"
    start, sat, laid, floor, outside = KNEES if knees else TROUSERS
    up, down = how.fault("grip-is-higher") / 100, how.fault("grip-is-lower") / 100
    held = {"right_grip_x": 0.55 * (down - up), "right_grip_z": 0.85 * (up - down)}
    away, inward = how.fault("hand-elsewhere"), how.fault("foot-inside")
    astray = {"left_arm_flex": away}
    return [
        Step(at=0.0, name="start", performer=ME[start], partner=OTHER[start], fixed=True),
        Step(at=0.60, name="sat", performer=plus(ME[sat], {"lean": -how.fault("lies-back")}), partner=OTHER[sat]),
        Step(at=1.00, name="laid", performer=plus(ME[laid], astray), partner=plus(OTHER[laid], held)),
        Step(at=1.35, name="floor", performer=ME[floor], partner=OTHER[floor]),
        Step(at=1.80, name="outside", performer=plus(ME[outside], {"right_leg_abd": -inward}), partner=OTHER[outside]),
    ]


def _slides(how: How) -> list[Step]:
    """The partner drops to pass, the seat leaves its place, and the partner is drawn down to it."""
    tall, late, near = how.fault("pulls-a-standing-partner"), how.fault("slides-too-late") / 1000, how.fault("stays-in-the-way") / 100
    aside, head = how.fault("pulled-aside") / 100, how.fault("head-comes-up")
    high, short = how.fault("belt-missed") / 100, how.fault("hooks-the-knee") / 100
    there = {"x": -0.95 * aside, "y": 0.3 * aside}
    commits = plus(OTHER["commits"], {"lean": -tall})
    missed = {"left_grip_x": -0.85 * high, "left_grip_z": -0.3 * high}
    slips = {"right_grip_x": -0.2 * short, "right_grip_z": -0.9 * short}
    return [
        Step(at=2.30, name="commits", performer=ME["commits"], partner=commits),
        Step(at=2.45 + late, name="slides", performer=ME["commits"], partner=commits),
        Step(at=2.85 + late, name="slid", performer=plus(ME["slid"], {"x": 0.7 * near, "y": 0.7 * near}), partner=OTHER["slid"]),
        Step(at=3.25 + late, name="belt", performer=plus(ME["belt"], missed), partner=plus(OTHER["belt"], {"lean": -0.5 * head})),
        Step(at=3.55 + late, name="hooked", performer=plus(ME["hooked"], missed | slips), partner=plus(OTHER["hooked"], there | {"lean": -head})),
        Step(at=3.90 + late, name="down", performer=ME["down"], partner=plus(OTHER["down"], there | {"lean": -head})),
    ]  # fmt: skip


def _drives(how: How, at: float) -> list[Step]:
    """Up on a knee, the foot driven past the forward shoulder, and the partner rolls onto the back."""
    aside = how.fault("drives-sideways")
    driven = plus(ME["driven"], {"right_leg_abd": aside, "right_leg_bend": -aside})
    return [
        Step(at=at + 0.60, name="rises", performer=ME["rises"], partner=OTHER["rises"]),
        Step(at=at + 1.05, name="driven", performer=driven, partner=OTHER["driven"]),
        Step(at=at + 1.50, name="rolls", performer=ME["rolls"], partner=OTHER["rolls"]),
        Step(at=at + 1.85, name="lies", performer=ME["lies"], partner=OTHER["lies"]),
        Step(at=at + 2.40, name="cleared", performer=ME["cleared"], partner=OTHER["cleared"]),
        *POSES.ends(at + 2.40, ME["cleared"], OTHER["cleared"]),
    ]


def _pulls_over(at: float) -> list[Step]:
    """The partner kneels up again, and is pulled over backwards."""
    return [
        Step(at=at + 0.55, name="kneels", performer=ME["kneels"], partner=OTHER["kneels"]),
        Step(at=at + 1.15, name="pulled", performer=ME["pulled"], partner=OTHER["pulled"]),
        *POSES.ends(at + 1.15, ME["pulled"], OTHER["pulled"]),
    ]


TROUSERS = ("start", "sat", "laid", "floor", "outside")
KNEES = ("at_knees", "sat_k", "laid_k", "floor_k", "outside_k")
"""Names of the poses up to the foot outside, by what the partner holds."""


def _belt(me: Joints, other: Joints) -> Vector:
    """The back of the belt."""
    hips, shoulders = (other.at["left_hip"] + other.at["right_hip"]) / 2, (other.at["left_shoulder"] + other.at["right_shoulder"]) / 2
    return hips * 0.72 + shoulders * 0.28 + (other.chest.left * 0.02 - other.chest.forward * 0.078) * other.stature_m


def _near_thigh(me: Joints, other: Joints) -> Vector:
    """The outer side of the nearer thigh, above its middle."""
    outward = other.at["left_hip"] - other.at["right_hip"] - other.pelvis.forward * 0.25
    return on_limb(other, "left_hip", "left_knee", 0.55, outward, 0.10)


def _trouser_end(side: str) -> Anchor:
    def anchor(me: Joints, other: Joints) -> Vector:
        toward = (me.at["left_shoulder"] + me.at["right_shoulder"]) / 2 - other.at[f"{side}_ankle"]
        return on_limb(other, f"{side}_knee", f"{side}_ankle", 0.86, toward, 0.055)

    return anchor


def _knee(side: str) -> Anchor:
    def anchor(me: Joints, other: Joints) -> Vector:
        toward = other.at[f"{side}_knee"] - (other.at["left_hip"] + other.at["right_hip"]) / 2
        return on_limb(other, f"{side}_knee", f"{side}_ankle", 0.06, toward, 0.06)

    return anchor


def _events(how: How) -> dict[str, Finder]:
    steps = {"sits_up": "sat", "hand_laid": "laid", "floor_hand": "floor", "foot_outside": "outside", "commits": "commits"}
    steps |= {"seat_slides": "slides", "pull_start": "slid", "belt_taken": "belt", "thigh_hooked": "hooked", "down": "down"}
    steps |= {"kneels_up": "kneels", "pulls_over": "pulled"} if how.reaction else {"drive_start": "rises", "drive_down": "driven", "over": "lies", "legs_cleared": "cleared"}  # fmt: skip
    return {event: Finder(step=step) for event, step in steps.items()}


MOVE = Move(
    technique="seated-counter",
    partner=True,
    faults=FAULTS,
    options={"grip_met": ("trousers", "knees"), "follow": ("belt_and_thigh",)},
    steps=_steps,
    events=_events,
    holds={
        "performer": {"left_hand": _belt, "right_hand": _near_thigh},
        "partner": {"left_hand": _trouser_end("right"), "right_hand": _trouser_end("left")},
    },
    held_by_choice={"knees": {"partner": {"left_hand": _knee("right"), "right_hand": _knee("left")}}},
    reactions={"partner_kneels_up": {}},
    gives="performer",
    contacts={
        "floor_hand": (("performer.pelvis", "mat"), ("performer.right_hand", "mat")),
        "down": (("performer.pelvis", "mat"), ("performer.right_hand", "partner.left_thigh")),
        "legs_cleared": (("performer.shoulders", "partner.belly"), ("performer.left_shank", "mat")),
    },
    middle=(0.25, -0.1),
    height=0.45,
    facing_deg=180.0,
)
