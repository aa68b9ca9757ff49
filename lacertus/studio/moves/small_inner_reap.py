"""The small inner reap after the drag: the rear leg hooks the near heel from inside as the shoulder drives in."""

from __future__ import annotations

import numpy as np

from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Moment, Move
from lacertus.studio.moves.arm_drag import PARTNER as FACED
from lacertus.studio.moves.arm_drag import PERFORMER as FACING

PERFORMER = FACING | {
    "right_arm_flex": 60.0, "right_arm_bend": 40.0, "right_arm_abd": -12.0, "left_grip": 1.0, "right_grip": 1.0, "right_foot_x": -0.04, "left_foot_x": -0.04, "right_foot_yaw": -18.0,
    "right_leg_flex": 10.0, "right_leg_bend": 20.0, "left_leg_flex": 20.0, "left_leg_bend": 30.0,
}  # fmt: skip
PARTNER = FACED | {"right_grip": 0.0, "right_arm_flex": 56.0, "right_arm_bend": 14.0, "right_arm_abd": -4.0}

FAULTS = (
    Fault(code="hooks-an-empty-foot", unit="cm", most=12.0, says="the partner’s heel is so far above the mat as the hook closes"),
    Fault(code="elbow-left-behind", unit="cm", most=45.0, says="the elbow stays so much further out in front"),
    Fault(code="hooks-before-the-arm", unit="ms", most=420.0, says="the elbow is past the hip so much later"),
    Fault(code="hooks-the-calf", unit="cm", most=28.0, says="the hook closes so much higher than the heel"),
    Fault(code="hook-too-low", unit="cm", most=24.0, says="the hook is so much lower than it is meant to be", options={"hook": "high"}),
    Fault(code="hook-then-push", unit="ms", most=420.0, says="the shoulder drives so long after the hook"),
    Fault(code="pushes-with-arms", unit="cm", most=34.0, says="the shoulder stays so much further from the chest"),
    Fault(code="stands-up", unit="deg", most=34.0, says="the trunk stays so much more upright as it drives"),
    Fault(code="falls-without-frame", unit="ms", most=900.0, says="the hand comes to the hip so much later", options={"finish": "sit"}),
    Fault(code="trips-outside", unit="cm", most=34.0, says="the foot stands so much further out", options={"hook": "trip"}),
    Fault(code="trip-becomes-a-hook", unit="cm", most=22.0, says="the foot goes on so far past the heel", options={"hook": "trip"}),
    Fault(code="stays-above", unit="cm", most=55.0, says="the hips stay so much higher as the partner lands", options={"finish": "sit"}),
    Fault(code="stops-halfway", unit="ms", most=900.0, says="the throw stops for so long after the hook"),
)  # fmt: skip

PULL, STEPPED, PAST, HOOK, SHOULDER = 0.30, 0.64, 0.70, 0.98, 1.00
HIGHER_M = 0.22
"""How much higher than heel to heel the foot is kept where it also sweeps."""
STAND = {"left_foot_x": 0.10, "left_foot_y": 0.34, "left_foot_z": 0.0}


def _steps(how: How) -> list[Step]:
    if how.reaction == "partner_steps_over":
        return sorted([*_drag(how), *_hook(how), *_goes_behind()], key=lambda step: step.at)
    return sorted([*_drag(how), *_hook(how), *_fall(how), *_after(how)], key=lambda step: step.at)


