"""What to fix first over a student's whole history, and which fault leads to which (docs/measurement.md)."""

from __future__ import annotations

from collections.abc import Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from lacertus.core.progress.fixfirst import FIRST_SEEN, GIVES_WAY, MOST, SAYS, STATE_WEIGHT
from lacertus.core.progress.history import FaultHistory
from lacertus.core.progress.ledger import RECHECK_LATER, State
from lacertus.core.techniques.definition import Checkpoint, Technique

FORGOTTEN_DAYS = RECHECK_LATER
"""What was not judged for so long before the student's last session is filmed again before it is fixed. A convention."""


@dataclass(frozen=True, kw_only=True)
class Made:
    """A fault that was made in a rep. Days are ordinals."""

    rep: Hashable
    day: int
    technique: str
    fault: str


@dataclass(frozen=True, kw_only=True)
class Linked:
    """A declared cause, and how often it was made in the same reps: in `together` of the `of` reps in which the effect was."""

    technique: str
    cause: str
    effect: str
    cause_ask: str
    effect_ask: str
    together: int
    of: int

    @property
    def decides(self) -> bool:
        """The effect gives way to this cause."""
        return self.together >= GIVES_WAY * self.of


@dataclass(frozen=True, kw_only=True)
class Focus:
    """One thing to fix: the fault, the checkpoint and its cue, and why this one; `why` is the coach's, where it is his choice."""

    technique: str
    fault: str
    checkpoint: str
    ask: str
    cue: str
    safety: bool
    reason: str
    why: str | None = None


@dataclass(frozen=True, kw_only=True)
class _Case:
    history: FaultHistory
    technique: Technique
    checkpoint: Checkpoint

    @property
    def key(self) -> tuple[str, str]:
        return self.history.technique, self.history.fault

    @property
    def state(self) -> State | None:
        """None where it is new: no block that holds a miss has closed yet, or it was clean or cleared before."""
        state = self.history.ledger.state
        return None if state in (State.CLEAN, State.CLEARED) else state

    @property
    def order(self) -> tuple[bool, float, int, str, str]:
        """Safety before all else, then recurrence × weight × state, then phase order."""
        weight = FIRST_SEEN if self.state is None else STATE_WEIGHT[self.state]
        score = self.history.ledger.recurrence * self.checkpoint.weight * weight
        return not self.checkpoint.safety, -score, self.technique.phases.index(self.checkpoint.phase), *self.key


def focus_of(
    histories: Iterable[FaultHistory], techniques: Mapping[str, Technique], made: Iterable[Made], on: int
) -> tuple[tuple[Focus, ...], tuple[Linked, ...]]:
    """At most two faults to fix, and every declared link between faults that are not clean, the strongest first.

    Only what was missed since it was last clean or cleared is to be fixed, and only what was judged lately. A fault gives way to
    its cause when that was made in at least half of the reps in which it was itself made since then; a safety point never does.

    Args:
        histories: the student's, looked at from one day, so that their recurrences can be held against each other.
        techniques: by id, as they are asked of this student: what is switched off is not fixed.
        made: every fault of every rep.
        on: the day of the student's last session.
    """
    cases = {case.key: case for case in _cases(histories, techniques, on)}
    links = _links(cases, made)
    giving_way = {(link.technique, link.effect) for link in links if link.decides}
    kept = [case for key, case in cases.items() if case.checkpoint.safety or key not in giving_way]
    found = tuple(_focus(case, links) for case in sorted(kept, key=lambda case: case.order)[:MOST])
    return found, links


def as_chosen(
    choices: Sequence[tuple[str, str]], why: str, histories: Iterable[FaultHistory], techniques: Mapping[str, Technique]
) -> tuple[Focus, ...]:
    """The faults that the coach chose (technique and fault), in that order; what is not known any more is left out."""
    known = {(one.technique, one.fault): one for one in histories}
    cases = [_case(known[key], techniques.get(key[0])) for key in choices if key in known]
    return tuple(replace(_focus(case, ()), why=why) for case in cases if case is not None)[:MOST]


