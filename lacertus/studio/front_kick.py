"""The front kick as motion: one rep of a right-sided kick from a left-forward stance, facing +x."""

from __future__ import annotations

from dataclasses import dataclass

from lacertus.studio.motion import Keys

LENGTH_S = 2.0


@dataclass(frozen=True, kw_only=True)
class FrontKick:
    """How a kick is done. Angles in degrees, times in seconds.

    `thigh` is how far the thigh is lifted, `fold` how far the knee is folded in the chamber, `reach`
    how far the knee is bent still at full reach, `return_s` the time from reach to folded.
    """

    thigh: float = 104.0
    fold: float = 116.0
    reach: float = 9.0
    refold: float = 104.0
    return_s: float = 0.19
    lift_s: float = 0.17


def stance() -> dict[str, Keys]:
    """Left foot in front, hands up; keyed at time 0."""
    still = {
        "x": 0.0, "y": 0.0, "z": 0.505, "yaw": -28.0, "lean": 3.0, "nod": 0.0, "look": 24.0, "twist": 4.0, "roll": 0.0,
        "left_plant": 1.0, "left_foot_x": 0.22, "left_foot_y": 0.09, "left_foot_yaw": -24.0, "left_toe_up": 0.0,
        "right_plant": 1.0, "right_foot_x": -0.27, "right_foot_y": -0.10, "right_foot_z": 0.0, "right_foot_yaw": 18.0,
        "right_toe_up": 0.0, "right_leg_flex": -18.0, "right_leg_bend": 20.0, "right_leg_abd": 4.0,
        "left_leg_flex": 24.0, "left_leg_bend": 24.0,
        "left_arm_flex": 44.0, "left_arm_abd": 6.0, "left_arm_bend": 98.0, "left_arm_rot": -14.0,
        "right_arm_flex": 26.0, "right_arm_abd": 6.0, "right_arm_bend": 122.0, "right_arm_rot": -18.0,
    }  # fmt: skip
    return {name: [(0.0, value)] for name, value in still.items()}


def rep(kick: FrontKick, start: float) -> tuple[dict[str, Keys], dict[str, float]]:
    """Keys of one rep from `start` on, back in stance after LENGTH_S, and the instants of its events."""
    off, top = start + 0.36, start + 0.62
    full = top + kick.lift_s
    folded = full + kick.return_s
    down = folded + 0.34
    end = start + LENGTH_S
    events = {"foot_off": off, "knee_top": top, "full_reach": full, "folded": folded, "foot_down": down}
    keys: dict[str, Keys] = {
        "x": [(start, 0.0), (off, 0.13), (top, 0.20), (full, 0.24), (folded, 0.21), (down, 0.06), (end, 0.0)],
        "z": [(start, 0.505), (off, 0.510), (top, 0.522), (full, 0.526), (folded, 0.520), (down, 0.508), (end, 0.505)],
        "yaw": [(start, -28.0), (off, -8.0), (top, 12.0), (full, 22.0), (folded, 14.0), (down, -14.0), (end, -28.0)],
        "lean": [(start, 3.0), (off, 2.0), (top, -4.0), (full, -11.0), (folded, -6.0), (down, 2.0), (end, 3.0)],
        "look": [(start, 24.0), (off, 10.0), (top, -6.0), (full, -12.0), (folded, -8.0), (down, 14.0), (end, 24.0)],
        "twist": [(start, 4.0), (top, -4.0), (full, -10.0), (folded, -4.0), (end, 4.0)],
        "left_foot_yaw": [(start, -24.0), (off, -8.0), (full, 30.0), (folded, 22.0), (end, -24.0)],
        "right_plant": [(start, 1.0), (off, 1.0), (off + 0.10, 0.0), (folded + 0.05, 0.0), (down, 1.0), (end, 1.0)],
        "right_foot_z": [(start, 0.0), (off, 0.0), (off + 0.1, 0.12), (folded, 0.12), (down, 0.0), (end, 0.0)],
        "right_leg_flex": [
            (start, -18.0),
            (off, -6.0),
            (top, kick.thigh),
            (full, kick.thigh - 4),
            (folded, kick.thigh - 12),
            (down, -14.0),
            (end, -18.0),
        ],
        "right_leg_bend": [
            (start, 20.0),
            (off, 52.0),
            (top, kick.fold),
            (full, kick.reach),
            (folded, kick.refold),
            (down, 30.0),
            (end, 20.0),
        ],
        "right_leg_abd": [(start, 4.0), (top, 11.0), (full, 21.0), (folded, 14.0), (down, 4.0), (end, 4.0)],
        "right_toe_up": [(start, 0.0), (off - 0.06, -18.0), (top, 8.0), (full, 20.0), (folded, 4.0), (down, 4.0), (end, 0.0)],
        "left_arm_flex": [(start, 44.0), (full, 36.0), (end, 44.0)],
        "right_arm_flex": [(start, 26.0), (full, 12.0), (folded, 20.0), (end, 26.0)],
    }
    return keys, events
