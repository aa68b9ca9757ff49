"""The questions that a film can be asked.

The frame of an event; an angle; what was missed; which of two was right; was the way open; which answer was right.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import Literal, TypeVar

import numpy as np
from pydantic import Field

from lacertus.core.eye.facts import Come, Facts, Spot
from lacertus.core.eye.phrases import EyePhrase, Told, as_written, told
from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.model import Record
from lacertus.core.review.judgement import shown
from lacertus.core.techniques.checkpoint import Checkpoint
from lacertus.core.techniques.definition import Technique
from lacertus.core.techniques.reaction import Reaction

Kind = Literal["frame", "angle", "missed", "right", "open", "answer"]
KINDS: tuple[Kind, ...] = ("frame", "angle", "missed", "right", "open", "answer")
NONE = "none"
"""The choice that says that nothing was missed."""
FIRST, SECOND, YES, NO = "first", "second", "yes", "no"
CHOICES = 4
"""Among so many checkpoints or answers one is chosen, beside “none”. A convention."""
LARGEST_U_DEG = 4.0
"""An angle is asked only where it is known to this. A convention."""


class Choice(Record):
    """Something that can be chosen."""

    id: str
    says: Told


class Question(Record):
    """What is asked of a film, or of two. `frame` is shown still; without one the film runs from `first` to `last`."""

    kind: Kind
    technique: str
    subject: str = Field(
        default="", description="The event, checkpoint or reaction that it is about; none where it is about the rep"
    )
    says: Told
    choices: tuple[Choice, ...] = ()
    frame: int | None = None
    first: int
    last: int
    low: float | None = Field(default=None, description="An angle's wanted range, degrees")
    high: float | None = None


class Truth(Record):
    """What is so: the frame, the angle in degrees, or the right choice; with why, and what is drawn over which frame."""

    frame: int | None = None
    value: float | None = None
    choice: str | None = None
    says: Told
    why: tuple[Told, ...] = ()
    drawn: tuple[Spot, ...] = ()


Asked = tuple[Question, Truth]
T = TypeVar("T")


def questions_of(technique: Technique, facts: Facts, seed: int) -> tuple[Asked, ...]:
    """Every question that one film can be asked. The same seed gives the same choices, in the same order."""
    return (
        *_frames(technique, facts),
        *_angles(technique, facts),
        *_missed(technique, facts, np.random.default_rng(seed)),
        *_open(technique, facts),
        *_answers(technique, facts, np.random.default_rng(seed)),
    )


def which_was_right(technique: Technique, one: Facts, other: Facts) -> Asked | None:
    """Ask which of two films shows the technique done right; None where not exactly one of them does."""
    faults = [_one_missed(technique, facts) for facts in (one, other)]
    clean = [_is_clean(facts) for facts in (one, other)]
    if sorted(clean) != [False, True]:
        return None
    wrong = faults[0] if clean[1] else faults[1]
    if wrong is None:
        return None
    asked = technique.asked(wrong.checkpoint)
    question = Question(
        kind="right",
        technique=technique.id,
        says=told(EyePhrase.WHICH_WAS_RIGHT),
        choices=(Choice(id=FIRST, says=told(EyePhrase.THE_FIRST)), Choice(id=SECOND, says=told(EyePhrase.THE_SECOND))),
        first=one.first,
        last=one.last,
    )
    right, phrase = (SECOND, EyePhrase.SECOND_WAS_RIGHT) if clean[1] else (FIRST, EyePhrase.FIRST_WAS_RIGHT)
    says = told(phrase, missed=asked.ask if asked is not None else wrong.checkpoint)
    return question, Truth(choice=right, says=says, why=_why(technique, wrong), frame=wrong.frame, drawn=wrong.spots)


def _frames(technique: Technique, facts: Facts) -> Iterator[Asked]:
    if facts.fault is None:
        # In real film a coach marked it, with a scatter of their own: no truth to hold another eye against.
        return
    for event, frame in facts.events.items():
        asked = technique.events.get(event)
        if asked is None or not facts.first <= frame <= facts.last:
            continue
        question = Question(
            kind="frame", technique=technique.id, subject=event, says=as_written(asked.mark), first=facts.first, last=facts.last
        )
        says = told(EyePhrase.FRAME, number=str(frame - facts.first + 1))
        yield question, Truth(frame=frame, says=says, why=_sentence(asked.mark), drawn=_near(facts, frame))


def _near(facts: Facts, frame: int) -> tuple[Spot, ...]:
    """Points that are read in a frame: they show what to look at there."""
    return next((came.spots for came in facts.came if came.frame == frame and came.spots), ())


def _angles(technique: Technique, facts: Facts) -> Iterator[Asked]:
    for came in facts.came:
        asked = technique.asked(came.checkpoint)
        if (
            not came.is_angle
            or came.value is None
            or came.frame is None
            or len(came.spots) != 3
            or not isinstance(asked, Checkpoint)
        ):
            continue
        if came.value < 0 or came.u is None or came.u > LARGEST_U_DEG:
            continue
        one, corner, other = came.points
        says = Told(phrase=EyePhrase.HOW_MANY_DEGREES, points={"corner": corner, "one": one, "other": other})
        question = Question(
            kind="angle", technique=technique.id, subject=came.checkpoint, says=says, frame=came.frame,
            first=facts.first, last=facts.last, low=came.low, high=came.high,
        )  # fmt: skip
        (says,) = _wanted(asked, came)
        yield question, Truth(frame=came.frame, value=came.value, says=says, why=_sentence(asked.why), drawn=came.spots)


def _missed(technique: Technique, facts: Facts, chance: np.random.Generator) -> Iterator[Asked]:
    """Which checkpoint was missed, among some that the film shows firmly, or none."""
    missed = _one_missed(technique, facts)
    if missed is None and not _is_clean(facts):
        return
    met = [came for came in facts.came if came.verdict is Verdict.MET and _may_be_asked(technique, came, facts)]
    others = _some(met, CHOICES - (missed is not None), chance)
    if not others:
        return
    among = [*others, *([missed] if missed is not None else [])]
    order = [one.id for one in technique.everything_asked]
    among.sort(key=lambda came: order.index(came.checkpoint))
    choices = [
        Choice(id=came.checkpoint, says=as_written(asked.ask)) for came in among if (asked := technique.asked(came.checkpoint))
    ]
    question = Question(
        kind="missed", technique=technique.id, says=told(EyePhrase.WHICH_WAS_MISSED), first=facts.first,
        last=facts.last, choices=(*choices, Choice(id=NONE, says=told(EyePhrase.NONE_OF_THESE))),
    )  # fmt: skip
    if missed is None:
        yield question, Truth(choice=NONE, says=told(EyePhrase.NONE_WAS_MISSED))
        return
    asked = technique.asked(missed.checkpoint)
    says = told(EyePhrase.MISSED, missed=asked.ask if asked is not None else missed.checkpoint)
    yield (
        question,
        Truth(choice=missed.checkpoint, says=says, why=_why(technique, missed), frame=missed.frame, drawn=missed.spots),
    )


def _open(technique: Technique, facts: Facts) -> Iterator[Asked]:
    """Was the technique open at all (its entry checks), where that is firm."""
    entries = [came for came in facts.came if isinstance(one := technique.asked(came.checkpoint), Checkpoint) and one.entry]
    if facts.fault is None and not all(came.is_measured for came in entries):
        return
    if facts.fault is not None:
        # What the studio shows without a fault is so, also where it cannot be measured.
        entries = [came for came in entries if came.verdict is not Verdict.NOT_SEEN]
    if not entries or any(came.verdict not in (Verdict.MET, Verdict.MISSED) for came in entries):
        return
    shows = next((came for came in entries if came.verdict is Verdict.MISSED), entries[0])
    is_open = shows.verdict is Verdict.MET
    asked = technique.asked(shows.checkpoint)
    question = Question(
        kind="open", technique=technique.id, says=told(EyePhrase.WAS_THE_WAY_OPEN), first=facts.first,
        last=facts.last,
        choices=(Choice(id=YES, says=told(EyePhrase.IT_WAS_OPEN)), Choice(id=NO, says=told(EyePhrase.IT_WAS_NOT_OPEN))),
    )  # fmt: skip
    missed = asked.ask if asked else shows.checkpoint
    says = told(EyePhrase.OPEN) if is_open else told(EyePhrase.NOT_OPEN, missed=missed)
    yield (
        question,
        Truth(choice=YES if is_open else NO, says=says, why=_why(technique, shows), frame=shows.frame, drawn=shows.spots),
    )


def _answers(technique: Technique, facts: Facts, chance: np.random.Generator) -> Iterator[Asked]:
    """Which answer is right for the partner's reaction; the film stops where the reaction shows."""
    reaction = technique.reaction(facts.reaction) if facts.reaction else None
    if reaction is None or reaction.event not in facts.events:
        return
    right = [answer.name for answer in reaction.answers]
    others = [answer.name for answer in reaction.wrong]
    others += [a.name for other in technique.reactions if other.id != reaction.id for a in other.answers if a.name not in right]
    wrong = list(dict.fromkeys(name for name in others if name not in right))
    if not wrong:
        return
    among = _some([*_some(right, 1, chance), *_some(wrong, CHOICES - 1, chance)], CHOICES, chance)
    at = facts.events[reaction.event]
    question = Question(
        kind="answer", technique=technique.id, subject=reaction.id, says=told(EyePhrase.WHICH_ANSWER, reaction=reaction.says),
        first=facts.first, last=min(at, facts.last), choices=tuple(Choice(id=name, says=as_written(name)) for name in among),
    )  # fmt: skip
    truth = next(name for name in among if name in right)
    yield question, Truth(choice=truth, says=as_written(f"{truth}."), why=_sentence(reaction.why), frame=at)


