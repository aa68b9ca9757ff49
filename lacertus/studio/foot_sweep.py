"""The advancing foot sweep as motion: a right-sided sweep of the partner's left foot as it steps in.

The performer faces +x, the partner −x; both right-handed grips hold sleeve and lapel.
"""

from __future__ import annotations

from dataclasses import dataclass

from lacertus.studio.motion import Keys

LENGTH_S = 3.0


@dataclass(frozen=True, kw_only=True)
class FootSweep:
    """How a sweep is done. Times in seconds, angles in degrees.

    `sweep_s` is from the foot's landing to the sole's contact, `pull_s` from the start of the draw to
    the landing, `knee` how far the sweeping knee is bent at contact, `bow` how far the trunk bends in.
    """

    sweep_s: float = 0.03
    pull_s: float = 0.18
    knee: float = 8.0
    bow: float = 2.0


def stance() -> tuple[dict[str, Keys], dict[str, Keys]]:
    """Performer and partner with grips taken; keyed at time 0."""
    performer = {
        "x": -0.30, "y": 0.03, "z": 0.505, "yaw": 4.0, "lean": 2.0, "bow": 2.0, "twist": 0.0, "roll": 0.0, "look": 0.0, "nod": 6.0,
        "left_plant": 1.0, "left_foot_x": -0.26, "left_foot_y": 0.15, "left_foot_yaw": 12.0,
        "right_plant": 1.0, "right_foot_x": -0.36, "right_foot_y": -0.13, "right_foot_z": 0.0, "right_foot_yaw": 14.0, "right_toe_up": 0.0,
        "right_leg_flex": 10.0, "right_leg_bend": 10.0,
        "right_grip": 1.0, "left_grip": 1.0,
        "right_arm_flex": 50.0, "right_arm_bend": 70.0, "left_arm_flex": 55.0, "left_arm_bend": 70.0,
    }  # fmt: skip
    partner = {
        "x": 0.40, "y": -0.02, "z": 0.507, "yaw": 180.0, "lean": 2.0, "bow": 2.0, "twist": 0.0, "roll": 0.0, "nod": 6.0, "look": 0.0,
        "left_plant": 1.0, "left_foot_x": 0.50, "left_foot_y": -0.14, "left_foot_z": 0.0, "left_foot_yaw": 8.0, "left_toe_up": 0.0,
        "right_plant": 1.0, "right_foot_x": 0.36, "right_foot_y": 0.13, "right_foot_z": 0.0, "right_foot_yaw": 10.0, "right_toe_up": 0.0,
        "left_leg_flex": 10.0, "left_leg_bend": 16.0, "right_leg_flex": 10.0, "right_leg_bend": 16.0,
        "right_grip": 1.0, "left_grip": 0.0,
        "left_arm_flex": 44.0, "left_arm_bend": 52.0, "left_arm_abd": 14.0, "right_arm_flex": 50.0, "right_arm_bend": 60.0,
    }  # fmt: skip
    return still(performer), still(partner)


def still(values: dict[str, float]) -> dict[str, Keys]:
    return {name: [(0.0, value)] for name, value in values.items()}


def rep(sweep: FootSweep, start: float) -> tuple[dict[str, Keys], dict[str, Keys], dict[str, float]]:
    """Keys of one throw from `start` on for performer and partner, and the instants of its events."""
    steps, lands = start + 0.35, start + 0.80
    pull, meets = lands - sweep.pull_s, lands + sweep.sweep_s
    crossed = meets + 0.26
    back = meets + 0.62
    end = start + LENGTH_S
    events = {
        "partner_steps": steps, "pull_starts": pull, "foot_lands": lands,
        "sole_meets": meets, "legs_crossed": crossed, "back_on_mat": back,
    }  # fmt: skip
    return _performer(sweep, start, events, end), _partner(start, events, end), events


def _performer(sweep: FootSweep, start: float, at: dict[str, float], end: float) -> dict[str, Keys]:
    steps, pull, lands = at["partner_steps"], at["pull_starts"], at["foot_lands"]
    meets, crossed, back = at["sole_meets"], at["legs_crossed"], at["back_on_mat"]
    lifts = meets - 0.26
    return {
        "x": [(start, -0.30), (steps, -0.34), (lands, -0.34), (crossed, -0.24), (back, -0.10), (end, -0.08)],
        "z": [(start, 0.505), (steps, 0.512), (meets, 0.516), (crossed, 0.514), (back, 0.495), (end, 0.500)],
        "yaw": [(start, 4.0), (steps, 4.0), (meets, 14.0), (crossed, 26.0), (back, 12.0), (end, 8.0)],
        "lean": [(start, 2.0), (meets, -3.0 + sweep.bow), (crossed, 0.0 + sweep.bow), (back, 20.0), (end, 14.0)],
        "bow": [(start, 2.0), (steps, 2.0 + sweep.bow), (meets, sweep.bow), (crossed, 6.0), (back, 26.0), (end, 20.0)],
        "nod": [(start, 6.0), (meets, 16.0), (back, 26.0), (end, 22.0)],
        "twist": [(start, 0.0), (pull, 0.0), (crossed, 20.0), (back, 14.0), (end, 8.0)],
        "right_plant": [(start, 1.0), (lifts, 1.0), (lifts + 0.08, 0.92), (meets, 0.92), (crossed, 0.92), (back, 1.0), (end, 1.0)],
        "right_foot_x": [(start, -0.36), (lifts, -0.36), (meets, 0.03), (crossed, 0.20), (back, 0.06), (end, 0.04)],
        "right_foot_y": [(start, -0.13), (lifts, -0.13), (meets - 0.08, -0.24), (meets, -0.215), (crossed, 0.10), (back, -0.12), (end, -0.13)],
        "right_foot_z": [(start, 0.0), (lifts, 0.0), (lifts + 0.10, 0.04), (meets, 0.045), (crossed, 0.09), (back - 0.08, 0.05), (back, 0.0), (end, 0.0)],
        "right_toe_up": [(start, 0.0), (lifts, 0.0), (meets, 12.0), (crossed, 10.0), (back, 0.0), (end, 0.0)],
        "right_foot_yaw": [(start, 14.0), (lifts, 14.0), (meets, -40.0), (crossed, -44.0), (back, 14.0), (end, 14.0)],
        "right_leg_flex": [(start, 10.0), (meets, 34.0 + sweep.knee / 2), (crossed, 40.0), (back, 12.0), (end, 10.0)],
        "right_leg_bend": [(start, 10.0), (lifts, 14.0), (meets, sweep.knee), (crossed, sweep.knee), (back, 12.0), (end, 10.0)],
        "left_grip": [(start, 1.0), (crossed, 1.0), (back, 0.2), (end, 0.0)],
        "left_arm_flex": [(start, 55.0), (back, 30.0), (end, 20.0)],
        "left_arm_bend": [(start, 70.0), (back, 40.0), (end, 34.0)],
    }  # fmt: skip


