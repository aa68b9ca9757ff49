"""The north-south choke: over and under, the head lifted on the thigh, the arm deep round the neck, all tight, and only then the slide."""

from __future__ import annotations

from lacertus.studio.body.figure import Joints
from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Move
from lacertus.studio.body.vectors import Vector
from lacertus.studio.moves.on_the_mat import Pose, read_poses
from lacertus.studio.moves.parts import plus

POSES = read_poses("north-south-choke")
ME, OTHER = POSES.me, POSES.other

FAULTS = (
    Fault(code="head-on-the-mat", unit="deg", most=40.0, says="the head is lifted so much less, and lies on the mat"),
    Fault(code="slides-shallow", unit="cm", most=30.0, says="the shoulder is so far from the chin when the slide begins"),
    Fault(code="elbows-open", unit="deg", most=80.0, says="the elbows stay so far open before the slide"),
    Fault(code="wrists-apart", unit="cm", most=16.0, says="the wrists stay so far apart"),
    Fault(code="opens-in-the-slide", unit="cm", most=30.0, says="the wrists slide so far apart, and the elbows open"),
    Fault(code="shoulders-stay", unit="cm", most=44.0, says="the shoulders slip so far to the partner’s hips in the slide"),
    Fault(code="stays-at-the-side", unit="cm", most=44.0, says="the hips slide so much less"),
    Fault(code="hips-rise", unit="cm", most=44.0, says="the hips rise so far at the end of the slide"),
    Fault(code="holds-after-tap", unit="ms", most=1200.0, says="the hold is kept after the tap"),
)
SLIDE_M = 0.46
"""How far the hips go in the slide."""


def _steps(how: How) -> list[Step]:
    if how.reaction == "partner_tucks_the_chin":
        return POSES.joined([*_side(), *_after(1.10, "tucked", 1.90, "other_attack", "tucked", "other_attack")])
    if how.reaction == "partner_bucks":
        return POSES.joined([*_side(), *_after(0.95, "bucked", 1.70, "round", "bucked", "keeps")])
    return POSES.joined([*_side(), *_choke(how)], ("slide_end",) if how.faults.keys() & {"opens-in-the-slide", "stays-at-the-side"} else ())


def _side() -> list[Step]:
    """Beside the partner, one arm over and one under: what every rep begins with."""
    return [
        Step(at=0.0, name="start", performer=ME["start"], partner=OTHER["start"], fixed=True),
        Step(at=0.5, name="over_under", performer=ME["over_under"], partner=OTHER["over_under"]),
    ]


def _choke(how: How) -> list[Step]:
    flat = how.fault("head-on-the-mat")
    shallow, apart = how.fault("slides-shallow") / 100, how.fault("wrists-apart") / 100
    wide = _flare(how.fault("elbows-open")) | {"x": -shallow, "z": 0.2 * shallow, "left_grip_x": 0.9 * apart, "left_grip_z": 0.4 * apart}
    less = min(how.fault("stays-at-the-side") / 100 / SLIDE_M, 1.0)
    end = _towards(ME["slide_start"], ME["slide_end"], 1.0 - less)
    opens = how.fault("opens-in-the-slide") / 100
    slid = _flare(2.0 * how.fault("opens-in-the-slide") + how.fault("elbows-open")) | {
        "x": how.fault("shoulders-stay") / 100 - shallow, "z": how.fault("hips-rise") / 170,
        "left_grip_x": 0.9 * (apart + opens), "left_grip_z": 0.4 * (apart + opens),
    }  # fmt: skip
    lifted, through, tight, crossed, starts, ends = 1.35, 1.85, 2.15, 2.45, 2.70, 3.40
    return [
        Step(at=0.95, name="knees_in", performer=ME["knees_in"], partner=OTHER["knees_in"]),
        Step(at=lifted, name="head_on_thigh", performer=ME["head_on_thigh"], partner=plus(OTHER["head_on_thigh"], {"nod": -flat, "bow": -0.4 * flat})),
        Step(at=through, name="arm_through", performer=plus(ME["arm_through"], {"x": -shallow}), partner=OTHER["arm_through"]),
        Step(at=tight, name="tight", performer=plus(ME["tight"], wide), partner=OTHER["tight"]),
        Step(at=crossed, name="crossed", performer=plus(ME["crossed"], wide), partner=OTHER["crossed"]),
        Step(at=starts, name="slide_start", performer=plus(ME["slide_start"], wide), partner=OTHER["slide_start"]),
        Step(at=ends, name="slide_end", performer=plus(end, slid), partner=OTHER["slide_end"]),
        *(_loose(ends) if how.reaction == "it_is_loose" else _to_the_tap(how, ends, plus(end, slid))),
    ]  # fmt: skip