def _some(of: Sequence[T], most: int, chance: np.random.Generator) -> list[T]:
    """At most so many of them, in an order of chance."""
    return [of[i] for i in chance.permutation(len(of))[:most]]


def _one_missed(technique: Technique, facts: Facts) -> Come | None:
    """What was missed: the checkpoint of the fault that was put in; in real film the one that was measured most firmly."""
    missed = [came for came in facts.came if came.verdict is Verdict.MISSED]
    if facts.fault is None:
        # Only one of them is among the choices: the one that is farthest from its range.
        return max((came for came in missed if came.is_measured), key=_beyond, default=None)
    own = (came for came in missed if (asked := technique.asked(came.checkpoint)) is not None and asked.fault.code == facts.fault)
    return next(own, None)


def _beyond(came: Come) -> float:
    """By how many of its standard uncertainties a value lies outside of its range; 0 where it has none, such as an order."""
    if came.value is None or not came.u:
        return 0.0
    below = came.low - came.value if came.low is not None else 0.0
    above = came.value - came.high if came.high is not None else 0.0
    return max(below, above) / came.u


def _may_be_asked(technique: Technique, came: Come, facts: Facts) -> bool:
    """Whether it is known how a checkpoint came out: the studio knows it, in real film a firm reading tells it."""
    return isinstance(technique.asked(came.checkpoint), Checkpoint) and (facts.fault is not None or came.is_measured)


