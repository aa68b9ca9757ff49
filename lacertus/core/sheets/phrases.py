"""What a sheet says in words of its own, in English: what it is translated from. Names and numbers stand in braces."""

from __future__ import annotations

from collections.abc import Callable
from enum import StrEnum

Say = Callable[[str], str]
"""Gives a phrase in another language."""


def in_english(phrase: str) -> str:
    """A phrase as it stands here."""
    return str(phrase)


class Phrase(StrEnum):
    """The phrases of sheets."""

    AT_MOST = "at most {most}"
    AT_LEAST = "at least {least}"
    FROM_TO = "{least} to {most}"
    OF_LENGTH = "{size} of a {part} length"
    OF_HEIGHT = "{size} % of body height"
    MISSED_IN = "Missed in {missed} of {all} reps."
    MISSED = "Missed."
    HELD = "Held."
    BY_EYE = "{counted} Judged by eye."
    WANTED = "{counted} Wanted: {wanted}."
    REP = "Rep {number}: {value}, give or take {spread}. {said}"
    AS_WANTED = "As wanted."
    NOT_AS_WANTED = "Not as wanted."
    TOO_NEAR = "Too near to say."
    FILM_DOES_NOT_TELL = "The film does not tell."
    NOT_ASKED = "Not asked."
    NOT_SEEN_IN = "Not seen in rep {numbers}: the film does not tell."
    IN_EVERY_REP = "{ask}: in every rep."
    IN_THE_ONE = "{ask}: in the one rep that shows it."
    LEFT_ONLY = "Left side only"
    RIGHT_ONLY = "Right side only"
    BOTH_SIDES = "Both sides, the weaker one first and last"
    AT_A_WALL = "at a wall"
    WITH_A_BELT = "with a belt"
    WITH_A_DUMMY = "with a dummy"
    WITH_A_BAG = "with a bag"
    NOT_OPEN_ONE = "Tried where it was not open in {wrong} of {all} rep; how it was done there does not count."
    NOT_OPEN = "Tried where it was not open in {wrong} of {all} reps; how it was done there does not count."
    SEEN_AGAIN = "so that what was practised is seen"
    LOOKED_AT_AGAIN = "what is to be fixed is looked at again then"
    REP_AND_FRAME = "Rep {number}, frame {frame}"
    THIS_IS_HOW = "{whose}: this is how"
    THOUGHT_RIGHT = "I thought it was right"
    FELT_OFF = "I felt it was off"
    TRIED = "tried"
    NOT_TRIED = "not tried yet"
    SURE = "sure"
    UNSURE = "unsure"
    ROUNDS = "{rounds} rounds of {time}"
    REST = "{done}, {rest} rest"
    TIMES = "{reps} times"
    ONCE = "once"
    ON_BOTH_SIDES = "{done} on both sides"
    IN_TURN = "{done} each in turn"
    TIMES_OVER = "{done}, {turns} times over"
    SHANK = "shank"
    THIGH = "thigh"
    FOOT = "foot"
    TRUNK = "trunk"
    FOREARM = "forearm"
    UPPER_ARM = "upper arm"
    SHOULDER_WIDTH = "shoulder width"
    HIP_WIDTH = "hip width"
