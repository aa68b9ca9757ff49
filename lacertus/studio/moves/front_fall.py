"""The front fall from the knees or the feet: the body tips like a board, palms and forearms land as one, the head is turned."""

from __future__ import annotations

import math
from collections.abc import Mapping

from lacertus.core.measuring.body import PROPORTIONS
from lacertus.studio.body.figure import ANKLE_HEIGHT, BALL
from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Move
from lacertus.studio.moves.parts import along, both, height

STATURE_M = 1.70
"""The stature that the places in metres are drawn for; another one slides a knee by a centimetre."""
THIGH, SHANK, UPPER, FORE = (PROPORTIONS[name] for name in ("thigh", "shank", "upper_arm", "forearm"))
TRUNK = 0.288
"""From the hips to the line of the shoulders, as the figure has it; a share of stature, as the next ones are."""
KNEE, ARM, TOE = 0.034, 0.036, (BALL - 0.24) * PROPORTIONS["foot"]
"""How high a knee and a forearm lie on the mat, and how far the ankle is behind the ball."""
HIP, CHEST = 0.052, 0.188
"""How high the hips of one who lies are, and how far the shoulders are from where the chest bends."""
LOOK = 72.0
"""How far the head is turned as the arms land, degrees."""

FAULTS = (
    Fault(code="folds-at-the-hip", unit="deg", most=70.0, says="the body folds at the hips as it tips"),
    Fault(code="legs-bend", unit="deg", most=70.0, says="the knees are bent so much as the body tips, from the feet"),
    Fault(code="pushes-off", unit="cm", most=28.0, says="the feet push the knees so high off the mat, from the knees", options={"from": "knees"}),
    Fault(code="posts-the-arm", unit="deg", most=80.0, says="the elbows are so much straighter as the palms land"),
    Fault(code="palms-first", unit="ms", most=250.0, says="the forearms land so long after the palms"),
    Fault(code="elbows-far-out", unit="cm", most=22.0, says="the elbows land so far in front of the shoulders"),
    Fault(code="face-down", unit="deg", most=72.0, says="the head is turned so much less"),
    Fault(code="head-touches", unit="deg", most=70.0, says="the chest sinks and the head hangs down between the arms"),
    Fault(code="belly-lands", unit="cm", most=28.0, says="the hips sink to the mat"),
    Fault(code="knees-land", unit="cm", most=22.0, says="the knees sink to the mat"),
    Fault(code="arms-ready-early", unit="ms", most=600.0, says="the arms come up so long before the fall"),
)


def _kneeling(tip: float, fold: float = 0.0, lift: float = 0.0) -> dict[str, float]:
    """The body tipped about its knees by so many degrees, folded at the hips, the knees lifted over the feet by a share of stature."""
    a, shank = math.radians(tip), math.asin(lift / SHANK)
    legs = both(plant=0.0, leg_flex=fold, leg_bend=90.0 - tip - math.degrees(shank), leg_abd=5.0)
    x = THIGH * math.sin(a) - SHANK * (1 - math.cos(shank))
    return {"x": x * STATURE_M, "z": KNEE + lift + THIGH * math.cos(a), "lean": tip + fold} | legs


def _standing(tip: float, fold: float = 0.0, knees: float = 3.0) -> dict[str, float]:
    """The body tipped about the balls of its feet by so many degrees, folded at the hips, the knees bent by so many."""
    a, heel = math.radians(tip), math.radians(max(0.0, tip - 8.0))
    leg = math.sqrt(THIGH**2 + SHANK**2 + 2 * THIGH * SHANK * math.cos(math.radians(knees))) - 0.001
    ankle_x = ANKLE_HEIGHT * math.sin(heel) - TOE * math.cos(heel)
    ankle_z = ANKLE_HEIGHT * math.cos(heel) + TOE * math.sin(heel)
    feet = both(plant=1.0, foot_x=0.0, foot_z=0.0, heel_up=math.degrees(heel), leg_flex=fold, leg_bend=knees, leg_abd=4.0)
    x, z = (ankle_x + leg * math.sin(a)) * STATURE_M, ankle_z + leg * math.cos(a)
    return {"x": x, "z": z, "lean": tip + fold, "left_foot_y": 0.16, "right_foot_y": -0.16} | feet


