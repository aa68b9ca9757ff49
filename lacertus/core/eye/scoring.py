"""How an answer is held against the truth."""

from __future__ import annotations

from enum import IntEnum

from pydantic import Field

from lacertus.core.errors import BadInput
from lacertus.core.eye.facts import Facts
from lacertus.core.eye.questions import Question, Truth
from lacertus.core.model import Record

EASY_MS, HIT_MS, NEAR_MS = 20.0, 50.0, 100.0
"""An event that is marked within `HIT_MS` is a hit: three frames at 60 a second. Conventions, as are the next."""
EASY_DEG, HIT_DEG, NEAR_DEG = 2.5, 5.0, 10.0


class Grade(IntEnum):
    """How well it went, for when it is asked again."""

    AGAIN = 1
    HARD = 2
    GOOD = 3
    EASY = 4


class Given(Record):
    """An answer: a frame; degrees, said before the wanted range was shown and after; or a choice."""

    frame: int | None = Field(default=None, ge=0, le=100_000)
    before: float | None = Field(default=None, ge=0, le=180)
    after: float | None = Field(default=None, ge=0, le=180)
    choice: str | None = Field(default=None, max_length=200)


class Scored(Record):
    """How far an answer is off: `error` is given − true, in frames and milliseconds, or in degrees; none of a choice.

    `after` is the error of the angle that was said once the wanted range was shown.
    """

    hit: bool
    grade: Grade
    frames: int | None = None
    ms: float | None = None
    degrees: float | None = None
    after: float | None = None


def score(question: Question, truth: Truth, facts: Facts, given: Given) -> Scored:
    """Hold an answer against the truth.

    Raises:
        BadInput: it is no answer to this question.
    """
    if question.kind == "frame":
        return _frame(question, truth, facts, given)
    if question.kind == "angle":
        return _angle(truth, given)
    if given.choice is None or given.choice not in {choice.id for choice in question.choices}:
        raise BadInput("this answer is none of the choices; nothing was stored")
    hit = given.choice == truth.choice
    return Scored(hit=hit, grade=Grade.GOOD if hit else Grade.AGAIN)


def _frame(question: Question, truth: Truth, facts: Facts, given: Given) -> Scored:
    if given.frame is None or truth.frame is None or not question.first <= given.frame <= question.last:
        raise BadInput("this answer is no frame of the film; nothing was stored")
    frames = given.frame - truth.frame
    ms = 1000 * (facts.times_s[given.frame] - facts.times_s[truth.frame])
    # One frame off is as near as anybody can be told to be, however slow the film.
    off = round(abs(ms))
    hit = off <= HIT_MS or abs(frames) <= 1
    grade = _grade(off <= EASY_MS or frames == 0, hit, off <= NEAR_MS)
    return Scored(hit=hit, grade=grade, frames=frames, ms=round(ms, 3))


def _angle(truth: Truth, given: Given) -> Scored:
    if given.before is None or truth.value is None:
        raise BadInput("this answer is no angle; nothing was stored")
    off = given.before - truth.value
    after = None if given.after is None else round(given.after - truth.value, 3)
    grade = _grade(abs(off) <= EASY_DEG, abs(off) <= HIT_DEG, abs(off) <= NEAR_DEG)
    return Scored(hit=abs(off) <= HIT_DEG, grade=grade, degrees=round(off, 3), after=after)


def _grade(easy: bool, hit: bool, near: bool) -> Grade:
    return Grade.EASY if easy else Grade.GOOD if hit else Grade.HARD if near else Grade.AGAIN
