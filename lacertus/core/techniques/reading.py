"""Reading a technique definition: blocks put in, measures read by their kinds, and every problem with its path."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from pydantic import ValidationError

from lacertus.core.bounds import LARGEST, has_absurd_number
from lacertus.core.errors import BadTechnique, Problem
from lacertus.core.measuring.measures import KINDS, Measure
from lacertus.core.model import problems_of
from lacertus.core.techniques.definition import Technique
from lacertus.core.techniques.findings import findings
from lacertus.core.techniques.older import brought_up_to_date
from lacertus.core.techniques.references import reference_problems


@dataclass(frozen=True, kw_only=True)
class Shared:
    """What techniques may refer to: blocks (events and checkpoints, as data) and named positions."""

    blocks: Mapping[str, Mapping[str, Any]] = field(default_factory=dict)
    positions: frozenset[str] | None = None


def read_technique(data: Any, source: str = "technique", shared: Shared | None = None) -> Technique:
    """Read a definition as it stands, an older one by its own rules; the blocks that it names become part of it.

    Raises:
        BadTechnique: with every problem and its path.
    """
    technique, problems = _read(data, source, shared or Shared())
    if problems:
        raise BadTechnique(sorted(problems, key=lambda problem: problem.line or 0), source)
    return technique


def check_technique(data: Any, source: str = "technique", shared: Shared | None = None) -> Technique:
    """Read a definition that is to be used from now on.

    What was written for older rules is brought up to date where it can be, and what nobody could be judged by is refused.

    Raises:
        BadTechnique: with every problem, its path, and what to write.
    """
    problems: list[Problem] = []
    if isinstance(data, dict):
        data, problems = brought_up_to_date(data)
    technique, found = _read(data, source, shared or Shared(), problems)
    # What is not there cannot be looked into.
    problems = [*problems, *(found or findings(technique))]
    if problems:
        raise BadTechnique(problems, source)
    return technique


def _read(data: Any, source: str, shared: Shared, known: Sequence[Problem] = ()) -> tuple[Technique, list[Problem]]:
    """The technique, and what it refers to and does not have; raises BadTechnique where it cannot be read at all."""
    if not isinstance(data, dict):
        raise BadTechnique([Problem(path=(), message="a technique is a mapping with lacertus_technique: 1")], source)
    if has_absurd_number(data):
        message = f"a number is beyond {LARGEST:g}; nothing that is measured here is so large"
        raise BadTechnique([Problem(path=(), message=message)], source)
    data, missing = _with_blocks(data, shared)
    data, problems = _read_measures(_with_phases(data))
    problems = missing + problems
    try:
        technique = Technique.model_validate(data)
    except ValidationError as error:
        raise BadTechnique([*known, *problems, *problems_of(error)], source) from error
    return technique, problems + reference_problems(technique)


def _with_phases(data: dict[str, Any]) -> dict[str, Any]:
    """The definition with each reaction in the phase of its event."""
    reactions, events = data.get("reactions"), data.get("events")
    if not isinstance(reactions, list) or not isinstance(events, dict):
        return data
    phased = []
    for reaction in reactions:
        event = events.get(reaction.get("event")) if isinstance(reaction, dict) and isinstance(reaction.get("event"), str) else None
        phase = event.get("phase") if isinstance(event, dict) else None
        phased.append({**reaction, "phase": phase} if isinstance(phase, str) else reaction)
    return {**data, "reactions": phased}


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
