"""The sheet's words: ranges, numbers with their limits, what was good, drills."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest

from lacertus.core.measuring.repfile import RepFile
from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.review.judge import judge_rep
from lacertus.core.review.judgement import Judgement
from lacertus.core.sheets.sheet import dose_words, drills_for, good_of, numbers_of, plain, range_words
from lacertus.core.techniques.practice import Dose, Drill
from lacertus.library import shipped, shipped_technique
from lacertus.library.sample import faultless, faulty
from tests.core.build import drawing

KICK = shipped_technique("front-kick")
ASKED = next(one for one in KICK.checkpoints if one.id == "leg_straight")
assert ASKED is not None


def clearly(rep: RepFile) -> tuple[Judgement, ...]:
    """Judged as a drawing, of which nothing leans out of the picture."""
    return judge_rep(KICK, rep, drawing(KICK, rep))


def judgement(verdict: Verdict, value: float | None = 150.0, **more: Any) -> Judgement:
    found = next(j for j in clearly(faultless(KICK)) if j.id == "leg_straight")
    return replace(found, verdict=verdict, value=value, uncertainty=4.0, unit="deg", within=(160.0, None), **more)


@pytest.mark.parametrize(
    ("within", "unit", "words"),
    [
        ((None, 85.0), "deg", "at most 85°"),
        ((60.0, 330.0), "ms", "60 ms to 330 ms"),
        ((0.3, None), "shank", "at least 0.30 of a shank length"),
        ((0.1, 0.25), "height", "10 % of body height to 25 % of body height"),
        ((None, 0.05), "share", "at most 5 %"),
        ((-12.0, None), "deg", "at least −12°"),
        (None, "deg", ""),
    ],
)
def test_ranges_in_words(within: Any, unit: str, words: str) -> None:
    assert range_words(within, unit) == words


def test_numbers_say_their_limits_and_what_cannot_be_told() -> None:
    reps = [
        (1, judgement(Verdict.MISSED)),
        (2, judgement(Verdict.BORDERLINE, 157.0)),
        (3, judgement(Verdict.NOT_SEEN, None)),
        (4, judgement(Verdict.MET, 171.0)),
    ]
    assert numbers_of(reps) == (
        "Missed in 1 of 2 reps. Wanted: at least 160°.",
        "Rep 1: 150°, give or take 4.0°. Not as wanted.",
        "Rep 2: 157°, give or take 4.0°. Too near to say.",
        "Rep 4: 171°, give or take 4.0°. As wanted.",
        "Not seen in rep 3: the film does not tell.",
    )


def test_what_was_judged_by_eye_is_said_to_be() -> None:
    assert numbers_of([(1, replace(judgement(Verdict.MISSED), kind="seen"))]) == ("Missed. Judged by eye.",)


def test_good_is_what_held_in_every_rep_the_weightiest_first() -> None:
    good = clearly(faultless(KICK))
    found = good_of(KICK, [good, good])
    assert len(found) == 3
    assert all(line.endswith(": in every rep.") for line in found)
    weights = [next(c.weight for c in KICK.checkpoints if line.startswith(c.ask)) for line in found]
    assert weights == sorted(weights, reverse=True)


def test_what_was_missed_once_is_not_good() -> None:
    good, bad = clearly(faultless(KICK)), clearly(faulty(KICK, "leg_straight"))
    assert not any(line.startswith(ASKED.ask) for line in good_of(KICK, [good, bad]))


@pytest.mark.parametrize(("policy", "words"), [("both", "Both sides"), ("left", "Left side only"), ("right", "Right side only")])
def test_drills_answer_the_fault_and_name_the_sides(policy: str, words: str) -> None:
    (drill, *_) = drills_for(KICK, "low-chamber", policy)
    assert drill.name == "Chamber holds at the wall"
    assert drill.sides.startswith(words)
    assert drills_for(KICK, "no-such-fault", policy) == ()


def test_a_value_below_nothing_keeps_its_sign() -> None:
    assert plain(-0.12, "thigh") == "−0.12 of a thigh length"


def test_a_dose_is_said_on_the_sheet_as_everywhere() -> None:
    drills = [drill for technique in shipped() for drill in technique.drills if isinstance(drill, Drill)]
    assert len(drills) > 50
    assert [(dose_words(drill), drill.dose_words) for drill in drills if dose_words(drill) != drill.dose_words] == []


@pytest.mark.parametrize(
    ("dose", "words"),
    [
        ({"sets": 1, "reps": 1, "sides": "one"}, "once"),
        ({"sets": 3, "reps": 6, "sides": "both"}, "3 × 6 on both sides"),
        ({"sets": 1, "reps": 8, "sides": "both", "turns": 2}, "8 times on both sides each in turn"),
        ({"sets": 2, "reps": 5, "sides": "one", "turns": 3}, "2 × 5, 3 times over"),
        ({"rounds": 3, "seconds": 20, "rest_s": 20}, "3 rounds of 20 s, 20 s rest"),
        ({"rounds": 1, "seconds": 90}, "1.5 min"),
    ],
)
def test_doses_by_hand(dose: dict[str, Any], words: str) -> None:
    drill = next(one for one in KICK.drills if isinstance(one, Drill))
    said = drill.model_copy(update={"dose": Dose.model_validate(dose)})
    assert dose_words(said) == said.dose_words == words
