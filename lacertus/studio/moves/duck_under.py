"""The duck-under: from a tie at both upper arms the head goes under one arm and comes out behind it."""

from __future__ import annotations

from dataclasses import replace

from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Moment, Move
from lacertus.studio.moves.arm_drag import PARTNER as FACED
from lacertus.studio.moves.arm_drag import PERFORMER as FACING
from lacertus.studio.moves.parts import ON_MAT_M, height, to_the_other_side

PERFORMER = FACING | {
    "x": -0.14, "y": 0.0, "z": 0.498, "lean": 12.0, "bow": 8.0, "left_grip": 1.0, "right_grip": 1.0, "left_flare": 8.0, "right_flare": 8.0, "left_foot_x": -0.08, "left_foot_y": 0.18, "right_foot_x": -0.22,
    "right_foot_y": -0.16, "left_leg_bend": 24.0, "right_leg_bend": 24.0, "left_leg_flex": 14.0, "right_leg_flex": 14.0, "tilt": 0.0, "side": 0.0,
}  # fmt: skip
PARTNER = FACED | {
    "x": 0.46, "right_grip": 0.0, "left_foot_x": 0.34, "left_foot_y": -0.17, "right_foot_x": 0.40, "right_foot_y": 0.16, "right_arm_flex": 52.0, "right_arm_bend": 60.0, "right_arm_abd": 6.0, "left_arm_flex": 52.0,
    "left_arm_bend": 60.0, "left_arm_abd": 6.0,
}  # fmt: skip

FAULTS = (
    Fault(code="ducks-into-the-elbow", unit="deg", most=70.0, says="the partner’s arm is opened by so much less"),
    Fault(code="ducks-too-soon", unit="ms", most=620.0, says="the partner rises so much later"),
    Fault(code="head-first", unit="ms", most=400.0, says="the foot steps so much later"),
    Fault(code="steps-short", unit="cm", most=44.0, says="the foot stands so much too short"),
    Fault(code="stays-tall", unit="cm", most=24.0, says="the hips sink by so much less"),
    Fault(code="bows-under", unit="deg", most=40.0, says="the trunk bows by so much more"),
    Fault(code="stops-above", unit="cm", most=24.0, says="the knee stops so much higher above the mat", options={"level": "knee"}),
    Fault(code="sinks-too-far", unit="cm", most=22.0, says="the hips sink by so much more", options={"level": "step"}),
    Fault(code="wide-duck", unit="cm", most=60.0, says="the head passes so much further from the arm"),
    Fault(code="lets-go", unit="ms", most=640.0, says="the far hand lets go so long before the head is through"),
    Fault(code="elbows-out", unit="deg", most=80.0, says="the elbows are lifted by so much"),
    Fault(code="head-off", unit="cm", most=60.0, says="the head stays so far from the back"),
    Fault(code="wide-walk", unit="cm", most=70.0, says="the hips go round in so much wider a curve"),
)  # fmt: skip

ASIDE = {"left_foot_x": 0.00, "left_foot_y": 0.24, "left_foot_z": 0.0}
"""Where the other foot stands after a fake to its side."""
TIED, PULL, RISES, LANDS, LOW, UNDER, BEHIND = 0.12, 0.30, 0.62, 0.98, 1.06, 1.24, 1.72


def _steps(how: How) -> list[Step]:
    tied = Step(at=TIED, name="tied")
    if how.reaction == "partner_faces":
        return sorted([tied, *_tie(how), *(step for step in _duck(how) if step.at <= LOW), *_ties_again()], key=lambda step: step.at)
    if how.reaction == "partner_closes":
        begun = [step for step in _duck(how) if step.at <= LOW]
        return sorted([tied, *_tie(how), *begun, *_other_gate(how)], key=lambda step: step.at)
    return sorted([tied, *_tie(how), *_duck(how), *_behind(how)], key=lambda step: step.at)


OTHER_S = 0.56
"""How much later the head goes under on the other side, seconds."""


