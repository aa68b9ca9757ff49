"""What to fix first: at most two of the missed checkpoints, each with its reason in a sentence."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

from lacertus.core.progress.ledger import FaultLedger, State
from lacertus.core.review.judge import Judgement
from lacertus.core.techniques.definition import Checkpoint, Technique

MOST = 2
FIRST_SEEN = 0.8
STATE_WEIGHT = {State.RELAPSED: 1.5, State.RECURRING: 1.3, State.ONCE: 1.0, State.FADING: 0.7}
"""Weight of a fault by its state; one with no history, or cleared, weighs as first seen. Conventions (docs/measurement.md)."""
SAYS = {
    State.RELAPSED: "came back after it had cleared",
    State.RECURRING: "keeps coming back",
    State.ONCE: "missed before",
    State.FADING: "fading",
    State.CLEARED: "had cleared",
}
GIVES_WAY = 0.5
"""A checkpoint gives way to its cause when that was missed in at least this share of the same reps."""


@dataclass(frozen=True, kw_only=True)
class Fix:
    """One thing to fix: the checkpoint, its fault and cue, how often it was missed, and why this one."""

    technique: str
    checkpoint: str
    fault: str
    cue: str
    misses: int
    exposures: int
    reason: str
    why: str | None = None
    """The coach's reason, where this is his own choice in place of the recommended one."""


@dataclass(frozen=True, kw_only=True)
class Choice:
    """What a coach wants to be fixed first: a checkpoint of a technique."""

    technique: str
    checkpoint: str


@dataclass(frozen=True, kw_only=True)
class Group:
    """The judged reps of one technique, and each checkpoint's ledger where the student has a history, these reps included."""

    technique: Technique
    reps: Sequence[Sequence[Judgement]]
    past: Mapping[str, FaultLedger] = field(default_factory=dict)


@dataclass(frozen=True, kw_only=True)
class _Case:
    technique: Technique
    checkpoint: Checkpoint
    missed: frozenset[int]
    exposed: frozenset[int]
    past: FaultLedger | None = None

    @property
    def recurrence(self) -> float:
        """The ledger's, or of one session alone (2r₀ + m) ÷ (2 + n) with r₀ = (m + ½) ÷ (n + 2) (docs/measurement.md)."""
        if self.past is not None:
            return self.past.recurrence
        m, n = len(self.missed), len(self.exposed)
        return (2 * (m + 0.5) / (n + 2) + m) / (2 + n)

    @property
    def order(self) -> tuple[bool, float, int]:
        state = FIRST_SEEN if self.past is None else STATE_WEIGHT.get(self.past.state, FIRST_SEEN)
        score = self.recurrence * self.checkpoint.weight * state
        return (not self.checkpoint.safety, -score, self.technique.phases.index(self.checkpoint.phase))


def fix_first(technique: Technique, reps: Sequence[Sequence[Judgement]]) -> tuple[Fix, ...]:
    """Choose at most two fixes from the judged reps of one technique, with no history."""
    return fix_first_of([Group(technique=technique, reps=reps)])


def as_chosen(groups: Iterable[Group], choices: Sequence[Choice], why: str) -> tuple[Fix, ...]:
    """The fixes that a coach chose, at most two, in that order; what was never asked of these reps is left out."""
    cases = {(group.technique.id, case.checkpoint.id): case for group in groups for case in _cases(group) if case.exposed}
    wanted = [cases[key] for choice in choices if (key := (choice.technique, choice.checkpoint)) in cases]
    return tuple(replace(_fix(case, []), why=why) for case in wanted[:MOST])


def fix_first_of(groups: Iterable[Group]) -> tuple[Fix, ...]:
    """Choose at most two fixes from judged reps of any techniques.

    Safety misses come before all else. A missed checkpoint whose declared upstream cause was missed
    in at least half of the same reps gives way to that cause. Then recurrence × weight × state, then phase order.
    """
    kept: list[tuple[_Case, list[_Case]]] = []
    for group in groups:
        cases = {case.checkpoint.id: case for case in _cases(group) if case.missed}
        causes = {key: _upstream(case, cases) for key, case in cases.items()}
        for key, case in cases.items():
            if case.checkpoint.safety or causes[key] is None:
                kept.append((case, [cases[other] for other, cause in causes.items() if cause == key]))
    return tuple(_fix(case, downstream) for case, downstream in sorted(kept, key=lambda one: one[0].order)[:MOST])


def _cases(group: Group) -> list[_Case]:
    technique, reps = group.technique, group.reps
    found = []
    for checkpoint in technique.in_phase_order:
        judged = {i: j for i, rep in enumerate(reps) for j in rep if j.id == checkpoint.id}
        found.append(
            _Case(
                technique=technique,
                checkpoint=checkpoint,
                missed=frozenset(i for i, j in judged.items() if j.counts_as_missed),
                exposed=frozenset(i for i, j in judged.items() if j.is_exposure),
                past=group.past.get(checkpoint.id),
            )
        )
    return found


def _upstream(case: _Case, cases: dict[str, _Case]) -> str | None:
    """The cause missed most often in the same reps, where that is at least half of them."""
    shares = {
        key: len(case.missed & other.missed) / len(case.missed)
        for key, other in cases.items()
        if case.checkpoint.id in other.checkpoint.leads_to
    }
    best = max(shares, key=lambda key: shares[key], default=None)
    return best if best is not None and shares[best] >= GIVES_WAY else None


def _fix(case: _Case, downstream: list[_Case]) -> Fix:
    m, n = len(case.missed), len(case.exposed)
    parts = ["a safety point"] if case.checkpoint.safety else []
    parts.append(f"missed in {m} of {n}")
    if case.past is not None and case.past.exposures > n and case.past.state in SAYS:
        parts.append(f"{SAYS[case.past.state]}: {case.past.misses} of {case.past.exposures} in {len(case.past.days)} sessions")
    for other in downstream:
        both = len(other.missed & case.missed)
        parts.append(f"leads to “{other.checkpoint.ask}” in {both} of those")
    return Fix(
        technique=case.technique.id,
        checkpoint=case.checkpoint.id,
        fault=case.checkpoint.fault.code,
        cue=case.checkpoint.cues[0],
        misses=m,
        exposures=n,
        reason=" · ".join(parts),
    )