def _cases(histories: Iterable[FaultHistory], techniques: Mapping[str, Technique], on: int) -> Iterable[_Case]:
    for one in histories:
        judged = [cell.day for cell in one.cells if cell.exposures]
        if one.ledger.missed_since is None or judged[-1] < on - FORGOTTEN_DAYS:
            continue
        case = _case(one, techniques.get(one.technique))
        if case is not None:
            yield case


def _case(history: FaultHistory, technique: Technique | None) -> _Case | None:
    """A fault with the heaviest of its checkpoints; None where the technique does not ask it of this student (any more)."""
    if technique is None:
        return None
    asked = [c for name in history.checkpoints if (c := technique.checkpoint(name)) is not None and c.switched_off is None]
    if not asked:
        return None
    return _Case(history=history, technique=technique, checkpoint=max(asked, key=lambda c: (c.safety, c.weight)))


def _links(cases: Mapping[tuple[str, str], _Case], made: Iterable[Made]) -> tuple[Linked, ...]:
    """Cause and effect among faults that are not clean, counted over the effect's reps since it was last clean or cleared."""
    reps: dict[tuple[str, str], dict[Hashable, int]] = {}
    for one in made:
        reps.setdefault((one.technique, one.fault), {})[one.rep] = one.day
    leading = [(cause, to) for cause in cases.values() if (to := _leads_to(cause))]
    found = []
    for key, effect in cases.items():
        since = effect.history.ledger.missed_since
        assert since is not None
        own = {rep for rep, day in reps.get(key, {}).items() if day >= since}
        for cause, to in leading:
            same = cause.history.technique == effect.history.technique and cause.key != key
            if own and same and not to.isdisjoint(effect.history.checkpoints):
                found.append(_linked(cause, effect, len(own & reps.get(cause.key, {}).keys()), len(own)))
    return tuple(sorted(found, key=lambda link: (-link.together / link.of, -link.of, link.cause, link.effect)))


def _leads_to(cause: _Case) -> set[str]:
    """The checkpoints that a fault is declared to lead to."""
    asked = (cause.technique.checkpoint(name) for name in cause.history.checkpoints)
    return {to for checkpoint in asked if checkpoint is not None for to in checkpoint.leads_to}


def _linked(cause: _Case, effect: _Case, together: int, of: int) -> Linked:
    return Linked(
        technique=cause.history.technique,
        cause=cause.history.fault,
        effect=effect.history.fault,
        cause_ask=cause.checkpoint.ask,
        effect_ask=effect.checkpoint.ask,
        together=together,
        of=of,
    )


def _focus(case: _Case, links: Sequence[Linked]) -> Focus:
    return Focus(
        technique=case.history.technique,
        fault=case.history.fault,
        checkpoint=case.checkpoint.id,
        ask=case.checkpoint.ask,
        cue=case.checkpoint.cues[0],
        safety=case.checkpoint.safety,
        reason=_reason(case, links),
    )


def _reason(case: _Case, links: Sequence[Linked]) -> str:
    ledger = case.history.ledger
    sessions = len(ledger.days)
    counted = f"missed in {ledger.misses} of {ledger.exposures} reps over {sessions} session{'' if sessions == 1 else 's'}"
    parts = ["a safety point"] if case.checkpoint.safety else []
    parts.append(f"{SAYS[case.state] if case.state else 'new'}: {counted}")
    if case.history.under_load:
        parts.append("under load: it had cleared on an easier rung")
    parts.append(f"expected in {100 * ledger.recurrence:.0f} % of coming reps")
    for link in links:
        if link.decides and (link.technique, link.cause) == case.key:
            parts.append(f"leads to “{link.effect_ask}”: missed together in {link.together} of its {link.of}")
    return " · ".join(parts)
