"""The technique definition: what is asked of a rep, written once for both sides."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Annotated, Any, Literal, Self

from pydantic import (
    AfterValidator,
    BeforeValidator,
    Field,
    SerializeAsAny,
    ValidationError,
    field_validator,
    model_serializer,
    model_validator,
)

from lacertus.core.bounds import LARGEST, has_absurd_number
from lacertus.core.errors import BadTechnique, Problem
from lacertus.core.measuring.measures import KINDS, Measure
from lacertus.core.measuring.measures.base import Point
from lacertus.core.measuring.measures.nested import AnyMeasure, Nested, read_nested
from lacertus.core.measuring.timebase import Edge
from lacertus.core.model import Record, problems_of
from lacertus.core.texts import shown_text

Identifier = Annotated[str, Field(pattern=r"^[a-z][a-z0-9]*([-_][a-z0-9]+)*$")]
Text = Annotated[str, Field(min_length=1, max_length=400), AfterValidator(shown_text)]
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
USUAL_GRADES = ("white", "yellow", "orange", "green", "blue", "purple", "brown", "black")
"""Grades from the lowest, where a technique lists none of its own. A convention; academies differ."""
DEFAULT_LADDER = ("solo", "static_partner", "moving", "light", "firm", "live")


class LookAlike(Record):
    """A technique that this one is taken for, and what tells them apart."""

    name: Text
    tell: Text


class Names(Record):
    """What a technique is called, and what it is easily taken for."""

    main: Text
    aliases: tuple[Text, ...] = ()
    look_alikes: tuple[LookAlike, ...] = ()


class Choice(Record):
    """One way of doing a technique, and what it is for."""

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


class Found(Record):
    """How an event may be proposed from tracked points, or by ear: the first frame in which the rule holds.

    `highest`, `lowest`: a point no longer rises, or sinks; `straightest`, `most_bent`: the joint in the middle of three no
    longer opens, or closes; `leaves`, `lands`: a point leaves the mat, or meets it; `stops`: a point comes to rest;
    `nearest`: two points are no longer coming together. `leaves_first`, `lands_first` take the first step where several
    follow. `heard` is the loudest slap or thud, `called` the first call; they take no points.
    """

    rule: Literal[
        "highest", "lowest", "straightest", "most_bent", "leaves", "lands", "leaves_first", "lands_first", "stops", "nearest",
        "heard", "called",
    ]  # fmt: skip
    of: tuple[Point, ...] = Field(default=(), max_length=3)

    @model_validator(mode="after")
    def _has_its_points(self) -> Self:
        wanted = {"straightest": 3, "most_bent": 3, "nearest": 2, "heard": 0, "called": 0}.get(self.rule, 1)
        if len(self.of) != wanted:
            raise ValueError(f"{self.rule} takes {wanted} point{'' if wanted == 1 else 's'}")
        return self


class Event(Record):
    """A named instant, with the definition by which a second coach would mark the same frame."""

    phase: str
    mark: Text
    found: Found | None = None

    @property
    def edge(self) -> Edge:
        """Whether the mark is the first or the last frame of what it describes."""
        return "last" if self.mark.lower().startswith("last frame") else "first"


class Fault(Record):
    """What a missed checkpoint is called, and the family that it belongs to."""

    code: Identifier
    family: str

    @field_validator("family")
    @classmethod
    def _known_family(cls, value: str) -> str:
        if value not in FAULT_FAMILIES:
            raise ValueError(f"“{value}” is not a fault family")
        return value


class Condition(Record):
    """When a checkpoint is asked: a measure lies within its range, or a question was answered so."""

    nested: Nested | None = None
    seen: str | None = None
    answer: bool = True

    @model_serializer
    def _as_written(self) -> dict[str, Any]:
        if self.nested is not None:
            return self.nested.model_dump(mode="json", by_alias=True)
        return {"seen": self.seen} | ({} if self.answer else {"answer": False})

    @property
    def events_used(self) -> tuple[str, ...]:
        return () if self.nested is None else self.nested.events_used


def _read_condition(value: Any) -> Any:
    if isinstance(value, dict) and not {"seen", "nested"} & set(value):
        return {"nested": read_nested(value)}
    return value


class Confirm(Record):
    """The answer that settles the depth which the picture does not show: the key that it stands under in `seen`."""

    ask: Text = "Does it hold in depth too?"
    id: str | None = None
    by: Literal["coach", "partner", "student"] | None = None


def _read_confirm(value: Any) -> Any:
    if value is True:
        return {}
    return {"id": value} if isinstance(value, str) else value


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
    from_grade: str | None = None
    only_if: Annotated[Condition, BeforeValidator(_read_condition, json_schema_input_type=dict[str, Any])] | None = None
    any_of: tuple[AnyMeasure, ...] = ()
    confirm: Annotated[Confirm, BeforeValidator(_read_confirm, json_schema_input_type=Confirm | bool | str)] | None = None
    branch: dict[str, str] = {}
    switched_off: Text | None = Field(default=None, description="Why it is not asked, where it is switched off")
    fault: Fault
    cues: tuple[Text, ...] = Field(min_length=1)
    cues_for_children: tuple[Text, ...] = ()
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
        if any(other.within is None and not KINDS[other.kind].by_eye for other in self.any_of):
            raise ValueError("each alternative of any_of needs its own “within”")
        if self.only_if is not None and self.only_if.nested is not None and self.only_if.nested.within is None:
            raise ValueError("only_if needs “within”: [lowest, highest]")
        if not kind.by_eye and self.within is None and kind.own_range is None:
            raise ValueError(f"{self.kind} needs “within”: [lowest, highest], null for no limit")
        return self


def check_wanted(name: str, wanted: Wanted | None, least: float, most: float) -> None:
    """Raise ValueError for a range that nothing can fall into, or that limits nothing; all in the measure's own unit."""
    if wanted is None:
        return
    lo, hi = wanted
    if lo is None and hi is None:
        raise ValueError(f"{name} limits nothing: give a lowest or a highest value")
    if lo is not None and hi is not None and lo > hi:
        raise ValueError(f"{name} is empty: {lo} is above {hi}")
    if (lo is not None and lo > most) or (hi is not None and hi < least):
        raise ValueError(f"{name} cannot be reached: the value lies between {least:g} and {most:g}")