def _shoulder(base: float, length: float, tip: float) -> float:
    """How high the shoulders of a tipped body are, a share of stature."""
    return base + length * math.cos(math.radians(tip))


def _reaches(shoulder: float, bend: float) -> float:
    """How far the upper arm points before the vertical, degrees, so that the palm of a bent arm lies on the mat."""
    low, high = -30.0, 88.0
    for _ in range(40):
        middle = (low + high) / 2
        a, b = math.radians(middle), math.radians(middle + bend)
        low, high = (middle, high) if shoulder - UPPER * math.cos(a) - FORE * math.cos(b) < ARM else (low, middle)
    return (low + high) / 2


def _hang(tip: float) -> dict[str, float]:
    """Arms that hang straight down from a tipped body."""
    return both(arm_flex=tip, arm_abd=4.0, arm_bend=12.0, arm_rot=0.0)


def _steps(how: How) -> list[Step]:
    on_feet = how.options.get("from") != "knees"
    body = _standing if on_feet else _kneeling
    base, length = (0.080, THIGH + SHANK + TRUNK) if on_feet else (KNEE, THIGH + TRUNK)
    fold, posts, out = how.fault("folds-at-the-hip"), how.fault("posts-the-arm"), how.fault("elbows-far-out") / 100 / STATURE_M
    bends, lift = how.fault("legs-bend"), how.fault("pushes-off") / 100 / STATURE_M
    late, early = how.fault("palms-first") / 1000, how.fault("arms-ready-early") / 1000
    ahead = math.degrees(math.asin(min(0.94, out / UPPER)))
    landed = math.degrees(math.acos((ARM + UPPER * math.cos(math.radians(ahead)) - base) / length))
    look = LOOK - how.fault("face-down")
    tips = (10.0, 24.0, 42.0, 60.0)
    times = (0.95, 1.18, 1.33, 1.42)
    impact = 1.50
    found = [
        Step(at=0.0, name="start", performer=_calm(body(0.0)), fixed=True),
        Step(at=0.45, name="tip", performer=body(1.0) | {"nod": 4.0}),
    ]
    names = {24.0: "arms_out"}
    for at, tip in zip(times, tips, strict=True):
        so_far = tip / 24.0 if tip <= 24.0 else (landed - tip) / (landed - 24.0)
        found.append(Step(at=at, name=names.get(tip, ""), performer=body(tip, fold * so_far, 3.0 + bends * so_far if on_feet else lift * so_far)))
    found += [
        Step(at=max(0.20, 1.14 - early), performer=_hang(24.0 if early < 0.1 else 2.0)),
        Step(at=max(0.35, 1.30 - early), performer=both(arm_flex=70.0, arm_abd=14.0, arm_bend=70.0)),
        Step(at=1.31, performer=both(arm_flex=70.0, arm_abd=14.0, arm_bend=70.0) | {"look": look * 0.6, "nod": -8.0}),
    ]
    # Lifted by a little until the roof is there, so that palms and forearms come down with the body and not before it.
    palms = _arms(landed, _shoulder(base, length, landed), 90.0 - ahead - posts - (38.0 if late else 0.0))
    roof = _arms(landed, _shoulder(base, length, landed), 90.0 - ahead)
    found += [
        Step(at=1.36 if posts else 1.43, performer=palms | {"look": look}),
        Step(at=impact, name="impact", performer=body(landed) | palms | {"look": look, "nod": -18.0, "bow": 0.0}),
        Step(at=impact + max(late, 0.30 if posts else 0.02), name="forearms", performer=roof),
        Step(at=impact + 0.40, name="rest", performer=roof | {"look": look, "nod": -22.0} | _rest(how, landed, look)),
        Step(at=impact + 0.70, name="end", performer=roof | {"look": look, "nod": -22.0} | _rest(how, landed, look), fixed=True),
        Step(at=impact + 1.40, performer=body(50.0, 30.0) | {"bow": 0.0} | both(arm_flex=84.0, arm_abd=10.0, arm_bend=40.0) | {"look": 10.0, "nod": 0.0}),
        Step(at=impact + 2.10, name="again", performer=_calm(body(0.0)), fixed=True),
    ]  # fmt: skip
    return sorted(found, key=lambda step: step.at)


