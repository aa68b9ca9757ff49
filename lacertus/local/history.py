"""The history of the invented academy: who was reviewed when, in what, with which faults."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

COACH, EMAIL = "Rhea Damsoll", "coach@ottermoor.example"
SECOND, SECOND_EMAIL = "Joost Merrivale", "second@ottermoor.example"
"""Another coach, who judges some reps a second time; signs in with the same password."""

RepStory = Mapping[str, float]
"""The faults of a rep by code: a degree where the studio can put it in, else 1 for what is answered by eye."""

GOOD: RepStory = {}


@dataclass(frozen=True, kw_only=True)
class Person:
    """A student: name, which look of the studio, side policy, and what the coach knows."""

    name: str
    look: str
    side: str
    note: str


@dataclass(frozen=True, kw_only=True)
class Day:
    """One reviewed clip: whose, in what, how many days ago, each rep's faults, and in which reps (from 0) the partner reacts."""

    student: str
    technique: str
    days_ago: int
    reps: tuple[RepStory, ...]
    side: str = "right"
    rung: str | None = None
    reactions: Mapping[int, str] = field(default_factory=dict)


@dataclass(frozen=True, kw_only=True)
class Filmed:
    """A clip that comes with its film: which shipped script, how many days ago, whether it was reviewed, and how it is
    named in one line. Without a student it waits to be named."""

    script: str
    days_ago: int
    student: str | None = None
    reviewed: bool = False
    line: str = ""
    correct: Mapping[str, str] = ()  # type: ignore[assignment]


PEOPLE = (
    Person(
        name="Ilse Marrane", look="ash", side="both", note="24. Front kick since the summer; the landing falls forward when tired."
    ),
    Person(name="Tomas Verhaal", look="birch", side="right", note="31. Throws with the right; back fall passed standing."),
    Person(name="Oda Lindqvar", look="cedar", side="both", note="19. Clean on the right; the left is new."),
    Person(name="Benno Achterdam", look="larch", side="both", note="38. Sweeps from guard; ready for a moving partner?"),
    Person(name="Marit Solbakke", look="hazel", side="both", note="16. Not thrown yet: the head goes back in the fall."),
    Person(name="Pelle Varga", look="rowan", side="both", note="27. Long legs; must open at the first tap."),
    Person(name="Lotte Brandeis", look="maple", side="both", note="12. Children’s class; parents watch."),
    Person(name="Koen Drask", look="birch", side="left", note="45. Stiff hip on the right: kicks with the left."),
    Person(name="Naila Osterby", look="cedar", side="both", note="22. Spinning kicks; looks late."),
    Person(name="Sunniva Hoel", look="hazel", side="both", note="29. New in October."),
    Person(name="Hedda Quillan", look="maple", side="both", note="52. Joined this week; nothing filmed yet."),
    Person(name="Emrik Falkenau", look="larch", side="right", note="33. Came back after a knee injury; slow pace only."),
)

LOW, LATE, LANDS = {"low-chamber": 51.0}, {"no-return": 220.0}, {"falls-forward": 1.0}
SWEEP_LATE, SWEEP_BENT = {"late-sweep": 200.0}, {"bent-sweep": 40.0}
APART, FOLLOW = {"legs-apart-in-time": 280.0}, {"late-follow": 480.0}
HEAD, STRIKE, HANDS = {"head-back": 60.0}, {"late-strike": 300.0}, {"hands-behind": 88.0}
LOCK, TAP = {"late-lock": 620.0}, {"held-after-tap": 520.0}
DROP = {"hands-drop": 56.0}
SHUT, LONG = {"ducks-into-the-elbow": 60.0}, {"drags-standing": 400.0}
GAZE, REFOLD = {"late-head": 75.0}, {"no-refold": 320.0}


def _kicks(student: str, *days: tuple[int, tuple[RepStory, ...]], side: str = "right", rung: str | None = None) -> list[Day]:
    return [Day(student=student, technique="front-kick", days_ago=ago, reps=reps, side=side, rung=rung) for ago, reps in days]


