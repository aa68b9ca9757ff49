"""The escape with two bumps: hips out with the first, a hand at the belt, flat to load the partner, and over with the second."""

from __future__ import annotations

from lacertus.studio.body.figure import Joints
from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Move
from lacertus.studio.body.vectors import Vector
from lacertus.studio.moves.on_the_mat import read_poses
from lacertus.studio.moves.parts import plus

POSES = read_poses("two-bump-escape")
ME, OTHER = POSES.me, POSES.other

FAULTS = (
    Fault(code="bumps-straight-up", unit="deg", most=60.0, says="the hips turn out so much less"),
    Fault(code="hand-at-the-armpit", unit="cm", most=40.0, says="the hand lies so far up the partner’s trunk"),
    Fault(code="launches-empty", unit="cm", most=70.0, says="the partner’s hips lie so far from one’s own"),
    Fault(code="launches-from-the-side", unit="deg", most=75.0, says="one launches so far turned to the side"),
    Fault(code="weak-second-bump", unit="cm", most=14.0, says="the hips rise so much less in the second bump"),
    Fault(code="arm-after-hips", unit="ms", most=550.0, says="the arm lifts so long after the hips"),
    Fault(code="slides-away", unit="cm", most=85.0, says="the shoulder slides so far on the mat"),
    Fault(code="stalls-halfway", unit="ms", most=1100.0, says="the throw stops so long halfway"),
    Fault(code="lets-the-hip-go", unit="ms", most=1200.0, says="the arm closes round the hip so late"),
    Fault(code="stays-beside", unit="cm", most=22.0, says="the hips end so much lower"),
)


def _steps(how: How) -> list[Step]:
    if how.reaction == "partner_headlocks":
        return POSES.joined(_back_to_the_frames())
    return POSES.joined([*_to_the_belt(how), *_throws(how)], ("over",) if "slides-away" in how.faults else ())


def _back_to_the_frames() -> list[Step]:
    """The partner's arm closes round the head: no bump, the frames come first."""
    return [
        *_lifts(),
        Step(at=0.95, name="headlock", performer=ME["headlock"], partner=OTHER["headlock"]),
        Step(at=1.50, name="frames", performer=ME["frames"], partner=OTHER["frames"]),
        *POSES.ends(1.50, ME["frames"], OTHER["frames"]),
    ]


def _lifts() -> list[Step]:
    return [
        Step(at=0.0, name="start", performer=ME["start"], partner=OTHER["start"], fixed=True),
        Step(at=0.50, name="lift", performer=ME["lift"], partner=OTHER["lift"]),
    ]


def _to_the_belt(how: How) -> list[Step]:
    flat, up = how.fault("bumps-straight-up"), how.fault("hand-at-the-armpit") / 100
    less = {"spin": -flat}
    high = {"right_grip_x": -0.8 * up, "right_grip_y": -0.6 * up}
    loose = how.reaction == "partners_arm_is_loose"
    belt = 2.05 + (0.7 if loose else 0.0)
    return [
        *_lifts(),
        Step(at=0.95, name="bump", performer=ME["bump"], partner=OTHER["bump"]),
        Step(at=1.40, name="swivelled", performer=plus(ME["swivelled"], less), partner=OTHER["swivelled"]),
        *(_pins() if loose else []),
        Step(at=belt, name="belt", performer=plus(ME["belt"], high), partner=OTHER["belt"]),
    ]


def _pins() -> list[Step]:
    """The partner's arm comes off: an elbow clamps it before the hand goes on to the belt."""
    return [
        Step(at=1.75, name="arm_loose", performer=ME["arm_loose"], partner=OTHER["arm_loose"]),
        Step(at=2.20, name="pins", performer=ME["pins"], partner=OTHER["pins"]),
    ]


