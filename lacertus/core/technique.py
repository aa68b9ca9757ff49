"""The technique definition: what is asked of a rep, written once for both sides."""

from __future__ import annotations

from typing import Annotated, Any, Literal, Self

from pydantic import Field, SerializeAsAny, ValidationError, field_validator, model_validator

from lacertus.core.errors import BadTechnique, Problem
from lacertus.core.measures import KINDS, Measure
from lacertus.core.model import Record, problems_of
from lacertus.core.timebase import Edge

Identifier = Annotated[str, Field(pattern=r"^[a-z][a-z0-9]*([-_][a-z0-9]+)*$")]
Text = Annotated[str, Field(min_length=1, max_length=400)]
Wanted = tuple[float | None, float | None]

FAMILIES = (
    "throw", "takedown entry", "sweep", "back take", "guard work", "submission", "fall", "kick", "position",
)  # fmt: skip
FAULT_FAMILIES = (
    "out of order", "rushed", "late", "not together", "half range", "no return", "wide path",
    "wrong direction", "no load", "posture lost", "base wrong", "level wrong", "distance wrong",
    "space left", "grip or hand position", "limb exposed", "gaze wrong", "facing wrong", "telegraphed",
    "half-hearted", "held too long", "wrong choice", "unsafe head", "unsafe arm", "unsafe knee",
    "unsafe neck", "control lost",
)  # fmt: skip
USUAL_LADDER = ("solo", "static_partner", "moving", "light", "firm", "live")


class Names(Record):
    main: Text
    aliases: tuple[Text, ...] = ()


class Choice(Record):
    name: Text
    purpose: Text = Field(alias="for")
    cautions: tuple[str, ...] = ()


class OptionGroup(Record):
    """A way in which schools or bodies differ; a rep picks one choice."""

    default: str
    choices: dict[Identifier, Choice]

    @model_validator(mode="after")
    def _default_is_a_choice(self) -> Self:
        if self.default not in self.choices:
            raise ValueError(f"default “{self.default}” is none of the choices")
        return self


class Event(Record):
    """A named instant, with the definition by which a second coach would mark the same frame."""

    phase: str
    mark: Text

    @property
    def edge(self) -> Edge:
        """Whether the mark is the first or the last frame of what it describes."""
        return "last" if self.mark.lower().startswith("last frame") else "first"


class Fault(Record):
    code: Identifier
    family: str

    @field_validator("family")
    @classmethod
    def _known_family(cls, value: str) -> str:
        if value not in FAULT_FAMILIES:
            raise ValueError(f"“{value}” is no fault family")
        return value


class Checkpoint(Record):
    """One thing that must be so."""

    id: Identifier
    phase: str
    kind: str
    ask: Text
    look_for: Text | None = None
    measure: SerializeAsAny[Measure]
    within: Wanted | None = None
    within_by: dict[str, dict[str, Wanted | None]] = {}
    reason_for_range: Text | None = None
    when: dict[str, str | tuple[str, ...]] = {}
    from_rung: str | None = None
    fault: Fault
    cues: tuple[Text, ...] = Field(min_length=1)
    why: Text
    leads_to: tuple[str, ...] = ()
    weight: float = Field(default=1.0, gt=0)
    core: bool = False
    safety: bool = False

    @model_validator(mode="after")
    def _range_makes_sense(self) -> Self:
        ranges = [("within", self.within)]
        ranges += [(f"within_by.{key}.{value}", wanted) for key, by in self.within_by.items() for value, wanted in by.items()]
        for name, wanted in ranges:
            check_wanted(name, wanted, *self.measure.natural_bounds)
        kind = KINDS.get(self.kind)
        if kind is None:
            return self
        if kind.by_eye and self.within is not None:
            raise ValueError(f"{self.kind} takes no “within”: the answer yes is what is wanted")
        if not kind.by_eye and self.within is None:
            raise ValueError(f"{self.kind} needs “within”: [lowest, highest], null for no limit")
        return self


def check_wanted(name: str, wanted: Wanted | None, least: float, most: float) -> None:
    """Raise ValueError for a range that nothing can fall into, or that limits nothing."""
    if wanted is None:
        return
    lo, hi = wanted
    if lo is None and hi is None:
        raise ValueError(f"{name} limits nothing: give a lowest or a highest value")
    if lo is not None and hi is not None and lo > hi:
        raise ValueError(f"{name} is empty: {lo} is above {hi}")
    if (lo is not None and lo > most) or (hi is not None and hi < least):
        raise ValueError(f"{name} cannot be reached: the value lies between {least:g} and {most:g}")


