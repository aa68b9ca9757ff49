"""The inverted back take: weight to the seat, the hook at the hip, over the shoulder, the lift, frame and neck, legs free, and behind."""

from __future__ import annotations

from lacertus.studio.body.figure import Joints
from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Move
from lacertus.studio.body.vectors import Vector
from lacertus.studio.moves.on_the_mat import read_poses
from lacertus.studio.moves.parts import on_mat, plus

POSES = read_poses("inverted-back-take")
ME, OTHER = POSES.me, POSES.other

FAULTS = (
    Fault(code="toes-miss-the-ribs", unit="deg", most=50.0, says="the knee stays bent so much more"),
    Fault(code="hooks-the-thigh", unit="deg", most=45.0, says="the hooking leg is lifted so much too far, onto the thigh"),
    Fault(code="too-close-to-lift", unit="cm", most=56.0, says="the hips are so much nearer to the partner’s"),
    Fault(code="rolls-away", unit="cm", most=95.0, says="the shoulder lands so much further away"),
    Fault(code="loose-thigh", unit="deg", most=80.0, says="the thigh opens so far from the partner’s"),
    Fault(code="foot-in-the-air", unit="deg", most=90.0, says="the knee is stretched so far in place of the foot going down"),
    Fault(code="chases-without-a-lift", unit="cm", most=26.0, says="the partner’s hips are lifted so much less"),
    Fault(code="drops-the-hips", unit="cm", most=30.0, says="the partner’s hips sink so far as the legs let go"),
    Fault(code="collar-missed", unit="cm", most=50.0, says="the hand lies so far from the collar"),
    Fault(code="stays-below", unit="cm", most=50.0, says="the chest stays so far from the back"),
    Fault(code="neck-comes-late", unit="ms", most=1500.0, says="the hand comes to the neck so much later"),
)

REACTIONS: dict[str, tuple[str, str, str, str, str]] = {
    "partner_stays_on_the_hands": ("lifted", "stays_on_hands", "stays", "lifts_over", "lifted_over"),
    "partner_falls_to_the_elbow": ("neck", "to_the_elbow", "elbow", "keeps_collar", "keeps"),
    "partner_lies_flat": ("frame", "flat_back", "flat", "presses_knee", "pressed"),
    "partner_turns_in": ("lifted", "turns_in", "turned", "fallback_held", "fallback"),
    "partner_kicks": ("caught", "kicks_far_leg", "kicked", "reverses", "reversed"),
    "partner_retakes": ("free", "retakes", "retaken", "wedge_holds", "wedged"),
}
"""The step after which the partner reacts, the reaction's event and pose, the answer's event and pose."""

EVENTS = {
    "weight_taken": "weight", "hook_on_hip": "hook", "far_leg_caught": "caught", "inverted": "inverted", "shoulder_lands": "lands",
    "hips_lifted": "lifted", "frame_set": "frame", "hand_at_neck": "neck", "legs_free": "free", "scooted": "scooted", "hooks_in": "hooks", "sat_up": "sat",
}  # fmt: skip
"""The step of each event of a rep without a reaction."""


def _steps(how: How) -> list[Step]:
    whole = [*_inverts(how), *_lifts(how), *_behind(how)]
    without = ("free", "scooted") if how.fault("drops-the-hips") else ()
    if not how.reaction:
        return POSES.joined([*whole, *POSES.ends(whole[-1].at, ME["sat"], OTHER["sat"])], without)
    after, _, comes, _, goes = REACTIONS[how.reaction]
    before = whole[: [step.name for step in whole].index(after) + 1]
    at = before[-1].at
    found = [
        *before,
        Step(at=at + 0.50, name=comes, performer=ME[comes], partner=OTHER[comes]),
        Step(at=at + 1.20, name=goes, performer=ME[goes], partner=OTHER[goes]),
        *POSES.ends(at + 1.20, ME[goes], OTHER[goes]),
    ]
    return POSES.joined(found, ())


def _inverts(how: How) -> list[Step]:
    """The partner's weight to seat and hands, the hook, the far leg, and over the shoulder."""
    bent, low, close, away = how.fault("toes-miss-the-ribs"), how.fault("hooks-the-thigh"), how.fault("too-close-to-lift") / 100, how.fault("rolls-away") / 100
    return [
        Step(at=0.0, name="start", performer=ME["start"], partner=OTHER["start"], fixed=True),
        Step(at=0.80, name="weight", performer=plus(ME["weight"], {"left_leg_bend": bent, "left_leg_flex": -0.5 * bent}), partner=OTHER["weight"]),
        Step(at=1.30, name="hook", performer=plus(ME["hook"], {"right_leg_flex": low, "x": close}), partner=OTHER["hook"]),
        Step(at=1.75, name="caught", performer=ME["caught"], partner=OTHER["caught"]),
        Step(at=2.40, name="inverted", performer=plus(ME["inverted"], {"x": -0.5 * away}), partner=OTHER["inverted"]),
        Step(at=2.80, name="lands", performer=plus(ME["lands"], {"x": -away}), partner=OTHER["lands"]),
    ]  # fmt: skip