def _is_clean(facts: Facts) -> bool:
    """Whether nothing was missed. Of the studio's film that is known; in real film nothing may be in doubt."""
    if facts.fault is not None:
        return facts.fault == "" and not any(came.verdict is Verdict.MISSED for came in facts.came)
    return all(came.verdict in (Verdict.MET, Verdict.NOT_SEEN) for came in facts.came)


def _why(technique: Technique, came: Come) -> tuple[Told, ...]:
    asked = technique.asked(came.checkpoint)
    if asked is None or isinstance(asked, Reaction):
        return () if asked is None else _sentence(asked.why)
    return (*_wanted(asked, came), *_sentence(asked.why))


def _sentence(text: str) -> tuple[Told, ...]:
    if not text:
        return ()
    return (as_written(text if text.endswith((".", "!", "?")) else f"{text}."),)


def _wanted(asked: Checkpoint, came: Come) -> tuple[Told, ...]:
    """What was measured, and what is wanted, in one sentence; nothing for what is seen by eye."""
    if came.value is None:
        return ()
    phrases = {
        (True, True): EyePhrase.WANTED_BETWEEN,
        (True, False): EyePhrase.WANTED_AT_LEAST,
        (False, True): EyePhrase.WANTED_AT_MOST,
        (False, False): EyePhrase.VALUE,
    }
    known = {"value": came.value, "low": came.low, "high": came.high}
    values = {key: shown(value, came.unit) for key, value in known.items() if value is not None}
    return (told(phrases[came.low is not None, came.high is not None], **values),)


def kinds_in(asked: Iterable[Asked]) -> tuple[tuple[Kind, str], ...]:
    """What kinds of questions there are, each with its subject."""
    return tuple(dict.fromkeys((question.kind, question.subject) for question, _ in asked))
