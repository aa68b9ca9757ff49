"""Whether the technique was open when it was tried: a wrong choice is told apart from bad execution."""

from __future__ import annotations

from collections.abc import Sequence
from enum import StrEnum

from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.model import changed
from lacertus.core.review.judgement import Judgement
from lacertus.core.techniques.definition import Technique


class RepChoice(StrEnum):
    """A rep's choice: tried where it was open, where it was not, or where that cannot be told."""

    OPEN = "open"
    WRONG = "wrong"
    UNKNOWN = "unknown"


def choice_of(technique: Technique, judgements: Sequence[Judgement]) -> RepChoice | None:
    """A rep's choice by its entry checks; None where none of them is asked."""
    entries = {checkpoint.id for checkpoint in technique.checkpoints if checkpoint.entry}
    asked = [j.verdict for j in judgements if j.id in entries and j.verdict is not Verdict.NOT_ASKED]
    if not asked:
        return None
    if Verdict.MISSED in asked:
        return RepChoice.WRONG
    return RepChoice.OPEN if all(verdict is Verdict.MET for verdict in asked) else RepChoice.UNKNOWN


def with_choice(technique: Technique, judgements: Sequence[Judgement]) -> tuple[Judgement, ...]:
    """The judgements with what counts of them: of a wrong choice entry checks, safety and reactions alone are exposures."""
    wrong = choice_of(technique, judgements) is RepChoice.WRONG
    return tuple(changed(j, counts=not wrong or j.safety or _of_choice(technique, j)) for j in judgements)


def _of_choice(technique: Technique, judgement: Judgement) -> bool:
    checkpoint = technique.checkpoint(judgement.id)
    return checkpoint is None or checkpoint.entry
