"""The choke with the arm in one’s own knee pit: frames, the knee in, the arm past, up on the elbow, the arm through, and the side bend."""

from __future__ import annotations

from lacertus.studio.body.figure import Joints
from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Move
from lacertus.studio.body.vectors import Vector
from lacertus.studio.moves.on_the_mat import read_poses
from lacertus.studio.moves.parts import plus

POSES = read_poses("knee-pit-choke")
ME, OTHER = POSES.me, POSES.other

FAULTS = (
    Fault(code="no-room-for-the-knee", unit="cm", most=40.0, says="the partner’s hips are so much nearer to one’s own"),
    Fault(code="lets-the-hip-go", unit="deg", most=110.0, says="the framing arm leaves the hip so far"),
    Fault(code="knee-stays-out", unit="deg", most=90.0, says="the thigh stays so much lower"),
    Fault(code="hollow-space", unit="deg", most=80.0, says="the thigh stays so far from the partner’s head"),
    Fault(code="lies-down-to-it", unit="deg", most=62.0, says="the trunk stays so much lower"),
    Fault(code="clamps-the-arm-out", unit="deg", most=60.0, says="the knee closes so far while the arm goes in"),
    Fault(code="wrist-in-the-knee-pit", unit="deg", most=70.0, says="the arm goes so much less far in"),
    Fault(code="pulls-the-foot", unit="deg", most=70.0, says="the foot is pulled so far to the hip"),
    Fault(code="leg-stays-slack", unit="deg", most=60.0, says="the knee stays bent so much more"),
    Fault(code="flat-on-the-back", unit="deg", most=32.0, says="one turns so far on the back"),
    Fault(code="falls-backward", unit="deg", most=60.0, says="the upper arm stays so far up"),
    Fault(code="hands-do-not-meet", unit="cm", most=26.0, says="the hands stay so far apart"),
    Fault(code="holds-after-tap", unit="ms", most=1200.0, says="the hold is kept after the tap"),
)


def _steps(how: How) -> list[Step]:
    found = [*_frames(how), *_up(how)]
    found += _locks(how, found[-1].at)
    return POSES.joined(found, ("frame_neck", "hips_out") if "no-room-for-the-knee" in how.faults else ("elbow_up",) if "hollow-space" in how.faults else ())


def _frames(how: How) -> list[Step]:
    """Both frames, the hips out, the knee in; where the partner pushes in, the arm goes past then."""
    near, off, low = how.fault("no-room-for-the-knee") / 100, how.fault("lets-the-hip-go"), how.fault("knee-stays-out")
    close = {"y": -near, "x": 0.3 * near}
    leaves = {"left_arm_flex": -off}
    pushes = bool(how.reaction)
    past = 3.00 if pushes else 2.55
    return [
        Step(at=0.0, name="start", performer=ME["start"], partner=OTHER["start"], fixed=True),
        Step(at=0.45, name="frame_hip", performer=ME["frame_hip"], partner=OTHER["frame_hip"]),
        Step(at=0.80, name="frame_neck", performer=plus(ME["frame_neck"], leaves), partner=plus(OTHER["frame_neck"], close)),
        Step(at=1.35, name="hips_out", performer=plus(ME["hips_out"], leaves), partner=OTHER["hips_out"]),
        Step(at=1.95, name="knee_in", performer=plus(ME["knee_in"], leaves | {"right_leg_flex": -low}), partner=OTHER["knee_in"]),
        *([Step(at=2.40, name="pushed", performer=ME["pushed"], partner=OTHER["pushed"])] if pushes else []),
        Step(at=past, name="past", performer=plus(ME["past"], leaves), partner=OTHER["past"]),
    ]


