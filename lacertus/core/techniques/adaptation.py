"""A technique as it is asked of one student: checkpoints switched off, relaxed or replaced, each with its reason."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal, Self

from pydantic import Field, ValidationError, model_validator

from lacertus.core.errors import BadInput, BadTechnique, Problem
from lacertus.core.model import Record, problems_of
from lacertus.core.techniques.checkpoint import Checkpoint
from lacertus.core.techniques.definition import Technique
from lacertus.core.techniques.reading import read_technique
from lacertus.core.techniques.vocabulary import Text, Wanted


class Adaptation(Record):
    """What is changed for one student.

    `off` no longer asks the checkpoint; `relaxed` takes another range; `replaced` asks something else in its place:
    `instead` is a checkpoint as in a technique file, whatever it leaves out taken from the one that it replaces.
    """

    checkpoint: str
    action: Literal["off", "relaxed", "replaced"]
    within: Wanted | None = None
    instead: dict[str, Any] | None = None
    reason: Text = Field(description="Short limbs, a stiff back, an old injury")

    @model_validator(mode="after")
    def _has_what_it_needs(self) -> Self:
        if (self.action == "relaxed") != (self.within is not None):
            raise ValueError("relaxed takes `within`, and only relaxed does")
        if (self.action == "replaced") != (self.instead is not None):
            raise ValueError("replaced takes `instead`, and only replaced does")
        return self


def adapted(technique: Technique, adaptations: Sequence[Adaptation]) -> Technique:
    """The technique with a student's adaptations; those of checkpoints that it does not have change nothing.

    Raises:
        BadTechnique: what is asked instead is no checkpoint of this technique's events and phases.
    """
    by_checkpoint = {adaptation.checkpoint: adaptation for adaptation in adaptations}
    if not by_checkpoint.keys() & {checkpoint.id for checkpoint in technique.checkpoints}:
        return technique
    changed = [_changed(technique, c, by_checkpoint.get(c.id)) for c in technique.checkpoints]
    return technique.model_copy(update={"checkpoints": tuple(changed)})


def _changed(technique: Technique, checkpoint: Checkpoint, adaptation: Adaptation | None) -> Checkpoint:
    if adaptation is None:
        return checkpoint
    why = adaptation.reason
    if adaptation.action == "off":
        return checkpoint.model_copy(update={"switched_off": why})
    if adaptation.action == "relaxed":
        return checkpoint.model_copy(update={"within": adaptation.within, "within_by": {}, "reason_for_range": why})
    return _instead(technique, checkpoint, adaptation)


def _instead(technique: Technique, checkpoint: Checkpoint, adaptation: Adaptation) -> Checkpoint:
    """The checkpoint asked in place of another, under its id, checked against the technique."""
    own = checkpoint.model_dump(mode="json", by_alias=True, exclude_unset=True)
    for key in ("within", "within_by", "any_of", "confirm", "only_if"):
        own.pop(key, None)
    given = own | (adaptation.instead or {}) | {"id": checkpoint.id, "reason_for_range": adaptation.reason}
    body = technique.model_dump(mode="json", by_alias=True, exclude_unset=True)
    body["checkpoints"] = [given if c["id"] == checkpoint.id else c for c in body["checkpoints"]]
    try:
        found = read_technique(body).checkpoint(checkpoint.id)
    except BadTechnique as error:
        index = [c["id"] for c in body["checkpoints"]].index(checkpoint.id)
        mine = [p for p in error.problems if p.path[:2] == ("checkpoints", index)] or list(error.problems)
        raise BadTechnique([Problem(path=("instead", *p.path[2:]), message=p.message) for p in mine], "adaptation") from error
    assert found is not None
    return found


def read_adaptation(technique: Technique, data: dict[str, Any]) -> Adaptation:
    """Check an adaptation against its technique.

    Raises:
        BadInput: it lacks what it needs, or names a checkpoint that is not there.
    """
    try:
        adaptation = Adaptation.model_validate(data)
    except ValidationError as error:
        raise BadInput("; ".join(str(problem) for problem in problems_of(error))) from error
    if technique.checkpoint(adaptation.checkpoint) is None:
        raise BadInput(f"“{technique.id}” has no checkpoint “{adaptation.checkpoint}”")
    adapted(technique, [adaptation])
    return adaptation
