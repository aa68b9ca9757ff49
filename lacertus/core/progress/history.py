"""A student's whole history by fault: session by session, by side, pace and rung, by family, and against success.

Built from counts alone, so that it can be worked out anew at will: the order in which reviews were finished does not matter.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import NamedTuple

from lacertus.core.progress.ledger import DESIGN, FaultLedger, Session, State, ledger_of, wilson

STATE_ORDER = (State.RELAPSED, State.RECURRING, State.ONCE, State.FADING, State.CLEARED, State.CLEAN)


class Count(NamedTuple):
    """How often a checkpoint was missed on a day, in reps that were done alike. Days are ordinals."""

    day: int
    technique: str
    checkpoint: str
    fault: str
    family: str
    safety: bool = False
    entry: bool = False
    side: str = "right"
    pace: str = "full"
    rung: str | None = None
    exposures: int = 0
    misses: int = 0
    borderline: int = 0
    not_seen: int = 0
    options: tuple[tuple[str, str], ...] = ()
    """Group and choice of each option that the reps were done by, where that is looked into."""


class Cell(NamedTuple):
    """One session of a fault: what was counted, the state after it, and whether that changed."""

    day: int
    exposures: int
    misses: int
    borderline: int
    not_seen: int
    state: State
    changed: bool


@dataclass(frozen=True, kw_only=True)
class Part:
    """A part of a history (a side, a pace, a rung): its misses of exposures, rate and interval."""

    name: str
    exposures: int
    misses: int
    rate: float
    interval: tuple[float, float]


@dataclass(frozen=True, kw_only=True)
class FaultHistory:
    """A fault of a technique, or a family's over all techniques (then technique and fault are empty)."""

    technique: str
    fault: str
    family: str
    checkpoints: tuple[str, ...]
    safety: bool
    entry: bool
    """It asks whether the technique was open at all: a choice, not how it was done."""
    ledger: FaultLedger
    cells: tuple[Cell, ...]
    lately: tuple[Part, Part] | None
    """The later and the earlier half of its sessions, where there are at least four: which way it goes."""
    under_load: bool
    """It relapsed on a harder rung than it was cleared on."""
    cleared_on: int | None
    counts: tuple[Count, ...] = field(compare=False, repr=False)
    """What it was worked out from, in any order."""

    @cached_property
    def sides(self) -> tuple[Part, ...]:
        return _parts(self.counts, lambda count: count.side)

    @cached_property
    def paces(self) -> tuple[Part, ...]:
        return _parts(self.counts, lambda count: count.pace)

    @cached_property
    def rungs(self) -> tuple[Part, ...]:
        """By rung; where none was said the name is empty."""
        return _parts(self.counts, lambda count: count.rung or "")

    @cached_property
    def options(self) -> dict[str, tuple[Part, ...]]:
        """By option group, its choices."""
        groups = sorted({group for count in self.counts for group, _ in count.options})
        return {group: _parts(self.counts, _choice_in(group)) for group in groups}


def _choice_in(group: str) -> Callable[[Count], str]:
    """Which choice of an option group reps were done by; empty where none was said."""
    return lambda count: dict(count.options).get(group, "")


def histories(counts: Iterable[Count], ladders: Mapping[str, Sequence[str]], on: int | None = None) -> tuple[FaultHistory, ...]:
    """Every fault that was missed at least once: safety first, then by state, then by recurrence.

    Args:
        counts: how often each checkpoint was missed, by day and how the reps were done.
        ladders: by technique, its rungs from the easiest on.
        on: the day to look from; what came after it is not known yet.
    """
    found = _grouped(counts, lambda count: (count.technique, count.fault))
    made = [_history(own, ladders.get(technique, ()), on) for (technique, _), own in found.items()]
    return tuple(sorted((one for one in made if one is not None), key=_weightiest))


def families(counts: Iterable[Count], on: int | None = None) -> tuple[FaultHistory, ...]:
    """The same for each family over all techniques: habits that no single technique shows. Only those of several faults."""
    found = []
    for (family,), own in _grouped(counts, lambda count: (count.family,)).items():
        if len({(count.technique, count.fault) for count in own}) < 2:
            continue
        made = _history(own, (), on)
        if made is not None:
            found.append(_as_family(made, family))
    return tuple(sorted(found, key=_weightiest))


def _as_family(made: FaultHistory, family: str) -> FaultHistory:
    return replace(made, technique="", fault="", family=family)


def _weightiest(one: FaultHistory) -> tuple[bool, int, float, str, str]:
    return (not one.safety, STATE_ORDER.index(one.ledger.state), -one.ledger.recurrence, one.technique, one.fault)


def _grouped(counts: Iterable[Count], key: Callable[[Count], tuple[str, ...]]) -> dict[tuple[str, ...], list[Count]]:
    found: dict[tuple[str, ...], list[Count]] = {}
    for count in counts:
        found.setdefault(key(count), []).append(count)
    return found


