"""The underhook from half guard: a closed frame, out on the slap of the hand, the shoulder in, the knee behind the seat, and only then the arm."""

from __future__ import annotations

from lacertus.studio.body.figure import Joints
from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Move
from lacertus.studio.body.vectors import Vector
from lacertus.studio.moves.on_the_mat import read_poses
from lacertus.studio.moves.parts import both, on_limb, plus

POSES = read_poses("half-guard-underhook")
ME, OTHER = POSES.me, POSES.other

FAULTS = (
    Fault(code="digs-under-a-closed-elbow", unit="deg", most=85.0, says="the partner’s upper arm hangs so much closer to the ribs"),
    Fault(code="comes-up-to-a-sitter", unit="cm", most=45.0, says="the partner’s hips sit so much lower"),
    Fault(code="knee-loses-the-shoulder", unit="deg", most=64.0, says="the thigh lies so much lower"),
    Fault(code="arms-reach-out", unit="deg", most=60.0, says="each upper arm opens so far"),
    Fault(code="leaves-too-late", unit="ms", most=1300.0, says="one leaves the frame so much later"),
    Fault(code="shoulder-hangs-back", unit="cm", most=44.0, says="the shoulder stays so far from the collarbone"),
    Fault(code="broken-line", unit="deg", most=90.0, says="the propping arm lies so far along the trunk"),
    Fault(code="collapses-flat", unit="deg", most=44.0, says="the trunk lies so much lower"),
    Fault(code="no-knee-stop", unit="deg", most=105.0, says="the thigh is drawn up so far from the seat"),
    Fault(code="loses-contact", unit="cm", most=60.0, says="the partner gets so far away"),
    Fault(code="hand-too-low", unit="cm", most=34.0, says="the hand lies so much lower on the back"),
)
ANSWERS = {
    "partner_goes_away": ("goes_away", "follows", "follows_up"),
    "partner_leans_in": ("leans", "between", "shoulder_between"),
    "partner_cuts_round": ("cuts", "realigned", "realigned"),
    "partner_closes_the_elbow": ("closes", "stop_again", "knee_stop_again"),
    "partner_catches_the_arm": ("caught", "frames", "frame_again"),
}
"""To each reaction of the partner its pose, the pose of the answer, and the answer's event."""
TOLD = {
    "partner_goes_away": "goes_away",
    "partner_leans_in": "leans_in",
    "partner_cuts_round": "cuts_round",
    "partner_closes_the_elbow": "elbow_closes",
    "partner_catches_the_arm": "caught_late",
}
"""The event of each reaction."""
CLOSED = {"left_arm_flex": 8.0, "left_arm_abd": 4.0, "left_arm_bend": 70.0, "left_arm_rot": 0.0}
"""The partner’s arm with the elbow at the ribs: some 85 degrees from where it stands when the hand is on the mat."""


def _steps(how: How) -> list[Step]:
    found = _to_the_shoulder(how)
    found += _answers(how) if how.reaction else _holds(how)
    return POSES.joined(found, ("kicked",) if "knee-loses-the-shoulder" in how.faults else ())


def _to_the_shoulder(how: How) -> list[Step]:
    wide, low, late = how.fault("arms-reach-out"), how.fault("knee-loses-the-shoulder"), how.fault("leaves-too-late") / 1000
    closed, sits = how.fault("digs-under-a-closed-elbow"), how.fault("comes-up-to-a-sitter") / 100
    far, aside, flat = how.fault("shoulder-hangs-back") / 100, how.fault("broken-line"), how.fault("collapses-flat")
    knee, arms = {"right_leg_flex": -low}, {"left_arm_abd": wide, "right_arm_abd": wide, "left_grip": -1.0 if wide else 0.0}
    open_arm = OTHER["kicked"]
    drops = {name: (CLOSED[name] - open_arm[name]) * closed / 85.0 for name in CLOSED}
    drops |= {"z": -sits / 1.76} | both(leg_flex=140.0 * sits, leg_bend=130.0 * sits)
    kicked = 1.85 + late
    return [
        Step(at=0.0, name="start", performer=ME["start"], partner=OTHER["start"], fixed=True),
        Step(at=0.45, name="frame", performer=plus(ME["frame"], knee | arms), partner=OTHER["frame"]),
        Step(at=0.95, name="push", performer=plus(ME["push"], knee), partner=OTHER["push"]),
        Step(at=1.40, name="slap", performer=plus(ME["slap"], knee), partner=OTHER["slap"]),
        Step(at=1.42 + late, name="leaves", performer=plus(ME["slap"], knee), partner=OTHER["slap"]),
        Step(at=kicked, name="kicked", performer=ME["kicked"], partner=plus(OTHER["kicked"], drops)),
        Step(at=kicked + 0.22, name="hand_up"),
        Step(at=kicked + 0.55, name="shoulder", performer=plus(ME["shoulder"], {"x": -far, "lean": -flat, "left_arm_abd": -aside}), partner=OTHER["shoulder"]),
    ]  # fmt: skip


