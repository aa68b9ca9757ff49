"""A move: one technique as motion, with the faults that can be put into it and the events found in it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

from lacertus.core.measuring.body import BodyName
from lacertus.studio.body.figure import Joints
from lacertus.studio.body.motion import Flight, Step
from lacertus.studio.body.vectors import Vector

Unit = Literal["ms", "deg", "cm"]
Moment = Mapping[str, Joints]
"""Both figures at one time, by body."""


@dataclass(frozen=True, kw_only=True)
class Fault:
    """A fault that a script can switch on, by so many milliseconds, degrees or centimetres."""

    code: str
    unit: Unit
    most: float
    says: str
    options: Mapping[str, str] = field(default_factory=dict)
    """The choices with which it shows, where it does not with the usual ones."""


@dataclass(frozen=True, kw_only=True)
class How:
    """How a rep is done: its faults by code, its options, the partner’s reaction, its pace (2 takes twice as long)."""

    faults: Mapping[str, float] = field(default_factory=dict)
    options: Mapping[str, str] = field(default_factory=dict)
    reaction: str = ""
    slow: float = 1.0

    def fault(self, code: str) -> float:
        """Degree of a fault, 0 where it is not put in; milliseconds come as seconds of full pace."""
        return self.faults.get(code, 0.0)


Anchor = Callable[[Joints, Joints], Vector]
"""Where a hand or foot is held, from one's own joints and the other's."""


@dataclass(frozen=True, kw_only=True)
class Finder:
    """How an event's instant is found in the motion: in a window around a step, by a measure of the moment.

    `rule`: the time at which the measure is highest or lowest, or first rises or falls through `level`;
    `step` takes the step's own time.
    """

    step: str
    rule: Literal["highest", "lowest", "rises", "falls", "step"] = "step"
    measure: Callable[[Moment], float] | None = None
    level: float = 0.0
    before_s: float = 0.16
    after_s: float = 0.16
    again: tuple[str, ...] = ()
    """Later steps at which it happens once more, each marked at the step's own time."""


@dataclass(frozen=True, kw_only=True)
class Move:
    """One technique as motion. Written for the right side, the performer facing +x, the partner −x."""

    technique: str
    partner: bool
    faults: tuple[Fault, ...]
    options: Mapping[str, tuple[str, ...]]
    """The choices that the motion can show, the usual one first; a script that asks for another is refused."""
    steps: Callable[[How], Sequence[Step]]
    events: Callable[[How], Mapping[str, Finder]]
    holds: Mapping[str, Mapping[str, Anchor]] = field(default_factory=dict)
    reactions: Mapping[str, Mapping[str, Mapping[str, Anchor]]] = field(default_factory=dict)
    """The partner's reactions that the motion can show, each with what is held otherwise then, by body and limb."""
    goes_with: Mapping[str, Mapping[str, str]] = field(default_factory=dict)
    """The choices that the answer to a reaction comes to, by reaction; a script that says otherwise counts."""
    held_by_choice: Mapping[str, Mapping[str, Mapping[str, Anchor]]] = field(default_factory=dict)
    """What is held otherwise with a choice, by its name, body and limb."""
    flights: tuple[tuple[str, str, str], ...] = ()
    """Body, and the steps at which it takes off and lands; a rep without these steps stays on the mat."""
    middle: tuple[float, float] = (0.0, 0.0)
    """What the camera looks at on the mat, metres."""
    height: float = 0.86
    """And how high, metres."""
    rung: str = "static_partner"
    stance: Literal["same_lead", "opposite_lead"] | None = None
    """How the two stand to each other, where the technique speaks of the lead side."""
    turns: int = 0
    """Whole turns that the performer has made by the end of a rep, anticlockwise."""
    turns_by_choice: Mapping[str, int] = field(default_factory=dict)
    """And where a choice turns more often, by its name."""
    flips: Mapping[str, int] = field(default_factory=dict)
    """Whole turns forward over the own head that a body has made by the end of a rep, by body; none where the partner reacts."""
    gives: BodyName | None = None
    """On the mat, the body that gives way where the two would sink into each other; none where they stand."""
    contacts: Mapping[str, tuple[tuple[str, str], ...]] = field(default_factory=dict)
    """What touches at an event of a clean rep: solids (contact.py) as `performer.pelvis`, or `mat`."""
    facing_deg: float = 0.0
    """How the pair is turned for a camera at its side, so that it sees fronts and not backs."""

    def held(self, how: How, body: str) -> Mapping[str, Anchor]:
        """What a body holds on to in a rep."""
        found: dict[str, Anchor] = dict(self.holds.get(body, {}))
        for choice in how.options.values():
            found.update(self.held_by_choice.get(choice, {}).get(body, {}))
        found.update(self.reactions.get(how.reaction, {}).get(body, {}))
        return found

    def turns_in(self, how: How) -> int:
        """Whole turns that the performer makes in a rep."""
        return next((self.turns_by_choice[choice] for choice in how.options.values() if choice in self.turns_by_choice), self.turns)

    def fault(self, code: str) -> Fault | None:
        return next((fault for fault in self.faults if fault.code == code), None)


def flights_of(move: Move, steps: Sequence[Step]) -> list[Flight]:
    """The stretches of a rep in which a body is in the air."""
    at = {step.name: step.at for step in steps if step.name}
    return [Flight(body=body, start_s=at[a], end_s=at[b]) for body, a, b in move.flights if a in at and b in at]


def merge(*parts: Mapping[str, float]) -> dict[str, float]:
    """Channels put together; later parts count."""
    found: dict[str, float] = {}
    for part in parts:
        found |= part
    return found
