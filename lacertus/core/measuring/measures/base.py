"""What every checkpoint kind is made of: a model of its `measure` keys and a rule that reads a rep."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Annotated, Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BeforeValidator, Field, field_validator, model_serializer

from lacertus.core.measuring.body import is_point
from lacertus.core.measuring.geometry import Parts
from lacertus.core.measuring.scene import Scene
from lacertus.core.model import Record

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
        raise ValueError(f"“{name}” is not a landmark")
    return name


def _read_point(value: Any) -> Any:
    if isinstance(value, PointRef):
        return value
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


class AtEvent(Measure):
    """The keys of a kind that is read at one event, or, inside another measure, at any frame."""

    at: EventKey | None = None

    @property
    def events_used(self) -> tuple[str, ...]:
        return (self.at.event,) if self.at else ()


class InTime(Measure):
    """The keys of a kind whose value is a time."""

    unit: Literal["ms", "s", "frames"] = "ms"

    @property
    def unit_shown(self) -> str:
        return self.unit


@dataclass(frozen=True, kw_only=True)
class Reading:
    """What a kind read: value in `unit`, standard uncertainty, frames, and what to know about it.

    `cyclic` marks a value that wraps round at ±180. `parts` are u's ingredients, so that what is common to two readings cancels.
    `hides` tells which way the true value may lie beyond the seen one, as depth does not show; `differences`
    are (value, u) that must each not be negative, in place of a range; `miss_margin` is the margin for *missed*
    where it is not 1.645 u. `draws` are the values in all ways that the rep may be in space, and `in_space` is True
    where it was put there; `lean_unknown` says that the value depends on how limbs lean out of the picture, which nothing tells.
    """

    value: float
    unit: str | None
    u: float
    frames: tuple[int, ...]
    notes: tuple[str, ...] = ()
    cyclic: bool = False
    parts: Parts = field(default_factory=dict)
    hides: Literal["more", "less"] | None = None
    differences: tuple[tuple[float, float], ...] = ()
    miss_margin: float | None = None
    draws: NDArray[np.float64] | None = None
    lean_unknown: bool = False
    in_space: bool = False


@dataclass(frozen=True, kw_only=True)
class Kind:
    """A checkpoint kind: its name, the model of its keys, and the rule.

    The rule raises Unreadable where the rep does not tell. Kinds with `by_eye` answer yes (1) or
    no (0) and take no wanted range; those with `own_range` have one when none is written. A `frame_rule` reads
    the value at one frame and a `curve` at many (frames → values, not a number where it cannot be read),
    so that the kind can be nested in another; `drawn` gives the same in all ways that the rep may be in space (frames × draws), or
    None where it cannot be put there.
    """

    name: str
    measure_model: type[Measure]
    read: Callable[[Any, Scene, str], Reading]
    by_eye: bool = False
    own_range: tuple[float | None, float | None] | None = None
    over_reps: bool = False
    frame_rule: Callable[[Any, Scene, int], Reading] | None = None
    curve: Callable[[Any, Scene, NDArray[np.int64]], NDArray[np.float64]] | None = None
    drawn: Callable[[Any, Scene, NDArray[np.int64]], NDArray[np.float64] | None] | None = None


def at_event(rule: Callable[[Any, Scene, int], Reading]) -> Callable[[Any, Scene, str], Reading]:
    """The rule of a kind that is read at the one frame of its event, from its rule for any frame."""

    def read(measure: Any, scene: Scene, checkpoint_id: str) -> Reading:
        return rule(measure, scene, scene.frame_of(measure.at))

    return read


KINDS: dict[str, Kind] = {}
"""Every kind by name; filled in `measures`, looked up by kinds that nest another."""
