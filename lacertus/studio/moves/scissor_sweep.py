"""The scissor sweep: shin across the belly, partner drawn onto it, legs cut past each other, come up on top."""

from __future__ import annotations

from lacertus.studio.body.motion import Step
from lacertus.studio.body.move import Fault, Finder, How, Move
from lacertus.studio.moves.on_the_mat import Pose, mixed, read_poses
from lacertus.studio.moves.parts import along, both, height, lapel, plus, put_in, sleeve

POSES = read_poses("scissor-sweep")
ME, OTHER = POSES.me, POSES.other
FREE = both(grip=0.0, arm_flex=44.0, arm_abd=16.0, arm_bend=44.0, arm_rot=0.0)
"""Once the partner is on the back the hands let sleeve and lapel go."""
LOWER_LEG = ("left_leg_flex", "left_leg_abd", "left_leg_bend", "left_leg_rot")

FAULTS = (
    Fault(code="no-hip-escape", unit="cm", most=18.0, says="the hips slide out by so much less"),
    Fault(code="no-pull", unit="ms", most=700.0, says="the legs cut so long before the weight has been drawn on"),
    Fault(code="flat-back", unit="deg", most=50.0, says="the body stays flat and does not turn onto its side"),
    Fault(code="legs-apart-in-time", unit="ms", most=500.0, says="shin and lower leg do not cut together"),
    Fault(code="not-loaded", unit="deg", most=28.0, says="the partner’s trunk stays so much more upright"),
    Fault(code="no-tip", unit="ms", most=600.0, says="the partner tips so long after the cut"),
    Fault(code="shin-low", unit="cm", most=26.0, says="the shin lies so much lower across the thighs"),
    Fault(code="elbow-open", unit="deg", most=70.0, says="the collar elbow opens from the ribs"),
    Fault(code="late-follow", unit="ms", most=900.0, says="the performer comes up late"),
)


def _steps(how: How) -> list[Step]:
    shin = 0.89
    pull = shin + 0.14 + how.fault("no-pull") / 1000
    cut = shin + 0.34
    lower = cut + how.fault("legs-apart-in-time") / 1000
    steps = _to_the_shin(how, shin)
    if how.reaction == "partner_leans_back":
        return POSES.joined([*steps, Step(at=pull, name="pull", performer=_turned(how, "pull"), partner=OTHER["pull"]), *_answers(how, pull)])
    steps += [*_draw(how, pull, cut), Step(at=cut, name="cut", performer=_turned(how, "cut")), Step(at=lower, name="lower")]
    if how.reaction:
        swept = Step(at=lower + 0.14, name="swept", performer=ME["swept"], partner=OTHER["swept"])
        return POSES.joined([*steps, swept, *_answers(how, swept.at)])
    return POSES.joined([*steps, *_over(how, cut, lower)], _changed_before(how))


def _changed_before(how: How) -> tuple[str, ...]:
    """The steps before which a fault leaves no room for the poses in between."""
    legs, load = ("swept", "tips", "side", "back", "top"), ("pull", "drawn", "cut", "swept", "tips")
    before = {
        "no-pull": load, "not-loaded": load, "shin-low": ("shin", "pull"), "legs-apart-in-time": legs, "no-tip": ("swept", "tips"),
        "no-hip-escape": ("out", "shin", "pull"), "flat-back": ("out", "shin", "pull", "drawn"), "late-follow": ("top",),
    }  # fmt: skip
    return tuple(step for code, steps in before.items() if code in how.faults for step in steps)


def _turned(how: How, name: str, share: float = 1.0) -> Pose:
    """A pose of the performer with the hips less far out and the body less on its side, by the faults of the rep."""
    in_the_middle = {"y": how.fault("no-hip-escape") / 100, "spin": -how.fault("flat-back"), "right_flare": how.fault("elbow-open")}
    return plus(ME[name], {channel: share * by for channel, by in in_the_middle.items()})


def _to_the_shin(how: How, shin: float) -> list[Step]:
    low = put_in(how, FAULTS, "shin-low")
    return [
        Step(at=0.0, name="start", performer=ME["start"], partner=OTHER["start"], fixed=True),
        Step(at=0.55, name="out", performer=_turned(how, "out", 0.8), partner=OTHER["out"]),
        Step(at=shin, name="shin", performer=mixed(_turned(how, "shin"), _turned(how, "shin_low"), low), partner=mixed(OTHER["shin"], OTHER["shin_low"], low)),
    ]


