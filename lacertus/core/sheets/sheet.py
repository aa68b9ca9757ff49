"""The review sheet: what a student takes home of a review, in plain words. At most two fixes."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field

from lacertus.core.corrections.shapes import Shape
from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.model import Record
from lacertus.core.phrases import Say, in_english
from lacertus.core.review.choice import RepChoice
from lacertus.core.review.judgement import Judgement, shown
from lacertus.core.sheets.phrases import Phrase
from lacertus.core.techniques.definition import Technique
from lacertus.core.techniques.practice import Dose, Drill
from lacertus.core.techniques.vocabulary import Wanted

MOST_GOOD = 3
MOST_NUMBERS = 6


class Picture(Record):
    """A still with what is drawn on it. `correction` and `of` name the stored picture: the frame, or what stands beside it.

    `film` says that there is a film of it besides.
    """

    correction: str
    of: Literal["still", "beside"]
    width: int
    height: int
    caption: str
    shapes: tuple[Shape, ...] = ()
    film: bool = False


class SheetDrill(Record):
    """A drill that answers a fix: what, how much, on which sides, and alone."""

    name: str
    how: str
    dose: str
    sides: str
    solo: str | None = None


class SheetFix(Record):
    """One thing to work on."""

    technique: str
    technique_name: str
    checkpoint: str
    ask: str
    fault: str
    cues: tuple[str, ...]
    why: str
    reason: str
    numbers: tuple[str, ...]
    pictures: tuple[Picture, ...] = ()
    drills: tuple[SheetDrill, ...] = ()
    safety: bool = False
    entry: bool = False
    """It asks whether the technique was open at all: a choice, not how it was done."""


class Sheet(Record):
    """Everything on the sheet. Days are ISO dates."""

    lacertus_sheet: Literal[1] = 1
    language: str = "en"
    """What it says in words of its own is in this language; what the academy wrote stays as it wrote it."""
    academy: str
    coach: str
    student: str
    filmed_on: str
    techniques: tuple[str, ...]
    reps: int
    good: tuple[str, ...]
    choice: str = ""
    """How often it was tried where it was not open, in a sentence; empty where it never was."""
    fixes: Annotated[tuple[SheetFix, ...], Field(max_length=2)]
    question: str = ""
    answer: str = ""
    next_on: str | None = None
    next_why: str = ""
    cautions: tuple[str, ...] = ()
    note: str = ""


def range_words(within: Wanted | None, unit: str | None, say: Say = in_english) -> str:
    """The wanted range in words: “at most 85°”, “60 ms to 330 ms”; empty where there is none."""
    low, high = within or (None, None)
    if low is None and high is None:
        return ""
    phrase = Phrase.AT_MOST if low is None else Phrase.AT_LEAST if high is None else Phrase.FROM_TO
    return say(phrase).format(least=plain(low, unit, say), most=plain(high, unit, say))


def plain(value: float | None, unit: str | None, say: Say = in_english) -> str:
    """A value for someone who does not know the measures: body units with “of a …”, shares as per cent."""
    if value is None:
        return ""
    sign = "−" if value < 0 else ""
    size = abs(value)
    if unit == "share":
        return f"{sign}{100 * size:.0f} %"
    if unit in ("deg", "ms", "frames", "s", "cm", "m", None):
        return sign + shown(size, unit)
    bare = unit.rpartition(".")[2].replace("_", " ")
    if bare == "height":
        return say(Phrase.OF_HEIGHT).format(size=f"{sign}{100 * size:.0f}")
    return say(Phrase.OF_LENGTH).format(size=f"{sign}{size:.2f}", part=say(bare))


def numbers_of(reps: Sequence[tuple[int, Judgement]], say: Say = in_english) -> tuple[str, ...]:
    """What was measured of a checkpoint or a reaction in each rep, with its limits, in sentences; by eye it is said so."""
    judged = [(number, j) for number, j in reps if j.verdict is not Verdict.NOT_ASKED]
    measured = [(number, j) for number, j in judged if j.value is not None and j.uncertainty is not None and j.kind != "seen"]
    misses = sum(j.counts_as_missed for _, j in judged)
    told = sum(j.is_exposure for _, j in judged)
    phrase = Phrase.MISSED_IN if told > 1 else Phrase.MISSED if misses else Phrase.HELD
    counted = say(phrase).format(missed=misses, all=told)
    if not measured:
        return (say(Phrase.BY_EYE).format(counted=counted),)
    wanted = range_words(next((j.within for _, j in measured if j.within), None), measured[0][1].unit, say)
    lines = [say(Phrase.WANTED).format(counted=counted, wanted=wanted) if wanted else counted]
    for number, j in measured[:MOST_NUMBERS]:
        assert j.value is not None and j.uncertainty is not None
        value, spread = plain(j.value, j.unit, say), plain(j.uncertainty, j.unit, say)
        lines.append(say(Phrase.REP).format(number=number, value=value, spread=spread, said=say(_SAID[j.verdict])))
    unseen = [str(number) for number, j in judged if j.verdict is Verdict.NOT_SEEN and j.value is None]
    if unseen:
        lines.append(say(Phrase.NOT_SEEN_IN).format(numbers=", ".join(unseen)))
    return tuple(lines)


_SAID = {
    Verdict.MET: Phrase.AS_WANTED,
    Verdict.MISSED: Phrase.NOT_AS_WANTED,
    Verdict.BORDERLINE: Phrase.TOO_NEAR,
    Verdict.NOT_SEEN: Phrase.FILM_DOES_NOT_TELL,
    Verdict.NOT_ASKED: Phrase.NOT_ASKED,
}


def good_of(technique: Technique, reps: Sequence[Sequence[Judgement]], say: Say = in_english) -> tuple[str, ...]:
    """What held in every rep that it was judged in, the weightiest first; of one rep as well as of several."""
    found: list[tuple[float, int, str]] = []
    for order, asked in enumerate(technique.asked_in_order):
        own = [j for rep in reps for j in rep if j.id == asked.id and j.verdict is not Verdict.NOT_ASKED]
        met = sum(j.verdict is Verdict.MET for j in own)
        if met and met == sum(j.is_exposure for j in own):
            phrase = Phrase.IN_EVERY_REP if met > 1 else Phrase.IN_THE_ONE if len(reps) > 1 else None
            text = f"{asked.ask}." if phrase is None else say(phrase).format(ask=asked.ask)
            found.append((-asked.weight - asked.core, order, text))
    return tuple(text for _, _, text in sorted(found)[:MOST_GOOD])


def drills_for(technique: Technique, fault: str, side_policy: str, say: Say = in_english) -> tuple[SheetDrill, ...]:
    """The technique's drills that answer a fault, each with the sides that the student trains."""
    sides = say({"left": Phrase.LEFT_ONLY, "right": Phrase.RIGHT_ONLY}.get(side_policy, Phrase.BOTH_SIDES))
    own = [drill for drill in technique.drills if isinstance(drill, Drill) and fault in drill.answers]
    return tuple(
        SheetDrill(name=one.name, how=one.how, dose=dose_words(one, say), sides=sides, solo="; ".join(_alone(one, say)) or None)
        for one in own[:2]
    )


