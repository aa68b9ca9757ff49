"""The events of a technique: named instants, each with the definition by which a second coach would mark the same frame."""

from __future__ import annotations

from typing import Literal, Self

from pydantic import Field, model_validator

from lacertus.core.measuring.body import BodyName
from lacertus.core.measuring.measures.base import Point
from lacertus.core.measuring.timebase import Edge
from lacertus.core.model import Record
from lacertus.core.techniques.vocabulary import Text


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
    """A named instant of the performer's body, or of the partner's."""

    phase: str
    mark: Text
    body: BodyName = "performer"
    found: Found | None = None

    @property
    def edge(self) -> Edge:
        """Whether the mark is the first or the last frame of what it describes."""
        return "last" if self.mark.lower().startswith("last frame") else "first"