def _drag(how: How) -> list[Step]:
    """The arm drawn across; the partner steps in with the near foot, and the own other foot steps beside it."""
    late, out = how.fault("hooks-before-the-arm") / 1000, how.fault("elbow-left-behind")
    empty = how.fault("hooks-an-empty-foot") / 100
    drawn = {"right_arm_flex": 44.0, "right_arm_bend": 10.0, "right_arm_abd": -34.0, "twist": 20.0}
    return [
        Step(at=0.0, name="start", performer=PERFORMER, partner=PARTNER, fixed=True),
        Step(at=PULL, name="pull", performer={"x": -0.18, "left_foot_x": -0.04, "left_foot_y": 0.18, "left_foot_z": 0.0}, partner={"right_arm_flex": 56.0, "right_arm_abd": -4.0, "right_arm_bend": 14.0, "twist": 0.0, "right_foot_x": 0.30, "right_foot_z": 0.0, "x": 0.46}),
        Step(at=PULL + 0.16, performer={"left_foot_z": 0.05, "left_foot_x": 0.02, "left_foot_y": 0.27, "right_flare": 24.0}, partner={"right_foot_z": 0.04, "right_foot_x": 0.22, **drawn}),
        Step(at=STEPPED - 0.04, partner={"right_foot_x": 0.16, "right_foot_y": 0.15, "right_foot_z": empty, "x": 0.40, "lean": 10.0}),
        Step(at=STEPPED, name="stepped", performer={"x": -0.04, "y": 0.16, "z": 0.490, "yaw": -14.0, "lean": 16.0, "left_foot_yaw": -14.0, "right_heel_up": 14.0, **STAND}),
        Step(at=PAST + late, name="past", performer={"left_grip": 1.0, "right_flare": 46.0 - out}, partner={"right_arm_flex": 44.0, "right_arm_abd": -34.0, "twist": 20.0}),
    ]  # fmt: skip


def _lift(how: How) -> float:
    """How much higher than heel to heel the hook closes, metres."""
    kept = HIGHER_M if how.options.get("hook") == "high" else 0.0
    return max(kept + (how.fault("hooks-the-calf") - how.fault("hook-too-low")) / 100, -0.015)


def _trips(how: How) -> bool:
    """Whether the foot is set down inside the partner's foot instead of hooking its heel."""
    return how.options.get("hook") == "trip"


def _hooked(how: How) -> dict[str, float]:
    """Where the working foot closes on the partner's."""
    on, out = how.fault("trip-becomes-a-hook") / 100, how.fault("trips-outside") / 100
    return {"right_foot_x": 0.28 + on, "right_foot_y": -0.03 + out} if _trips(how) else {"right_foot_x": 0.50, "right_foot_y": -0.05}


def _hook(how: How) -> list[Step]:
    """The rear leg between the partner's legs, the heel behind the near heel; the shoulder into the chest."""
    lift = _lift(how)
    off, up, out = how.fault("pushes-with-arms") / 100, how.fault("stands-up"), how.fault("elbow-left-behind") / 100
    sat = how.options.get("finish") == "sit"
    shoulder = SHOULDER + how.fault("hook-then-push") / 1000
    empty = how.fault("hooks-an-empty-foot") / 100
    hooking = {**_hooked(how), "right_foot_z": 0.0 if _trips(how) else 0.015 + lift, "right_foot_yaw": -10.0 if _trips(how) else -50.0, "right_toe_up": 0.0}
    planted = {"right_foot_x": 0.16, "right_foot_y": 0.15, "right_foot_z": empty}
    return [
        Step(at=HOOK - 0.26, name="lifts", performer={"right_plant": 1.0, "right_foot_x": -0.04, "right_foot_y": -0.16, "right_foot_z": 0.0, "right_heel_up": 24.0, "right_foot_yaw": -18.0, "x": -0.01}),
        Step(at=HOOK - 0.12, performer={"right_foot_x": 0.24, "right_foot_y": -0.08, "right_foot_z": 0.05 + lift, "right_foot_yaw": -30.0, "right_heel_up": 0.0}),
        Step(at=HOOK - 0.05, performer={**hooking, "right_foot_x": hooking["right_foot_x"] - 0.03, "right_foot_z": 0.015 + lift}),
        Step(
            at=HOOK,
            name="hook",
            performer={
                "z": 0.476, "right_plant": 1.0, "right_grip_x": -out, **hooking, **STAND,
            },
            partner={**planted, "right_heel_up": 0.0, "right_plant": 1.0},
        ),
        Step(
            at=shoulder,
            name="shoulder",
            performer={"x": (0.16 if sat else 0.05) - off, "y": 0.15, "z": 0.474, "yaw": -14.0, "lean": (-2.0 if sat else 22.0) - up, "bow": 3.0 if sat else 8.0, "twist": 6.0, "nod": -4.0},
            partner={"x": 0.385, "y": 0.0, "z": 0.498, "lean": -2.0, "bow": 2.0, "yaw": 182.0},
        ),
    ]  # fmt: skip