def _draw(how: How, pull: float, cut: float) -> list[Step]:
    """The partner is drawn onto the shin: where the legs cut first, it is too late for that, and the weight stays where it was."""
    if pull >= cut:
        return [Step(at=pull, name="pull")]
    upright = put_in(how, FAULTS, "not-loaded")
    performer = {} if "no-pull" in how.faults else _turned(how, "pull")
    return [
        Step(at=pull, name="pull", performer=performer, partner=OTHER["pull"]),
        Step(at=pull + 0.17, name="drawn", performer={} if "no-pull" in how.faults else _turned(how, "drawn"), partner=mixed(OTHER["drawn"], OTHER["drawn_up"], upright)),
    ]


def _over(how: How, cut: float, lower: float) -> list[Step]:
    """The legs cut, the partner tips and falls, and one comes up on top; the lower leg stays behind until it cuts as well."""
    tips = cut + 0.22 + how.fault("no-tip") / 1000
    side = tips + 0.24
    back = side + 0.22
    top = back + 0.24 + how.fault("late-follow") / 1000
    late = lower + 0.14

    def legs(pose: Pose, at: float) -> Pose:
        return {**pose, **{channel: ME["cut"][channel] for channel in LOWER_LEG}} if at < late else pose

    in_time = not {"no-tip", "legs-apart-in-time", "no-pull", "not-loaded"} & how.faults.keys()
    found = [
        Step(at=tips, name="tips", performer=legs(_turned(how, "tips", 0.8), tips), partner=OTHER["tips"]),
        Step(at=side, name="side", performer=legs(ME["side"], side), partner=OTHER["side"]),
        Step(at=back, name="back", performer=legs(ME["back"] | FREE, back), partner=OTHER["back"]),
        Step(at=top, name="top", performer=ME["top"] | FREE, partner=OTHER["top"]),
        *POSES.ends(top, ME["held"] | FREE, OTHER["held"]),
    ]
    if in_time:
        found.append(Step(at=late, name="swept", performer=_turned(how, "swept"), partner=OTHER["swept"]))
    elif late < tips - 0.04:
        found.append(Step(at=late, performer={channel: ME["swept"][channel] for channel in LOWER_LEG}))
    return found


TOLD = {"partner_leans_back": ("leans_back", "leans", "comes_up", "up"), "partner_posts": ("posts", "posted", "pushes_the_knee", "pushed")}
"""By reaction: its event and step, and those of the answer."""


def _answers(how: How, at: float) -> list[Step]:
    """The partner leans back, and one comes up along; or posts a hand, and the knee that is left is pushed away."""
    _, comes, _, goes = TOLD[how.reaction]
    came, answered = (at + 0.40, at + 1.05) if comes == "leans" else (at + 0.45, at + 1.00)
    return [
        Step(at=came, name=comes, performer=ME[comes], partner=OTHER[comes]),
        Step(at=answered, name=goes, performer=ME[goes], partner=OTHER[goes]),
        *POSES.ends(answered, ME[goes], OTHER[goes]),
    ]


def _events(how: How) -> dict[str, Finder]:
    found = _whole()
    if how.reaction:
        event, step, answer, answered = TOLD[how.reaction]
        before = ["hips_out", "shin_across", "pull_starts"] + (["shin_cuts", "lower_leg_cuts"] if how.reaction == "partner_posts" else [])
        found = {name: found[name] for name in before} | {event: Finder(step=step), answer: Finder(step=answered)}
    return found


def _whole() -> dict[str, Finder]:
    return {
        "hips_out": Finder(step="out", rule="lowest", measure=along("performer", "right_hip", 1), before_s=0.14, after_s=0.16),
        "shin_across": Finder(step="shin"),
        "pull_starts": Finder(step="pull"),
        "shin_cuts": Finder(step="cut"),
        "lower_leg_cuts": Finder(step="lower"),
        "partner_tips": Finder(step="tips", rule="rises", measure=height("partner", "left_knee"), level=0.11, before_s=0.20, after_s=0.20),
        "back_on_mat": Finder(step="back", rule="falls", measure=height("partner", "left_shoulder"), level=0.22, before_s=0.24, after_s=0.24),
        "on_top": Finder(step="top"),
    }  # fmt: skip


MOVE = Move(
    technique="scissor-sweep",
    partner=True,
    faults=FAULTS,
    options={},
    reactions={reaction: {} for reaction in TOLD},
    steps=_steps,
    events=_events,
    holds={
        "performer": {
            "left_hand": lambda me, other: sleeve(other, "right"),
            "right_hand": lambda me, other: lapel(other, -0.02, 0.04),
        },
    },
    gives="performer",
    contacts={
        "shin_across": (("performer.right_shank", "partner.belly"), ("performer.left_hand", "partner.right_forearm"), ("performer.pelvis", "mat")),
        "back_on_mat": (("partner.pelvis", "mat"),),
        "on_top": (("performer.left_shank", "mat"), ("partner.pelvis", "mat")),
    },
    middle=(0.15, 0.1),
    height=0.45,
    rung="static_partner",
    facing_deg=180.0,
)