def _history(own: Sequence[Count], ladder: Sequence[str], on: int | None) -> FaultHistory | None:
    own = [count for count in own if on is None or count.day <= on]
    if not any(count.misses for count in own):
        # What was never missed is in no ledger that is shown.
        return None
    safety = any(count.safety for count in own)
    ledger = ledger_of((_session(count) for count in own), safety=safety, on=on)
    if ledger is None:
        return None
    cells = _cells(own, ledger)
    return FaultHistory(
        technique=own[0].technique,
        fault=own[0].fault,
        family=own[0].family,
        checkpoints=tuple(sorted({count.checkpoint for count in own})),
        safety=safety,
        entry=all(count.entry for count in own),
        ledger=ledger,
        cells=cells,
        lately=_halves(cells),
        under_load=_under_load(own, cells, ladder),
        cleared_on=next((cell.day for cell in reversed(cells) if cell.changed and cell.state is State.CLEARED), None),
        counts=tuple(own),
    )


def _session(count: Count) -> Session:
    return Session(count.day, count.exposures, count.misses)


def _cells(own: Sequence[Count], ledger: FaultLedger) -> tuple[Cell, ...]:
    """Every day on which it was asked, those too on which nothing firm was seen."""
    states = {entry.day: entry.state for entry in ledger.history}
    sums: dict[int, list[int]] = {}
    for count in own:
        of_day = sums.setdefault(count.day, [0, 0, 0, 0])
        of_day[0] += count.exposures
        of_day[1] += count.misses
        of_day[2] += count.borderline
        of_day[3] += count.not_seen
    found, before = [], State.CLEAN
    for day, (exposures, misses, borderline, not_seen) in sorted(sums.items()):
        state = states.get(day, before)
        changed = state is not before
        found.append(Cell(day, exposures, misses, borderline, not_seen, state, changed))
        before = state
    return tuple(found)


def _parts(own: Sequence[Count], key: Callable[[Count], str]) -> tuple[Part, ...]:
    """The history apart by some name, each part with its own design effect."""
    sums: dict[str, tuple[int, int, set[int]]] = {}
    for count in own:
        if count.exposures:
            name = key(count)
            n, m, days = sums.get(name, (0, 0, set()))
            days.add(count.day)
            sums[name] = n + count.exposures, m + count.misses, days
    return tuple(
        Part(name=name, exposures=n, misses=m, rate=m / n, interval=wilson(m, n, 1 + DESIGN * (n / len(days) - 1)))
        for name, (n, m, days) in sorted(sums.items())
    )


def _halves(cells: Sequence[Cell]) -> tuple[Part, Part] | None:
    seen = [cell for cell in cells if cell.exposures]
    if len(seen) < 4:
        return None
    half = len(seen) // 2
    return _part("later", seen[-half:]), _part("earlier", seen[:-half])


def _part(name: str, cells: Sequence[Cell]) -> Part:
    n, m = sum(cell.exposures for cell in cells), sum(cell.misses for cell in cells)
    return Part(name=name, exposures=n, misses=m, rate=m / n, interval=wilson(m, n, 1 + DESIGN * (n / len(cells) - 1)))


def _under_load(own: Sequence[Count], cells: Sequence[Cell], ladder: Sequence[str]) -> bool:
    """Whether the last relapse was on a harder rung than the clearing before it."""
    relapse = next((i for i in range(len(cells) - 1, -1, -1) if cells[i].changed and cells[i].state is State.RELAPSED), None)
    if relapse is None:
        return False
    cleared = next(i for i in range(relapse - 1, -1, -1) if cells[i].changed and cells[i].state is State.CLEARED)

    def hardest(day: int) -> int:
        rungs = [ladder.index(count.rung) for count in own if count.day == day and count.rung in ladder and count.exposures]
        return max(rungs, default=-1)

    then, now = hardest(cells[cleared].day), hardest(cells[relapse].day)
    return then >= 0 and now > then


# --- faults against success -------------------------------------------------------------------------


@dataclass(frozen=True, kw_only=True)
class Tried:
    """A rep with an outcome: whether the fault was made in it, whether it came through, how the partner reacted."""

    missed: bool
    completed: bool
    reaction: str | None = None


@dataclass(frozen=True, kw_only=True)
class Success:
    """How often reps with and without a fault came through, against one reaction of the partner (None: against any)."""

    reaction: str | None
    with_fault: tuple[int, int]
    without: tuple[int, int]


def success_of(reps: Iterable[Tried]) -> tuple[Success, ...]:
    """Completed of all reps, with and without the fault: over all, and by reaction where several are known."""
    reps = list(reps)
    reactions = sorted({rep.reaction for rep in reps if rep.reaction})
    found = [_success(None, reps)] if reps else []
    if len(reactions) > 1:
        found += [_success(reaction, [rep for rep in reps if rep.reaction == reaction]) for reaction in reactions]
    return tuple(found)


def _success(reaction: str | None, reps: Sequence[Tried]) -> Success:
    def came_through(missed: bool) -> tuple[int, int]:
        own = [rep for rep in reps if rep.missed is missed]
        return sum(rep.completed for rep in own), len(own)

    return Success(reaction=reaction, with_fault=came_through(True), without=came_through(False))