LIFTED = 0.28
"""How much longer it takes where the partner lifts the foot and it is carried on, seconds."""


def _down(how: How) -> float:
    return SHOULDER + 0.46 + (LIFTED if how.reaction else 0.0) + (how.fault("hook-then-push") + how.fault("stops-halfway")) / 1000


def _fall(how: How) -> list[Step]:
    """Driven backward over the hooked heel, to the seat and the back."""
    down, wait = _down(how), how.fault("stops-halfway") / 1000
    tips, lift = down - 0.30, _lift(how)
    through, landed = _sits(how) if how.options.get("finish") == "sit" else _drives()
    held = {"x": 0.385, "lean": -4.0, "right_foot_x": 0.16, "right_foot_y": 0.15}
    stop = [Step(at=tips - 0.06, performer={"x": 0.06}, partner=held)] if wait else []
    pulled = _hooked(how) if _trips(how) else {"right_foot_x": 0.48, "right_foot_z": 0.02 + lift}
    return [
        *stop,
        *(_lifted() if how.reaction else [Step(at=tips, performer=pulled)]),
        Step(at=tips, partner={"right_plant": 1.0, "left_plant": 1.0, "right_heel_up": 10.0, "left_heel_up": 0.0, "left_toe_up": 6.0}, performer=STAND),
        Step(
            at=down - 0.14,
            name="through",
            performer=through,
            partner={
                "x": 0.58, "z": 0.290, "lean": -34.0, "bow": 14.0, "nod": 24.0, "right_plant": 0.4, "right_foot_x": 0.00, "right_foot_z": 0.10, "right_leg_flex": 70.0, "right_leg_bend": 40.0, "right_leg_abd": 34.0 if how.options.get("finish") == "sit" else 8.0, "left_plant": 0.7, "left_foot_x": 0.40,
                "left_leg_flex": 80.0, "left_leg_bend": 80.0, "right_arm_flex": 60.0, "right_arm_abd": 10.0, "right_arm_bend": 40.0, "left_arm_flex": 30.0, "left_arm_abd": 40.0, "left_arm_bend": 20.0,
            },
        ),
        Step(
            at=down,
            name="down",
            performer=landed,
            partner={
                "x": 0.76, "y": -0.02, "z": 0.074, "lean": -48.0, "bow": 26.0, "nod": 34.0, "twist": 6.0, "right_plant": 0.0, "left_plant": 0.0, "right_leg_flex": 74.0, "right_leg_bend": 56.0, "right_leg_abd": 34.0 if how.options.get("finish") == "sit" else 12.0, "left_leg_flex": 74.0,
                "left_leg_bend": 70.0, "left_leg_abd": 14.0, "left_arm_flex": 0.0, "left_arm_abd": 46.0, "left_arm_bend": 6.0,
            },
        ),
        Step(at=down + 0.20, partner={"x": 0.80, "z": 0.070, "lean": -84.0, "bow": 12.0, "nod": 30.0, "right_leg_flex": 60.0, "left_leg_flex": 64.0, "right_leg_abd": 34.0 if how.options.get("finish") == "sit" else 12.0}),
    ]  # fmt: skip


def _lifted() -> list[Step]:
    """The partner lifts the hooked foot, and the own foot carries it on forward."""
    lifts, carried = HOOK + 0.10, HOOK + 0.30
    return [
        Step(at=lifts, name="lifts_foot", partner={"right_foot_x": 0.16, "right_foot_y": 0.15, "right_foot_z": 0.0, "x": 0.39}),
        Step(at=lifts + 0.14, partner={"right_foot_z": 0.10, "right_foot_x": 0.12, "right_heel_up": 10.0}, performer={"right_foot_x": 0.48, "right_foot_z": 0.06}),
        Step(at=carried, name="swept", partner={"right_foot_z": 0.15, "right_foot_x": 0.04, "x": 0.40, "lean": -4.0}, performer={"x": 0.05, "lean": 22.0, "right_foot_x": 0.38, "right_foot_y": 0.0, "right_foot_z": 0.12}),
    ]  # fmt: skip