def _other_gate(how: How) -> list[Step]:
    """The elbow closes before the head is there: the other foot steps, and the head goes under the other arm, then behind."""
    closes, lands = LOW + 0.10, LOW + 0.40
    foot, rear = _foot(how), {"left_foot_x": -0.08, "left_foot_y": 0.18, "left_foot_z": 0.0}
    other_foot, other_rear = (to_the_other_side(Step(at=0.0, performer=stand)).performer for stand in (foot, rear))
    rest = [step for step in (*_duck(how), *_behind(how)) if step.at >= UNDER and step.name != "again"]
    return [
        Step(at=LANDS + 0.03, partner={"left_arm_abd": 76.0, "left_arm_flex": 38.0, "left_arm_bend": 50.0}),
        Step(at=closes, name="closes", performer={**foot, **rear, "y": -0.24}, partner={"left_arm_abd": 8.0, "left_arm_flex": 46.0, "left_arm_bend": 60.0}),
        Step(at=closes + 0.14, performer={"left_foot_x": 0.12, "left_foot_y": 0.28, "left_foot_z": 0.05, "left_heel_up": 6.0, "x": 0.10, "y": -0.08, "yaw": 0.0, "right_grip": 0.4, "left_grip": 0.8}, partner={"right_arm_abd": 60.0, "right_arm_flex": 40.0, "right_arm_bend": 50.0}),
        Step(at=lands, performer={**other_foot, **foot, "left_heel_up": 0.0, "x": 0.12, "y": 0.08, "z": 0.400, "yaw": -4.0, "right_grip": 1.0, "left_grip": 0.4}, partner={"right_arm_abd": 84.0, "right_arm_flex": 36.0}),
        Step(at=lands + 0.10, performer={"right_foot_x": 0.10, "right_foot_y": -0.26, "right_foot_z": 0.05}),
        Step(at=UNDER + OTHER_S - 0.08, performer={**other_rear, "left_grip": 0.0, "x": 0.18, "y": 0.24}),
        *(replace(to_the_other_side(step), at=step.at + OTHER_S) for step in rest),
        Step(at=BEHIND + OTHER_S + 1.60, name="again", performer=PERFORMER, partner=_start_of_partner(how), fixed=True),
    ]  # fmt: skip


def _start_of_partner(how: How) -> dict[str, float]:
    """A partner whose elbow is off the ribs by itself, or one who ties with both elbows down."""
    return PARTNER | ({"left_arm_abd": 74.0, "left_arm_flex": 42.0, "z": 0.508, "lean": 0.0} if how.options.get("set_up") == "as_is" else {})


def _tie(how: How) -> list[Step]:
    """Both hands at the upper arms; the elbow is open, or comes open by a pull down or a fake to the other side."""
    if how.options.get("set_up") == "as_is":
        return [Step(at=0.0, name="start", performer=PERFORMER, partner=_start_of_partner(how), fixed=True), Step(at=RISES, performer={"z": 0.496, "lean": 12.0}, partner={"left_arm_abd": 78.0, "z": 0.508})]
    return _fakes() if how.options.get("set_up") == "fake" else _pulls_down(how)


def _fakes() -> list[Step]:
    """A small step and a pull to the other side; the partner turns the hips square to it and the far elbow opens."""
    feet = {"left_foot_x": -0.08, "left_foot_y": 0.18, "left_foot_z": 0.0}
    return [
        Step(at=0.0, name="start", performer=PERFORMER, partner=PARTNER, fixed=True),
        Step(at=PULL - 0.14, performer={**feet, "left_heel_up": 4.0}),
        Step(at=PULL - 0.06, performer={"left_foot_z": 0.03, "x": -0.10, "y": 0.03}),
        Step(at=PULL, name="pull", performer={**ASIDE, "y": 0.06, "left_flare": 24.0}, partner={"yaw": 180.0, "twist": 0.0, "left_arm_abd": 6.0}),
        Step(at=PULL + 0.24, performer={"x": -0.06, "y": 0.08}, partner={"yaw": 170.0, "twist": -10.0, "right_arm_flex": 60.0, "lean": 6.0}),
        Step(at=RISES, name="squares", partner={"yaw": 168.0, "twist": -6.0, "left_arm_abd": 46.0, "z": 0.505}),
        Step(at=RISES + 0.18, performer={"y": 0.02}, partner={"left_arm_abd": 90.0, "left_arm_flex": 40.0, "left_arm_bend": 50.0, "lean": 0.0, "bow": 2.0, "z": 0.508}),
        Step(at=LANDS - 0.26, performer=ASIDE),
        Step(at=LANDS - 0.02, partner={"yaw": 178.0, "twist": 0.0}),
    ]  # fmt: skip


