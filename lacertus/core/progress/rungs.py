"""Rungs: advance, hold or step back (docs/measurement.md). Days are ordinals.

The coach decides; this recommends, and says by what number.

A rep tells what was judged of each checkpoint: met, missed (a safety point's borderline counts as missed), or neither.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.progress.ledger import wilson

WINDOW_DAYS = 60
LEAST_EXPOSURES, LEAST_SESSIONS = 10, 2
MET_SHARE, LOWER_BOUND = 0.8, 0.5
SAFE_REPS = 10
SAFETY_MISSES = 2
BACK_EXPOSURES, BACK_SHARE, BACK_SESSIONS = 6, 0.5, 2
"""Conventions, as all numbers of this module: 9 of 10 and 13 of 16 are enough, 8 of 10 and 12 of 16 are not."""


class Advice(StrEnum):
    """What is recommended on a rung."""

    ADVANCE = "advance"
    HOLD = "hold"
    STEP_BACK = "step_back"


@dataclass(frozen=True, kw_only=True)
class Asked:
    """A checkpoint that rungs go by: what it asks, and whether it is core, safety, or both."""

    id: str
    ask: str
    core: bool = False
    safety: bool = False


@dataclass(frozen=True, kw_only=True)
class RungRep:
    """One rep on the rung: its day, place among that day's, pace, and verdicts by checkpoint (not asked ones left out)."""

    day: int
    order: int
    pace: str
    verdicts: Mapping[str, Verdict]


@dataclass(frozen=True, kw_only=True)
class Criterion:
    """One thing that advancing asks: whether it holds, and the number in words."""

    holds: bool
    words: str


@dataclass(frozen=True, kw_only=True)
class Recommendation:
    """What is recommended, the number that decided, and everything that was asked."""

    advice: Advice
    because: str
    criteria: tuple[Criterion, ...]


def recommend(
    reps: Iterable[RungRep],
    asked: Sequence[Asked],
    on: int,
    sure: Mapping[str, bool | None],
) -> Recommendation:
    """Advance, hold or step back on one rung.

    Args:
        reps: every rep on this rung, in any order; only those of the last 60 days count.
        asked: the core and safety checkpoints of the technique.
        on: the day to look from.
        sure: by whom it matters (performer, partner), whether they say that they feel sure; None is not asked yet.
    """
    own = sorted((rep for rep in reps if on - WINDOW_DAYS <= rep.day <= on), key=lambda rep: (rep.day, rep.order))
    back = _step_back(own, asked)
    criteria = (
        *(_core(own, point) for point in asked if point.core),
        *(_safe(own, point) for point in asked if point.safety),
        _slow_first(own, asked),
        *(_sure(who, said) for who, said in sure.items()),
    )
    if back is not None:
        return Recommendation(advice=Advice.STEP_BACK, because=back, criteria=criteria)
    lacking = next((one for one in criteria if not one.holds), None)
    if lacking is not None:
        return Recommendation(advice=Advice.HOLD, because=lacking.words, criteria=criteria)
    narrowest = min((_core_share(own, point) for point in asked if point.core), default=None)
    because = f"every core checkpoint holds, the least in {100 * narrowest:.0f} %" if narrowest is not None else "all holds"
    return Recommendation(advice=Advice.ADVANCE, because=because, criteria=criteria)


def _missed(verdict: Verdict | None, safety: bool) -> bool:
    return verdict is Verdict.MISSED or (safety and verdict is Verdict.BORDERLINE)


def _counted(reps: Sequence[RungRep], point: Asked) -> tuple[int, int, int]:
    """Met, exposures and sessions of a checkpoint."""
    met = sum(rep.verdicts.get(point.id) is Verdict.MET for rep in reps)
    told = [rep for rep in reps if rep.verdicts.get(point.id) is Verdict.MET or _missed(rep.verdicts.get(point.id), point.safety)]
    return met, len(told), len({rep.day for rep in told})


def _core_share(reps: Sequence[RungRep], point: Asked) -> float:
    met, exposures, _ = _counted(reps, point)
    return met / exposures if exposures else 0.0


def _core(reps: Sequence[RungRep], point: Asked) -> Criterion:
    met, exposures, sessions = _counted(reps, point)
    lower = wilson(met, exposures)[0] if exposures else 0.0
    told = f"“{point.ask}” held in {met} of {exposures} reps over {sessions} session{'' if sessions == 1 else 's'}"
    if exposures < LEAST_EXPOSURES or sessions < LEAST_SESSIONS:
        return Criterion(holds=False, words=f"{told}; {LEAST_EXPOSURES} reps over {LEAST_SESSIONS} sessions are asked for")
    share = met / exposures
    if share < MET_SHARE or lower < LOWER_BOUND:
        wanted = f"{100 * MET_SHARE:.0f} % are asked for, and half at the least by its interval"
        return Criterion(holds=False, words=f"{told} ({100 * share:.0f} %, from {100 * lower:.0f} % on); {wanted}")
    return Criterion(holds=True, words=f"{told} ({100 * share:.0f} %)")


def _safe(reps: Sequence[RungRep], point: Asked) -> Criterion:
    """A safety point that was not seen is not passed."""
    last = [rep for rep in reps if point.id in rep.verdicts][-SAFE_REPS:]
    missed = sum(_missed(rep.verdicts[point.id], True) for rep in last)
    unseen = sum(rep.verdicts[point.id] is Verdict.NOT_SEEN for rep in last)
    if missed:
        return Criterion(holds=False, words=f"safety: “{point.ask}” was missed in {missed} of the last {len(last)} reps")
    if len(last) < SAFE_REPS or unseen:
        seen = len(last) - unseen
        return Criterion(
            holds=False, words=f"safety: “{point.ask}” was seen in {seen} of the last {SAFE_REPS} reps, and has to be in all"
        )
    words = f"safety: “{point.ask}” held in the last {SAFE_REPS} reps; one rep in four could still go wrong and show none in ten"
    return Criterion(holds=True, words=words)


