"""What to fix first: at most two of the missed checkpoints, each with its reason in a sentence."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from lacertus.core.judge import Judgement
from lacertus.core.technique import Checkpoint, Technique

MOST = 2
FIRST_SEEN = 0.8
"""Weight of a fault that has no history yet. A convention (domain section 5)."""
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


@dataclass(frozen=True, kw_only=True)
class _Case:
    technique: Technique
    checkpoint: Checkpoint
    missed: frozenset[int]
    exposed: frozenset[int]

    @property
    def recurrence(self) -> float:
        """(2r₀ + m) ÷ (2 + n) with r₀ = (m + ½) ÷ (n + 2): one session's worth (domain section 5)."""
        m, n = len(self.missed), len(self.exposed)
        return (2 * (m + 0.5) / (n + 2) + m) / (2 + n)

    @property
    def order(self) -> tuple[bool, float, int]:
        score = self.recurrence * self.checkpoint.weight * FIRST_SEEN
        return (not self.checkpoint.safety, -score, self.technique.phases.index(self.checkpoint.phase))


def fix_first(technique: Technique, reps: Sequence[Sequence[Judgement]]) -> tuple[Fix, ...]:
    """Choose at most two fixes from the judged reps of one technique.

    Safety misses come before all else. A missed checkpoint whose declared upstream cause was missed
    in at least half of the same reps gives way to that cause.
    """
    cases = {case.checkpoint.id: case for case in _cases(technique, reps) if case.missed}
    causes = {key: _upstream(case, cases) for key, case in cases.items()}
    kept = [case for key, case in cases.items() if case.checkpoint.safety or causes[key] is None]
    chosen = sorted(kept, key=lambda case: case.order)[:MOST]
    return tuple(_fix(case, [cases[k] for k, cause in causes.items() if cause == case.checkpoint.id]) for case in chosen)


def _cases(technique: Technique, reps: Sequence[Sequence[Judgement]]) -> list[_Case]:
    found = []
    for checkpoint in technique.in_phase_order:
        judged = {i: j for i, rep in enumerate(reps) for j in rep if j.id == checkpoint.id}
        found.append(
            _Case(
                technique=technique,
                checkpoint=checkpoint,
                missed=frozenset(i for i, j in judged.items() if j.counts_as_missed),
                exposed=frozenset(i for i, j in judged.items() if j.is_exposure),
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
