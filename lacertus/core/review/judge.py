"""A rep and a technique → a verdict for each checkpoint."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from lacertus.core.errors import BadInput, BadRep, Coincident, DidNotHappen, NotSeen, WrongAnswer
from lacertus.core.measuring.body import BodyName
from lacertus.core.measuring.measures import KINDS, Reading
from lacertus.core.measuring.measures.base import PointRef
from lacertus.core.measuring.repfile import RepFile
from lacertus.core.measuring.scene import Scene
from lacertus.core.measuring.uncertainty import Limits, Verdict, judge_value
from lacertus.core.techniques.definition import USUAL_GRADES, Checkpoint, Condition, Confirm, Technique, Wanted

CANNOT_TELL_DEPTH = "One picture does not show depth, and what is seen can only be smaller than it truly is."
LEAN_SHARE_OF_RANGE = 0.25
"""A value whose u from lean exceeds this share of the wanted range is not seen from this view."""


@dataclass(frozen=True, kw_only=True)
class Judgement:
    """What was found for one checkpoint of one rep.

    `value` and `uncertainty` are in `unit`; `frames` are those it was read from; `reason` says why,
    in words, wherever the verdict is not *met*; `notes` are what to know of the reading. Where the coach overruled it,
    `measured` is the verdict that the rules gave and `because` the coach's reason. `view` names the clip that it was read
    from where that is another view of the rep; `unconfirmed` says that the picture shows it met, but not its depth.
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
    measured: Verdict | None = None
    because: str | None = None
    view: str | None = None
    unconfirmed: bool = False

    @property
    def counts_as_missed(self) -> bool:
        """Missed, or borderline where safety is at stake."""
        return self.verdict is Verdict.MISSED or (self.safety and self.verdict is Verdict.BORDERLINE)

    @property
    def is_exposure(self) -> bool:
        """Whether it counts in the ledger: judged met or missed."""
        return self.verdict is Verdict.MET or self.counts_as_missed


def judge_rep(technique: Technique, rep: RepFile, scene: Scene | None = None) -> tuple[Judgement, ...]:
    """Judge every checkpoint of a technique in one rep, in phase order.

    A phase that may repeat is judged each time that it was gone through; the worst counts. `scene` is the rep's, where it is at
    hand.

    Raises:
        BadRep: the rep names an option, rung or phase that the technique does not have.
    """
    check_fits(technique, rep)
    scenes = _scenes(technique, rep, scene)
    return tuple(_over_turns(checkpoint, technique, scenes) for checkpoint in technique.in_phase_order)


_WORST_FIRST = (Verdict.MISSED, Verdict.BORDERLINE, Verdict.NOT_SEEN, Verdict.MET, Verdict.NOT_ASKED)
_BEST_FIRST = (Verdict.MET, Verdict.BORDERLINE, Verdict.NOT_SEEN, Verdict.MISSED, Verdict.NOT_ASKED)


def _scenes(technique: Technique, rep: RepFile, whole: Scene | None) -> dict[str, tuple[Scene, ...]]:
    """For each phase, the rep as it is seen each time that the phase was gone through."""
    edges = technique.edges
    once = (whole or Scene(rep, edges),)
    found: dict[str, tuple[Scene, ...]] = dict.fromkeys(technique.phases, once)
    for phase in technique.repeats:
        own = frozenset(key for key, event in technique.events.items() if event.phase == phase)
        turns = max((len(rep.events.get(event, ())) for event in own), default=1)
        if turns > 1:
            found[phase] = (once[0], *(Scene(rep, edges, own, turn) for turn in range(1, turns)))
    return found


def _over_turns(checkpoint: Checkpoint, technique: Technique, scenes: dict[str, tuple[Scene, ...]]) -> Judgement:
    turns = scenes[checkpoint.phase]
    judged = [_judge(checkpoint, technique, scene) for scene in turns]
    if len(judged) == 1:
        return judged[0]
    worst = min(judged, key=lambda judgement: _WORST_FIRST.index(judgement.verdict))
    return replace(worst, notes=(*worst.notes, f"the worst of {len(judged)} times"))


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