def _calm(pose: Mapping[str, float]) -> dict[str, float]:
    return {"y": 0.0, "yaw": 0.0, "bow": 0.0, "twist": 0.0, "nod": 4.0, "look": 0.0, **_hang(0.0), **pose}


def _arms(tip: float, shoulder: float, bend: float) -> dict[str, float]:
    """Arms whose palms lie on the mat, their elbows so bent."""
    return both(arm_flex=tip + _reaches(shoulder, bend), arm_abd=8.0, arm_bend=bend, arm_rot=0.0)


def _rest(how: How, landed: float, look: float) -> dict[str, float]:
    """On forearms and knees or toes; the hips, the knees or the chest sunk where they are to."""
    belly, knees = how.fault("belly-lands") / 100 / STATURE_M, how.fault("knees-land") / 100 / STATURE_M
    if how.options.get("from") != "knees":
        found = _standing(landed)
        # Knees that sink between fixed feet and hips draw the hips back.
        found["x"] -= 4 * knees**2 / (THIGH + SHANK) * STATURE_M
    else:
        found = _kneeling(landed)
    sunk = max(HIP, found["z"] - belly)
    lean = landed - math.degrees(math.asin(min(0.6, (found["z"] - sunk) / TRUNK)))
    if how.options.get("from") == "knees":
        thigh = math.degrees(math.acos((sunk - KNEE) / THIGH))
        found |= _kneeling(thigh) | both(leg_flex=lean - thigh)
    found |= {"z": sunk, "lean": lean}
    return found | _head_down(how.fault("head-touches"), landed, look)


def _head_down(deg: float, landed: float, look: float) -> dict[str, float]:
    """The chest bowed and the head hanging by so many degrees, the forearms still on the mat; nothing where it is not put in."""
    if not deg:
        return {}
    bow = deg * 0.7
    drop = CHEST * (math.cos(math.radians(landed)) - math.cos(math.radians(landed + bow)))
    before = math.degrees(math.acos(max(0.0, 1 - drop / UPPER)))
    arms = both(arm_flex=landed + bow + before, arm_abd=8.0, arm_bend=90.0 - before, arm_rot=0.0)
    return arms | {"bow": bow, "look": look * (1 - deg / 70.0), "nod": -22.0 + deg * 1.2}


def _events(how: How) -> dict[str, Finder]:
    return {
        "tip_starts": Finder(step="tip", rule="rises", measure=along("performer", "left_hip", 0), level=_kneeling(1.0)["x"] if how.options.get("from") == "knees" else _standing(1.0)["x"], before_s=0.3, after_s=0.4),
        "arms_out": Finder(step="arms_out"),
        "forearms_meet": Finder(step="forearms", rule="falls", measure=height("performer", "left_elbow"), level=0.075, before_s=0.16, after_s=0.16),
        "palms_meet": Finder(step="impact", rule="falls", measure=height("performer", "left_wrist", "right_wrist"), level=0.075, before_s=0.12, after_s=0.10),
        "at_rest": Finder(step="rest"),
    }  # fmt: skip


MOVE = Move(
    technique="front-fall",
    partner=False,
    faults=FAULTS,
    options={"from": ("feet", "knees"), "way": ("drop",)},
    steps=_steps,
    events=_events,
    middle=(0.62, 0.0),
    height=0.82,
    rung="together",
)