class Technique(Record):
    """A technique definition (docs/formats.md)."""

    lacertus_technique: Literal[1]
    id: Identifier
    names: Names
    family: str
    summary: str = ""
    options: dict[Identifier, OptionGroup] = {}
    phases: tuple[Identifier, ...] = Field(min_length=1)
    sides: Literal["working/other", "lead/rear", "near/far"] = "working/other"
    events: dict[Identifier, Event] = {}
    checkpoints: tuple[Checkpoint, ...] = Field(min_length=1)
    ladder: tuple[Identifier, ...] = USUAL_LADDER
    cautions: tuple[str, ...] = ()
    drills: tuple[str, ...] = ()
    decisions: tuple[dict[str, Any], ...] = ()

    @field_validator("family")
    @classmethod
    def _known_family(cls, value: str) -> str:
        if value not in FAMILIES:
            raise ValueError(f"“{value}” is no family; the families are {', '.join(FAMILIES)}")
        return value

    @property
    def in_phase_order(self) -> tuple[Checkpoint, ...]:
        """Checkpoints in phase order: an early fault causes the later ones."""
        return tuple(sorted(self.checkpoints, key=lambda c: self.phases.index(c.phase)))

    def events_in_order(self) -> tuple[str, ...]:
        """Event keys in phase order, as written within a phase: the order they are marked in."""
        return tuple(sorted(self.events, key=lambda key: self.phases.index(self.events[key].phase)))

    def checkpoint(self, checkpoint_id: str) -> Checkpoint | None:
        return next((c for c in self.checkpoints if c.id == checkpoint_id), None)

    def problems(self) -> list[Problem]:
        """Everything that refers to something that is not there, repeats, or goes round in a circle."""
        return [
            *self._unknown_phases(),
            *self._repeated_ids(),
            *self._unknown_in_checkpoints(),
            *self._cycles(),
        ]

    def _unknown_phases(self) -> list[Problem]:
        found = [
            Problem(path=("events", key, "phase"), message=f"phase “{event.phase}” is not in phases")
            for key, event in self.events.items()
            if event.phase not in self.phases
        ]
        found += [
            Problem(path=("checkpoints", i, "phase"), message=f"phase “{c.phase}” is not in phases")
            for i, c in enumerate(self.checkpoints)
            if c.phase not in self.phases
        ]
        return found

    def _repeated_ids(self) -> list[Problem]:
        seen: set[str] = set()
        found = []
        for i, c in enumerate(self.checkpoints):
            if c.id in seen:
                found.append(Problem(path=("checkpoints", i, "id"), message=f"id “{c.id}” is used twice"))
            seen.add(c.id)
        for i, phase in enumerate(self.phases):
            if phase in self.phases[:i]:
                found.append(Problem(path=("phases", i), message=f"phase “{phase}” is listed twice"))
        return found

    def _unknown_in_checkpoints(self) -> list[Problem]:
        return [
            Problem(path=("checkpoints", i, *path), message=message)
            for i, c in enumerate(self.checkpoints)
            for path, message in self._unknown_in(c)
        ]

    def _unknown_in(self, c: Checkpoint) -> list[tuple[tuple[str | int, ...], str]]:
        found: list[tuple[tuple[str | int, ...], str]] = [
            (("measure",), f"event “{event}” is not defined") for event in c.measure.events_used if event not in self.events
        ]
        ids = {other.id for other in self.checkpoints}
        found += [(("leads_to", i), f"no checkpoint “{to}”") for i, to in enumerate(c.leads_to) if to not in ids]
        for group, wanted in c.when.items():
            choices = (wanted,) if isinstance(wanted, str) else wanted
            if group not in self.options:
                found.append((("when", group), f"no option “{group}”"))
            else:
                found += [
                    (("when", group), f"option “{group}” has no choice “{choice}”")
                    for choice in choices
                    if choice not in self.options[group].choices
                ]
        if c.from_rung is not None and c.from_rung not in self.ladder:
            found.append((("from_rung",), f"rung “{c.from_rung}” is not in the ladder"))
        found += [
            (("within_by", key), "ranges may differ by pace, rung, grade or an option")
            for key in c.within_by
            if key not in ("pace", "rung", "grade") and key not in self.options
        ]
        return found

    def _cycles(self) -> list[Problem]:
        leads = {c.id: c.leads_to for c in self.checkpoints}
        found = []
        for i, c in enumerate(self.checkpoints):
            reached, frontier = set[str](), list(c.leads_to)
            while frontier:
                step = frontier.pop()
                if step not in reached:
                    reached.add(step)
                    frontier += leads.get(step, ())
            if c.id in reached:
                found.append(Problem(path=("checkpoints", i, "leads_to"), message=f"“{c.id}” leads back to itself"))
        return found


def read_technique(data: Any, source: str = "technique") -> Technique:
    """Check a parsed technique definition.

    Raises:
        BadTechnique: with every problem and its path.
    """
    if not isinstance(data, dict):
        raise BadTechnique([Problem(path=(), message="a technique is a mapping with lacertus_technique: 1")], source)
    data, problems = _read_measures(data)
    try:
        technique = Technique.model_validate(data)
    except ValidationError as error:
        raise BadTechnique(problems + problems_of(error), source) from error
    problems += technique.problems()
    if problems:
        raise BadTechnique(sorted(problems, key=lambda problem: problem.line or 0), source)
    return technique


def _read_measures(data: dict[str, Any]) -> tuple[dict[str, Any], list[Problem]]:
    """Read each checkpoint's `measure` by the rules of its kind, so that its problems have their own path.

    What cannot be read is replaced by an empty Measure, and the rest is still checked.
    """
    checkpoints = data.get("checkpoints")
    if not isinstance(checkpoints, list):
        return data, []
    read: list[Any] = []
    problems: list[Problem] = []
    for i, checkpoint in enumerate(checkpoints):
        if isinstance(checkpoint, dict) and "measure" in checkpoint:
            measure, found = _read_measure(checkpoint["measure"], checkpoint.get("kind"), ("checkpoints", i))
            problems += found
            checkpoint = {**checkpoint, "measure": measure}
        read.append(checkpoint)
    return {**data, "checkpoints": read}, problems


def _read_measure(data: Any, kind_name: Any, path: tuple[str | int, ...]) -> tuple[Measure, list[Problem]]:
    kind = KINDS.get(kind_name) if isinstance(kind_name, str) else None
    if kind is None:
        known = ", ".join(sorted(KINDS))
        return Measure(), [Problem(path=(*path, "kind"), message=f"kind “{kind_name}” is not known; the kinds are {known}")]
    try:
        return kind.measure_model.model_validate(data), []
    except ValidationError as error:
        return Measure(), problems_of(error, (*path, "measure"))