def _goes_behind() -> list[Step]:
    """The partner lifts the foot over the hook, which turns the back; the hook is left, and the feet go round to it."""
    over, switched = HOOK + 0.46, HOOK + 0.98
    near = {"right_foot_x": 0.16, "right_foot_y": 0.15, "right_foot_z": 0.0}
    inside = {"right_foot_x": 0.34, "right_foot_y": -0.15, "right_foot_z": 0.0}
    far, away = {"left_foot_x": 0.46, "left_foot_y": -0.17, "left_foot_z": 0.0}, {"left_foot_x": 0.64, "left_foot_y": -0.30, "left_foot_z": 0.0}
    hooking = {"right_foot_x": 0.50, "right_foot_y": -0.05, "right_foot_z": 0.015}
    stand = {"left_foot_x": 0.40, "left_foot_y": 0.38, "left_foot_z": 0.0, "right_foot_x": 0.22, "right_foot_y": 0.20, "right_foot_z": 0.0}
    arms = {"right_arm_flex": 58.0, "right_arm_abd": 18.0, "right_arm_bend": 56.0, "left_arm_flex": 58.0, "left_arm_abd": 18.0, "left_arm_bend": 56.0}
    return [
        Step(at=over - 0.32, performer={**STAND, **hooking}, partner={**near, **far, "x": 0.39, "lean": 0.0}),
        Step(at=over - 0.20, partner={"right_foot_x": 0.30, "right_foot_y": 0.12, "right_foot_z": 0.20, "right_heel_up": 20.0, "yaw": 190.0, "x": 0.42}),
        Step(at=over - 0.10, performer={**hooking, "x": 0.05, "lean": 18.0}, partner={"right_foot_x": 0.44, "right_foot_y": 0.00, "right_foot_z": 0.20, "yaw": 200.0}),
        Step(at=over, name="over", performer={"left_grip": 0.6, "right_grip": 0.8}, partner={**inside, **far, "right_heel_up": 0.0, "right_foot_yaw": 210.0, "yaw": 214.0, "x": 0.44, "y": -0.06, "lean": 6.0, "twist": 0.0}),
        Step(at=over + 0.12, performer={**STAND, "right_foot_x": 0.42, "right_foot_y": 0.04, "right_foot_z": 0.08, "left_grip": 0.0, "right_grip": 0.0, "x": 0.08, "y": 0.20}, partner=far),
        Step(at=over + 0.22, partner={"left_foot_x": 0.56, "left_foot_y": -0.24, "left_foot_z": 0.05, "left_foot_yaw": 250.0}),
        Step(at=over + 0.28, performer={"right_foot_x": 0.22, "right_foot_y": 0.20, "right_foot_z": 0.0, "right_foot_yaw": -60.0, "right_heel_up": 10.0, **STAND, "yaw": -36.0, "x": 0.16, "y": 0.28, "z": 0.490, "lean": 14.0, "bow": 8.0}),
        Step(at=over + 0.32, partner={**away, **inside, "yaw": 240.0, "x": 0.48, "y": -0.10}),
        Step(at=over + 0.40, performer={"left_foot_x": 0.26, "left_foot_y": 0.38, "left_foot_z": 0.05, "left_foot_yaw": -60.0}),
        Step(at=switched, name="switched", performer={**stand, "x": 0.34, "y": 0.20, "z": 0.488, "yaw": -72.0, "lean": 14.0, "bow": 12.0, "left_foot_yaw": -80.0, **arms}, partner={"yaw": 250.0, "lean": 8.0}),
        Step(at=switched + 0.40, name="end", performer={**stand, "yaw": -76.0, "x": 0.36, "y": 0.17}, partner={**away, **inside}, fixed=True),
        Step(at=switched + 0.42, performer=stand, partner={**away, **inside}),
        Step(at=switched + 0.95, performer={"left_foot_z": 0.05, "right_foot_z": 0.05, "yaw": -40.0}, partner={"left_foot_z": 0.05, "right_foot_z": 0.05, "yaw": 206.0}),
        Step(at=switched + 1.60, name="again", performer=PERFORMER, partner=PARTNER, fixed=True),
    ]  # fmt: skip


