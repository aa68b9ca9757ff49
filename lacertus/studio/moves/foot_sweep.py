"""The advancing foot sweep: the partner's stepping foot is carried across as the weight is about to arrive on it."""

from __future__ import annotations

from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Move
from lacertus.studio.moves.parts import ON_MAT_M, along, ball_to_shank, height, lapel, sleeve

PERFORMER = {
    "x": -0.34, "y": 0.03, "z": 0.526, "yaw": 4.0, "lean": 1.0, "bow": 2.0, "twist": 0.0, "roll": 0.0, "look": 0.0, "nod": 4.0, "side": 0.0,
    "left_plant": 1.0, "left_foot_x": -0.20, "left_foot_y": 0.17, "left_foot_yaw": 16.0, "left_foot_z": 0.0, "left_heel_up": 0.0,
    "right_plant": 1.0, "right_foot_x": -0.24, "right_foot_y": -0.15, "right_foot_z": 0.0, "right_foot_yaw": -18.0, "right_toe_up": 0.0, "right_heel_up": 0.0,
    "right_leg_flex": 10.0, "right_leg_bend": 10.0, "right_leg_rot": 0.0, "right_grip": 1.0, "left_grip": 1.0, "right_flare": 24.0, "left_flare": 30.0,
    "left_arm_flex": 40.0, "left_arm_bend": 60.0, "right_arm_flex": 40.0, "right_arm_bend": 60.0,
}  # fmt: skip
PARTNER = {
    "x": 0.46, "y": -0.02, "z": 0.507, "yaw": 180.0, "lean": 2.0, "bow": 3.0, "twist": 0.0, "roll": 0.0, "nod": 4.0, "look": 0.0, "side": 0.0, "spin": 0.0,
    "left_plant": 1.0, "left_foot_x": 0.48, "left_foot_y": -0.16, "left_foot_z": 0.0, "left_foot_yaw": 196.0, "left_toe_up": 0.0, "left_heel_up": 0.0,
    "right_plant": 1.0, "right_foot_x": 0.28, "right_foot_y": 0.13, "right_foot_z": 0.0, "right_foot_yaw": 166.0, "right_toe_up": 0.0, "right_heel_up": 0.0,
    "left_leg_flex": 10.0, "left_leg_bend": 16.0, "left_leg_abd": 4.0, "right_leg_flex": 10.0, "right_leg_bend": 16.0, "right_leg_abd": 4.0,
    "right_grip": 1.0, "right_flare": 30.0, "left_arm_flex": 48.0, "left_arm_bend": 62.0, "left_arm_abd": 14.0, "left_arm_rot": -10.0,
    "right_arm_flex": 50.0, "right_arm_bend": 60.0, "right_arm_abd": 0.0,
}  # fmt: skip

FAULTS = (
    Fault(code="no-step-to-sweep", unit="cm", most=30.0, says="the partner only shuffles: the body is over the foot as it lands"),
    Fault(code="late-sweep", unit="ms", most=400.0, says="the sole meets the foot so long after it has set"),
    Fault(code="early-sweep", unit="ms", most=200.0, says="the sole meets the foot before it has come down"),
    Fault(code="late-pull", unit="ms", most=500.0, says="step and pull come so far apart"),
    Fault(code="bent-sweep", unit="deg", most=60.0, says="the sweeping knee is bent at contact"),
    Fault(code="bows-forward", unit="deg", most=60.0, says="the trunk is bowed as the partner steps"),
    Fault(code="stiff-support", unit="deg", most=30.0, says="the standing knee is so much straighter"),
    Fault(code="leans-away", unit="deg", most=60.0, says="the trunk leans back from the partner at contact"),
    Fault(code="sweeps-too-high", unit="cm", most=30.0, says="the sole meets the shin so much above the foot"),
    Fault(code="two-part-throw", unit="ms", most=900.0, says="the throw stops in the middle"),
)


