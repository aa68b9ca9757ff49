"""What questions for the eye say, in English: what it is translated from. Names and numbers stand in braces.

What a technique's author wrote (an event, a checkpoint, a reason) stands among it as it was written.
"""

from __future__ import annotations

from enum import StrEnum

from lacertus.core.measuring.body import CENTRE_OF_MASS
from lacertus.core.model import Record
from lacertus.core.phrases import Say, in_english

PARTNER = "partner."
"""What the names of the partner's points begin with."""


class EyePhrase(StrEnum):
    """The phrases of questions and of what is so."""

    WHICH_WAS_RIGHT = "Which of the two was right?"
    THE_FIRST = "The first"
    THE_SECOND = "The second"
    FIRST_WAS_RIGHT = "The first. In the other this was missed: {missed}."
    SECOND_WAS_RIGHT = "The second. In the other this was missed: {missed}."
    FRAME = "Frame {number}."
    HOW_MANY_DEGREES = "How many degrees is the angle at the {corner}, between {one} and {other}?"
    WHICH_WAS_MISSED = "Which of these was missed?"
    NONE_OF_THESE = "None of these"
    NONE_WAS_MISSED = "None of these was missed."
    MISSED = "Missed: {missed}."
    WAS_THE_WAY_OPEN = "Was the way open?"
    IT_WAS_OPEN = "It was open"
    IT_WAS_NOT_OPEN = "It was not"
    OPEN = "It was open."
    NOT_OPEN = "It was not open. This was missed: {missed}."
    WHICH_ANSWER = "{reaction}. Which answer is right?"
    VALUE = "It is {value}."
    WANTED_BETWEEN = "It is {value}; wanted is between {low} and {high}."
    WANTED_AT_LEAST = "It is {value}; wanted is at least {low}."
    WANTED_AT_MOST = "It is {value}; wanted is at most {high}."


class PointPhrase(StrEnum):
    """The names of points of a body."""

    OF_THE_PARTNER = "{point} of the partner"
    ON_A_SIDE = "{side} {part}"
    LEFT = "left"
    RIGHT = "right"
    WORKING = "working"
    OTHER = "other"
    LEAD = "lead"
    REAR = "rear"
    EAR = "ear"
    SHOULDER = "shoulder"
    ELBOW = "elbow"
    WRIST = "wrist"
    HAND = "hand"
    HIP = "hip"
    KNEE = "knee"
    ANKLE = "ankle"
    HEEL = "heel"
    TOE = "toe"
    HEAD_TOP = "top of the head"
    NOSE = "nose"
    CHIN = "chin"
    NECK = "neck"
    MID_SHOULDER = "middle of the shoulders"
    MID_HIP = "middle of the hips"
    MID_FOOT = "middle of the feet"
    CENTRE_OF_MASS = "centre of mass"


_WHOLE = {
    "head_top": PointPhrase.HEAD_TOP,
    "nose": PointPhrase.NOSE,
    "chin": PointPhrase.CHIN,
    "neck": PointPhrase.NECK,
    "mid_shoulder": PointPhrase.MID_SHOULDER,
    "mid_hip": PointPhrase.MID_HIP,
    "mid_foot": PointPhrase.MID_FOOT,
    CENTRE_OF_MASS: PointPhrase.CENTRE_OF_MASS,
}
_OF_TWO = frozenset({*PointPhrase} - {*_WHOLE.values(), PointPhrase.OF_THE_PARTNER, PointPhrase.ON_A_SIDE})


def point_name(point: str, say: Say = in_english) -> str:
    """A point such as `working_knee`, in words; a place between two points, or a name of nobody's, as it is written."""
    if point.startswith(PARTNER):
        return say(PointPhrase.OF_THE_PARTNER).format(point=point_name(point.removeprefix(PARTNER), say))
    if point in _WHOLE:
        return say(_WHOLE[point])
    side, _, part = point.partition("_")
    if side in _OF_TWO and part in _OF_TWO:
        return say(PointPhrase.ON_A_SIDE).format(side=say(side), part=say(part))
    return point.replace("_", " ")


class Told(Record):
    """A sentence: a phrase with what stands in its braces, names of points apart; or `words` that somebody wrote."""

    phrase: EyePhrase | None = None
    words: str = ""
    values: dict[str, str] = {}
    points: dict[str, str] = {}

    def said(self, say: Say = in_english) -> str:
        """The sentence in another language, or as it stands in English."""
        if self.phrase is None:
            return self.words
        return say(self.phrase).format(**self.values, **{key: point_name(one, say) for key, one in self.points.items()})


def as_written(words: str) -> Told:
    """What somebody wrote, which is not translated."""
    return Told(words=words)


def told(phrase: EyePhrase, **values: str) -> Told:
    """A phrase with its values."""
    return Told(phrase=phrase, values=values)