HISTORY: tuple[Day, ...] = (
    # A landing fault that keeps coming back, and a low chamber that fades.
    *_kicks(
        "Ilse Marrane",
        (118, (LOW | LANDS, LOW, LANDS, LOW)),
        (97, (LANDS, LOW, LANDS)),
        (76, (LOW, GOOD, LANDS, LANDS)),
        (55, (GOOD, LANDS, GOOD, LANDS)),
        (34, (LANDS, GOOD, GOOD, LANDS)),
        (20, (GOOD, LANDS, LANDS)),
    ),
    # Cleared, and back under a moving partner.
    *(
        Day(student="Tomas Verhaal", technique="advancing-foot-sweep", days_ago=ago, reps=reps, rung=rung)
        for ago, rung, reps in (
            (112, "static_partner", (SWEEP_LATE, SWEEP_LATE, SWEEP_BENT)),
            (91, "static_partner", (SWEEP_LATE, GOOD, SWEEP_LATE)),
            (70, "static_partner", (GOOD, GOOD, GOOD, GOOD, GOOD)),
            (56, "static_partner", (GOOD, GOOD, GOOD, GOOD, GOOD)),
            (28, "moving", (SWEEP_LATE, GOOD, SWEEP_LATE)),
        )
    ),
    # Good on the right side only.
    *_kicks("Oda Lindqvar", (84, (GOOD, LATE, GOOD)), (49, (GOOD, GOOD, GOOD, GOOD)), (21, (GOOD, GOOD, GOOD))),
    *_kicks(
        "Oda Lindqvar",
        (83, ({"bent-reach": 40.0}, {"bent-reach": 38.0})),
        (48, ({"bent-reach": 40.0}, LOW)),
        (19, ({"bent-reach": 36.0},) * 3),
        side="left",
    ),
    # Ready for the next rung.
    *(
        Day(student="Benno Achterdam", technique="scissor-sweep", days_ago=ago, reps=reps, rung="static_partner")
        for ago, reps in ((63, (APART, FOLLOW, GOOD)), (42, (GOOD, GOOD, GOOD, GOOD)), (25, (GOOD,) * 5), (9, (GOOD,) * 5))
    ),
    # Not yet safe to be thrown.
    *(
        Day(student="Marit Solbakke", technique="back-fall", days_ago=ago, reps=reps, rung=rung)
        for ago, rung, reps in (
            (45, "seated", (HEAD, HEAD | STRIKE, HANDS, HEAD)),
            (31, "seated", (HEAD, GOOD, STRIKE, GOOD)),
            (17, "seated", (GOOD, GOOD, GOOD, HEAD)),
            (5, "low_squat", (HEAD, GOOD, GOOD)),
        )
    ),
    Day(student="Tomas Verhaal", technique="back-fall", days_ago=105, reps=(GOOD,) * 5, rung="standing"),
    *(
        Day(student="Pelle Varga", technique="triangle", days_ago=ago, reps=reps, rung="static_partner")
        for ago, reps in ((66, (LOCK, LOCK | TAP)), (38, (LOCK, GOOD)), (16, (GOOD, GOOD)))
    ),
    *_kicks("Lotte Brandeis", (60, (LOW, LOW)), (40, (LOW, GOOD)), rung="solo"),
    *_kicks("Koen Drask", (88, (LOW, GOOD, LOW)), (53, (GOOD, GOOD, LOW)), (31, (GOOD,) * 4), side="left"),
    *(
        Day(student="Naila Osterby", technique="spinning-hook-kick", days_ago=ago, reps=reps)
        for ago, reps in ((72, (GAZE, GAZE, REFOLD)), (44, (GAZE, GOOD, GAZE)), (14, (GOOD, GAZE, GOOD)))
    ),
    *_kicks("Emrik Falkenau", (35, ({"loose-chamber": 45.0}, GOOD)), (12, (GOOD, GOOD))),
    # A fault that most share this month: perhaps it was taught so.
    *_kicks("Lotte Brandeis", (21, (DROP, DROP, GOOD)), rung="solo"),
    *_kicks("Sunniva Hoel", (16, (DROP | LATE, DROP, DROP))),
    # Tries it where it is closed; answers what the partner does.
    Day(student="Sunniva Hoel", technique="duck-under", days_ago=11, reps=(SHUT, GOOD, SHUT), rung="static_partner"),
    Day(
        student="Sunniva Hoel",
        technique="arm-drag",
        days_ago=4,
        reps=(GOOD, LONG, GOOD),
        rung="static_partner",
        reactions={0: "partner_turns_in", 2: "partner_pulls_the_elbow"},
    ),
    *_kicks("Naila Osterby", (11, (DROP, GOOD, DROP))),
    *_kicks("Emrik Falkenau", (10, (DROP, DROP, DROP))),
    # A round of six attempts, in four of which the partner does something.
    Day(
        student="Pelle Varga",
        technique="arm-drag",
        days_ago=5,
        reps=(GOOD, LONG, GOOD, GOOD, LONG, GOOD),
        rung="static_partner",
        reactions={
            0: "partner_turns_in",
            2: "partner_pulls_the_elbow",
            3: "partner_turns_in",
            5: "partner_pulls_the_elbow",
        },
    ),
)

FILMED: tuple[Filmed, ...] = (
    Filmed(
        student="Ilse Marrane",
        script="front-kick-low-and-late",
        days_ago=8,
        reviewed=True,
        correct={"thigh_lifted": "Show the knee to the mirror", "quick_return": "Out and back"},
    ),
    Filmed(
        student="Tomas Verhaal",
        script="foot-sweep-late",
        days_ago=6,
        reviewed=True,
        correct={"swept_in_time": "Sweep the step", "leg_long": "Straight leg, proud hip"},
    ),
    Filmed(
        student="Ilse Marrane",
        script="front-kick-knee-high",
        days_ago=2,
        reviewed=True,
        correct={"quick_return": "Out and back"},
    ),
    Filmed(student="Oda Lindqvar", script="front-kick-clean", days_ago=12, reviewed=True),
    Filmed(
        student="Pelle Varga",
        script="triangle-held-after-tap",
        days_ago=3,
        reviewed=True,
        correct={"released_at_tap": "Tap means open"},
    ),
    Filmed(student="Oda Lindqvar", script="hook-kick-high-speed", days_ago=2, line="spinning hook kick, right, solo"),
    Filmed(
        student="Ilse Marrane",
        script="scissor-sweep-late-follow",
        days_ago=1,
        line="scissor sweep, right, static partner, from the side",
    ),
    Filmed(
        student="Tomas Verhaal",
        script="foot-sweep-two-views",
        days_ago=1,
        line='advancing foot sweep, right, moving, full, "Is my pull too early?"',
    ),
    Filmed(student="Lotte Brandeis", script="front-kick-push-left", days_ago=1, line="front kick, left, push, solo"),
    Filmed(script="front-kick-portrait-by-hand", days_ago=0),
    Filmed(
        student="Marit Solbakke",
        script="back-fall-head-back",
        days_ago=2,
        line='back fall, standing, slow, "Where do I look?"',
    ),
    Filmed(script="scissor-sweep-legs-apart", days_ago=0),
)
