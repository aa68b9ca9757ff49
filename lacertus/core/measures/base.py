"""What every checkpoint kind is made of: a model of its `measure` keys and a rule that reads a rep."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, Any

from pydantic import BeforeValidator, Field, field_validator, model_serializer

from lacertus.core.body import is_point
from lacertus.core.model import Record
from lacertus.core.scene import Scene

UNBOUNDED = (-math.inf, math.inf)
RELATIVE = ("working_", "other_", "lead_", "rear_", "near_", "far_")


class EventRef(Record):
    """An event of the rep: by default its first marking, else the nth, counted from 1; −1 the last."""

    event: str
    nth: int = 1

    @field_validator("nth")
    @classmethod
    def _counts_from_one(cls, value: int) -> int:
        if value == 0:
            raise ValueError("markings are counted from 1, or from −1 backwards")
        return value

    @model_serializer
    def _as_written(self) -> str | dict[str, Any]:
        return self.event if self.nth == 1 else {"event": self.event, "nth": self.nth}

    def __str__(self) -> str:
        return self.event if self.nth == 1 else f"{self.event} ({'last' if self.nth == -1 else self.nth})"


def _read_event(value: Any) -> Any:
    return {"event": value} if isinstance(value, str) else value


class PointRef(Record):
    """A point of a body: a landmark in relative or absolute words, or a share along a segment."""

    name: str | None = None
    on: tuple[str, str] | None = None
    share: float = Field(default=0.5, ge=0, le=1)

    @model_serializer
    def _as_written(self) -> str | dict[str, Any]:
        return self.name if self.name is not None else {"on": list(self.on or ()), "share": self.share}

    def __str__(self) -> str:
        return self.name if self.name is not None else f"{self.share:g} of the way {self.on[0]}–{self.on[1]}"  # type: ignore[index]


def check_point(name: str) -> str:
    """Raise ValueError unless the name is a point of a body, in absolute or relative words."""
    bare = name.removeprefix("performer.").removeprefix("partner.")
    for prefix in RELATIVE:
        if bare.startswith(prefix):
            bare = "left_" + bare.removeprefix(prefix)
    if not is_point(bare):
        raise ValueError(f"“{name}” is no landmark")
    return name


def _read_point(value: Any) -> Any:
    if isinstance(value, str):
        return {"name": check_point(value)}
    ends = value.get("on") if isinstance(value, dict) else None
    if isinstance(ends, list | tuple) and all(isinstance(end, str) for end in ends):
        for end in ends:
            check_point(end)
        return value
    raise ValueError("a point is a landmark or {on: [a, b], share: 0.5}")


class OnSegment(Record):
    """A place on the line between two landmarks: 0 at the first, 1 at the second."""

    on: tuple[str, str]
    share: float = Field(default=0.5, ge=0, le=1)


EventKey = Annotated[EventRef, BeforeValidator(_read_event, json_schema_input_type=str | EventRef)]
Point = Annotated[PointRef, BeforeValidator(_read_point, json_schema_input_type=str | OnSegment)]


class Measure(Record):
    """The keys of one kind's `measure`."""

    @property
    def events_used(self) -> tuple[str, ...]:
        return ()

    @property
    def points_used(self) -> tuple[PointRef, ...]:
        return ()

    @property
    def natural_bounds(self) -> tuple[float, float]:
        """What the value can be at all."""
        return UNBOUNDED

    @property
    def unit_shown(self) -> str | None:
        return None


@dataclass(frozen=True, kw_only=True)
class Reading:
    """What a kind read: value in `unit`, standard uncertainty, frames, and what to know about it.

    `lean_u` is the part of u that comes from limbs leaning out of the picture; `cyclic` marks a value
    that wraps round at ±180.
    """

    value: float
    unit: str | None
    u: float
    frames: tuple[int, ...]
    notes: tuple[str, ...] = ()
    lean_u: float = 0.0
    cyclic: bool = False


@dataclass(frozen=True, kw_only=True)
class Kind:
    """A checkpoint kind: its name, the model of its keys, and the rule.

    The rule raises Unreadable where the rep does not tell. Kinds with `by_eye` answer yes (1) or
    no (0) and take no wanted range.
    """

    name: str
    measure_model: type[Measure]
    read: Callable[[Any, Scene, str], Reading]
    by_eye: bool = False