def _pulls_down(how: How) -> list[Step]:
    """Both hands pull down; the partner rises against it and an elbow opens."""
    out, shut, late = how.fault("elbows-out"), how.fault("ducks-into-the-elbow"), how.fault("ducks-too-soon") / 1000
    knee = how.options.get("level") == "knee"
    tall = {"lean": 18.0, "bow": 10.0, "z": 0.470} if knee else {"lean": 0.0, "bow": 2.0, "z": 0.508}
    flare = {"left_flare": 8.0 + out, "right_flare": 8.0 + out}
    opened = {"left_arm_abd": (108.0 if how.options.get("level") == "step" else 78.0) - shut, "left_arm_flex": 40.0, "left_arm_bend": 50.0 + shut * 0.4}
    return [
        Step(at=0.0, name="start", performer=PERFORMER | flare, partner=PARTNER, fixed=True),
        Step(at=PULL, name="pull", performer={"z": 0.496, **flare}, partner={"lean": 12.0, "z": 0.495, "left_arm_abd": 6.0, "left_arm_flex": 52.0, "left_arm_bend": 60.0}),
        Step(at=PULL + 0.18, performer={"z": 0.486, "lean": 14.0}, partner={"lean": 20.0, "bow": 10.0, "z": 0.488, "left_arm_abd": 6.0, "right_arm_flex": 46.0}),
        Step(at=RISES, partner={"left_arm_abd": 16.0}),
        Step(at=RISES + 0.22, partner={"right_arm_flex": 56.0, "right_arm_bend": 50.0, **opened}),
        Step(at=RISES + late - 0.04, name="rises", partner={"lean": 20.0, "bow": 10.0, "z": 0.488}),
        Step(at=RISES + late + 0.20, partner=tall),
    ]  # fmt: skip


def _foot(how: How) -> dict[str, float]:
    """Where the stepping foot stands."""
    short = how.fault("steps-short") / 100
    return {"right_foot_x": 0.30 - short, "right_foot_y": -0.36 + short * 0.38, "right_foot_z": 0.0}


def _duck(how: How) -> list[Step]:
    """The foot beside the partner's toe, the knees bent, the head under the arm; the far hand keeps its hold."""
    knee = how.options.get("level") == "knee"
    bow, wide = how.fault("bows-under"), how.fault("wide-duck") / 100
    small = how.options.get("level") == "step"
    low = (0.240 if knee else 0.452 if small else 0.395) - how.fault("sinks-too-far") / 174 + how.fault("stays-tall") / 174 + how.fault("stops-above") / 174
    lands = LANDS + how.fault("head-first") / 1000
    loose = how.fault("lets-go") / 1000
    foot = _foot(how)
    lost = [Step(at=UNDER - loose - 0.12, performer={"left_grip": 1.0}), Step(at=UNDER - loose, performer={"left_grip": 0.0, "left_arm_flex": 10.0, "left_arm_bend": 40.0})] if loose else []
    rear = {"left_heel_up": 62.0 if knee else 30.0} | ({"left_foot_y": 0.18 - wide * 0.9, "left_foot_x": -0.08, "left_foot_z": 0.0} if wide else {})
    return [
        *lost,
        Step(at=lands - 0.24, name="lifts", performer={"right_foot_x": -0.22, "right_foot_y": -0.16, "right_foot_z": 0.0, "right_heel_up": 16.0, "right_foot_yaw": -18.0, "right_plant": 1.0, "left_heel_up": 0.0}),
        Step(at=lands - 0.12, performer={"right_foot_z": 0.055, "right_foot_yaw": 0.0}),
        Step(at=LANDS - 0.20, performer={"x": -0.06, "z": 0.486, "lean": 14.0, "bow": 8.0, "right_grip": 1.0, "nod": 0.0}),
        Step(at=LANDS - 0.02, performer={"x": 0.06, "y": -0.16, "z": (low + 0.486) / 2 - 0.01, "lean": 18.0 + bow * 0.6, "bow": 8.0 + bow * 0.4, "right_grip": 0.5}),
        Step(at=lands, name="lands", performer={"right_heel_up": 0.0, "right_foot_yaw": 10.0, **foot}),
        Step(at=LOW, name="low", performer={"x": 0.16 if knee else 0.14, "y": -0.26 - wide * 0.3, "z": low, "yaw": 4.0, "lean": 20.0 + bow * 0.6, "bow": 8.0 + bow * 0.4, "nod": 6.0, "right_grip": 0.0, "right_arm_flex": 50.0, "right_arm_bend": 70.0, **rear}),
        Step(
            at=UNDER,
            name="under",
            performer={"x": 0.16 if knee else 0.28, "y": -0.36 - wide * 0.9, "z": low + (0.026 if knee else 0.012), "yaw": 22.0, "lean": 22.0 + bow * 0.4, "bow": 8.0 + bow * 0.3, "side": 0.0, "tilt": -8.0, "left_grip": 0.0 if loose else 1.0, **rear, **foot},
            partner={"left_arm_abd": (112.0 if small else 70.0) - how.fault("ducks-into-the-elbow") * 0.6, "left_arm_flex": 30.0},
        ),
        Step(at=UNDER + 0.03, performer=foot if lands < UNDER else {}),
    ]  # fmt: skip