def _steps(how: How) -> list[Step]:
    bow, bent, stiff = how.fault("bows-forward"), how.fault("bent-sweep"), how.fault("stiff-support")
    away, high = how.fault("leans-away"), how.fault("sweeps-too-high")
    steps, lands = 0.40, 0.86
    pull = lands - 0.17 + how.fault("late-pull") / 1000
    meets = lands + 0.03 + (how.fault("late-sweep") - how.fault("early-sweep")) / 1000
    crossed = meets + 0.24
    back = crossed + 0.36 + how.fault("two-part-throw") / 1000
    lifts = meets - 0.30
    over = how.fault("no-step-to-sweep") / 100
    low = -0.016 + 0.0009 * stiff
    found = [
        Step(at=0.0, name="start", performer=_start(how), partner=PARTNER, fixed=True),
        *(_draws_out() if _leads(how) else []),
        Step(
            at=steps,
            name="steps",
            performer={"x": -0.355, "z": 0.527, "lean": 1.0 + bow * 0.55, "bow": 2.0 + bow * 0.45, "left_foot_x": -0.20, "left_foot_y": 0.17},
            partner={"x": 0.42, "left_foot_x": 0.48, "left_foot_z": 0.0, "left_heel_up": 2.0, "left_arm_flex": 48.0, "left_arm_bend": 62.0},
        ),
        Step(at=(steps + lands) / 2, partner={"left_foot_z": 0.060, "left_foot_x": 0.26, "left_heel_up": 22.0, "left_toe_up": 0.0, "x": 0.36}),
        Step(at=lands - 0.05, partner={"left_toe_up": 8.0, "left_heel_up": 0.0, "left_foot_z": 0.045, "left_foot_x": 0.05}),
        Step(
            at=lands,
            name="lands",
            partner={
                "x": 0.28 - over, "z": 0.500, "lean": 4.0, "bow": 5.0, "left_foot_x": 0.02, "left_foot_y": -0.16, "left_foot_z": 0.0, "left_toe_up": 0.0,
                "right_heel_up": 22.0, "nod": 6.0, "left_plant": 1.0, "right_plant": 1.0,
            },
        ),
        Step(at=pull, name="pull", performer={"twist": 0.0, "right_flare": 24.0, "side": 0.0}, partner={"left_arm_flex": 46.0, "left_arm_bend": 60.0, "side": 0.0}),
        Step(at=pull + 0.16, performer={"right_flare": 14.0, "side": -3.0}, partner={"left_arm_flex": 24.0, "left_arm_bend": 46.0, "side": 5.0, "twist": 8.0}),
        Step(
            at=lifts,
            name="lifts",
            performer={
                "right_foot_x": -0.24, "right_foot_y": -0.15, "right_foot_z": 0.0, "right_plant": 1.0, "right_heel_up": 8.0, "right_foot_yaw": -18.0,
                "y": 0.07, "yaw": 4.0,
            },
        ),
        Step(at=lifts + 0.10, performer={"right_foot_z": 0.045, "right_plant": 0.95, "right_heel_up": 6.0, "right_foot_x": -0.20, "right_foot_y": -0.24}),
        Step(
            at=meets,
            name="meets",
            performer={
                "x": -0.325 + 0.0023 * bent, "y": 0.08, "z": 0.516 + low - 0.0008 * bent, "yaw": 16.0, "lean": -4.0 - away, "bow": 4.0, "nod": 12.0, "roll": 0.0,
                "right_plant": 0.97, "right_foot_x": 0.145, "right_foot_y": -0.245, "right_foot_z": 0.040 + 0.01 * high, "right_foot_yaw": 34.0, "right_heel_up": 0.0,
                "right_toe_up": 8.0, "right_leg_flex": 38.0 + bent * 0.5, "right_leg_bend": 6.0 + bent,
            },
            partner={"x": 0.24 - 0.7 * over, "z": 0.498, "lean": 3.0, "left_foot_x": 0.02, "left_foot_y": -0.16, "left_foot_z": 0.0, "left_plant": 1.0, "roll": 0.0},
        ),
        Step(
            at=crossed,
            name="crossed",
            performer={
                "x": -0.23, "y": 0.06, "z": 0.530 + low, "yaw": 30.0, "lean": -2.0, "bow": 8.0, "twist": 18.0, "nod": 20.0, "side": -8.0,
                "right_foot_x": 0.20, "right_foot_y": 0.12, "right_foot_z": 0.10, "right_foot_yaw": 52.0, "right_plant": 0.97,
                "right_leg_flex": 42.0 + bent * 0.5, "right_leg_bend": 6.0 + bent, "right_flare": 4.0, "left_flare": 60.0,
            },
            partner={
                "x": 0.34, "y": -0.14, "z": 0.400, "lean": -26.0, "roll": -30.0, "bow": 12.0, "twist": 14.0, "side": 8.0, "nod": 20.0, "left_plant": 0.9,
                "left_foot_x": 0.06, "left_foot_y": 0.13, "left_foot_z": 0.16, "left_heel_up": 10.0, "left_leg_flex": 30.0, "left_leg_bend": 20.0,
                "right_plant": 0.85, "right_foot_x": 0.26, "right_foot_z": 0.02, "right_heel_up": 34.0, "right_leg_flex": 24.0, "right_leg_bend": 34.0,
                "left_arm_flex": 30.0, "left_arm_bend": 22.0, "right_grip": 0.6, "right_arm_abd": 30.0,
            },
        ),
        Step(
            at=crossed + 0.20 + (back - crossed - 0.36) * 0.7,
            performer={"right_foot_x": 0.16, "right_foot_y": -0.02, "right_foot_z": 0.05},
            partner={"z": 0.205, "lean": -62.0, "right_plant": 0.2, "left_plant": 0.1, "right_grip": 0.0, "right_arm_abd": 56.0},
        ),
        Step(
            at=back,
            name="back",
            performer={
                "x": -0.08, "y": 0.03, "z": 0.462, "yaw": 14.0, "lean": 20.0, "bow": 24.0, "twist": 10.0, "nod": 24.0, "side": 0.0,
                "right_foot_x": 0.12, "right_foot_y": -0.17, "right_foot_z": 0.0, "right_foot_yaw": 4.0, "right_plant": 1.0, "right_toe_up": 0.0,
                "left_grip": 0.5, "left_arm_flex": 36.0, "left_arm_bend": 40.0, "right_flare": 30.0,
            },
            partner={
                "x": 0.58, "y": -0.20, "z": 0.078, "lean": -84.0, "roll": -20.0, "bow": 14.0, "twist": 8.0, "side": 0.0, "nod": 32.0, "left_plant": 0.0, "right_plant": 0.0,
                "left_leg_flex": 60.0, "left_leg_bend": 40.0, "left_leg_abd": 6.0, "right_leg_flex": 66.0, "right_leg_bend": 56.0, "right_leg_abd": 14.0,
                "left_arm_flex": 74.0, "left_arm_bend": 8.0, "left_arm_abd": 10.0, "right_arm_flex": 8.0, "right_arm_abd": 52.0, "right_arm_bend": 6.0,
            },
        ),
        Step(
            at=back + 0.45,
            name="end",
            performer={"x": -0.06, "z": 0.455, "lean": 18.0, "bow": 22.0, "twist": 6.0, "yaw": 10.0, "left_grip": 0.0, "right_grip": 1.0},
            partner={"x": 0.60, "z": 0.072, "lean": -88.0, "nod": 14.0, "bow": 6.0, "left_leg_flex": 40.0, "left_leg_bend": 62.0, "right_leg_flex": 44.0, "right_leg_bend": 74.0, "right_arm_abd": 48.0},
            fixed=True,
        ),
        Step(at=back + 0.75, name="still", performer={"x": -0.06, "z": 0.455}, partner={"x": 0.60, "z": 0.072, "lean": -88.0, "y": -0.20}, fixed=True),
        Step(at=back + 1.05, partner={"left_plant": 0.3, "right_plant": 0.3, "left_foot_x": 0.34, "left_foot_z": 0.12, "right_foot_x": 0.28, "right_foot_z": 0.14}),
        Step(
            at=back + 1.45,
            performer={"x": -0.20, "z": 0.500, "lean": 8.0, "bow": 10.0, "right_grip": 0.4},
            partner={
                "x": 0.62, "y": -0.14, "z": 0.085, "lean": -28.0, "roll": 0.0, "bow": 26.0, "nod": 10.0, "twist": 0.0, "left_plant": 1.0, "right_plant": 1.0,
                "left_leg_flex": 84.0, "left_leg_bend": 100.0, "right_leg_flex": 84.0, "right_leg_bend": 100.0, "left_foot_x": 0.40, "left_foot_y": -0.15, "left_foot_z": 0.0, "left_heel_up": 0.0,
                "right_foot_x": 0.32, "right_foot_y": 0.10, "right_foot_z": 0.0, "right_heel_up": 0.0,
            },
        ),
        Step(at=back + 1.95, performer={"right_foot_x": 0.12, "right_foot_y": -0.17, "right_foot_yaw": 4.0, "right_foot_z": 0.0}, partner={"left_foot_x": 0.40, "left_foot_y": -0.15, "right_foot_x": 0.32, "right_foot_y": 0.10, "left_foot_z": 0.0}),
        Step(at=back + 2.35, performer={"right_foot_z": 0.06}, partner={"left_foot_z": 0.04, "right_foot_z": 0.03}),
        Step(
            at=back + 2.15,
            partner={"x": 0.50, "y": -0.06, "z": 0.270, "lean": 34.0, "bow": 16.0, "left_plant": 1.0, "right_plant": 1.0, "left_heel_up": 20.0, "right_heel_up": 24.0},
        ),
        Step(at=back + 2.85, name="again", performer=_start(how), partner=PARTNER, fixed=True),
    ]  # fmt: skip
    if how.reaction == "partner_sets_back":
        found = [*(step for step in found if step.at < meets), *_reaps_instead(meets)]
    if how.reaction == "partner_lifts_over":
        found = [*(step for step in found if step.at < meets), *_sweeps_the_other(how, meets)]
    return sorted(found, key=lambda step: step.at)


