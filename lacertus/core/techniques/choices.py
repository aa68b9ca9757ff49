"""What the choices of an option change: which checkpoints and reactions are asked under each, and within which range."""

from __future__ import annotations

from dataclasses import dataclass

from lacertus.core.techniques.checkpoint import Checkpoint
from lacertus.core.techniques.definition import Asked, Technique
from lacertus.core.techniques.vocabulary import Wanted

USUAL: Wanted = (None, None)
"""Stands for the range that does not hang on the choice."""


@dataclass(frozen=True, kw_only=True)
class Difference:
    """Something that the choices of an option do not ask alike: by choice its range, `USUAL`, or None where it is not asked."""

    asked: Asked
    by_choice: dict[str, Wanted | None]


def asked_under(technique: Technique, group: str, choice: str) -> dict[str, Wanted]:
    """What is asked under a choice, as far as its option decides it: each id, with the range by the choice or `USUAL`."""
    found: dict[str, Wanted] = {}
    for asked in technique.asked_in_order:
        wanted = asked.when.get(group, choice)
        if choice not in ((wanted,) if isinstance(wanted, str) else wanted):
            continue
        if not isinstance(asked, Checkpoint) or choice not in asked.within_by.get(group, {}):
            found[asked.id] = USUAL
        elif (by_choice := asked.within_by[group][choice]) is not None:
            found[asked.id] = by_choice
    return found


def differences(technique: Technique, group: str) -> tuple[Difference, ...]:
    """Everything that the choices of an option do not ask alike, in phase order."""
    under = {choice: asked_under(technique, group, choice) for choice in technique.options[group].choices}
    rows = [
        Difference(asked=asked, by_choice={choice: own.get(asked.id) for choice, own in under.items()})
        for asked in technique.asked_in_order
    ]
    return tuple(row for row in rows if len(set(row.by_choice.values())) > 1)