def _slow_first(reps: Sequence[RungRep], asked: Sequence[Asked]) -> Criterion:
    """Slow pace holds before full is asked; where no rep was slow, full pace counts alone, and that is said."""
    slow = [rep for rep in reps if rep.pace == "slow"]
    if not slow:
        return Criterion(holds=True, words=f"no slow rep in {WINDOW_DAYS} days: full pace counts alone")
    for point in (point for point in asked if point.core):
        met, exposures, _ = _counted(slow, point)
        if exposures and met < MET_SHARE * exposures:
            return Criterion(
                holds=False, words=f"at slow pace “{point.ask}” held in {met} of {exposures} reps; slow holds before full is asked"
            )
    return Criterion(holds=True, words="slow pace holds")


def _sure(who: str, said: bool | None) -> Criterion:
    if said is None:
        return Criterion(holds=False, words=f"the {who} has not said yet whether they feel sure")
    return Criterion(holds=said, words=f"the {who} {'feels' if said else 'does not feel'} sure")


def _step_back(reps: Sequence[RungRep], asked: Sequence[Asked]) -> str | None:
    """Why to step back: by the last session's safety misses, or by a core checkpoint over the last two sessions."""
    days = sorted({rep.day for rep in reps})
    if not days:
        return None
    last = [rep for rep in reps if rep.day == days[-1]]
    misses = sum(_missed(rep.verdicts.get(point.id), True) for point in asked if point.safety for rep in last)
    if misses >= SAFETY_MISSES:
        return f"{misses} safety misses in the last session"
    recent = [rep for rep in reps if rep.day in days[-BACK_SESSIONS:]]
    for point in (point for point in asked if point.core):
        met, exposures, _ = _counted(recent, point)
        if exposures >= BACK_EXPOSURES and met < BACK_SHARE * exposures:
            return f"“{point.ask}” held in {met} of {exposures} reps of the last {min(len(days), BACK_SESSIONS)} sessions"
    return None


# --- what was passed -------------------------------------------------------------------------------


@dataclass(frozen=True, kw_only=True)
class Decided:
    """What a coach decided on a rung: from which, to which."""

    advice: Advice
    from_rung: str
    to_rung: str


def passed_to(ladder: Sequence[str], decided: Iterable[Decided]) -> int:
    """The highest rung that was passed, as its place on the ladder; -1 where none was.

    Whoever advances has passed the rung that they leave; whoever is sent back has to pass the rung that they are sent to again.

    Args:
        ladder: the rungs from the easiest on; decisions on rungs that it does not have any more change nothing.
        decided: the oldest first.
    """
    passed = -1
    for one in decided:
        if one.advice is Advice.ADVANCE and one.from_rung in ladder:
            passed = max(passed, ladder.index(one.from_rung))
        if one.advice is Advice.STEP_BACK and one.to_rung in ladder:
            passed = min(passed, ladder.index(one.to_rung) - 1)
    return passed


# --- falls first ------------------------------------------------------------------------------------

FALL_FOR_RUNG: Mapping[str, float | None] = {
    "solo": None,
    "static_partner": 0.6,
    "moving": 0.8,
    "light": 0.8,
    "firm": 1.0,
    "live": 1.0,
}
"""How far up its own ladder a fall must have been passed by the partner of a throw, as a share of its rungs; none where nobody
falls. A convention."""


@dataclass(frozen=True, kw_only=True)
class Passed:
    """A fall that someone has passed: the highest rung, and how far up the fall's own ladder that is (0–1)."""

    fall: str
    rung: str
    share: float


def passed_on(fall: str, ladders: Iterable[Sequence[str]], decided: Sequence[Decided]) -> Passed | None:
    """How far a fall was passed, on whichever of its ladders that is furthest; None where no rung was.

    Args:
        fall: the fall.
        ladders: its own ladder, and those that it had before, each from the easiest rung on.
        decided: the oldest first.
    """
    found = None
    for ladder in ladders:
        highest = passed_to(ladder, decided)
        if highest >= 0 and (found is None or (highest + 1) / len(ladder) > found.share):
            found = Passed(fall=fall, rung=ladder[highest], share=(highest + 1) / len(ladder))
    return found


def asked_of_fall(rung: str) -> float | None:
    """How far up its ladder a fall is asked for on a rung of a throw; all of it on a rung that is not a usual one."""
    return FALL_FOR_RUNG.get(rung, 1.0)


def rung_asked(ladder: Sequence[str], share: float) -> str:
    """The lowest rung of a fall's ladder that is high enough."""
    return next(rung for i, rung in enumerate(ladder, 1) if i / len(ladder) >= share - 1e-9)


def may_fall(rung: str, passed: Iterable[Passed], fits: Sequence[str]) -> bool:
    """Whether someone may be thrown on a rung of a throw: any one of the falls that fit was passed far enough.

    Args:
        rung: the rung of the throw.
        passed: what the one who is thrown has passed.
        fits: the falls that suit the throw and the body, any of which will do.
    """
    wanted = asked_of_fall(rung)
    return wanted is None or any(one.fall in fits and one.share >= wanted - 1e-9 for one in passed)