def _sweeps_the_other(how: How, meets: float) -> list[Step]:
    """The partner lifts the foot over the sole before it is there: the sole goes on, to the other foot, which carries all the weight."""
    lifted, other = meets + 0.10, meets + 0.46
    stand = {"left_foot_x": -0.20, "left_foot_y": 0.17, "left_foot_z": 0.0}
    planted = {"right_foot_x": 0.28, "right_foot_y": 0.13, "right_foot_z": 0.0}
    over = {"left_foot_x": 0.16, "left_foot_y": -0.36, "left_foot_z": 0.0}
    return [
        Step(at=meets - 0.04, partner={"left_foot_x": 0.02, "left_foot_y": -0.16, "left_foot_z": 0.0, "x": 0.28, **planted}),
        Step(at=meets, performer={"x": -0.32, "y": 0.08, "z": 0.512, "yaw": 12.0, "lean": -2.0, "right_plant": 0.97, "right_foot_x": 0.02, "right_foot_y": -0.26, "right_foot_z": 0.045, "right_foot_yaw": 30.0, "right_heel_up": 0.0, "right_leg_flex": 38.0, "right_leg_bend": 10.0}),
        Step(at=lifted, name="lifted", performer={"right_foot_x": 0.14, "right_foot_y": -0.20}, partner={"left_foot_z": 0.16, "left_foot_x": 0.06, "left_foot_y": -0.22, "left_heel_up": 10.0, "y": 0.02, "x": 0.32}),
        Step(at=lifted + 0.16, performer={"x": -0.20, "right_foot_x": 0.26, "right_foot_y": -0.08}, partner={"left_foot_z": 0.10, "left_foot_x": 0.12, "left_foot_y": -0.34, "x": 0.34, "y": 0.04, "lean": 4.0}),
        Step(at=other, name="other", performer={"x": -0.14, "y": 0.08, "z": 0.512, "yaw": 24.0, "lean": 0.0, "bow": 4.0, "right_foot_x": 0.35, "right_foot_y": 0.04, "right_foot_z": 0.045, "right_foot_yaw": 44.0, "left_heel_up": 10.0}, partner={**over, "left_heel_up": 0.0, "x": 0.35, "y": 0.02, "lean": 2.0, **planted}),
        Step(at=other + 0.34, name="end", performer={"lean": 4.0, **stand}, partner={**over, **planted}, fixed=True),
        Step(at=other + 0.36, performer=stand, partner={**over, **planted}),
        Step(at=other + 0.80, performer={"x": -0.26, "right_foot_x": -0.10, "right_foot_y": -0.14, "right_foot_z": 0.06, "left_heel_up": 4.0}, partner={"left_foot_z": 0.03}),
        Step(at=other + 1.40, name="again", performer=_start(how), partner=PARTNER, fixed=True),
    ]  # fmt: skip


