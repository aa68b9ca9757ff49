"""What to fix first: at most two things, each with its reason in a sentence; of a review's reps, or over a whole history.

Both go by the same rule (docs/measurement.md, “Fix first”): safety before all else; a fault gives way to a declared cause that was
made in at least half of the same reps; then recurrence × weight × state, then phase order.
"""

from __future__ import annotations

from collections.abc import Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Annotated

from pydantic import Field

from lacertus.core import bounds
from lacertus.core.model import Record
from lacertus.core.progress.history import FaultHistory
from lacertus.core.progress.ledger import RECHECK_LATER, FaultLedger, State
from lacertus.core.review.judgement import Judgement
from lacertus.core.techniques.definition import Asked, Technique

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
"""A fault gives way to its cause when that was made in at least this share of the same reps."""
FORGOTTEN_DAYS = RECHECK_LATER
"""What was not judged for so long before the student's last session is filmed again before it is fixed. A convention."""
LONGEST_WHY = 400


# --- what is said ------------------------------------------------------------------------------------


@dataclass(frozen=True, kw_only=True)
class Fix:
    """One thing to fix in a review: the checkpoint, its fault and cue, how often it was missed, and why this one."""

    technique: str
    checkpoint: str
    fault: str
    cue: str
    misses: int
    exposures: int
    reason: str
    why: str | None = None
    """The coach's reason, where this is their own choice in place of the recommended one."""


@dataclass(frozen=True, kw_only=True)
class LastingFix:
    """One thing to fix over a history: the fault, the checkpoint and its cue, and why this one; `why` as in `Fix`."""

    technique: str
    fault: str
    checkpoint: str
    ask: str
    cue: str
    safety: bool
    reason: str
    why: str | None = None


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


# --- what a coach chooses instead --------------------------------------------------------------------


class Choice(Record):
    """What a coach wants to be fixed first in a review: a checkpoint of a technique."""

    technique: bounds.Word
    checkpoint: bounds.Word


class FixChoice(Record):
    """The coach's own choice in place of what is recommended for a review, and why."""

    choices: Annotated[tuple[Choice, ...], Field(max_length=10)]
    why: Annotated[str, Field(max_length=4000)]


class FaultChoice(Record):
    """What a coach wants to be fixed first over a history: a fault of a technique."""

    technique: bounds.Word
    fault: bounds.Word


class LastingFixChoice(Record):
    """The coach's own choice over a student's whole history, why, and on which day (ISO) it was made."""

    choices: Annotated[tuple[FaultChoice, ...], Field(max_length=10)]
    why: Annotated[str, Field(max_length=4000)]
    on: bounds.IsoDay


# --- the rule ----------------------------------------------------------------------------------------


@dataclass(frozen=True, kw_only=True)
class _Case:
    """A fault that may be fixed, with all that the rule weighs. `made` are the reps in which it was made."""

    technique: Technique
    checkpoint: Asked
    fault: str
    names: tuple[str, ...]
    """Checkpoints of this fault."""
    leads_to: frozenset[str]
    """Checkpoints that they are declared to lead to."""
    recurrence: float
    state: State | None
    """None where it is new: no block that holds a miss has closed yet, or it was clean or cleared before."""
    made: frozenset[Hashable]
    lately: frozenset[Hashable]
    """Those of `made` in which it gives way to a cause: since it was last clean or cleared."""
    tie: tuple[str, ...] = ()

    @property
    def order(self) -> tuple[bool, float, int, tuple[str, ...]]:
        weight = FIRST_SEEN if self.state is None else STATE_WEIGHT[self.state]
        score = self.recurrence * self.checkpoint.weight * weight
        return not self.checkpoint.safety, -score, self.technique.phases.index(self.checkpoint.phase), self.tie


@dataclass(frozen=True, kw_only=True)
class _Link:
    """How often a cause was made in the reps in which its effect was lately made."""

    cause: _Case
    effect: _Case
    together: int

    @property
    def share(self) -> float:
        return self.together / len(self.effect.lately)


def _links_of(cases: Sequence[_Case]) -> list[_Link]:
    """Every declared cause and effect among the cases, in their order."""
    causes = [case for case in cases if case.leads_to]
    return [
        _Link(cause=cause, effect=effect, together=len(cause.made & effect.lately))
        for effect in cases
        for cause in causes
        if cause is not effect
        and cause.technique is effect.technique
        and effect.lately
        and not cause.leads_to.isdisjoint(effect.names)
    ]


def _first_of(cases: Iterable[_Case], links: Iterable[_Link]) -> list[_Case]:
    """The rule itself: what is left when effects gave way to their causes, the most pressing first, at most two."""
    giving_way = {id(link.effect) for link in links if link.share >= GIVES_WAY}
    kept = [case for case in cases if case.checkpoint.safety or id(case) not in giving_way]
    return sorted(kept, key=lambda case: case.order)[:MOST]


