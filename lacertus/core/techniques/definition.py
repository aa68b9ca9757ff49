"""The technique definition: what is asked of a rep, written once for both sides."""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, field_validator, model_validator

from lacertus.core.measuring.rep_facts import View
from lacertus.core.measuring.timebase import Edge
from lacertus.core.model import Record
from lacertus.core.techniques.checkpoint import Checkpoint
from lacertus.core.techniques.events import Event
from lacertus.core.techniques.practice import Drill, Layer, Start
from lacertus.core.techniques.reaction import Decision, Reaction
from lacertus.core.techniques.vocabulary import DEFAULT_LADDER, FAMILIES, GROWN_UP_CAUTIONS, Identifier, Text

WHEN_FACTS = ("stance", "partner", "start", "pace", "rung")
"""Facts of a rep that `when` takes beside option groups, which may not be named like one."""

Asked = Checkpoint | Reaction
"""What a rep can be missed in: a checkpoint, or a reaction of the partner that wants an answer."""


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


class MovesLike(Record):
    """A technique whose moving figure shows this one too, and when its own events happen there: seconds from the rep's start."""

    technique: Identifier
    events: dict[Identifier, Annotated[float, Field(ge=0, le=60)]] = {}


class Technique(Record):
    """A technique definition (docs/formats.md). `decisions` stand in older ones alone, and are judged as they were then."""

    lacertus_technique: Literal[1]
    id: Identifier
    names: Names
    family: str
    summary: str = ""
    works_when: str = ""
    starts_from: str | None = None
    falls_back_to: tuple[str, ...] = ()
    best_view: View | None = None
    options: dict[Identifier, OptionGroup] = {}
    phases: tuple[Identifier, ...] = Field(min_length=1)
    sides: Literal["working/other", "lead/rear", "near/far"] = "working/other"
    events: dict[Identifier, Event] = {}
    checkpoints: tuple[Checkpoint, ...] = Field(min_length=1)
    ladder: tuple[Identifier, ...] = DEFAULT_LADDER
    cautions: tuple[str, ...] = ()
    reactions: tuple[Reaction, ...] = ()
    layers: tuple[Layer, ...] = ()
    starts: tuple[Start, ...] = ()
    drills: tuple[Drill | Identifier, ...] = ()
    decisions: tuple[Decision, ...] = ()
    fits: tuple[str, ...] = ()
    repeats: tuple[str, ...] = ()
    teaching_order: tuple[str, ...] = ()
    grades: tuple[Identifier, ...] = ()
    moves_like: MovesLike | None = None
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
    def everything_asked(self) -> tuple[Asked, ...]:
        """Checkpoints and reactions, as written."""
        return (*self.checkpoints, *self.reactions)

    @property
    def asked_in_order(self) -> tuple[Asked, ...]:
        """Checkpoints and reactions in phase order, the checkpoints of a phase before its reactions."""
        return tuple(sorted(self.everything_asked, key=lambda asked: self.phases.index(asked.phase)))

    @property
    def edges(self) -> dict[str, Edge]:
        """For each event, whether its mark is a first or a last frame."""
        return {key: event.edge for key, event in self.events.items()}

    def checkpoint(self, checkpoint_id: str) -> Checkpoint | None:
        return next((c for c in self.checkpoints if c.id == checkpoint_id), None)

    def reaction(self, reaction_id: str) -> Reaction | None:
        return next((r for r in self.reactions if r.id == reaction_id), None)

    def asked(self, asked_id: str) -> Asked | None:
        """A checkpoint or a reaction by its id."""
        return self.checkpoint(asked_id) or self.reaction(asked_id)

    def decision(self, decision_id: str) -> Decision | None:
        return next((d for d in self.decisions if d.id == decision_id), None)

    def layer(self, layer_id: str) -> Layer | None:
        return next((layer for layer in self.layers if layer.id == layer_id), None)

    def start(self, start_id: str) -> Start | None:
        return next((start for start in self.starts if start.id == start_id), None)

    @property
    def for_grown_ups(self) -> bool:
        """Whether children never practise it under force: a choke, a neck crank or a joint lock."""
        return not GROWN_UP_CAUTIONS.isdisjoint(self.cautions)
