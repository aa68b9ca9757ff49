"""A rep and a technique → a verdict for each checkpoint."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from lacertus.core.errors import BadInput, BadRep, Coincident, DidNotHappen, NotSeen
from lacertus.core.measures import KINDS, Reading
from lacertus.core.measures.base import PointRef
from lacertus.core.repfile import RepFile
from lacertus.core.scene import Scene
from lacertus.core.technique import Checkpoint, Technique, Wanted
from lacertus.core.uncertainty import Limits, Verdict, judge_value

LEAN_SHARE_OF_RANGE = 0.25
"""A value whose u from lean exceeds this share of the wanted range is not seen from this view."""


@dataclass(frozen=True, kw_only=True)
class Judgement:
    """What was found for one checkpoint of one rep.

    `value` and `uncertainty` are in `unit`; `frames` are those it was read from; `reason` says why,
    in words, wherever the verdict is not *met*; `notes` are what to know of the reading.
    """

    id: str
    kind: str
    phase: str
    verdict: Verdict
    fault: str
    safety: bool
    value: float | None = None
    unit: str | None = None
    uncertainty: float | None = None
    within: Wanted | None = None
    frames: tuple[int, ...] = ()
    reason: str | None = None
    notes: tuple[str, ...] = ()

    @property
    def counts_as_missed(self) -> bool:
        """Missed, or borderline where safety is at stake."""
        return self.verdict is Verdict.MISSED or (self.safety and self.verdict is Verdict.BORDERLINE)

    @property
    def is_exposure(self) -> bool:
        """Whether it counts in the ledger: judged met or missed."""
        return self.verdict is Verdict.MET or self.counts_as_missed


def judge_rep(technique: Technique, rep: RepFile) -> tuple[Judgement, ...]:
    """Judge every checkpoint of a technique in one rep, in phase order.

    Raises:
        BadRep: the rep names an option, rung or phase that the technique does not have.
    """
    check_fits(technique, rep)
    scene = Scene(rep, {key: event.edge for key, event in technique.events.items()})
    return tuple(_judge(checkpoint, technique, scene) for checkpoint in technique.in_phase_order)


def check_fits(technique: Technique, rep: RepFile) -> None:
    """Raise BadRep where the rep names what the technique does not have."""
    if rep.technique != technique.id:
        raise BadRep(f"the rep is of “{rep.technique}”, but the technique given is “{technique.id}”")
    for group, choice in rep.options.items():
        if group not in technique.options:
            raise BadRep(f"technique “{technique.id}” has no option “{group}”")
        if choice not in technique.options[group].choices:
            known = ", ".join(technique.options[group].choices)
            raise BadRep(f"option “{group}” has no choice “{choice}”; the choices are {known}")
    if rep.rung is not None and rep.rung not in technique.ladder:
        raise BadRep(f"rung “{rep.rung}” is not in the ladder of “{technique.id}”: {', '.join(technique.ladder)}")
    for key, phase in (("start_at", rep.start_at), ("end_at", rep.end_at)):
        if phase is not None and phase not in technique.phases:
            raise BadRep(f"{key} “{phase}” is no phase of “{technique.id}”")


def _judge(checkpoint: Checkpoint, technique: Technique, scene: Scene) -> Judgement:
    blank = Judgement(
        id=checkpoint.id,
        kind=checkpoint.kind,
        phase=checkpoint.phase,
        verdict=Verdict.NOT_SEEN,
        fault=checkpoint.fault.code,
        safety=checkpoint.safety,
        unit=checkpoint.measure.unit_shown,
        within=wanted_range(checkpoint, technique, scene.rep),
    )
    left_out = _why_not_asked(checkpoint, technique, scene.rep)
    if left_out is not None:
        return replace(blank, verdict=Verdict.NOT_ASKED, reason=left_out)
    try:
        reading = KINDS[checkpoint.kind].read(checkpoint.measure, scene, checkpoint.id)
    except DidNotHappen as error:
        return replace(blank, verdict=Verdict.MISSED, reason=str(error))
    except (NotSeen, Coincident) as error:
        return replace(blank, reason=str(error))
    return _weigh(blank, reading, checkpoint)


def _weigh(blank: Judgement, reading: Reading, checkpoint: Checkpoint) -> Judgement:
    found = replace(
        blank,
        value=reading.value,
        uncertainty=reading.u,
        unit=reading.unit,
        frames=tuple(dict.fromkeys(reading.frames)),
        notes=reading.notes,
    )
    if KINDS[checkpoint.kind].by_eye:
        yes = reading.value >= 0.5
        return replace(found, verdict=Verdict.MET if yes else Verdict.MISSED, reason=None if yes else "answered no")
    least, most = checkpoint.measure.natural_bounds
    lo, hi = blank.within or (None, None)
    limits = Limits(lo=lo, hi=hi, least=least, most=most)
    if reading.cyclic:
        # Straight is where both signs meet: an open side of the range ends there, and beyond it bends the other way.
        limits = Limits(lo=least if lo is None else lo, hi=most if hi is None else hi)
    if reading.lean_u > LEAN_SHARE_OF_RANGE * limits.width:
        reason = f"not seen from this view: lean alone leaves ±{shown(reading.lean_u, reading.unit)}; film square to it"
        return replace(found, verdict=Verdict.NOT_SEEN, reason=reason)
    value = _unwrapped(reading.value, limits) if reading.cyclic else reading.value
    verdict = judge_value(value, reading.u, limits, safety=checkpoint.safety)
    return replace(found, verdict=verdict, reason=_reason(verdict, value, reading, limits, checkpoint))


def _unwrapped(value: float, limits: Limits) -> float:
    """A signed angle is the same plus or minus a whole turn: the turn that lies nearest to the middle of the range."""
    middle = (limits.low + limits.high) / 2
    return min((value, value - 360.0, value + 360.0), key=lambda turned: abs(turned - middle))


def _reason(verdict: Verdict, value: float, reading: Reading, limits: Limits, checkpoint: Checkpoint) -> str | None:
    by = limits.outside_by(value)
    limit = limits.low if limits.low - value >= value - limits.high else limits.high
    side = "short of" if limit == limits.low else "over"
    amount, bound = shown(abs(by), reading.unit), shown(limit, reading.unit)
    if verdict is Verdict.MISSED:
        return f"{amount} {side} {bound}"
    if verdict is Verdict.BORDERLINE:
        place = f"{amount} {side} {bound}" if by > 0 else f"only {amount} inside {bound}"
        tail = "; a safety point, so it counts as missed" if checkpoint.safety else ""
        return f"{place}, too near for ±{shown(reading.u, reading.unit)}{tail}"
    if verdict is Verdict.NOT_SEEN:
        return f"±{shown(reading.u, reading.unit)} is too coarse for the wanted range; {_mend(reading)}"
    return None


def _mend(reading: Reading) -> str:
    if reading.unit in ("ms", "s", "frames"):
        return "needs more frames a second (120 or 240)"
    return "place the points more closely, or film nearer"


def shown(value: float, unit: str | None) -> str:
    """A value as people read it: `138°`, `18 ms`, `0.08 shank`."""
    if unit == "deg":
        return f"{value:.0f}°" if value >= 10 else f"{value:.1f}°"
    if unit == "ms":
        return f"{value:.0f} ms"
    text = f"{value:.2f}".rstrip("0").rstrip(".")
    return f"{text} {unit}" if unit else text


def wanted_range(checkpoint: Checkpoint, technique: Technique, rep: RepFile) -> Wanted | None:
    """The wanted range for this rep; the last `within_by` that fits rules. None where none is asked."""
    wanted = checkpoint.within
    facts = {"pace": rep.pace, "rung": rep.rung, "grade": rep.grade} | chosen_options(technique, rep)
    for key, ranges in checkpoint.within_by.items():
        fact = facts.get(key)
        if fact is not None and fact in ranges:
            wanted = ranges[fact]
    return wanted


def chosen_options(technique: Technique, rep: RepFile) -> dict[str, str]:
    """The choice of every option group: the rep's own, else the default."""
    return {name: rep.options.get(name, group.default) for name, group in technique.options.items()}