# --- of a review's reps ------------------------------------------------------------------------------


@dataclass(frozen=True, kw_only=True)
class Group:
    """The judged reps of one technique, and each checkpoint's ledger where the student has a history, these reps included."""

    technique: Technique
    reps: Sequence[Sequence[Judgement]]
    past: Mapping[str, FaultLedger] = field(default_factory=dict)


@dataclass(frozen=True, kw_only=True)
class _Counted:
    """A checkpoint of a group: its case, the number of reps that it was judged in, and its past."""

    case: _Case
    exposures: int
    past: FaultLedger | None


def fix_first(technique: Technique, reps: Sequence[Sequence[Judgement]]) -> tuple[Fix, ...]:
    """Choose at most two fixes from the judged reps of one technique, with no history."""
    return fix_first_of([Group(technique=technique, reps=reps)])


def fix_first_of(groups: Iterable[Group]) -> tuple[Fix, ...]:
    """Choose at most two fixes from judged reps of any techniques."""
    counted = [entry for group in groups for entry in _counted(group) if entry.case.made]
    links = _links_of([entry.case for entry in counted])
    strongest = _strongest(links)
    own = {id(entry.case): entry for entry in counted}
    first = _first_of([entry.case for entry in counted], links)
    return tuple(_fix(own[id(case)], [link for link in strongest if link.cause is case]) for case in first)


def as_chosen(groups: Iterable[Group], choice: FixChoice) -> tuple[Fix, ...]:
    """The fixes that a coach chose, at most two, in that order; what was never asked of these reps is left out."""
    known = {(group.technique.id, one.case.checkpoint.id): one for group in groups for one in _counted(group) if one.exposures}
    wanted = [known[key] for one in choice.choices if (key := (one.technique, one.checkpoint)) in known]
    return tuple(replace(_fix(entry, []), why=choice.why) for entry in wanted[:MOST])


def _counted(group: Group) -> list[_Counted]:
    technique = group.technique
    found = []
    for checkpoint in technique.asked_in_order:
        judged = {i: j for i, rep in enumerate(group.reps) for j in rep if j.id == checkpoint.id}
        made = frozenset(i for i, j in judged.items() if j.counts_as_missed)
        exposures = sum(j.is_exposure for j in judged.values())
        past = group.past.get(checkpoint.id)
        case = _Case(
            technique=technique,
            checkpoint=checkpoint,
            fault=checkpoint.fault.code,
            names=(checkpoint.id,),
            leads_to=frozenset(checkpoint.leads_to),
            recurrence=_of_one_session(len(made), exposures) if past is None else past.recurrence,
            state=past.state if past is not None and past.state in STATE_WEIGHT else None,
            made=made,
            lately=made,
        )
        found.append(_Counted(case=case, exposures=exposures, past=past))
    return found


def _of_one_session(m: int, n: int) -> float:
    """Recurrence from one session alone: (2r₀ + m) ÷ (2 + n) with r₀ = (m + ½) ÷ (n + 2) (docs/measurement.md)."""
    return (2 * (m + 0.5) / (n + 2) + m) / (2 + n)


def _strongest(links: Iterable[_Link]) -> list[_Link]:
    """Of each effect that gives way, the cause made most often in the same reps; the first of equals."""
    best: dict[int, _Link] = {}
    for link in links:
        if link.share >= GIVES_WAY and (id(link.effect) not in best or link.share > best[id(link.effect)].share):
            best[id(link.effect)] = link
    return list(best.values())


def _fix(entry: _Counted, downstream: Sequence[_Link]) -> Fix:
    case, past = entry.case, entry.past
    m, n = len(case.made), entry.exposures
    parts = ["a safety point"] if case.checkpoint.safety else []
    parts.append(f"missed in {m} of {n}")
    if past is not None and past.exposures > n and past.state in SAYS:
        parts.append(f"{SAYS[past.state]}: {past.misses} of {past.exposures} in {len(past.days)} sessions")
    parts += [f"leads to “{link.effect.checkpoint.ask}” in {link.together} of those" for link in downstream]
    return Fix(
        technique=case.technique.id,
        checkpoint=case.checkpoint.id,
        fault=case.fault,
        cue=case.checkpoint.cues[0],
        misses=m,
        exposures=n,
        reason=" · ".join(parts),
    )


# --- over a whole history ----------------------------------------------------------------------------


@dataclass(frozen=True, kw_only=True)
class Made:
    """A fault that was made in a rep. Days are ordinals."""

    rep: Hashable
    day: int
    technique: str
    fault: str