def _drives() -> tuple[dict[str, float], dict[str, float]]:
    """On the way down and at the mat: over the partner, on the way to the knees."""
    through = {"x": 0.22, "y": 0.14, "z": 0.420, "lean": 38.0, "right_foot_x": 0.30, "right_foot_y": -0.02, "right_foot_z": 0.05, "left_heel_up": 24.0, "right_grip": 0.6, "left_grip": 0.4}
    landed = {
        "x": 0.30, "y": 0.14, "z": 0.330, "lean": 44.0, "bow": 14.0, "right_grip": 0.0, "left_grip": 0.0, "left_arm_flex": 70.0, "left_arm_bend": 30.0, "left_arm_abd": 10.0, "right_arm_flex": 70.0,
        "right_arm_bend": 40.0, "right_foot_x": 0.12, "right_foot_y": 0.02, "right_foot_z": 0.0, "right_foot_yaw": -20.0, "right_heel_up": 60.0, "right_toe_up": 0.0,
    }  # fmt: skip
    return through, landed


def _sits(how: How) -> tuple[dict[str, float], dict[str, float]]:
    """On the way down and at the mat: to the seat beside the hooked foot, the hand at the partner's hip before that."""
    bare = 30.0 if how.fault("falls-without-frame") else 0.0
    through = {
        "x": 0.10, "y": 0.10, "z": 0.260, "lean": 22.0, "bow": 14.0, "left_plant": 0.4, "left_leg_flex": 84.0, "left_leg_bend": 116.0, "left_leg_abd": 24.0, "right_foot_x": 0.44, "right_foot_y": -0.04, "right_foot_z": 0.03,
        "right_grip": 0.0, "left_grip": 0.6, "right_arm_flex": 66.0 - bare, "right_arm_bend": 34.0 + bare, "right_arm_abd": 0.0,
    }  # fmt: skip
    landed = {
        "x": 0.14, "y": 0.02, "z": 0.078 + how.fault("stays-above") / 174, "lean": 12.0, "bow": 22.0, "left_plant": 0.0, "left_leg_flex": 62.0, "left_leg_bend": 128.0, "left_leg_abd": 30.0, "left_leg_rot": 40.0, "right_foot_x": 0.52, "right_foot_y": 0.0,
        "right_foot_z": 0.02, "right_toe_up": 0.0, "left_grip": 0.0, "left_arm_flex": 20.0, "left_arm_bend": 20.0, "left_arm_abd": 30.0, "right_arm_flex": 78.0 - bare, "right_arm_bend": 20.0 + bare,
    }  # fmt: skip
    return through, landed