def _why_not_asked(checkpoint: Checkpoint, technique: Technique, rep: RepFile) -> str | None:
    """Why this rep leaves the checkpoint out, or None where it is asked."""
    chosen = chosen_options(technique, rep)
    for group, wanted in checkpoint.when.items():
        if chosen[group] not in ((wanted,) if isinstance(wanted, str) else wanted):
            return f"asked only when {group} is {wanted if isinstance(wanted, str) else ' or '.join(wanted)}"
    ladder, phases = technique.ladder, technique.phases
    if checkpoint.from_rung and rep.rung and ladder.index(rep.rung) < ladder.index(checkpoint.from_rung):
        return f"asked from rung {checkpoint.from_rung.replace('_', ' ')}"
    if rep.start_at and phases.index(checkpoint.phase) < phases.index(rep.start_at):
        return f"the rep starts at {rep.start_at}"
    if rep.end_at and phases.index(checkpoint.phase) > phases.index(rep.end_at):
        return f"the rep ends with {rep.end_at}"
    if rep.partner == "none" and any(_asks_partner(ref) for ref in checkpoint.measure.points_used):
        return "asks for a partner, and there is none"
    if not KINDS[checkpoint.kind].by_eye and wanted_range(checkpoint, technique, rep) is None:
        return "not asked at this pace, rung, grade or option"
    return None


def _asks_partner(ref: PointRef) -> bool:
    names = (ref.name,) if ref.on is None else ref.on
    return any(name is not None and name.startswith("partner.") for name in names)


@dataclass(frozen=True, kw_only=True)
class Need:
    """A landmark that a checkpoint reads: on which body, and at which frame once its event is marked."""

    checkpoint: str
    body: str
    landmark: str
    frame: int | None


def needed_points(technique: Technique, rep: RepFile) -> tuple[Need, ...]:
    """Every landmark that the measured checkpoints of a rep read, in phase order and as written."""
    scene = Scene(rep, {key: event.edge for key, event in technique.events.items()})
    found: list[Need] = []
    for checkpoint in technique.in_phase_order:
        if _why_not_asked(checkpoint, technique, rep) is not None:
            continue
        for event in checkpoint.measure.events_used if checkpoint.measure.points_used else ():
            frames = rep.events.get(event) or (None,)
            names = [name for ref in checkpoint.measure.points_used for name in (ref.on or (ref.name or "",))]
            places = dict.fromkeys(place for name in names for place in scene.landmarks_of(name))
            found += [Need(checkpoint=checkpoint.id, body=b, landmark=mark, frame=frames[0]) for b, mark in places]
    return tuple(found)


def judge_reps(techniques: Sequence[Technique], reps: Sequence[RepFile]) -> tuple[tuple[Judgement, ...], ...]:
    """Judge several reps, each by its technique (same order)."""
    if len(techniques) != len(reps):
        raise BadInput("each rep needs its technique")
    return tuple(judge_rep(technique, rep) for technique, rep in zip(techniques, reps, strict=True))
