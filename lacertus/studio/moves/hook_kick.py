"""The spinning hook kick: the head leads round, the leg goes out past the target and the heel hooks back through it."""

from __future__ import annotations

from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Moment, Move, merge
from lacertus.studio.moves.front_kick import STANCE as KICKING_STANCE
from lacertus.studio.moves.parts import ON_MAT_M, height, put_in, span

STANCE = KICKING_STANCE | {"left_toe_up": 0.0, "side": 0.0, "right_leg_abd": 4.0}

FAULTS = (
    Fault(code="late-head", unit="deg", most=90.0, says="the head stays behind the turn"),
    Fault(code="bent-reach", unit="deg", most=60.0, says="the leg stays bent at full reach"),
    Fault(code="low-kick", unit="deg", most=40.0, says="the leg is lifted by so much less"),
    Fault(code="slow-turn", unit="ms", most=600.0, says="the turn stalls before the leg goes out"),
    Fault(code="stalled-pivot", unit="ms", most=500.0, says="the foot leaves the mat long after the pivot has begun"),
    Fault(code="under-the-belt", unit="deg", most=58.0, says="the leg is lifted by so much less, and the trunk stays up"),
    Fault(code="lies-down", unit="deg", most=50.0, says="the trunk lies down sideways"),
    Fault(code="no-refold", unit="ms", most=500.0, says="the leg is folded back late"),
    Fault(code="locked-support", unit="cm", most=3.3, says="the hips stand so much higher, until the standing knee locks"),
    Fault(code="bows-forward", unit="deg", most=50.0, says="the trunk folds forward over the leg"),
)


def _steps(how: How) -> list[Step]:
    late, bent, low = how.fault("late-head"), how.fault("bent-reach"), put_in(how, FAULTS, "low-kick")
    lock, bow = put_in(how, FAULTS, "locked-support"), how.fault("bows-forward")
    sunk, lies = put_in(how, FAULTS, "under-the-belt"), how.fault("lies-down")
    pivot = 0.30
    back = pivot + 0.24 + how.fault("stalled-pivot") / 1000
    off = back + 0.05
    knee = back + 0.16 + how.fault("slow-turn") / 1000
    full = knee + 0.16
    cross = full + 0.09
    refold = cross + 0.16 + how.fault("no-refold") / 1000
    down = refold + 0.24
    kneel = -0.008 * (1 - lock)
    lift = 84.0 - 40.0 * low - 58.0 * sunk
    return [
        Step(at=0.0, name="start", performer=STANCE, fixed=True),
        Step(at=pivot - 0.14, performer={"left_heel_up": 0.0, "z": 0.492, "yaw": -34.0, "left_foot_yaw": -8.0, "twist": 6.0, "look": 24.0}),
        Step(
            at=pivot,
            name="pivot",
            performer={"x": 0.05, "z": 0.498, "yaw": -62.0, "twist": -10.0, "look": 6.0, "left_foot_yaw": -46.0, "left_heel_up": 9.0, "right_heel_up": 18.0, "right_foot_z": 0.0, "right_plant": 1.0, "right_foot_yaw": -42.0},
        ),
        Step(
            at=back,
            name="back",
            performer={
                "x": 0.15, "y": 0.05, "z": 0.512, "yaw": -172.0, "lean": 6.0, "twist": -26.0, "look": -46.0 + late, "left_foot_yaw": -120.0, "left_heel_up": 12.0,
                "right_heel_up": 46.0, "right_foot_yaw": -84.0, "right_plant": 1.0, "right_foot_z": 0.0, "right_leg_flex": 10.0, "right_leg_bend": 50.0, "roll": 0.0,
                "left_arm_bend": 118.0, "right_arm_bend": 116.0, "right_arm_flex": 30.0,
            },
        ),
        Step(at=off + 0.06, name="off", performer={"right_plant": 0.2, "right_foot_z": 0.08, "right_leg_flex": 40.0, "right_leg_bend": 92.0}),
        Step(
            at=knee,
            name="knee",
            performer={
                "x": 0.18, "y": 0.07, "z": 0.515 + kneel + 0.034 * lock, "yaw": -228.0, "lean": 4.0 + bow * 0.5, "roll": -22.0, "twist": -24.0, "look": -66.0 + late,
                "left_foot_yaw": -158.0, "right_plant": 0.0, "right_leg_flex": 62.0 - 20 * low, "right_leg_abd": 34.0, "right_leg_bend": 104.0, "right_leg_rot": -20.0, "right_toe_up": 6.0,
            },
        ),
        Step(
            at=full,
            name="full",
            performer={
                "x": 0.14, "y": 0.08, "z": 0.550 + kneel + 0.036 * lock, "yaw": -262.0, "lean": 2.0 + bow, "roll": -44.0 + 16.0 * low + 20.0 * sunk - lies, "twist": -16.0, "look": -72.0 + late, "side": 10.0,
                "left_foot_yaw": -186.0, "right_plant": 0.0, "right_leg_flex": 1.0, "right_leg_abd": lift, "right_leg_bend": 7.0 + bent, "right_leg_rot": -8.0, "right_toe_up": 14.0,
            },
        ),
        Step(
            at=cross,
            name="cross",
            performer={
                "x": 0.12, "yaw": -296.0, "roll": -40.0 + 14.0 * low, "look": -56.0 + late * 0.7, "left_foot_yaw": -206.0, "right_leg_abd": lift - 4.0, "right_leg_flex": 2.0,
                "right_leg_bend": 26.0 + bent * 0.8,
            },
        ),
        Step(
            at=refold,
            name="refold",
            performer={
                "x": 0.14, "y": 0.05, "z": 0.512, "yaw": -338.0, "lean": 2.0 + bow * 0.4, "roll": -16.0, "twist": -8.0, "look": -18.0 + late * 0.3, "side": 4.0, "left_foot_yaw": -284.0, "right_plant": 0.0,
                "right_leg_abd": 34.0, "right_leg_flex": 34.0, "right_leg_bend": 108.0, "right_toe_up": 6.0, "right_foot_z": 0.14,
            },
        ),
        Step(
            at=down - 0.10,
            performer={"right_plant": 0.4, "right_foot_z": 0.06, "right_foot_x": -0.15, "right_foot_y": -0.12, "right_foot_yaw": -402.0, "left_heel_up": 6.0},
        ),
        Step(
            at=down,
            name="down",
            performer={"x": 0.05, "y": 0.01, "z": 0.498, "yaw": -378.0, "lean": 5.0, "roll": 0.0, "look": 14.0, "side": 0.0, "left_foot_yaw": -358.0, "left_heel_up": 0.0, "right_plant": 1.0, "right_foot_z": 0.0, "right_foot_x": -0.17, "right_heel_up": 20.0, "right_leg_abd": 4.0, "right_leg_bend": 40.0},
        ),
        Step(at=down + 0.42, name="end", performer=merge(STANCE, {k: v - 360.0 for k, v in STANCE.items() if k.endswith("yaw")}), fixed=True),
    ]  # fmt: skip