def _to_the_tap(how: How, ends: float, slid: Pose) -> list[Step]:
    tap = ends + 1.0
    free = tap + 0.22 + how.fault("holds-after-tap") / 1000
    return [
        Step(at=tap - 0.3, performer=slid, partner=OTHER["slide_end"]),
        Step(at=tap, name="tap", performer=slid, partner=OTHER["tap"]),
        Step(at=max(free - 0.16, tap + 0.02), performer=slid, partner=OTHER["tap"]),
        Step(at=free, name="let_go", performer=ME["let_go"], partner=OTHER["tap"]),
        *POSES.ends(free, ME["let_go"], OTHER["tap"], still_s=0.4),
    ]


def _loose(ends: float) -> list[Step]:
    """The head moves freely after the slide: the arms open, and the chest stays on."""
    return _after(ends + 0.5, "loose", ends + 1.2, "keeps", "loose", "keeps")


def _after(first_s: float, first: str, second_s: float, second: str, *poses: str) -> list[Step]:
    """What the partner does, what answers it, and the end of the rep."""
    a, b = poses
    return [
        Step(at=first_s, name=first, performer=ME[a], partner=OTHER[a]),
        Step(at=second_s, name=second, performer=ME[b], partner=OTHER[b]),
        *POSES.ends(second_s, ME[b], OTHER[b], still_s=0.5),
    ]


def _flare(deg: float) -> Pose:
    return {"left_flare": deg, "right_flare": deg}


def _towards(one: Pose, other: Pose, share: float) -> Pose:
    """A pose on the way from one to another."""
    return {name: value + (other.get(name, value) - value) * share for name, value in one.items()}


def _under_the_neck(me: Joints, other: Joints) -> Vector:
    """Where the wrist of the arm round the neck lies: behind the neck, towards the other arm."""
    return other.at["neck"] + (other.chest.left * 0.05 - other.chest.forward * 0.055) * other.stature_m


def _across_it(me: Joints, other: Joints) -> Vector:
    """The other wrist crosses it, below."""
    return _under_the_neck(me, other) + (other.chest.left * 0.025 - other.chest.up * 0.035) * other.stature_m


def _events(how: How) -> dict[str, Finder]:
    found = {"over_under": Finder(step="over_under")}
    if how.reaction == "partner_tucks_the_chin":
        return found | {"chin_tucked": Finder(step="tucked"), "other_attack": Finder(step="other_attack")}
    if how.reaction == "partner_bucks":
        return found | {"bucks": Finder(step="bucked"), "goes_round": Finder(step="round")}
    steps = {"knees_in": "knees_in", "head_on_thigh": "head_on_thigh", "arm_through": "arm_through", "elbows_tight": "tight", "wrists_crossed": "crossed", "slide_start": "slide_start", "slide_end": "slide_end"}  # fmt: skip
    if how.reaction == "it_is_loose":
        steps |= {"feels_loose": "loose", "keeps_position": "keeps"}
    else:
        steps |= {"tap": "tap", "let_go": "let_go"}
    return found | {event: Finder(step=step) for event, step in steps.items()}


MOVE = Move(
    technique="north-south-choke",
    partner=True,
    faults=FAULTS,
    options={},
    steps=_steps,
    events=_events,
    holds={"performer": {"right_hand": _under_the_neck, "left_hand": _across_it}},
    reactions={"partner_tucks_the_chin": {}, "partner_bucks": {}, "it_is_loose": {}},
    gives="performer",
    contacts={
        "over_under": (("performer.chest", "partner.chest"), ("partner.pelvis", "mat")),
        "slide_start": (("performer.chest", "partner.chest"),),
        "slide_end": (("performer.right_forearm", "partner.head"), ("partner.chest", "mat")),
    },
    middle=(-0.25, 0.15),
    height=0.4,
    facing_deg=180.0,
)