def _partner(start: float, at: dict[str, float], end: float) -> dict[str, Keys]:
    steps, lands, meets = at["partner_steps"], at["foot_lands"], at["sole_meets"]
    crossed, back = at["legs_crossed"], at["back_on_mat"]
    middle = (steps + lands) / 2
    return {
        "x": [(start, 0.40), (steps, 0.37), (lands, 0.25), (meets, 0.24), (crossed, 0.36), (back, 0.62), (end, 0.62)],
        "y": [(start, -0.02), (lands, -0.03), (crossed, -0.08), (back, -0.16), (end, -0.16)],
        "z": [(start, 0.507), (steps, 0.510), (lands, 0.503), (meets, 0.500), (crossed, 0.36), (back, 0.088), (end, 0.085)],
        "lean": [(start, 2.0), (lands, 3.0), (meets, -2.0), (crossed, -30.0), (back, -82.0), (end, -86.0)],
        "roll": [(start, 0.0), (meets, -2.0), (crossed, -14.0), (back, -8.0), (end, -4.0)],
        "bow": [(start, 2.0), (lands, 4.0), (crossed, 12.0), (back, 18.0), (end, 6.0)],
        "nod": [(start, 6.0), (meets, 8.0), (crossed, 26.0), (back, 34.0), (end, 14.0)],
        "left_foot_x": [(start, 0.50), (steps, 0.50), (lands, 0.10), (meets, 0.10), (crossed, 0.26), (back, 0.24), (end, 0.22)],
        "left_foot_y": [(start, -0.14), (lands, -0.14), (meets, -0.135), (crossed, 0.16), (back, 0.02), (end, -0.06)],
        "left_foot_z": [(start, 0.0), (steps, 0.0), (middle, 0.06), (lands, 0.0), (meets, 0.0), (crossed, 0.13), (back, 0.34), (end, 0.0)],
        "left_toe_up": [(start, 0.0), (steps, 0.0), (middle, 6.0), (lands, 6.0), (meets, 2.0), (crossed, -10.0), (end, 0.0)],
        "left_plant": [(start, 1.0), (meets, 1.0), (crossed, 0.9), (back, 0.55), (end, 1.0)],
        "right_plant": [(start, 1.0), (meets + 0.10, 1.0), (crossed + 0.06, 0.6), (back, 0.5), (end, 1.0)],
        "right_foot_x": [(start, 0.36), (meets, 0.36), (crossed, 0.36), (back, 0.28), (end, 0.24)],
        "right_foot_z": [(start, 0.0), (meets, 0.0), (crossed + 0.06, 0.10), (back, 0.30), (end, 0.0)],
        "left_leg_flex": [(start, 10.0), (crossed, 30.0), (back, 66.0), (end, 60.0)],
        "left_leg_bend": [(start, 16.0), (crossed, 20.0), (back, 50.0), (end, 80.0)],
        "right_leg_flex": [(start, 10.0), (crossed, 20.0), (back, 60.0), (end, 60.0)],
        "right_leg_bend": [(start, 16.0), (crossed, 30.0), (back, 60.0), (end, 84.0)],
        "left_arm_flex": [(start, 44.0), (lands, 40.0), (crossed, 62.0), (back, 92.0), (end, 88.0)],
        "left_arm_bend": [(start, 52.0), (crossed, 20.0), (back, 10.0), (end, 16.0)],
        "right_grip": [(start, 1.0), (meets, 1.0), (crossed, 0.2), (back - 0.05, 0.0), (end, 0.0)],
        "right_arm_flex": [(start, 50.0), (crossed, 40.0), (back, 10.0), (end, 6.0)],
        "right_arm_abd": [(start, 0.0), (crossed, 40.0), (back, 52.0), (end, 46.0)],
        "right_arm_bend": [(start, 60.0), (crossed, 20.0), (back, 8.0), (end, 12.0)],
    }  # fmt: skip