def _leads(how: How) -> bool:
    """Whether the own body steps back first, so that the partner steps after it."""
    return how.options.get("timing") == "drawn_out"


def _start(how: How) -> dict[str, float]:
    return PERFORMER | ({"x": -0.24, "left_foot_x": -0.06} if _leads(how) else {})


def _draws_out() -> list[Step]:
    """The body goes back with a step of the other foot, and the hands go with it."""
    return [
        Step(at=0.08, name="draws", performer={"left_foot_x": -0.06, "left_foot_y": 0.17, "left_foot_z": 0.0, "x": -0.25}),
        Step(at=0.18, performer={"left_foot_z": 0.035, "left_heel_up": 6.0}),
        Step(at=0.30, performer={"left_foot_x": -0.20, "left_foot_y": 0.17, "left_foot_z": 0.0, "left_heel_up": 0.0, "x": -0.33}, partner={"lean": 5.0, "x": 0.45}),
    ]


def _reaps_instead(meets: float) -> list[Step]:
    """The partner sets the foot back before the sole is there: the leg goes on, to a reap behind the other knee."""
    set_back, reaps = meets + 0.18, meets + 0.62
    feet = {"left_foot_x": 0.56, "left_foot_y": -0.16, "left_foot_z": 0.0, "right_foot_x": 0.28, "right_foot_y": 0.13, "right_foot_z": 0.0}
    stand = {"left_foot_x": -0.20, "left_foot_y": 0.17, "left_foot_z": 0.0}
    return [
        Step(at=meets - 0.04, partner={"left_foot_x": 0.02, "left_foot_y": -0.16, "left_foot_z": 0.0, "x": 0.30}),
        Step(at=meets + 0.06, performer={"x": -0.26, "y": 0.08, "lean": 0.0, "right_plant": 0.95, "right_foot_x": -0.04, "right_foot_y": -0.24, "right_foot_z": 0.06}, partner={"left_foot_z": 0.05, "left_foot_x": 0.26, "left_heel_up": 10.0}),
        Step(at=set_back, name="set_back", performer={"x": -0.16, "y": 0.06, "lean": 4.0, "right_foot_x": 0.06, "right_foot_y": -0.16, "right_foot_z": 0.10}, partner={"x": 0.42, "z": 0.502, "lean": 6.0, "side": 0.0, "twist": 0.0, "left_heel_up": 8.0, "right_heel_up": 0.0, **feet}),
        Step(at=reaps, name="reaps", performer={"x": 0.02, "y": 0.04, "z": 0.512, "lean": 10.0, "bow": 4.0, "yaw": 4.0, "left_heel_up": 26.0, "right_plant": 0.95, "right_foot_x": 0.40, "right_foot_y": 0.05, "right_foot_z": 0.26, "right_foot_yaw": 40.0, **stand}, partner={"x": 0.43, "lean": -2.0, **feet}),
        Step(at=reaps + 0.36, name="end", performer={"x": 0.03, "lean": 12.0, **stand}, partner={"lean": -4.0, **feet}, fixed=True),
        Step(at=reaps + 0.38, performer=stand, partner=feet),
        Step(at=reaps + 0.80, performer={"x": -0.20, "left_heel_up": 4.0, "right_foot_x": -0.10, "right_foot_y": -0.14, "right_foot_z": 0.06}, partner={"left_foot_z": 0.03}),
        Step(at=reaps + 1.40, name="again", performer=PERFORMER, partner=PARTNER, fixed=True),
    ]  # fmt: skip