def _ties_again() -> list[Step]:
    """The partner turns to face as the level drops: up again, and both hands back at the upper arms."""
    turns, tied = LOW + 0.10, LOW + 0.62
    foot, rear = {"right_foot_x": 0.30, "right_foot_y": -0.36, "right_foot_z": 0.0}, {"left_foot_x": -0.08, "left_foot_y": 0.18, "left_foot_z": 0.0}
    return [
        Step(at=turns, name="turns", performer={**foot, **rear}, partner={"yaw": 182.0, "left_arm_abd": 76.0}),
        Step(at=turns + 0.24, performer={"x": 0.08, "y": -0.26, "z": 0.430, "lean": 16.0}, partner={"yaw": 212.0, "left_arm_abd": 12.0, "left_arm_flex": 50.0, "left_arm_bend": 60.0, "lean": 8.0, "left_foot_yaw": 214.0, "right_foot_yaw": 200.0}),
        Step(at=tied, name="tied", performer={"x": 0.00, "y": -0.26, "z": 0.496, "yaw": 24.0, "lean": 12.0, "bow": 8.0, "nod": 0.0, "left_grip": 1.0, "right_grip": 1.0, "left_heel_up": 10.0, **foot, **rear}, partner={"yaw": 214.0, "lean": 10.0}),
        Step(at=tied + 0.40, name="end", performer={"yaw": 24.0, **foot, **rear}, partner={"yaw": 214.0}, fixed=True),
        Step(at=tied + 0.42, performer={**foot, **rear}),
        Step(at=tied + 0.80, performer={"right_foot_z": 0.05, "left_foot_z": 0.03, "left_grip": 0.6, "right_grip": 0.6}, partner={"yaw": 196.0, "left_foot_z": 0.03, "right_foot_z": 0.03}),
        Step(at=tied + 1.30, name="again", performer=PERFORMER, partner=PARTNER, fixed=True),
    ]  # fmt: skip