def _lifts(how: How) -> list[Step]:
    """The press that lifts the partner's hips, the frame behind the hip, and the hand at the collar."""
    loose, air, sits = how.fault("loose-thigh"), how.fault("foot-in-the-air"), how.fault("chases-without-a-lift") / 100
    astray = how.fault("collar-missed") / 100
    low = {"z": -sits / STATURE_M}
    presses = {"right_leg_abd": loose, "left_leg_flex": 0.5 * air, "left_leg_bend": -air}
    missed = {"left_grip_x": 0.8 * astray, "left_grip_y": 0.5 * astray, "left_grip_z": -0.3 * astray}
    return [
        Step(at=3.55, name="lifted", performer=plus(ME["lifted"], presses), partner=plus(OTHER["lifted"], low)),
        Step(at=4.20, name="frame", performer=ME["frame"], partner=plus(OTHER["frame"], low)),
        Step(at=4.65 + how.fault("neck-comes-late") / 1000, name="neck", performer=plus(ME["neck"], missed), partner=plus(OTHER["neck"], low)),
    ]


def _behind(how: How) -> list[Step]:
    """The legs let go, the hips scoot to the partner's seat, hooks, and the chest on the back."""
    late = how.fault("neck-comes-late") / 1000
    sinks, below = how.fault("drops-the-hips") / 100, how.fault("stays-below") / 100
    low = {"z": -sinks / STATURE_M}
    return [
        Step(at=5.25 + late, name="free", performer=ME["free"], partner=plus(OTHER["free"], low)),
        Step(at=6.05 + late, name="scooted", performer=ME["scooted"], partner=OTHER["scooted"]),
        Step(at=6.40 + late, name="feet_over", performer=ME["feet_over"], partner=OTHER["feet_over"]),
        Step(at=6.80 + late, name="hooks", performer=ME["hooks"], partner=OTHER["hooks"]),
        Step(at=7.40 + late, name="sat", performer=plus(ME["sat"], {"x": below}), partner=OTHER["sat"]),
    ]


STATURE_M = 1.75
"""Of the partner, for faults in centimetres of height."""


def _collar(me: Joints, other: Joints) -> Vector:
    """The collar at the nape."""
    shoulders = (other.at["left_shoulder"] + other.at["right_shoulder"]) / 2
    return other.at["neck"] * 0.72 + shoulders * 0.28 - (other.chest.forward * 0.055 + other.chest.left * 0.035) * other.stature_m


def _behind_the_hip(me: Joints, other: Joints) -> Vector:
    """The small of the back, over the nearer hip."""
    hips, shoulders = (other.at["left_hip"] + other.at["right_hip"]) / 2, (other.at["left_shoulder"] + other.at["right_shoulder"]) / 2
    return hips * 0.85 + shoulders * 0.15 - (other.chest.forward * 0.075 + other.chest.left * 0.06) * other.stature_m


def _events(how: How) -> dict[str, Finder]:
    steps = dict(EVENTS)
    if how.reaction:
        after, told, comes, answer, goes = REACTIONS[how.reaction]
        names = list(EVENTS.values())
        steps = {event: step for event, step in EVENTS.items() if names.index(step) <= names.index(after)} | {told: comes, answer: goes}
    return {event: Finder(step=step) for event, step in steps.items()}


MOVE = Move(
    technique="inverted-back-take",
    partner=True,
    faults=FAULTS,
    options={"unbalance": ("toes",), "lift": ("thigh_press",), "hold": ("collar",)},
    steps=_steps,
    events=_events,
    holds={"performer": {"left_hand": _collar, "right_hand": _behind_the_hip}, "partner": {"left_hand": on_mat, "right_hand": on_mat}},
    reactions={reaction: {} for reaction in REACTIONS},
    gives="performer",
    contacts={
        "inverted": (("performer.shoulders", "mat"), ("partner.left_hand", "mat")),
        "hips_lifted": (("performer.left_thigh", "partner.pelvis"), ("partner.right_hand", "mat")),
        "sat_up": (("performer.chest", "partner.chest"), ("performer.pelvis", "mat")),
    },
    middle=(0.6, 0.1),
    height=0.45,
    facing_deg=180.0,
)