def blank_of(checkpoint: Checkpoint, within: Wanted | None) -> Judgement:
    """What is known of a checkpoint before anything is read."""
    return Judgement(
        id=checkpoint.id,
        kind=checkpoint.kind,
        phase=checkpoint.phase,
        verdict=Verdict.NOT_SEEN,
        fault=checkpoint.fault.code,
        safety=checkpoint.safety,
        unit=checkpoint.measure.unit_shown,
        within=within,
    )


def _judge(checkpoint: Checkpoint, technique: Technique, scene: Scene) -> Judgement:
    within = wanted_range(checkpoint, technique, scene.rep)
    blank = blank_of(checkpoint, within)
    left_out = _why_not_asked(checkpoint, technique, scene.rep) or _branch_not_taken(checkpoint, technique, scene.rep)
    if left_out is not None:
        return replace(blank, verdict=Verdict.NOT_ASKED, reason=left_out)
    if checkpoint.only_if is not None:
        holds, why = _holds(checkpoint.only_if, scene)
        if holds is not True:
            return replace(blank, verdict=Verdict.NOT_ASKED if holds is False else Verdict.NOT_SEEN, reason=why)
    return _best_of(blank, checkpoint, scene)


def _best_of(blank: Judgement, checkpoint: Checkpoint, scene: Scene) -> Judgement:
    """The checkpoint's own measure, or the best of it and its alternatives."""
    found = _read(blank, checkpoint, scene)
    for other in checkpoint.any_of:
        if found.verdict is Verdict.MET:
            return found
        kind = KINDS[other.kind]
        instead = checkpoint.model_copy(
            update={"kind": other.kind, "measure": other.measure, "within": other.within or kind.own_range, "any_of": ()}
        )
        start = replace(blank, kind=other.kind, unit=other.measure.unit_shown, within=instead.within)
        again = _read(start, instead, scene)
        found = min(found, again, key=lambda judgement: _BEST_FIRST.index(judgement.verdict))
    return found


def _read(blank: Judgement, checkpoint: Checkpoint, scene: Scene) -> Judgement:
    try:
        reading = KINDS[checkpoint.kind].read(checkpoint.measure, scene, checkpoint.id)
    except (DidNotHappen, WrongAnswer) as error:
        return replace(blank, verdict=Verdict.MISSED, reason=str(error))
    except (NotSeen, Coincident) as error:
        return replace(blank, reason=str(error))
    return _confirmed(weigh(blank, reading, checkpoint), reading, checkpoint, scene.rep)


def _confirmed(found: Judgement, reading: Reading, checkpoint: Checkpoint, rep: RepFile) -> Judgement:
    """What the picture shows too small: met only where somebody confirms the depth (docs/measurement.md)."""
    if reading.hides is None or found.within is None:
        return found
    lo, hi = found.within
    least, _ = checkpoint.measure.natural_bounds
    needs = (hi is not None or (least < 0 and lo is not None)) if reading.hides == "more" else lo is not None
    confirm = checkpoint.confirm
    answers = rep.seen.get((confirm.id if confirm else None) or checkpoint.id, {})
    given = (
        list(answers.values()) if confirm is None or confirm.by is None else [answers[confirm.by]] if confirm.by in answers else []
    )
    if not needs:
        if found.verdict is Verdict.MISSED and reading.hides == "more" and not any(given):
            return replace(found, notes=(*found.notes, "depth does not show: the true one may be larger"))
        return found
    if found.verdict is not Verdict.MET:
        return found
    if not given:
        ask = confirm.ask if confirm else Confirm().ask
        reason = f"{CANNOT_TELL_DEPTH} Confirm it by eye or from a second view: {ask}"
        return replace(found, verdict=Verdict.NOT_SEEN, reason=reason, unconfirmed=True)
    if not any(given):
        return replace(found, verdict=Verdict.MISSED, reason="so it looks in the picture, but in depth it was seen not to hold")
    return found