def _throws(how: How) -> list[Step]:
    empty, turned, weak = how.fault("launches-empty") / 100, how.fault("launches-from-the-side"), how.fault("weak-second-bump") / 100
    slides, stalls, late = how.fault("slides-away") / 100, how.fault("stalls-halfway") / 1000, how.fault("lets-the-hip-go") / 1000
    low, lags = how.fault("stays-beside") / 100, how.fault("arm-after-hips") / 1000
    loaded = 2.75 + (0.7 if how.reaction else 0.0)
    bump = loaded + 0.50
    arm = bump - 0.10 + lags
    over = max(bump + 0.45, arm + 0.30) + stalls
    unlifted = {"spin": 40.0 * min(lags / 0.3, 1.0), "z": -0.05 * min(lags / 0.3, 1.0)}
    caught = over + 0.35 + late
    off = {"x": 0.9 * empty, "y": 0.2 * empty}
    slid = {"x": slides}
    return [
        Step(at=loaded - 0.35, name="draws", performer=plus(ME["draws"], {"spin": 0.5 * turned}), partner=OTHER["draws"]),
        Step(at=loaded, name="loaded", performer=plus(ME["loaded"], {"spin": turned}), partner=plus(OTHER["loaded"], off)),
        Step(at=bump, name="bump_two", performer=plus(ME["bump_two"], {"z": -weak / 1.7}), partner=plus(OTHER["bump_two"], {"z": -weak / 1.7} | unlifted)),
        Step(at=arm, name="arm_throws"),
        Step(at=(max(bump, arm) + over) / 2, name="flies", performer=plus(ME["flies"], {"x": slides / 2}), partner=plus(OTHER["flies"], {"x": slides / 2})),
        Step(at=over, name="over", performer=plus(ME["over"], slid), partner=plus(OTHER["over"], slid)),
        Step(at=caught, name="caught", performer=ME["caught"], partner=OTHER["caught"]),
        Step(at=caught + 0.40, name="hand_posted", performer=ME["hand_posted"], partner=OTHER["hand_posted"]),
        Step(at=caught + 0.95, name="knee_up", performer=ME["knee_up"], partner=OTHER["knee_up"]),
        Step(at=caught + 1.55, name="on_top", performer=plus(ME["on_top"], {"z": -low / 1.7}), partner=OTHER["on_top"]),
        *POSES.ends(caught + 1.55, ME["on_top"], OTHER["on_top"]),
    ]  # fmt: skip


def _belt(me: Joints, other: Joints) -> Vector:
    """At the belt, on the back."""
    middle = (other.at["left_hip"] + other.at["right_hip"]) / 2
    pelvis = other.pelvis
    return middle + (pelvis.up * 0.055 - pelvis.forward * 0.085 + pelvis.left * 0.055) * other.stature_m


def _events(how: How) -> dict[str, Finder]:
    if how.reaction == "partner_headlocks":
        steps = {"shoulder_lift": "lift", "headlock": "headlock", "frames_again": "frames"}
        return {event: Finder(step=step) for event, step in steps.items()}
    steps = {"shoulder_lift": "lift", "bump_1": "bump", "hips_swivelled": "swivelled"}
    steps |= {"arm_loose": "arm_loose", "elbow_pins": "pins"} if how.reaction else {}
    steps |= {"hand_at_belt": "belt", "rolled_to_back": "loaded", "arm_throws": "arm_throws", "bump_2": "bump_two", "partner_over": "over", "hip_caught": "caught"}
    steps |= {"hand_posted": "hand_posted", "knee_up": "knee_up", "on_top": "on_top"}
    return {event: Finder(step=step) for event, step in steps.items()}


MOVE = Move(
    technique="two-bump-escape",
    partner=True,
    faults=FAULTS,
    options={"load": ("belt",)},
    steps=_steps,
    events=_events,
    holds={"performer": {"right_hand": _belt}},
    reactions={"partners_arm_is_loose": {}, "partner_headlocks": {}},
    gives="partner",
    contacts={
        "bump_1": (("performer.chest", "partner.chest"), ("partner.left_shank", "mat")),
        "rolled_to_back": (("performer.pelvis", "mat"), ("performer.pelvis", "partner.pelvis")),
        "on_top": (("partner.pelvis", "mat"), ("performer.chest", "partner.chest")),
    },
    middle=(-0.05, -0.25),
    height=0.4,
    facing_deg=180.0,
)
