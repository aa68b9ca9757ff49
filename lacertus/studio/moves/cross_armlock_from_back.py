"""The cross armlock from the back: wrist taken, head pushed, hook off, leg over, knees closed, arms crossed, and slowly the hips."""

from __future__ import annotations

from lacertus.studio.body.figure import Joints
from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Move
from lacertus.studio.body.vectors import Vector
from lacertus.studio.moves.on_the_mat import Pose, read_poses
from lacertus.studio.moves.parts import on_limb, plus

POSES = read_poses("cross-armlock-from-back")
ME, OTHER = POSES.me, POSES.other

FAULTS = (
    Fault(code="takes-a-closed-arm", unit="deg", most=70.0, says="the partner’s elbow is so much nearer to the ribs when the wrist is taken"),
    Fault(code="holds-the-forearm", unit="cm", most=20.0, says="the hand is so far from the wrist"),
    Fault(code="leg-lies-on-the-chest", unit="deg", most=80.0, says="the leg comes over so much lower"),
    Fault(code="far-from-the-shoulder", unit="cm", most=70.0, says="the hips stay so far from the partner’s head"),
    Fault(code="open-knees", unit="deg", most=40.0, says="each knee stays so far open"),
    Fault(code="elbow-slips-down", unit="cm", most=46.0, says="the partner’s elbow has slipped so far past the hips"),
    Fault(code="holds-it-away", unit="cm", most=50.0, says="the arm is held so far from the chest"),
    Fault(code="bridges-hard", unit="cm", most=44.0, says="the hips rise by so much more"),
    Fault(code="holds-after-tap", unit="ms", most=1200.0, says="the hold is kept after the tap"),
)


def _steps(how: How) -> list[Step]:
    if how.reaction == "partner_turns_in":
        return POSES.joined([*_from_behind(how), *_back_again()])
    return POSES.joined([*_from_behind(how), *_armlock(how)], _changed_before(how))


def _changed_before(how: How) -> tuple[str, ...]:
    """The steps before which a fault leaves no room for the poses in between."""
    before = {"open-knees": "knees_closed", "elbow-slips-down": "knees_closed", "leg-lies-on-the-chest": "leg_over"}
    return tuple(step for code, step in before.items() if code in how.faults)


def _from_behind(how: How) -> list[Step]:
    closed, off = how.fault("takes-a-closed-arm"), how.fault("holds-the-forearm") / 100
    arm = {"right_arm_flex": -closed, "right_arm_bend": 0.4 * closed}
    return [
        Step(at=0.0, name="start", performer=ME["start"], partner=OTHER["start"], fixed=True),
        Step(at=0.55, name="taken", performer=plus(ME["taken"], {"right_grip_x": -off}), partner=plus(OTHER["taken"], arm)),
        Step(at=1.10, name="pushed", performer=plus(ME["pushed"], {"right_grip_x": -off}), partner=OTHER["pushed"]),
        Step(at=1.55, name="hook_off", performer=ME["hook_off"] | {"right_grip_x": 0.0}, partner=OTHER["hook_off"]),
    ]


def _armlock(how: How) -> list[Step]:
    low, far, wide = how.fault("leg-lies-on-the-chest"), how.fault("far-from-the-shoulder") / 100, how.fault("open-knees")
    slips, away = how.fault("elbow-slips-down") / 100, how.fault("holds-it-away") / 100
    knees = {"left_leg_abd": wide, "right_leg_abd": wide, "x": 0.8 * far, "z": slips / 1.7, "y": -0.2 * far}
    held = knees | {"bow": -30.0 * away}
    over, closed, crossed = 2.15, 2.75, 3.20
    found = [
        Step(at=over, name="leg_over", performer=plus(ME["leg_over"], {"left_leg_abd": -low, "left_leg_flex": -0.3 * low}), partner=OTHER["leg_over"]),
        Step(at=closed, name="knees_closed", performer=plus(ME["knees_closed"], knees), partner=plus(OTHER["knees_closed"], {"right_arm_abd": -60.0 * slips})),
    ]  # fmt: skip
    if how.reaction == "partner_grips_the_hands":
        return found + _opens_the_hands(closed)
    return [*found, Step(at=crossed, name="crossed", performer=plus(ME["crossed"], held), partner=plus(OTHER["crossed"], {"right_arm_bend": 230.0 * away})), *_to_the_tap(how, crossed, held)]


