"""A measure inside another: `of: {kind: angle, points: […]}`, or shorter `of: {angle: {points: […]}}`."""

from __future__ import annotations

from typing import Annotated, Any

import numpy as np
from numpy.typing import NDArray
from pydantic import BeforeValidator, SerializeAsAny, ValidationError, field_validator, model_serializer

from lacertus.core.errors import Coincident, NotSeen
from lacertus.core.measuring.measures.base import KINDS, Measure, PointRef, Reading
from lacertus.core.measuring.scene import EventLike, Scene
from lacertus.core.model import Record, problems_of

_TELLING = (
    ("from_point", "inclination"), ("segment", "gap"), ("above", "relation"), ("below", "relation"),
    ("towards", "relation"), ("behind", "relation"), ("inside", "relation"), ("outside", "relation"),
    ("along", "relation"), ("line", "facing"), ("base", "balance"), ("of", "balance"), ("over", "balance"),
)  # fmt: skip
"""Keys that only one kind has, in the order in which they are looked for."""


class Nested(Record):
    """A measure of another kind, and its range where it is a condition."""

    kind: str
    measure: SerializeAsAny[Measure]
    within: tuple[float | None, float | None] | None = None

    @field_validator("kind")
    @classmethod
    def _is_known(cls, value: str) -> str:
        if value not in KINDS:
            raise ValueError(f"kind “{value}” is not known")
        return value

    @model_serializer
    def _as_written(self) -> dict[str, Any]:
        written = self.measure.model_dump(mode="json", by_alias=True, exclude_defaults=True)
        return {"kind": self.kind, **written} | ({} if self.within is None else {"within": list(self.within)})

    @property
    def events_used(self) -> tuple[str, ...]:
        return self.measure.events_used

    @property
    def points_used(self) -> tuple[PointRef, ...]:
        return self.measure.points_used

    def at(self, scene: Scene, frame: int) -> Reading:
        """Its value at a frame."""
        rule = KINDS[self.kind].frame_rule
        if rule is None:
            raise NotSeen(f"{self.kind} has no value at a single frame")
        return rule(self.measure, scene, frame)

    def read(self, scene: Scene, checkpoint_id: str, default: EventLike | None = None) -> Reading:
        """Its value at its own event, else at the one given; kinds over a stretch have their own."""
        own = getattr(self.measure, "at", None)
        if KINDS[self.kind].frame_rule is not None and own is None:
            if default is None:
                raise NotSeen(f"no event says when the {self.kind} is read")
            return self.at(scene, scene.frame_of(default))
        return KINDS[self.kind].read(self.measure, scene, checkpoint_id)

    def _or_nan(self, scene: Scene, frame: int) -> float:
        try:
            return self.at(scene, frame).value
        except (NotSeen, Coincident):
            return float("nan")

    def drawn(self, scene: Scene, frames: NDArray[np.int64]) -> NDArray[np.float64] | None:
        """Its values in many frames in all ways that the rep may be in space (frames × draws), or None."""
        rule = KINDS[self.kind].drawn
        return None if rule is None else rule(self.measure, scene, frames)

    def curve(self, scene: Scene, frames: NDArray[np.int64]) -> NDArray[np.float64]:
        """Its values in many frames.

        Raises:
            NotSeen: in one of them it cannot be read.
        """
        kind = KINDS[self.kind]
        if kind.curve is not None:
            values = kind.curve(self.measure, scene, frames)
        elif kind.frame_rule is not None:
            values = np.array([self._or_nan(scene, int(frame)) for frame in frames])
        else:
            raise NotSeen(f"{self.kind} has no value at a single frame")
        scene.all_seen(self.points_used, frames, values)
        return values


def read_nested(value: Any) -> Any:
    """All ways to write a nested measure, as kind, measure and range."""
    if not isinstance(value, dict):
        return value
    data = dict(value)
    within = data.pop("within", None)
    inner = data.get("scalar", data.get("of"))
    if len(data) == 1 and isinstance(inner, dict):
        data = dict(inner)
    if len(data) == 1 and (name := next(iter(data))) in KINDS and isinstance(data[name], dict):
        kind, keys = name, dict(data[name])
    elif "measure" in data:
        kind, keys = data.get("kind"), data["measure"]
    else:
        kind = data.pop("kind", None) or _guessed(data)
        keys = data
    if isinstance(keys, dict) and within is None:
        within = keys.pop("within", None) if "within" in keys else None
    if kind not in KINDS:
        raise ValueError(f"no kind fits here; write {{kind: …}} with one of {', '.join(sorted(KINDS))}")
    try:
        measure = KINDS[kind].measure_model.model_validate(keys)
    except ValidationError as error:
        raise ValueError("; ".join(str(problem) for problem in problems_of(error, (kind,)))) from error
    return {"kind": kind, "measure": measure, "within": within}


def _guessed(data: dict[str, Any]) -> str | None:
    """The kind that the keys belong to, where they tell."""
    if "points" in data:
        return "line" if data.get("unit") in ("share", "deg") or len(data["points"]) != 3 else "angle"
    if "between" in data:
        return "relation" if "point" in data else "gap"
    return next((kind for key, kind in _TELLING if key in data), None)


def _has_curve(nested: Nested) -> Nested:
    if KINDS[nested.kind].curve is None:
        known = ", ".join(sorted(name for name, kind in KINDS.items() if kind.curve is not None))
        raise ValueError(f"{nested.kind} has no value at a single frame; those that have are {known}")
    return nested


AnyMeasure = Annotated[Nested, BeforeValidator(read_nested, json_schema_input_type=dict[str, Any])]
"""Any kind that gives a number."""
Scalar = Annotated[Nested, BeforeValidator(read_nested, json_schema_input_type=dict[str, Any])]
"""A kind with a value at every frame."""