def _up(how: How) -> list[Step]:
    """The space closed, up on the elbow, and the arm into the knee pit."""
    hollow, lies, clamps = how.fault("hollow-space"), how.fault("lies-down-to-it"), how.fault("clamps-the-arm-out")
    short = how.fault("wrist-in-the-knee-pit")
    past = 3.00 if how.reaction else 2.55
    return [
        Step(at=past + 0.50, name="closed", performer=plus(ME["closed"], {"right_leg_flex": -hollow}), partner=OTHER["closed"]),
        Step(at=past + 1.05, name="elbow_up", performer=plus(ME["elbow_up"], {"lean": -lies}), partner=OTHER["elbow_up"]),
        Step(at=past + 1.65, name="in_pit", performer=plus(ME["in_pit"], {"right_leg_bend": clamps, "right_arm_flex": short}), partner=OTHER["in_pit"]),
        Step(at=past + 1.85, name="flexed", performer=plus(ME["flexed"], {"right_leg_bend": clamps}), partner=OTHER["flexed"]),
    ]  # fmt: skip


def _locks(how: How, at: float) -> list[Step]:
    """Hand inside, hands locked, the leg stretched, the bend to the side, the tap, and open."""
    pulled, apart = how.fault("pulls-the-foot"), how.fault("hands-do-not-meet") / 100
    slack, flat, straight = how.fault("leg-stays-slack"), how.fault("flat-on-the-back"), how.fault("falls-backward")
    locked = plus(ME["locked"], {"right_leg_bend": pulled, "left_grip_x": 0.8 * apart, "left_grip_z": 0.6 * apart})
    bent = plus(ME["bend"], {"right_leg_bend": slack + 0.4 * pulled, "spin": -flat, "right_arm_flex": straight, "left_grip_x": 0.8 * apart, "left_grip_z": 0.6 * apart})  # fmt: skip
    tap = at + 2.30
    free = tap + 0.24 + how.fault("holds-after-tap") / 1000
    other = OTHER["tap"]
    return [
        Step(at=at + 0.25, name="hand_inside"),
        Step(at=at + 0.55, name="locked", performer=locked, partner=OTHER["locked"]),
        Step(at=at + 0.75, name="stretches", performer=locked, partner=OTHER["locked"]),
        Step(at=at + 1.40, name="bend", performer=bent, partner=OTHER["bend"]),
        Step(at=tap - 0.3, performer=bent, partner=OTHER["bend"]),
        Step(at=tap, name="tap", performer=bent, partner=other),
        Step(at=max(free - 0.18, tap + 0.02), performer=bent, partner=other),
        Step(at=free, name="release", performer=ME["release"], partner=OTHER["release"]),
        *POSES.ends(free, ME["release"], OTHER["release"]),
    ]


def _own_hand(me: Joints, other: Joints) -> Vector:
    """One’s own hand that comes out of the knee pit."""
    wrist, elbow = me.at["right_wrist"], me.at["right_elbow"]
    return wrist + (wrist - elbow) * 0.12


def _events(how: How) -> dict[str, Finder]:
    steps = {"frame_hip": "frame_hip", "frame_neck": "frame_neck", "hips_out": "hips_out", "knee_in": "knee_in"}
    steps |= {"pushed_back": "pushed"} if how.reaction else {}
    steps |= {"arm_past_neck": "past", "space_closed": "closed", "elbow_up": "elbow_up", "arm_in_pit": "in_pit", "foot_flexed": "flexed"}
    steps |= {"hand_inside": "hand_inside", "hands_locked": "locked", "leg_extends": "stretches", "side_bend": "bend", "tap": "tap", "release": "release"}  # fmt: skip
    return {event: Finder(step=step) for event, step in steps.items()}


MOVE = Move(
    technique="knee-pit-choke",
    partner=True,
    faults=FAULTS,
    options={"space": ("hip_escape",), "lock": ("palm_to_palm",)},
    steps=_steps,
    events=_events,
    holds={"performer": {"left_hand": _own_hand}},
    reactions={"partner_pushes_in": {}},
    gives="performer",
    contacts={
        "frame_neck": (("performer.pelvis", "mat"), ("partner.left_shank", "mat")),
        "knee_in": (("performer.right_shank", "partner.chest"), ("performer.left_thigh", "mat")),
        "hands_locked": (("performer.right_shank", "partner.chest"), ("performer.left_thigh", "mat")),
    },
    middle=(-0.1, 0.15),
    height=0.4,
    facing_deg=180.0,
)