class Answer(Record):
    """One answer that counts at a decision point, known by the event that it shows in."""

    event: str
    name: Text
    then: Text | None = None


class Decision(Record):
    """A point at which the performer must choose: when it comes, what counts, what is wrong, how long there is.

    Checkpoints with `branch: {this: event}` are asked where that answer was taken.
    """

    id: Identifier
    when: str
    says: Text
    answers: tuple[Answer, ...] = Field(min_length=1)
    wrong: tuple[Answer, ...] = ()
    within_ms: float | None = Field(default=None, gt=0)
    why: Text | None = None


class Drill(Record):
    """A drill for some faults: where it starts, how much of it, when the partner resists, and alone."""

    id: Identifier
    name: Text
    answers: tuple[str, ...] = Field(default=(), alias="for")
    how: Text
    dose: Text
    resistance_from: Text | None = None
    solo: Text | None = None
    minutes: float | None = Field(default=None, gt=0)
    space: Text | None = None


class Technique(Record):
    """A technique definition (docs/formats.md)."""

    lacertus_technique: Literal[1]
    id: Identifier
    names: Names
    family: str
    summary: str = ""
    works_when: str = ""
    starts_from: str | None = None
    falls_back_to: tuple[str, ...] = ()
    options: dict[Identifier, OptionGroup] = {}
    phases: tuple[Identifier, ...] = Field(min_length=1)
    sides: Literal["working/other", "lead/rear", "near/far"] = "working/other"
    events: dict[Identifier, Event] = {}
    checkpoints: tuple[Checkpoint, ...] = Field(min_length=1)
    ladder: tuple[Identifier, ...] = DEFAULT_LADDER
    cautions: tuple[str, ...] = ()
    drills: tuple[Drill | Identifier, ...] = ()
    decisions: tuple[Decision, ...] = ()
    repeats: tuple[str, ...] = ()
    teaching_order: tuple[str, ...] = ()
    grades: tuple[Identifier, ...] = ()
    blocks: tuple[str, ...] = ()

    @field_validator("family")
    @classmethod
    def _known_family(cls, value: str) -> str:
        if value not in FAMILIES:
            raise ValueError(f"“{value}” is not a family; the families are {', '.join(FAMILIES)}")
        return value

    @property
    def in_phase_order(self) -> tuple[Checkpoint, ...]:
        """Checkpoints in phase order: an early fault causes the later ones."""
        return tuple(sorted(self.checkpoints, key=lambda c: self.phases.index(c.phase)))

    def events_in_order(self) -> tuple[str, ...]:
        """Event keys in phase order, as written within a phase: the order they are marked in."""
        return tuple(sorted(self.events, key=lambda key: self.phases.index(self.events[key].phase)))

    @property
    def edges(self) -> dict[str, Edge]:
        """For each event, whether its mark is a first or a last frame."""
        return {key: event.edge for key, event in self.events.items()}

    def checkpoint(self, checkpoint_id: str) -> Checkpoint | None:
        return next((c for c in self.checkpoints if c.id == checkpoint_id), None)

    def problems(self) -> list[Problem]:
        """Everything that refers to something that is not there, repeats, or goes round in a circle."""
        return [
            *self._unknown_phases(),
            *self._repeated_ids(),
            *self._unknown_in_checkpoints(),
            *self._unknown_in_decisions(),
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

    def _unknown_in_decisions(self) -> list[Problem]:
        found = [
            Problem(path=(key, i), message=f"phase “{phase}” is not in phases")
            for key, phases in (("repeats", self.repeats), ("teaching_order", self.teaching_order))
            for i, phase in enumerate(phases)
            if phase not in self.phases
        ]
        codes = {c.fault.code for c in self.checkpoints}
        for i, drill in enumerate(self.drills):
            if isinstance(drill, Drill):
                found += [
                    Problem(path=("drills", i, "for"), message=f"no checkpoint has the fault “{code}”")
                    for code in drill.answers
                    if code not in codes
                ]
        for i, decision in enumerate(self.decisions):
            events = (decision.when, *(answer.event for answer in (*decision.answers, *decision.wrong)))
            found += [
                Problem(path=("decisions", i), message=f"event “{event}” is not defined")
                for event in dict.fromkeys(events)
                if event not in self.events
            ]
        return found

    def decision(self, decision_id: str) -> Decision | None:
        return next((d for d in self.decisions if d.id == decision_id), None)

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
        used = [("measure", event) for event in c.measure.events_used]
        used += [("any_of", event) for other in c.any_of for event in other.events_used]
        used += [("only_if", event) for event in (c.only_if.events_used if c.only_if else ())]
        found: list[tuple[tuple[str | int, ...], str]] = [
            ((key,), f"event “{event}” is not defined") for key, event in used if event not in self.events
        ]
        for name, answer in c.branch.items():
            decision = self.decision(name)
            if decision is None:
                found.append((("branch", name), f"no decision “{name}”"))
            elif answer not in {other.event for other in decision.answers}:
                found.append((("branch", name), f"decision “{name}” has no answer “{answer}”"))
        if c.from_grade is not None and self.grades and c.from_grade not in self.grades:
            found.append((("from_grade",), f"grade “{c.from_grade}” is not in grades"))
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


@dataclass(frozen=True, kw_only=True)
class Shared:
    """What techniques may refer to: blocks (events and checkpoints, as data) and named positions."""

    blocks: Mapping[str, Mapping[str, Any]] = field(default_factory=dict)
    positions: frozenset[str] | None = None


def read_technique(data: Any, source: str = "technique", shared: Shared | None = None) -> Technique:
    """Check a parsed technique definition; the blocks that it names become part of it.

    Raises:
        BadTechnique: with every problem and its path.
    """
    if not isinstance(data, dict):
        raise BadTechnique([Problem(path=(), message="a technique is a mapping with lacertus_technique: 1")], source)
    if has_absurd_number(data):
        message = f"a number is beyond {LARGEST:g}; nothing that is measured here is so large"
        raise BadTechnique([Problem(path=(), message=message)], source)
    data, missing = _with_blocks(data, shared or Shared())
    data, problems = _read_measures(data)
    problems = missing + problems
    try:
        technique = Technique.model_validate(data)
    except ValidationError as error:
        raise BadTechnique(problems + problems_of(error), source) from error
    problems += technique.problems()
    if problems:
        raise BadTechnique(sorted(problems, key=lambda problem: problem.line or 0), source)
    return technique


def _with_blocks(data: dict[str, Any], shared: Shared) -> tuple[dict[str, Any], list[Problem]]:
    """The definition with the events and checkpoints of its blocks behind its own; what it has itself, rules."""
    problems = []
    for key in ("starts_from", "falls_back_to"):
        named = data.get(key) or ()
        for position in (named,) if isinstance(named, str) else named:
            if shared.positions is not None and position not in shared.positions:
                problems.append(Problem(path=(key,), message=f"position “{position}” is not known"))
    named, checkpoints, events = data.get("blocks"), data.get("checkpoints"), data.get("events", {})
    if not named or not isinstance(named, list) or not isinstance(checkpoints, list) or not isinstance(events, dict):
        return data, problems
    checkpoints, events = list(checkpoints), dict(events)
    for i, name in enumerate(named):
        block = shared.blocks.get(name) if isinstance(name, str) else None
        if block is None:
            if shared.blocks:
                problems.append(Problem(path=("blocks", i), message=f"block “{name}” is not known"))
            continue
        own = {checkpoint.get("id") for checkpoint in checkpoints if isinstance(checkpoint, dict)}
        checkpoints += [checkpoint for checkpoint in block["checkpoints"] if checkpoint["id"] not in own]
        events = dict(block["events"]) | events
    return {**data, "checkpoints": checkpoints, "events": events}, problems


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
        measure = kind.measure_model.model_validate(data)
        if kind.frame_rule is not None and getattr(measure, "at", None) is None:
            return Measure(), [Problem(path=(*path, "measure", "at"), message="this key is missing")]
        return measure, []
    except ValidationError as error:
        return Measure(), problems_of(error, (*path, "measure"))