def _holds(how: How) -> list[Step]:
    late, off, away = how.fault("leaves-too-late") / 1000, how.fault("no-knee-stop"), how.fault("loses-contact") / 100
    low, far = how.fault("hand-too-low") / 100, how.fault("shoulder-hangs-back") / 100
    back = {"x": -0.3 * far}
    slip = {"right_grip_x": 0.9 * low, "right_grip_z": -0.25 * low}
    return [
        Step(at=2.95 + late, name="knee", performer=plus(ME["knee"], back | {"right_leg_flex": off}), partner=OTHER["knee"]),
        Step(at=3.50 + late, name="arm", performer=plus(ME["arm"], slip), partner=OTHER["arm"]),
        *([Step(at=4.00 + late, partner=plus(OTHER["held"], {"x": away}))] if away else []),
        Step(at=4.30 + late, name="held", performer=plus(ME["held"], slip), partner=plus(OTHER["held"], {"x": away})),
        *POSES.ends(4.30 + late, ME["held"], OTHER["held"]),
    ]


def _answers(how: How) -> list[Step]:
    """What the partner does at the shoulder, or at the knee stop, and what one does about it."""
    comes, goes, _ = ANSWERS[how.reaction]
    at, takes = 2.40, 1.6 if how.reaction == "partner_catches_the_arm" else 1.05
    found: list[Step] = []
    if how.reaction == "partner_closes_the_elbow":
        at = 2.95
        found = [Step(at=at, name="knee", performer=ME["knee"], partner=OTHER["knee"])]
    return [
        *found,
        Step(at=at + 0.45, name=comes, performer=ME[comes], partner=OTHER[comes]),
        Step(at=at + takes, name=goes, performer=ME[goes], partner=OTHER[goes]),
        *POSES.ends(at + takes, ME[goes], OTHER[goes]),
    ]


def _high_on_the_back(me: Joints, other: Joints) -> Vector:
    """Over the shoulder blade."""
    middle = (other.at["left_shoulder"] + other.at["right_shoulder"]) / 2
    chest = other.chest
    return middle - (chest.forward * 0.085 + chest.up * 0.085 - chest.left * 0.05) * other.stature_m


def _his_arm(me: Joints, other: Joints) -> Vector:
    """Round the arm below the elbow, from outside."""
    return on_limb(other, "right_elbow", "right_wrist", 0.25, -other.chest.forward - other.chest.left * 0.5, 0.05)


def _events(how: How) -> dict[str, Finder]:
    steps = {"frame_set": "frame", "push_back": "push", "hand_slap": "slap", "kicked_out": "kicked", "hand_up": "hand_up", "shoulder_in": "shoulder"}  # fmt: skip
    if how.reaction:
        comes, goes, answer = ANSWERS[how.reaction]
        steps |= {"knee_stop": "knee"} if how.reaction == "partner_closes_the_elbow" else {}
        steps |= {TOLD[how.reaction]: comes, answer: goes}
    else:
        steps |= {"knee_stop": "knee", "arm_through": "arm", "held_end": "held"}
    return {event: Finder(step=step) for event, step in steps.items()}


MOVE = Move(
    technique="half-guard-underhook",
    partner=True,
    faults=FAULTS,
    options={"unbalance": ("give_way",), "tempo": ("window",), "school": ("look_away",), "height": ("high",)},
    steps=_steps,
    events=_events,
    holds={"performer": {"right_hand": _high_on_the_back, "left_hand": _his_arm}},
    reactions={reaction: {} for reaction in ANSWERS},
    gives="performer",
    contacts={
        "frame_set": (("performer.pelvis", "mat"), ("partner.left_shank", "mat")),
        "shoulder_in": (("performer.left_forearm", "mat"), ("performer.left_thigh", "partner.left_thigh")),
        "arm_through": (("performer.right_hand", "partner.chest"), ("partner.left_shank", "mat")),
    },
    middle=(0.0, 0.0),
    height=0.4,
    facing_deg=180.0,
)