def _behind(how: How) -> list[Step]:
    """Up behind the arm and round to the back, close; then back to where it began, which is no part of the rep."""
    off, wide = how.fault("head-off") / 100, how.fault("wide-walk") / 100
    foot = _foot(how)
    left = ASIDE if how.options.get("set_up") == "fake" else {"left_foot_x": -0.08, "left_foot_y": 0.18 - how.fault("wide-duck") / 111, "left_foot_z": 0.0}
    arms = {"right_arm_flex": 62.0, "right_arm_abd": 12.0, "right_arm_bend": 44.0, "left_arm_flex": 62.0, "left_arm_abd": 12.0, "left_arm_bend": 44.0}
    stand = {"left_foot_x": 0.78, "left_foot_y": -0.34, "left_foot_z": 0.0, "right_foot_x": 0.98, "right_foot_y": 0.02, "right_foot_z": 0.0}
    return [
        Step(at=UNDER + 0.06, performer=left),
        Step(at=UNDER + 0.20, name="out", performer={"x": 0.52 + wide * 0.3, "y": -0.50 - wide * 1.1, "z": 0.440, "yaw": 70.0, "lean": 16.0, "bow": 8.0, "left_grip": 0.0, "left_foot_z": 0.06, "left_foot_x": 0.44, "left_foot_y": -0.30, "left_foot_yaw": 70.0, "left_heel_up": 20.0, "right_heel_up": 20.0, "right_foot_yaw": 60.0, **arms}, partner={"left_arm_abd": 44.0, "left_arm_flex": 14.0, "left_arm_bend": 30.0, "yaw": 184.0}),
        Step(at=UNDER + 0.32, performer={"left_foot_x": 0.78, "left_foot_y": -0.34, "left_foot_z": 0.0, "left_foot_yaw": 110.0, "left_heel_up": 0.0, **foot}),
        Step(at=UNDER + 0.42, performer={"right_foot_z": 0.05, "right_foot_x": 0.80, "right_foot_y": -0.30, "right_foot_yaw": 130.0, "left_foot_z": 0.0, "left_foot_x": 0.78, "left_foot_y": -0.34}),
        Step(at=BEHIND - 0.06, performer={**stand, "right_foot_yaw": 160.0, "right_heel_up": 0.0}),
        Step(
            at=BEHIND,
            name="behind",
            performer={"x": 0.80 + off * 0.5, "y": -0.16, "z": 0.486, "yaw": 150.0, "lean": 18.0 - off * 70, "bow": 12.0, "nod": 0.0, "tilt": 0.0, "look": 20.0, **arms},
            partner={"left_arm_abd": 16.0, "left_arm_flex": 20.0, "left_arm_bend": 40.0, "right_arm_abd": 8.0, "right_arm_flex": 30.0, "yaw": 186.0, "lean": 4.0},
        ),
        Step(at=BEHIND + 0.40, name="end", performer={"yaw": 154.0, **stand}, partner={"yaw": 186.0}, fixed=True),
        Step(at=BEHIND + 0.42, performer=stand),
        Step(at=BEHIND + 0.95, performer={"x": 0.40, "y": -0.60, "yaw": 70.0, "lean": 8.0, "look": 0.0, "left_foot_z": 0.05, "right_foot_z": 0.05, "left_foot_x": 0.3, "right_foot_x": 0.3, "left_foot_y": -0.5, "right_foot_y": -0.7, "right_foot_yaw": 60.0, "left_foot_yaw": 60.0}),
        Step(at=BEHIND + 1.60, name="again", performer=PERFORMER, partner=_start_of_partner(how), fixed=True),
    ]  # fmt: skip


def _faces_the_back(moment: Moment) -> float:
    """How nearly both hips face the same way: 1 where they do."""
    return float(moment["performer"].pelvis.forward @ moment["partner"].pelvis.forward)


def _events(how: How) -> dict[str, Finder]:
    found = _opens(how) | _usual_events()
    if how.reaction == "partner_closes":
        kept = {name: finder for name, finder in found.items() if name not in ("head_under", "behind")}
        return kept | {"elbow_down": Finder(step="closes"), "other_side": Finder(step="under")}
    if how.reaction == "partner_faces":
        kept = {name: finder for name, finder in found.items() if name not in ("head_under", "behind")}
        return kept | {"turns_to_face": Finder(step="turns"), "resets": Finder(step="tied")}
    return found


def _opens(how: How) -> dict[str, Finder]:
    """What opens the elbow, where it is not open by itself."""
    found = {"pull_down": ("partner_rises", "rises"), "fake": ("partner_squares", "squares")}.get(how.options.get("set_up", "pull_down"))
    return {"pull": Finder(step="pull"), found[0]: Finder(step=found[1])} if found else {}


def _usual_events() -> dict[str, Finder]:
    return {
        "tied": Finder(step="tied"),
        "step_down": Finder(step="lands", rule="falls", measure=height("performer", "right_heel", "right_toe"), level=ON_MAT_M, before_s=0.10, after_s=0.06),
        "level_low": Finder(step="low", rule="lowest", measure=height("performer", "left_hip", "right_hip"), before_s=0.16, after_s=0.20),
        "head_under": Finder(step="under"),
        "behind": Finder(step="behind", rule="rises", measure=_faces_the_back, level=0.74, before_s=0.30, after_s=0.16),
    }  # fmt: skip


MOVE = Move(
    technique="duck-under",
    partner=True,
    faults=FAULTS,
    options={"set_up": ("pull_down", "fake", "as_is"), "level": ("bend", "knee", "step"), "finish": ("back",)},
    steps=_steps,
    events=_events,
    holds={
        "performer": {
            "left_hand": lambda me, other: other.at["right_shoulder"] * 0.45 + other.at["right_elbow"] * 0.55,
            "right_hand": lambda me, other: other.at["left_shoulder"] * 0.45 + other.at["left_elbow"] * 0.55,
        },
    },
    reactions={"partner_faces": {}, "partner_closes": {}},
    middle=(0.40, -0.05),
    height=0.82,
    rung="static_partner",
)