def _gaze(moment: Moment) -> float:
    """How far the face looks to the target: the cosine."""
    return float(moment["performer"].head.forward[0])


def _heel_past(moment: Moment) -> float:
    """How far the heel has passed the line from the hip to the target, metres."""
    at = moment["performer"].at
    return float(at["right_hip"][1] - at["right_heel"][1])


def _events(how: How) -> dict[str, Finder]:
    reach = span("performer", "right_hip", "right_ankle")
    return {
        "pivot_starts": Finder(step="pivot", rule="rises", measure=height("performer", "left_heel"), level=ON_MAT_M, before_s=0.16, after_s=0.14),
        "foot_off": Finder(step="off", rule="rises", measure=height("performer", "right_toe"), level=0.02, before_s=0.12, after_s=0.14),
        "eyes_back": Finder(step="knee", rule="rises", measure=_gaze, level=0.6, before_s=0.26, after_s=0.50),
        "full_reach": Finder(step="full", rule="highest", measure=reach, before_s=0.08, after_s=0.10),
        "heel_crosses": Finder(step="cross", rule="rises", measure=_heel_past, level=0.0, before_s=0.16, after_s=0.16),
        "refolded": Finder(step="refold", rule="lowest", measure=reach, before_s=0.10, after_s=0.12),
        "foot_down": Finder(step="down", rule="falls", measure=height("performer", "right_toe", "right_heel"), level=ON_MAT_M, before_s=0.12, after_s=0.14),
    }  # fmt: skip


MOVE = Move(
    technique="spinning-hook-kick",
    partner=False,
    faults=FAULTS,
    options={},
    steps=_steps,
    events=_events,
    middle=(0.12, 0.0),
    rung="solo",
    turns=-1,
)
