"""The front fall from the knees or the feet: the body tips like a board, palms and forearms land as one, the head is turned."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from lacertus.core.measuring.body import PROPORTIONS
from lacertus.studio.body.figure import ANKLE_HEIGHT, BALL
from lacertus.studio.body.motion import GRAVITY, Step
from lacertus.studio.body.move import Fault, Finder, How, Move
from lacertus.studio.moves.parts import ON_MAT_M, along, both, height

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
    Fault(code="jumps-high", unit="cm", most=30.0, says="the hips rise so much higher in the jump", options={"way": "jump"}),
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


def _moved(pose: Mapping[str, float], ahead_m: float, up: float = 0.0) -> dict[str, float]:
    """A standing pose elsewhere: so many metres ahead, and so much of the stature higher."""
    feet = both(foot_x=ahead_m, foot_z=up * STATURE_M)
    by = {"x": ahead_m, "z": up, **feet}
    return {name: value + by.get(name, 0.0) for name, value in pose.items()}


@dataclass(frozen=True, kw_only=True)
class _Jump:
    """A jump with the legs thrown back: the hips follow gravity, the middle of the mass keeps its pace forward."""

    landed: float
    rise_m: float

    TIP = 14.0
    MASS = 0.05
    """How far the middle of the mass is above the hips of a straight body, a share of stature."""
    PACE = 0.45
    """Forward, metres a second."""

    @property
    def pace_up(self) -> float:
        return math.sqrt(2 * GRAVITY * self.rise_m)

    @property
    def drop_m(self) -> float:
        return (_standing(self.TIP)["z"] - _standing(self.landed)["z"]) * STATURE_M

    @property
    def seconds(self) -> float:
        return (self.pace_up + math.sqrt(self.pace_up**2 + 2 * GRAVITY * self.drop_m)) / GRAVITY

    def tip(self, share: float) -> float:
        return self.TIP + (self.landed - self.TIP) * share

    def ahead(self, share: float) -> float:
        """How far ahead of where it began the body is moved, so that its mass goes on evenly, metres."""

        def mass(tip: float) -> float:
            return _standing(tip)["x"] + self.MASS * math.sin(math.radians(tip)) * STATURE_M

        return mass(self.TIP) + self.PACE * share * self.seconds - mass(self.tip(share))

    def up(self, share: float) -> float:
        """How much higher than on its feet the body is, a share of stature."""
        t = share * self.seconds
        hips = _standing(self.TIP)["z"] + (self.pace_up * t - GRAVITY / 2 * t**2) / STATURE_M
        return hips - _standing(self.tip(share))["z"]


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
    jumps = how.options.get("way") == "jump"
    on_feet = jumps or how.options.get("from") != "knees"
    body = _standing if on_feet else _kneeling
    base, length = (0.080, THIGH + SHANK + TRUNK) if on_feet else (KNEE, THIGH + TRUNK)
    fold, posts, out = how.fault("folds-at-the-hip"), how.fault("posts-the-arm"), how.fault("elbows-far-out") / 100 / STATURE_M
    bends, lift = how.fault("legs-bend"), how.fault("pushes-off") / 100 / STATURE_M
    late, early = how.fault("palms-first") / 1000, how.fault("arms-ready-early") / 1000
    before = math.degrees(math.asin(min(0.94, out / UPPER)))
    landed = math.degrees(math.acos((ARM + UPPER * math.cos(math.radians(before)) - base) / length))
    look = LOOK - how.fault("face-down")
    impact = 1.50
    jump = _Jump(landed=landed, rise_m=0.12 + how.fault("jumps-high") / 100)
    ahead = jump.ahead(1.0) if jumps else 0.0
    found = [
        Step(at=0.0, name="start", performer=_calm(body(0.0)), fixed=True),
        Step(at=0.45, name="tip", performer=body(1.0) | {"nod": 4.0}),
    ]
    for at, tip, share in _way_down(jump if jumps else None, impact):
        so_far = tip / 24.0 if tip <= 24.0 else (landed - tip) / (landed - 24.0)
        pose = body(tip, fold * so_far, 3.0 + bends * so_far if on_feet else lift * so_far)
        name = "arms_out" if tip == 24.0 else "off" if share == 0.0 else ""
        found.append(Step(at=at, name=name, performer=pose if share is None else _moved(pose, jump.ahead(share), jump.up(share))))
    if jumps:
        found.append(Step(at=impact - jump.seconds - 0.16, performer=_standing(8.0, 22.0, 46.0)))
    found += [
        Step(at=max(0.20, 1.14 - early), performer=_hang(24.0 if early < 0.1 else 2.0)),
        Step(at=max(0.35, 1.30 - early), performer=both(arm_flex=70.0, arm_abd=14.0, arm_bend=70.0)),
        Step(at=1.31, performer=both(arm_flex=70.0, arm_abd=14.0, arm_bend=70.0) | {"look": look * 0.6, "nod": -8.0}),
    ]
    # Lifted by a little until the roof is there, so that palms and forearms come down with the body and not before it.
    palms = _arms(landed, _shoulder(base, length, landed), 90.0 - before - posts - (38.0 if late else 0.0))
    roof = _arms(landed, _shoulder(base, length, landed), 90.0 - before)
    found += [
        Step(at=1.36 if posts else 1.43, performer=palms | {"look": look}),
        Step(at=impact, name="impact", performer=_moved(body(landed), ahead) | palms | {"look": look, "nod": -18.0, "bow": 0.0}),
        Step(at=impact + max(late, 0.30 if posts else 0.02), name="forearms", performer=roof),
        Step(at=impact + 0.40, name="rest", performer=roof | {"look": look, "nod": -22.0} | _moved(_rest(how, landed, look), ahead)),
        Step(at=impact + 0.70, name="end", performer=roof | {"look": look, "nod": -22.0} | _moved(_rest(how, landed, look), ahead), fixed=True),
        Step(at=impact + 1.40, performer=_moved(body(50.0, 30.0), ahead) | {"bow": 0.0} | both(arm_flex=84.0, arm_abd=10.0, arm_bend=40.0) | {"look": 10.0, "nod": 0.0}),
        Step(at=impact + 1.75, performer=both(foot_z=0.03) if jumps else {}),
        Step(at=impact + 2.10, name="again", performer=_calm(body(0.0)) | both(foot_z=0.0), fixed=True),
    ]  # fmt: skip
    return sorted(found, key=lambda step: step.at)


def _way_down(jump: _Jump | None, impact: float) -> list[tuple[float, float, float | None]]:
    """Seconds, the tip in degrees, and how much of the flight is over; None for who stays on the feet or the knees."""
    if jump is None:
        return list(zip((0.95, 1.18, 1.33, 1.42), (10.0, 24.0, 42.0, 60.0), (None,) * 4, strict=True))
    tips = [jump.tip(share) for share in (0.0, 0.3, 0.45, 0.6, 0.75, 0.9, 0.97, 0.995)]
    tips[1:1] = [24.0]
    shares = [(tip - jump.TIP) / (jump.landed - jump.TIP) for tip in tips]
    return [(impact - jump.seconds * (1 - share), tip, share) for tip, share in zip(tips, shares, strict=True)]


def _calm(pose: Mapping[str, float]) -> dict[str, float]:
    return {"y": 0.0, "yaw": 0.0, "bow": 0.0, "twist": 0.0, "nod": 4.0, "look": 0.0, **_hang(0.0), **pose}


def _arms(tip: float, shoulder: float, bend: float) -> dict[str, float]:
    """Arms whose palms lie on the mat, their elbows so bent."""
    return both(arm_flex=tip + _reaches(shoulder, bend), arm_abd=8.0, arm_bend=bend, arm_rot=0.0)


def _rest(how: How, landed: float, look: float) -> dict[str, float]:
    """On forearms and knees or toes; the hips, the knees or the chest sunk where they are to."""
    belly, knees = how.fault("belly-lands") / 100 / STATURE_M, how.fault("knees-land") / 100 / STATURE_M
    on_feet = how.options.get("way") == "jump" or how.options.get("from") != "knees"
    if on_feet:
        found = _standing(landed)
        # Knees that sink between fixed feet and hips draw the hips back.
        found["x"] -= 4 * knees**2 / (THIGH + SHANK) * STATURE_M
    else:
        found = _kneeling(landed)
    sunk = max(HIP, found["z"] - belly)
    lean = landed - math.degrees(math.asin(min(0.6, (found["z"] - sunk) / TRUNK)))
    if not on_feet:
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
    jumps = how.options.get("way") == "jump"
    starts = _standing(1.0)["x"] if jumps or how.options.get("from") != "knees" else _kneeling(1.0)["x"]
    found = {
        "tip_starts": Finder(step="tip", rule="rises", measure=along("performer", "left_hip", 0), level=starts, before_s=0.3, after_s=0.4),
        "arms_out": Finder(step="arms_out"),
        "forearms_meet": Finder(step="forearms", rule="falls", measure=height("performer", "left_elbow"), level=0.075, before_s=0.16, after_s=0.16),
        "palms_meet": Finder(step="impact", rule="falls", measure=height("performer", "left_wrist", "right_wrist"), level=0.075, before_s=0.12, after_s=0.10),
        "at_rest": Finder(step="rest"),
    }  # fmt: skip
    if jumps:
        found["feet_off"] = Finder(step="off", rule="rises", measure=height("performer", "left_toe", "right_toe"), level=ON_MAT_M, before_s=0.06, after_s=0.10)
    return found


MOVE = Move(
    technique="front-fall",
    partner=False,
    faults=FAULTS,
    options={"from": ("feet", "knees"), "way": ("drop", "jump")},
    steps=_steps,
    events=_events,
    flights=(("performer", "off", "impact"),),
    middle=(0.62, 0.0),
    height=0.82,
    rung="together",
)
