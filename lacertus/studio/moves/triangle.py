"""The triangle: one arm in, one out; the leg over the neck, the angle taken, locked in the knee pit; released at the tap."""

from __future__ import annotations

import numpy as np

from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Moment, Move
from lacertus.studio.moves.on_the_mat import Pose, mixed, read_poses
from lacertus.studio.moves.parts import height, nape, plus, put_in, sleeve

POSES = read_poses("triangle")
ME, OTHER = POSES.me, POSES.other

FAULTS = (
    Fault(code="hips-on-mat", unit="cm", most=15.0, says="the seat stays so much nearer to the mat"),
    Fault(code="slow-entry", unit="ms", most=900.0, says="the leg goes over late"),
    Fault(code="open-lock", unit="deg", most=90.0, says="the locking knee stays so much straighter"),
    Fault(code="no-angle", unit="deg", most=32.0, says="the body stays square and takes no angle"),
    Fault(code="late-lock", unit="ms", most=900.0, says="the lock is closed late"),
    Fault(code="loose-lock", unit="deg", most=50.0, says="the locking knee stays open"),
    Fault(code="posture-kept", unit="deg", most=34.0, says="the partner’s trunk stays so much higher"),
    Fault(code="held-after-tap", unit="ms", most=900.0, says="the hold is kept after the tap"),
)


def _steps(how: How) -> list[Step]:
    found = _entry(how)
    over = found[-1].at
    found += _answers(how, over) if how.reaction else _lock(how, over)
    return POSES.joined(found, _changed_before(how))


def _changed_before(how: How) -> tuple[str, ...]:
    """The steps before which a fault leaves no room for the poses in between."""
    before = {
        "hips-on-mat": ("lifted", "over", "turned"), "posture-kept": ("locked", "squeezed", "free"), "no-angle": ("turned", "locked"),
        "open-lock": ("locked", "squeezed"), "loose-lock": ("locked", "squeezed"),
    }  # fmt: skip
    return tuple(step for code, steps in before.items() if code in how.faults for step in steps)


def _entry(how: How) -> list[Step]:
    low = put_in(how, FAULTS, "hips-on-mat")
    lifted, over = 0.89, 1.17 + how.fault("slow-entry") / 1000
    return [
        Step(at=0.0, name="start", performer=ME["start"], partner=OTHER["start"], fixed=True),
        Step(at=0.55, name="pushed", performer=ME["pushed"], partner=OTHER["pushed"]),
        Step(at=lifted, name="lifted", performer=mixed(ME["lifted"], ME["lifted_low"], low), partner=mixed(OTHER["lifted"], OTHER["lifted_low"], low)),
        Step(at=over, name="over", performer=mixed(ME["over"], ME["over_low"], low), partner=mixed(OTHER["over"], OTHER["over_low"], low)),
    ]


def _lock(how: How, over: float) -> list[Step]:
    square, high = put_in(how, FAULTS, "no-angle"), put_in(how, FAULTS, "posture-kept")
    straight = how.fault("open-lock")
    open_by = {"left_leg_bend": -how.fault("loose-lock") - straight, "left_leg_abd": -0.3 * straight}
    turned = over + 0.36
    locked = turned + 0.34 + how.fault("late-lock") / 1000
    squeezed = locked + 0.45
    tap = squeezed + 0.40
    free = tap + 0.24 + how.fault("held-after-tap") / 1000

    def me(name: str) -> Pose:
        return plus(mixed(ME[name], ME["upright"], high), open_by | {"yaw": -32.0 * square})

    def other(name: str) -> Pose:
        return mixed(OTHER[name], OTHER["upright"], high)

    return [
        Step(at=turned, name="turned", performer=mixed(ME["turned"], ME["over"], square), partner=mixed(OTHER["turned"], OTHER["over"], square)),
        Step(at=locked, name="locked", performer=me("locked"), partner=other("locked")),
        Step(at=squeezed, name="squeezed", performer=me("squeezed"), partner=other("squeezed")),
        Step(at=tap - 0.16, name="hand_up", performer=me("taps"), partner=other("taps")),
        Step(at=tap, name="tap", performer=me("tap"), partner=other("tap")),
        Step(at=tap + 0.10, performer=me("tap"), partner=other("taps")),
        Step(at=max(free - 0.14, tap + 0.12), name="opens", performer=me("tap")),
        Step(at=free, name="free", performer=ME["free"], partner=OTHER["free"]),
        Step(at=free + 0.35, name="down", performer=ME["end"], partner=OTHER["end"]),
        Step(at=free + 0.60, name="end", performer=ME["end"], partner=OTHER["end"], fixed=True),
        # Both are where they began but for the arms: nobody has to go away from the other first.
        Step(at=free + 1.20, name="again", performer=ME["start"], partner=OTHER["start"], fixed=True),
    ]


TOLD = {"partner_postures_up": ("postures_up", "rises", "breaks_it_again", "broken"), "partner_drives_in": ("drives_in", "drives", "turns_the_angle", "turned_out")}
"""By reaction: its event and step, and those of the answer."""


def _answers(how: How, over: float) -> list[Step]:
    """With the leg over, the partner rises or drives in; the posture is broken again, or the body turns out to the side."""
    _, comes, _, goes = TOLD[how.reaction]
    answered = over + (1.05 if comes == "rises" else 0.95)
    return [
        Step(at=over + 0.40, name=comes, performer=ME[comes], partner=OTHER[comes]),
        Step(at=answered, name=goes, performer=ME[goes], partner=OTHER[goes]),
        *POSES.ends(answered, ME[goes], OTHER[goes]),
    ]


def _opening(moment: Moment) -> float:
    at = moment["performer"].at
    return float(np.linalg.norm(at["left_ankle"] - at["right_ankle"]))


def _events(how: How) -> dict[str, Finder]:
    found = _whole()
    if how.reaction:
        event, step, answer, answered = TOLD[how.reaction]
        found = {name: found[name] for name in ("arm_pushed", "hips_top", "leg_over")} | {event: Finder(step=step), answer: Finder(step=answered)}
    return found


def _whole() -> dict[str, Finder]:
    return {
        "arm_pushed": Finder(step="pushed"),
        "hips_top": Finder(step="lifted", rule="highest", measure=height("performer", "left_hip", "right_hip"), before_s=0.10, after_s=0.16),
        "leg_over": Finder(step="over"),
        "angle_taken": Finder(step="turned"),
        "locked": Finder(step="locked"),
        "tap": Finder(step="tap"),
        "released": Finder(step="opens", rule="rises", measure=_opening, level=0.45, before_s=0.05, after_s=0.30),
    }  # fmt: skip


MOVE = Move(
    technique="triangle",
    partner=True,
    faults=FAULTS,
    options={},
    reactions={reaction: {} for reaction in TOLD},
    steps=_steps,
    events=_events,
    holds={
        "performer": {
            "left_hand": lambda me, other: sleeve(other, "right"),
            "right_hand": lambda me, other: nape(other) + other.head.up * 0.09 * other.stature_m,
        },
    },
    gives="performer",
    contacts={
        "arm_pushed": (("performer.pelvis", "mat"), ("performer.left_hand", "partner.right_forearm")),
        "leg_over": (("performer.right_shank", "partner.neck"),),
        "locked": (("performer.right_shank", "partner.neck"), ("performer.left_hand", "partner.right_forearm")),
    },
    middle=(0.15, 0.0),
    height=0.42,
    rung="static_partner",
)
