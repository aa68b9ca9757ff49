"""How a technique is practised: drills with their dose, starts, and layers."""

from __future__ import annotations

import math
from typing import Literal, Self

from pydantic import Field, model_validator

from lacertus.core.model import Record
from lacertus.core.techniques.vocabulary import Equipment, Identifier, Resistance, Text

REP_S = 4.0
"""Time that one rep of a drill takes, seconds, where a student's own is not known. A convention."""
CHANGE_OVER_S = 60.0
"""Time to change over to a drill, seconds. A convention."""


class Dose(Record):
    """How much of a drill: sets of reps, or rounds of seconds.

    `sides: both` counts two. `turns` is how many times the whole is done, as when two partners take turns.
    """

    sets: int = Field(default=1, ge=1, le=1000)
    reps: int | None = Field(default=None, ge=1, le=1000)
    sides: Literal["one", "both"] = "one"
    turns: int = Field(default=1, ge=1, le=100)
    rounds: int = Field(default=1, ge=1, le=1000)
    seconds: float | None = Field(default=None, gt=0, le=36_000)
    rest_s: float = Field(default=0.0, ge=0, le=36_000)

    @model_validator(mode="after")
    def _is_one_or_the_other(self) -> Self:
        in_reps = self.reps is not None or (self.sets, self.sides, self.turns) != (1, "one", 1)
        in_rounds = self.seconds is not None or (self.rounds, self.rest_s) != (1, 0.0)
        if in_reps and in_rounds:
            raise ValueError("a dose is {sets, reps, sides, turns} or {rounds, seconds, rest_s}, not both")
        if (self.reps is None) == (self.seconds is None):
            raise ValueError("a dose needs reps (with sets, sides, turns) or seconds (with rounds, rest_s)")
        return self

    def seconds_taken(self, rep_s: float = REP_S) -> float:
        """Time that it takes, seconds, with the change over: sets × reps × s × sides × turns, or rounds × (seconds + rest)."""
        if self.seconds is not None:
            return self.rounds * (self.seconds + self.rest_s) + CHANGE_OVER_S
        assert self.reps is not None
        return self.sets * self.reps * rep_s * (2 if self.sides == "both" else 1) * self.turns + CHANGE_OVER_S

    @property
    def minutes(self) -> float:
        """The same in minutes, rounded up to half ones."""
        return math.ceil(self.seconds_taken() / 30 - 1e-9) / 2

    @property
    def words(self) -> str:
        """The dose as people say it: “3 × 6 on both sides”, “3 rounds of 20 s, 20 s rest”."""
        if self.seconds is not None:
            rounds = f"{self.rounds} rounds of " if self.rounds > 1 else ""
            rest = f", {_seconds(self.rest_s)} rest" if self.rest_s else ""
            return f"{rounds}{_seconds(self.seconds)}{rest}"
        counted = f"{self.sets} × {self.reps}" if self.sets > 1 else f"{self.reps} times" if self.reps != 1 else "once"
        sides = " on both sides" if self.sides == "both" else ""
        turns = " each in turn" if self.turns == 2 else f", {self.turns} times over" if self.turns > 2 else ""
        return f"{counted}{sides}{turns}"


def _seconds(value: float) -> str:
    return f"{value / 60:g} min" if value >= 60 and value % 30 == 0 else f"{value:g} s"


class Drill(Record):
    """A drill for some faults: where it starts, how much of it, what the partner does and how much they resist, and alone.

    `objective` makes it a game: what scores. `minutes`, `space`, `resistance_from` and a dose or solo form in words stand in
    definitions that were stored before doses were data; they are read, and a file is not accepted with them.
    """

    id: Identifier
    name: Text
    answers: tuple[str, ...] = Field(default=(), alias="for")
    how: Text
    start: str | None = None
    dose: Dose | Text
    objective: Text | None = None
    resistance: Resistance = "none"
    resists_from: str | None = None
    partner_task: Text | None = None
    solo: dict[Equipment, Text] | Text | None = None
    space_m: float | None = Field(default=None, gt=0, le=100)
    minutes: float | None = Field(default=None, gt=0)
    space: str | None = None
    resistance_from: str | None = None

    @property
    def dose_words(self) -> str:
        return self.dose.words if isinstance(self.dose, Dose) else self.dose

    @property
    def takes_minutes(self) -> float | None:
        """How long it takes; None where an older definition does not say."""
        return self.dose.minutes if isinstance(self.dose, Dose) else self.minutes

    @property
    def alone(self) -> dict[str, str]:
        """The solo form by equipment."""
        if self.solo is None:
            return {}
        return {"none": self.solo} if isinstance(self.solo, str) else {str(key): how for key, how in self.solo.items()}


class Start(Record):
    """A position that the technique is drilled from: the phase it begins at, and from when and how much the partner resists."""

    id: Identifier
    phase: str
    says: Text
    resists_from: str | None = None
    resistance: Resistance = "none"


class Layer(Record):
    """What is looked at in one step of teaching: some checkpoints and reactions, or all; nothing that is read after `until`."""

    id: Identifier
    name: Text
    checkpoints: tuple[str, ...] | Literal["all"]
    until: str | None = None

    def lists(self, asked_id: str) -> bool:
        return self.checkpoints == "all" or asked_id in self.checkpoints
