"""A coach's own verdict in place of a measured one: both stay, with the reason."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.review.judgement import Judgement


@dataclass(frozen=True, kw_only=True)
class Overrule:
    """The verdict that the coach gives, and why."""

    verdict: Verdict
    reason: str


def overruled(judgements: Sequence[Judgement], given: Mapping[str, Overrule]) -> tuple[Judgement, ...]:
    """Judgements with the coach's verdicts, by checkpoint, in place of the measured ones; those are kept beside them.

    What is not asked of this rep stays so: there is nothing to overrule.
    """
    return tuple(_one(judgement, given.get(judgement.id)) for judgement in judgements)


def _one(judgement: Judgement, overrule: Overrule | None) -> Judgement:
    if overrule is None or judgement.verdict is Verdict.NOT_ASKED:
        return judgement
    return replace(judgement, verdict=overrule.verdict, measured=judgement.verdict, because=overrule.reason)