def weigh(blank: Judgement, reading: Reading, checkpoint: Checkpoint) -> Judgement:
    """The verdict on what was read, with its reason."""
    verdict, reason = _weighed(blank.within, reading, checkpoint)
    return replace(
        blank,
        verdict=verdict,
        reason=reason,
        value=reading.value,
        uncertainty=reading.u,
        unit=reading.unit,
        frames=tuple(dict.fromkeys(reading.frames)),
        notes=reading.notes,
    )


def _weighed(within: Wanted | None, reading: Reading, checkpoint: Checkpoint) -> tuple[Verdict, str | None]:
    if KINDS[checkpoint.kind].by_eye:
        return (Verdict.MET, None) if reading.value >= 0.5 else (Verdict.MISSED, "answered no")
    least, most = checkpoint.measure.natural_bounds
    lo, hi = within or (None, None)
    limits = Limits(lo=lo, hi=hi, least=least, most=most)
    if reading.cyclic:
        # Straight is where both signs meet: an open side of the range ends there, and beyond it bends the other way.
        limits = Limits(lo=least if lo is None else lo, hi=most if hi is None else hi)
    if reading.lean_u > LEAN_SHARE_OF_RANGE * limits.width:
        reason = f"not seen from this view: lean alone leaves ±{shown(reading.lean_u, reading.unit)}; film square to it"
        return Verdict.NOT_SEEN, reason
    if reading.differences:
        return _in_order(reading, checkpoint)
    value = _unwrapped(reading.value, limits) if reading.cyclic else reading.value
    verdict = judge_value(value, reading.u, limits, safety=checkpoint.safety, miss_margin=reading.miss_margin)
    return verdict, _reason(verdict, value, reading, limits, checkpoint)


def _in_order(reading: Reading, checkpoint: Checkpoint) -> tuple[Verdict, str | None]:
    """Verdict and reason of differences that must each not be negative: the worst of them."""
    limits = Limits(lo=0.0)
    verdicts = [judge_value(value, u, limits, safety=checkpoint.safety) for value, u in reading.differences]
    worst = min(range(len(verdicts)), key=lambda i: _WORST_FIRST.index(verdicts[i]))
    value, u = reading.differences[worst]
    reason = None
    if verdicts[worst] is Verdict.MISSED:
        reason = f"frame {reading.frames[worst + 1]} came {-value:.0f} ms before frame {reading.frames[worst]}"
    elif verdicts[worst] is Verdict.BORDERLINE:
        reason = (
            f"frames {reading.frames[worst]} and {reading.frames[worst + 1]} lie {value:.0f} ms apart, too near for ±{u:.0f} ms"
        )
    return verdicts[worst], reason


def _unwrapped(value: float, limits: Limits) -> float:
    """A signed angle is the same plus or minus a whole turn: the turn that lies nearest to the middle of the range."""
    middle = (limits.low + limits.high) / 2
    return min((value, value - 360.0, value + 360.0), key=lambda turned: abs(turned - middle))