def _after(how: How) -> list[Step]:
    """Over the leg and settled beside it; then up and back to where it began, which is no part of the rep."""
    down = _down(how)
    sat = how.options.get("finish") == "sit"
    frame = [Step(at=down - 0.20 + how.fault("falls-without-frame") / 1000, name="frame")] if sat else []
    return [
        *frame,
        Step(at=down + 0.30, performer={"left_plant": 0.0, "left_leg_flex": 84.0, "left_leg_bend": 120.0, "right_foot_z": 0.03} if sat else {"left_foot_z": 0.03, "right_foot_z": 0.03, "left_foot_x": 0.10, "left_foot_y": 0.46, "right_foot_x": 0.08, "right_foot_y": 0.16}),
        Step(
            at=down + 0.55,
            name="passed",
            performer={
                "x": 0.42, "y": 0.36, "z": 0.270, "yaw": -30.0, "lean": 40.0, "bow": 16.0, "left_foot_x": 0.10, "left_foot_y": 0.62, "left_foot_z": 0.0, "left_plant": 1.0, "left_heel_up": 60.0, "left_foot_yaw": -30.0,
                "right_foot_x": 0.02, "right_foot_y": 0.40, "right_foot_z": 0.0, "right_heel_up": 60.0, "right_foot_yaw": -30.0, "left_arm_flex": 64.0, "left_arm_bend": 20.0,
            },
            partner={"lean": -88.0, "nod": 18.0, "bow": 8.0, "right_leg_flex": 50.0, "right_leg_bend": 70.0, "right_leg_abd": 12.0, "left_leg_flex": 50.0, "left_leg_bend": 76.0},
        ),
        Step(at=down + 0.85, name="end", performer={"lean": 38.0, "left_foot_x": 0.10, "left_foot_y": 0.62, "left_foot_z": 0.0, "right_foot_x": 0.02, "right_foot_y": 0.40, "right_foot_z": 0.0}, partner={"lean": -88.0}, fixed=True),
        Step(at=down + 1.35, performer={"x": 0.0, "y": 0.2, "z": 0.47, "lean": 14.0, "left_foot_z": 0.05, "right_foot_z": 0.05, "left_heel_up": 10.0, "right_heel_up": 10.0, "left_foot_x": 0.0, "right_foot_x": -0.1, "left_foot_y": 0.3, "right_foot_y": 0.0}, partner={"left_plant": 0.5, "right_plant": 0.5}),
        Step(
            at=down + 1.75,
            performer={"x": -0.20, "left_grip": 0.0, "right_grip": 0.0},
            partner={
                "x": 0.88, "y": 0.0, "z": 0.085, "lean": -28.0, "bow": 26.0, "nod": 10.0, "left_plant": 1.0, "right_plant": 1.0, "left_leg_flex": 84.0, "left_leg_bend": 100.0, "right_leg_flex": 84.0,
                "right_leg_bend": 100.0, "left_foot_x": 0.52, "left_foot_z": 0.0, "left_heel_up": 0.0, "left_toe_up": 0.0, "right_foot_x": 0.46, "right_foot_z": 0.0, "right_heel_up": 0.0,
            },
        ),
        Step(at=down + 2.35, partner={"x": 0.62, "z": 0.270, "lean": 34.0, "bow": 16.0, "left_heel_up": 20.0, "right_heel_up": 24.0, "left_foot_x": 0.52, "right_foot_x": 0.46}),
        Step(at=down + 2.65, partner={"left_foot_z": 0.05, "right_foot_z": 0.05}),
        Step(at=down + 3.0, name="again", performer=PERFORMER, partner=PARTNER, fixed=True),
    ]  # fmt: skip


def _heels(moment: Moment) -> float:
    """Distance of the hooking heel from the partner's near heel, metres."""
    return float(np.linalg.norm(moment["performer"].at["right_heel"] - moment["partner"].at["right_heel"]))


def _events(how: How) -> dict[str, Finder]:
    found = {
        "pull_start": Finder(step="pull"),
        "elbow_past": Finder(step="past"),
        "hooked": Finder(step="hook") if _trips(how) else Finder(step="hook", rule="lowest", measure=_heels, before_s=0.06, after_s=0.04),
        "shoulder_in": Finder(step="shoulder"),
        "partner_down": Finder(step="down"),
        "leg_passed": Finder(step="passed"),
    }
    if how.reaction == "partner_steps_over":
        kept = {name: finder for name, finder in found.items() if name not in ("partner_down", "leg_passed")}
        return kept | {"steps_over": Finder(step="over"), "switches": Finder(step="switched")}
    if how.reaction == "partner_lifts":
        found |= {"lifts_foot": Finder(step="lifts_foot"), "swept_on": Finder(step="swept")}
    return found | ({"frame_set": Finder(step="frame")} if how.options.get("finish") == "sit" else {})


MOVE = Move(
    technique="small-inner-reap",
    partner=True,
    faults=FAULTS,
    options={"hook": ("heel", "high", "trip"), "finish": ("drive", "sit")},
    steps=_steps,
    events=_events,
    holds={
        "performer": {
            "left_hand": lambda me, other: other.at["right_wrist"] * 0.66 + other.at["right_elbow"] * 0.34,
            "right_hand": lambda me, other: other.at["right_shoulder"] * 0.48 + other.at["right_elbow"] * 0.52,
        },
    },
    reactions={"partner_lifts": {}, "partner_steps_over": {}},
    middle=(0.35, 0.1),
    height=0.78,
    facing_deg=180.0,
    rung="static_partner",
)
