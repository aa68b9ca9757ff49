"""`set`: what only several reps together show: sides apart, spread, trend, mix of choices."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import BeforeValidator, model_serializer

from lacertus.core.errors import NotSeen
from lacertus.core.measuring.body import Side
from lacertus.core.measuring.measures.base import Kind, Measure, PointRef, Reading
from lacertus.core.measuring.measures.nested import Nested, read_nested
from lacertus.core.measuring.scene import Scene
from lacertus.core.model import Record

LEAST_REPS = {"side_difference": 2, "spread": 3, "trend": 4, "mix": 3}


class OfSet(Record):
    """What is taken from each rep: a checkpoint's value by its id, a measure, or the choice of an option group."""

    checkpoint: str | None = None
    option: str | None = None
    nested: Nested | None = None

    @model_serializer
    def _as_written(self) -> Any:
        if self.checkpoint is not None:
            return self.checkpoint
        return (
            {"option": self.option}
            if self.option is not None
            else self.nested.model_dump(mode="json", by_alias=True)
            if self.nested
            else {}
        )


def _read_of(value: Any) -> Any:
    if isinstance(value, str):
        return {"checkpoint": value}
    if isinstance(value, dict) and set(value) in ({"checkpoint"}, {"option"}):
        return value
    if isinstance(value, dict):
        return {"nested": read_nested(value)}
    return value


class SetMeasure(Measure):
    """A measure over the reps of a review: how many met it, its spread, or its drift."""

    of: Annotated[OfSet, BeforeValidator(_read_of, json_schema_input_type=str | dict[str, Any])]
    pick: Literal["side_difference", "spread", "trend", "mix"]

    @property
    def events_used(self) -> tuple[str, ...]:
        return () if self.of.nested is None else self.of.nested.events_used

    @property
    def points_used(self) -> tuple[PointRef, ...]:
        return () if self.of.nested is None else self.of.nested.points_used

    @property
    def natural_bounds(self) -> tuple[float, float]:
        return {"trend": (-math.inf, math.inf), "mix": (0.0, 1.0)}.get(self.pick, (0.0, math.inf))

    @property
    def unit_shown(self) -> str | None:
        if self.pick == "mix":
            return "share"
        unit = None if self.of.nested is None else self.of.nested.measure.unit_shown
        return f"{unit} a rep" if unit and self.pick == "trend" else unit


@dataclass(frozen=True, kw_only=True)
class FromRep:
    """What one rep gives: its side, and a value with u, or a choice."""

    side: Side
    value: float | None = None
    u: float = 0.0
    unit: str | None = None
    choice: str | None = None
    frames: tuple[int, ...] = ()


def read(measure: SetMeasure, scene: Scene, checkpoint_id: str) -> Reading:
    """Raises NotSeen: one rep alone does not tell."""
    raise NotSeen("told over a set of reps, not by one alone")


def read_set(measure: SetMeasure, reps: Sequence[FromRep]) -> Reading:
    """The picked value over the reps in the order in which they were done.

    `side_difference`: |mean on the right − mean on the left|. `spread`: standard deviation (n − 1).
    `trend`: slope of a straight line over the reps' numbers. `mix`: entropy of the choices ÷ its highest
    (0 always the same, 1 all equally often).

    Raises:
        NotSeen: too few reps could be read.
    """
    if measure.pick == "mix":
        return _mix([rep.choice for rep in reps if rep.choice is not None])
    read_in = [rep for rep in reps if rep.value is not None]
    least = LEAST_REPS[measure.pick]
    if len(read_in) < least:
        raise NotSeen(f"needs {least} reps in which it was read, and there are {len(read_in)}")
    values = np.array([rep.value for rep in read_in], dtype=np.float64)
    noise = np.array([rep.u for rep in read_in])
    unit = read_in[0].unit
    if measure.pick == "side_difference":
        value, u = _sides(read_in)
    elif measure.pick == "spread":
        value = float(values.std(ddof=1))
        u = value / math.sqrt(2 * (len(values) - 1))
    else:
        value, u = _trend(values, noise)
        unit = f"{unit} a rep" if unit else "a rep"
    return Reading(value=value, unit=unit, u=u, frames=())


def _sides(reps: Sequence[FromRep]) -> tuple[float, float]:
    means, squares = [], 0.0
    for side in ("left", "right"):
        values = np.array([rep.value for rep in reps if rep.side == side], dtype=np.float64)
        if len(values) == 0:
            raise NotSeen(f"no rep on the {side} side could be read, so the sides cannot be held against one another")
        means.append(float(values.mean()))
        noise = float(np.mean([rep.u for rep in reps if rep.side == side])) ** 2
        scatter = float(values.var(ddof=1)) if len(values) > 1 else 0.0
        # The scatter of the reps holds the measuring's own; one rep alone shows only that.
        squares += max(scatter, noise) / len(values)
    return abs(means[1] - means[0]), math.sqrt(squares)


def _trend(values: np.ndarray[Any, Any], noise: np.ndarray[Any, Any]) -> tuple[float, float]:
    numbers = np.arange(len(values), dtype=np.float64)
    slope, start = np.polyfit(numbers, values, 1)
    scatter = float(((values - slope * numbers - start) ** 2).sum()) / (len(values) - 2)
    spread = float(((numbers - numbers.mean()) ** 2).sum())
    return float(slope), math.sqrt(max(scatter, float((noise**2).mean())) / spread)


def _mix(choices: Sequence[str]) -> Reading:
    if len(choices) < LEAST_REPS["mix"]:
        raise NotSeen(f"needs {LEAST_REPS['mix']} reps with a choice, and there are {len(choices)}")
    counts = np.array([choices.count(choice) for choice in sorted(set(choices))], dtype=np.float64)
    shares = counts / counts.sum()
    value = 0.0 if len(shares) < 2 else float(-(shares * np.log(shares)).sum() / math.log(len(shares)))
    return Reading(value=value, unit="share", u=0.0, frames=())


KIND = Kind(name="set", measure_model=SetMeasure, read=read, over_reps=True)