def _events(how: How) -> dict[str, Finder]:
    found = _usual_events() | ({"draws_out": Finder(step="draws")} if _leads(how) else {})
    if how.reaction == "partner_lifts_over":
        kept = {name: found[name] for name in ("partner_steps", "pull_starts", "foot_lands")}
        return kept | {"foot_lifted": Finder(step="lifted"), "sweeps_the_other": Finder(step="other")}
    if how.reaction == "partner_sets_back":
        kept = {name: found[name] for name in ("partner_steps", "pull_starts", "foot_lands")}
        return kept | {"foot_set_back": Finder(step="set_back"), "reaps_instead": Finder(step="reaps")}
    return found


def _usual_events() -> dict[str, Finder]:
    toe_heel = ("left_toe", "left_heel")
    return {
        "partner_steps": Finder(step="steps", rule="rises", measure=height("partner", "left_heel"), level=ON_MAT_M, before_s=0.12, after_s=0.16),
        "pull_starts": Finder(step="pull"),
        "foot_lands": Finder(step="lands", rule="falls", measure=height("partner", *toe_heel), level=ON_MAT_M, before_s=0.06, after_s=0.05),
        "sole_meets": Finder(step="meets", rule="falls", measure=ball_to_shank, level=0.125, before_s=0.12, after_s=0.08),
        "legs_crossed": Finder(step="crossed", rule="highest", measure=along("partner", "left_ankle", 1), before_s=0.10, after_s=0.12),
        "back_on_mat": Finder(step="back", rule="falls", measure=height("partner", "left_shoulder", "right_shoulder"), level=0.15, before_s=0.30, after_s=0.20),
    }  # fmt: skip


MOVE = Move(
    technique="advancing-foot-sweep",
    partner=True,
    faults=FAULTS,
    options={"timing": ("stepping_in", "drawn_out")},
    steps=_steps,
    events=_events,
    holds={
        "performer": {
            "right_hand": lambda me, other: sleeve(other, "left"),
            "left_hand": lambda me, other: lapel(other, -0.05, 0.06),
        },
        "partner": {"right_hand": lambda me, other: lapel(other, 0.05, 0.06)},
    },
    reactions={"partner_lifts_over": {}, "partner_sets_back": {}},
    middle=(0.10, 0.0),
    height=0.82,
    rung="moving",
)