def dose_words(drill: Drill, say: Say = in_english) -> str:
    """How much of a drill, as people say it; a dose in somebody's own words stays as it is."""
    return drill.dose if not isinstance(drill.dose, Dose) else words_of_dose(drill.dose, say)


def words_of_dose(dose: Dose, say: Say = in_english) -> str:
    """A dose as people say it."""
    if dose.seconds is not None:
        done = say(Phrase.ROUNDS).format(rounds=dose.rounds, time=_time(dose.seconds)) if dose.rounds > 1 else _time(dose.seconds)
        return say(Phrase.REST).format(done=done, rest=_time(dose.rest_s)) if dose.rest_s else done
    done = f"{dose.sets} × {dose.reps}"
    if dose.sets == 1:
        done = say(Phrase.ONCE) if dose.reps == 1 else say(Phrase.TIMES).format(reps=dose.reps)
    if dose.sides == "both":
        done = say(Phrase.ON_BOTH_SIDES).format(done=done)
    if dose.turns > 1:
        done = say(Phrase.IN_TURN if dose.turns == 2 else Phrase.TIMES_OVER).format(done=done, turns=dose.turns)
    return done


def _time(seconds: float) -> str:
    return f"{seconds / 60:g} min" if seconds >= 60 and seconds % 30 == 0 else f"{seconds:g} s"


def _alone(drill: Drill, say: Say) -> list[str]:
    """The solo form of a drill, by what it takes."""
    return [how if equipment == "none" else f"{how} ({say(_WITH[equipment])})" for equipment, how in drill.alone.items()]


_WITH = {"wall": Phrase.AT_A_WALL, "belt": Phrase.WITH_A_BELT, "dummy": Phrase.WITH_A_DUMMY, "bag": Phrase.WITH_A_BAG}


def choice_words(choices: Sequence[RepChoice | None], say: Say = in_english) -> str:
    """How often the technique was tried where it was not open; empty where it never was."""
    wrong = sum(choice is RepChoice.WRONG for choice in choices)
    told = sum(choice in (RepChoice.WRONG, RepChoice.OPEN) for choice in choices)
    if not wrong:
        return ""
    return say(Phrase.NOT_OPEN_ONE if told == 1 else Phrase.NOT_OPEN).format(wrong=wrong, all=told)