def _to_the_tap(how: How, crossed: float, held: Pose) -> list[Step]:
    up = crossed + 0.60
    tap = up + 0.40
    free = tap + 0.20 + how.fault("holds-after-tap") / 1000
    lifted = plus(ME["hips_up"], held | {"z": held["z"] + how.fault("bridges-hard") / 170})
    return [
        Step(at=up, name="hips_up", performer=lifted, partner=OTHER["hips_up"]),
        Step(at=tap, name="tap", performer=lifted, partner=OTHER["tap"]),
        Step(at=max(free - 0.14, tap + 0.02), performer=lifted, partner=OTHER["tap"]),
        Step(at=free, name="release", performer=ME["release"], partner=OTHER["release"]),
        *POSES.ends(free, ME["release"], OTHER["release"], still_s=0.5),
    ]


def _opens_the_hands(closed: float) -> list[Step]:
    """The partner's hands hold each other: they are parted before anything else."""
    return [
        Step(at=closed + 0.5, name="grips", performer=ME["grips"], partner=OTHER["grips"]),
        Step(at=closed + 1.5, name="opens", performer=ME["opens"], partner=OTHER["opens"]),
        *POSES.ends(closed + 1.5, ME["opens"], OTHER["opens"], still_s=0.5),
    ]


def _back_again() -> list[Step]:
    """The shoulder turns in: the hook goes back, and the back is held again."""
    return [
        Step(at=1.90, name="turns_in", performer=ME["turns_in"], partner=OTHER["turns_in"]),
        Step(at=2.60, name="back_again", performer=ME["back_again"], partner=OTHER["back_again"]),
        *POSES.ends(2.60, ME["back_again"], OTHER["back_again"], still_s=0.5),
    ]


def _wrist(me: Joints, other: Joints) -> Vector:
    return on_limb(other, "right_elbow", "right_wrist", 0.85, me.at["right_shoulder"] - other.at["right_wrist"], 0.045)


def _side_of_the_head(me: Joints, other: Joints) -> Vector:
    return other.at["head_top"] * 0.35 + other.at["left_ear"] * 0.65 + other.head.left * 0.01 * other.stature_m


def _events(how: How) -> dict[str, Finder]:
    steps = {"wrist_taken": "taken", "head_pushed": "pushed", "hook_off": "hook_off"}
    if how.reaction == "partner_turns_in":
        steps |= {"turns_in": "turns_in", "back_again": "back_again"}
    else:
        steps |= {"leg_over": "leg_over", "knees_closed": "knees_closed"}
        more = {"grips_hands": "grips", "opens_hands": "opens"} if how.reaction else {"arms_crossed": "crossed", "hips_up": "hips_up", "tap": "tap", "release": "release"}  # fmt: skip
        steps |= more
    return {event: Finder(step=step) for event, step in steps.items()}


MOVE = Move(
    technique="cross-armlock-from-back",
    partner=True,
    faults=FAULTS,
    options={},
    steps=_steps,
    events=_events,
    holds={"performer": {"right_hand": _wrist, "left_hand": _side_of_the_head}},
    reactions={"partner_grips_the_hands": {}, "partner_turns_in": {}},
    gives="performer",
    contacts={
        "wrist_taken": (("performer.chest", "partner.chest"), ("performer.right_hand", "partner.right_forearm"), ("partner.pelvis", "mat")),
        "knees_closed": (("performer.pelvis", "mat"), ("partner.chest", "mat")),
        "hips_up": (("performer.right_hand", "partner.right_forearm"),),
    },
    middle=(0.05, -0.1),
    height=0.4,
    facing_deg=180.0,
)
