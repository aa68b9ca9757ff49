"""What a measure comes to on the studio's figure, while a checkpoint is being written."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from lacertus.core.bounds import LARGEST, has_absurd_number
from lacertus.core.errors import BadInput, Unreadable
from lacertus.core.measuring.measures import KINDS
from lacertus.core.measuring.scene import Scene
from lacertus.core.model import problems_of
from lacertus.core.review.judgement import shown_with
from lacertus.library import shipped_technique
from lacertus.library.loader import shipped_ids
from lacertus.services.techniques.figure import frame_at
from lacertus.services.techniques.moving import rep_of
from lacertus.studio.moves import MOVES


@dataclass(frozen=True, kw_only=True)
class Sampled:
    """A value and its u in the unit of its kind, and in words; None with the reason why where it cannot be told."""

    value: float | None
    u: float
    shown: str
    why: str


def shown_by_the_studio() -> frozenset[str]:
    """Shipped techniques whose moving figure may show another one."""
    return frozenset(MOVES) & shipped_ids()


def sampled(technique: str, events: Mapping[str, float], kind: str, measure: Mapping[str, Any]) -> Sampled:
    """Read a measure on the studio's figure of a shipped technique, done without a fault on the right side.

    Args:
        technique: whose figure it is.
        events: by name, when each happens there, seconds from the start of the rep.
        kind: a checkpoint kind.
        measure: its keys, as a technique file has them.

    Raises:
        BadInput: the studio does not show the technique, or there is no such kind.
    """
    model, found = shipped_technique(technique), KINDS.get(kind)
    if found is None:
        raise BadInput(f"kind “{kind}” is not known; the kinds are {', '.join(sorted(KINDS))}")
    if found.over_reps:
        raise BadInput(f"{kind} is read over the reps of a set, and the figure shows one")
    if has_absurd_number(dict(measure)):
        raise BadInput(f"a number is beyond {LARGEST:g}; nothing that is measured here is so large")
    rep = rep_of(model, "right", {})
    rep = rep.model_copy(update={"events": {event: (frame_at(rep, seconds),) for event, seconds in events.items()}})
    try:
        reading = found.read(found.measure_model.model_validate(measure), Scene(rep, {}), "sampled")
    except ValidationError as error:
        problem = problems_of(error)[0]
        return Sampled(value=None, u=0.0, shown="", why=": ".join((".".join(str(part) for part in problem.path), problem.message)))
    except Unreadable as error:
        return Sampled(value=None, u=0.0, shown="", why=str(error))
    return Sampled(value=reading.value, u=reading.u, shown=shown_with(reading.value, reading.u, reading.unit), why="")