def lasting_fixes(
    histories: Iterable[FaultHistory], techniques: Mapping[str, Technique], made: Iterable[Made], on: int
) -> tuple[tuple[LastingFix, ...], tuple[Linked, ...]]:
    """At most two faults to fix, and every declared link between faults that are not clean, the strongest first.

    Only what was missed since it was last clean or cleared is to be fixed, and only what was judged lately. A fault gives way to
    its cause when that was made in at least half of the reps in which it was itself made since then; a safety point never does.

    Args:
        histories: the student's, looked at from one day, so that their recurrences can be held against each other.
        techniques: by id, as they are asked of this student: what is switched off is not fixed.
        made: every fault of every rep.
        on: the day of the student's last session.
    """
    reps: dict[tuple[str, str], dict[Hashable, int]] = {}
    for one in made:
        reps.setdefault((one.technique, one.fault), {})[one.rep] = one.day
    known = {
        (one.technique, one.fault): one for one in histories if one.ledger.missed_since is not None and _judged_lately(one, on)
    }
    cases = [
        case for key, one in known.items() if (case := _lasting(one, techniques.get(one.technique), reps.get(key, {}))) is not None
    ]
    links = _links_of(cases)
    told = sorted((_linked(link) for link in links), key=lambda link: (-link.together / link.of, -link.of, link.cause, link.effect))
    first = [_lasting_fix(known[case.technique.id, case.fault], case, told) for case in _first_of(cases, links)]
    return tuple(first), tuple(told)


def as_chosen_lasting(
    choice: LastingFixChoice, histories: Iterable[FaultHistory], techniques: Mapping[str, Technique]
) -> tuple[LastingFix, ...]:
    """The faults that the coach chose, in that order; what is not known any more is left out."""
    known = {(one.technique, one.fault): one for one in histories}
    found = []
    for key in ((one.technique, one.fault) for one in choice.choices):
        case = _lasting(known[key], techniques.get(key[0]), {}) if key in known else None
        if case is not None:
            found.append(replace(_lasting_fix(known[key], case, ()), why=choice.why))
    return tuple(found[:MOST])


def _judged_lately(history: FaultHistory, on: int) -> bool:
    return [cell.day for cell in history.cells if cell.exposures][-1] >= on - FORGOTTEN_DAYS


def _lasting(history: FaultHistory, technique: Technique | None, reps: Mapping[Hashable, int]) -> _Case | None:
    """A fault with the heaviest of its checkpoints; None where the technique does not ask it of this student (any more)."""
    if technique is None:
        return None
    known = [c for name in history.checkpoints if (c := technique.asked(name)) is not None]
    asked = [c for c in known if c.switched_off is None]
    if not asked:
        return None
    state, since = history.ledger.state, history.ledger.missed_since
    return _Case(
        technique=technique,
        checkpoint=max(asked, key=lambda c: (c.safety, c.weight)),
        fault=history.fault,
        names=history.checkpoints,
        leads_to=frozenset(to for checkpoint in known for to in checkpoint.leads_to),
        recurrence=history.ledger.recurrence,
        state=None if state in (State.CLEAN, State.CLEARED) else state,
        made=frozenset(reps),
        lately=frozenset(rep for rep, day in reps.items() if since is not None and day >= since),
        tie=(history.technique, history.fault),
    )


def _linked(link: _Link) -> Linked:
    return Linked(
        technique=link.cause.technique.id,
        cause=link.cause.fault,
        effect=link.effect.fault,
        cause_ask=link.cause.checkpoint.ask,
        effect_ask=link.effect.checkpoint.ask,
        together=link.together,
        of=len(link.effect.lately),
    )


def _lasting_fix(history: FaultHistory, case: _Case, links: Sequence[Linked]) -> LastingFix:
    return LastingFix(
        technique=case.technique.id,
        fault=case.fault,
        checkpoint=case.checkpoint.id,
        ask=case.checkpoint.ask,
        cue=case.checkpoint.cues[0],
        safety=case.checkpoint.safety,
        reason=_reason(history, case, links),
    )


def _reason(history: FaultHistory, case: _Case, links: Sequence[Linked]) -> str:
    ledger = history.ledger
    sessions = len(ledger.days)
    counted = f"missed in {ledger.misses} of {ledger.exposures} reps over {sessions} session{'' if sessions == 1 else 's'}"
    parts = ["a safety point"] if case.checkpoint.safety else []
    parts.append(f"{SAYS[case.state] if case.state else 'new'}: {counted}")
    if history.under_load:
        parts.append("under load: it had cleared on an easier rung")
    parts.append(f"expected in {100 * ledger.recurrence:.0f} % of coming reps")
    for link in links:
        if link.decides and (link.technique, link.cause) == (case.technique.id, case.fault):
            parts.append(f"leads to “{link.effect_ask}”: missed together in {link.together} of its {link.of}")
    return " · ".join(parts)