def _reason(verdict: Verdict, value: float, reading: Reading, limits: Limits, checkpoint: Checkpoint) -> str | None:
    if verdict is Verdict.MET:
        return None
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
    wanted = checkpoint.within or KINDS[checkpoint.kind].own_range
    if not checkpoint.within_by:
        return wanted
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
    if checkpoint.switched_off is not None:
        return f"switched off: {checkpoint.switched_off}"
    for group, wanted in checkpoint.when.items():
        if rep.options.get(group, technique.options[group].default) not in ((wanted,) if isinstance(wanted, str) else wanted):
            return f"asked only when {group} is {wanted if isinstance(wanted, str) else ' or '.join(wanted)}"
    if KINDS[checkpoint.kind].over_reps:
        return "told over a set of reps"
    if checkpoint.from_grade and rep.grade and _below_grade(rep.grade, checkpoint.from_grade, technique):
        return f"asked from grade {checkpoint.from_grade.replace('_', ' ')}"
    ladder, phases = technique.ladder, technique.phases
    if checkpoint.from_rung and rep.rung and ladder.index(rep.rung) < ladder.index(checkpoint.from_rung):
        return f"asked from rung {checkpoint.from_rung.replace('_', ' ')}"
    if rep.start_at and phases.index(checkpoint.phase) < phases.index(rep.start_at):
        return f"the rep starts at {rep.start_at}"
    if rep.end_at and phases.index(checkpoint.phase) > phases.index(rep.end_at):
        return f"the rep ends with {rep.end_at}"
    if rep.partner == "none" and any(_asks_partner(ref) for ref in checkpoint.measure.points_used):
        return "asks for a partner, and there is none"
    kind = KINDS[checkpoint.kind]
    if not kind.by_eye and kind.own_range is None and wanted_range(checkpoint, technique, rep) is None:
        return "not asked at this pace, rung, grade or option"
    return None


def _below_grade(grade: str, asked: str, technique: Technique) -> bool:
    grades = list(technique.grades or USUAL_GRADES)
    return grade in grades and asked in grades and grades.index(grade) < grades.index(asked)


def _branch_not_taken(checkpoint: Checkpoint, technique: Technique, rep: RepFile) -> str | None:
    """Why the answer taken at a decision point leaves the checkpoint out: the first that came rules."""
    for name, wanted in checkpoint.branch.items():
        decision = technique.decision(name)
        answers = () if decision is None else decision.answers
        came = [(frames[0], answer.event) for answer in answers if (frames := rep.events.get(answer.event))]
        taken = min(came)[1] if came else None
        if taken != wanted:
            return f"asked where the answer was “{wanted.replace('_', ' ')}”"
    return None


def _holds(condition: Condition, scene: Scene) -> tuple[bool | None, str]:
    """Whether a condition holds; None where it cannot be told."""
    if condition.nested is None:
        key = condition.seen or ""
        answers = scene.rep.seen.get(key)
        if not answers:
            return None, f"it depends on “{key.replace('_', ' ')}”, which is not answered"
        return any(
            answers.values()
        ) == condition.answer, f"asked only if “{key.replace('_', ' ')}” is answered {'yes' if condition.answer else 'no'}"
    try:
        reading = condition.nested.read(scene, "")
    except (DidNotHappen, WrongAnswer) as error:
        return False, f"its condition does not hold: {error}"
    except (NotSeen, Coincident) as error:
        return None, f"its condition cannot be told: {error}"
    lo, hi = condition.nested.within or (None, None)
    least, most = condition.nested.measure.natural_bounds
    limits = Limits(lo=lo, hi=hi, least=least, most=most)
    verdict = judge_value(reading.value, reading.u, limits)
    if verdict is Verdict.MISSED:
        return False, f"its condition does not hold: {condition.nested.kind} {shown(reading.value, reading.unit)}"
    return True, ""


def _asks_partner(ref: PointRef) -> bool:
    names = (ref.name,) if ref.on is None else ref.on
    return any(name is not None and name.startswith("partner.") for name in names)


@dataclass(frozen=True, kw_only=True)
class Need:
    """A landmark that a checkpoint reads: on which body, and at which frame once its event is marked."""

    checkpoint: str
    body: BodyName
    landmark: str
    frame: int | None


def needed_points(technique: Technique, rep: RepFile, scene: Scene | None = None) -> tuple[Need, ...]:
    """Every landmark that the measured checkpoints of a rep read, in phase order and as written."""
    scene = scene or Scene(rep, technique.edges)
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
