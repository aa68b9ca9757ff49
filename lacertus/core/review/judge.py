"""A rep and a technique → a verdict for each checkpoint, and for each reaction of the partner."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import cast

from lacertus.core.errors import Coincident, DidNotHappen, NotSeen, WrongAnswer
from lacertus.core.measuring.body import BodyName
from lacertus.core.measuring.measures import KINDS, Reading
from lacertus.core.measuring.measures.nested import Nested
from lacertus.core.measuring.repfile import RepFile
from lacertus.core.measuring.scene import Scene
from lacertus.core.measuring.uncertainty import Limits, Verdict, judge_value
from lacertus.core.model import changed
from lacertus.core.review.asking import check_fits, wanted_range, why_not_asked
from lacertus.core.review.choice import with_choice
from lacertus.core.review.judgement import WORST_FIRST, Judgement, RestsOn, shown
from lacertus.core.review.reactions import answers_given, as_judgements, reacted
from lacertus.core.techniques.checkpoint import Checkpoint, Condition, Confirm
from lacertus.core.techniques.definition import Technique
from lacertus.core.techniques.reaction import Reaction
from lacertus.core.techniques.vocabulary import Wanted

CANNOT_TELL_DEPTH = "One picture does not show depth, and what is seen can only be smaller than it truly is."
LEAN_TELLS_NOTHING = (
    "how far the limbs lean out of the picture is not known; mark the standing height, or take their lengths from a still frame"
)


def judge_rep(technique: Technique, rep: RepFile, scene: Scene | None = None) -> tuple[Judgement, ...]:
    """Judge every checkpoint and reaction of a technique in one rep, in phase order.

    A phase that may repeat is judged each time that it was gone through; the worst counts. Where the technique was not open, how
    it was done does not count. `scene` is the rep's, where it is at hand.

    Raises:
        BadRep: the rep names an option, rung, phase, layer or start that the technique does not have.
    """
    check_fits(technique, rep)
    whole = scene or Scene(rep, technique.edges)
    rows = reacted(technique, rep, whole)
    answers, reactions = answers_given(rows), as_judgements(technique, rows)
    scenes = _scenes(technique, rep, whole)
    found = [
        reactions[asked.id] if isinstance(asked, Reaction) else _over_turns(asked, technique, scenes, answers)
        for asked in technique.asked_in_order
    ]
    return with_choice(technique, found)


_BEST_FIRST = (Verdict.MET, Verdict.BORDERLINE, Verdict.NOT_SEEN, Verdict.MISSED, Verdict.NOT_ASKED)


def _scenes(technique: Technique, rep: RepFile, whole: Scene) -> dict[str, tuple[Scene, ...]]:
    """For each phase, the rep as it is seen each time that the phase was gone through."""
    once = (whole,)
    found: dict[str, tuple[Scene, ...]] = dict.fromkeys(technique.phases, once)
    for phase in technique.repeats:
        own = frozenset(key for key, event in technique.events.items() if event.phase == phase)
        turns = max((len(rep.events.get(event, ())) for event in own), default=1)
        if turns > 1:
            found[phase] = (once[0], *(whole.at_turn(own, turn) for turn in range(1, turns)))
    return found


def _over_turns(
    checkpoint: Checkpoint, technique: Technique, scenes: dict[str, tuple[Scene, ...]], answers: Mapping[str, frozenset[str]]
) -> Judgement:
    turns = scenes[checkpoint.phase]
    judged = [_judge(checkpoint, technique, scene, answers) for scene in turns]
    if len(judged) == 1:
        return judged[0]
    worst = min(judged, key=lambda judgement: WORST_FIRST.index(judgement.verdict))
    return changed(worst, notes=(*worst.notes, f"the worst of {len(judged)} times"))


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


def _judge(checkpoint: Checkpoint, technique: Technique, scene: Scene, answers: Mapping[str, frozenset[str]]) -> Judgement:
    within = wanted_range(checkpoint, technique, scene.rep)
    blank = blank_of(checkpoint, within)
    left_out = why_not_asked(checkpoint, technique, scene.rep) or _branch_not_taken(checkpoint, technique, scene.rep, answers)
    if left_out is not None:
        return changed(blank, verdict=Verdict.NOT_ASKED, reason=left_out)
    if checkpoint.only_if is not None:
        holds, why = _holds(checkpoint.only_if, scene)
        if holds is not True:
            return changed(blank, verdict=Verdict.NOT_ASKED if holds is False else Verdict.NOT_SEEN, reason=why)
    return _best_of(blank, checkpoint, scene)


def _best_of(blank: Judgement, checkpoint: Checkpoint, scene: Scene) -> Judgement:
    """The checkpoint's own measure, or the best of it and its alternatives; what else there is only where none of them is seen."""
    found = _read(blank, checkpoint, scene)
    for other in checkpoint.any_of:
        if found.verdict is Verdict.MET:
            return found
        again = _read_instead(blank, checkpoint, other, scene)
        found = min(found, again, key=lambda judgement: _BEST_FIRST.index(judgement.verdict))
    unseen = found
    for other in checkpoint.or_else:
        if found.verdict is not Verdict.NOT_SEEN:
            return found
        found = _read_instead(blank, checkpoint, other, scene)
    return unseen if found.verdict is Verdict.NOT_SEEN else found


def _read_instead(blank: Judgement, checkpoint: Checkpoint, other: Nested, scene: Scene) -> Judgement:
    """The checkpoint by another measure than its own."""
    within = other.within or KINDS[other.kind].own_range
    instead = checkpoint.model_copy(update={"kind": other.kind, "measure": other.measure, "within": within})
    return _read(changed(blank, kind=other.kind, unit=other.measure.unit_shown, within=within), instead, scene)


def _read(blank: Judgement, checkpoint: Checkpoint, scene: Scene) -> Judgement:
    try:
        reading = _reading(checkpoint, scene)
    except (DidNotHappen, WrongAnswer) as error:
        return changed(blank, verdict=Verdict.MISSED, reason=str(error))
    except (NotSeen, Coincident) as error:
        return changed(blank, reason=str(error))
    found = changed(weigh(blank, reading, checkpoint), rests_on=_rests_on(checkpoint, scene, reading))
    if found.verdict in (Verdict.BORDERLINE, Verdict.NOT_SEEN) or reading.lean_unknown:
        found = changed(found, to_settle=_to_settle(found.rests_on, _asks_target(checkpoint) and scene.rep.target_turn is None))
    if reading.lean_unknown:
        return _not_firm(found)
    return _confirmed(found, reading, checkpoint, scene.rep)


def _reading(checkpoint: Checkpoint, scene: Scene) -> Reading:
    """What the checkpoint's measure reads; with bodies that are kept in space, what was read of them for the same events before."""
    measure = checkpoint.measure
    if scene.space is None or not measure.points_used:
        return KINDS[checkpoint.kind].read(measure, scene, checkpoint.id)
    known, key = scene.space.known_readings, (checkpoint.id, id(measure), scene.turn, scene.marks)
    if key not in known or known[key][0] is not measure:
        known[key] = measure, KINDS[checkpoint.kind].read(measure, scene, checkpoint.id)
    return cast(Reading, known[key][1])


def _not_firm(found: Judgement) -> Judgement:
    """A value that depends on how limbs lean, which nothing tells, decides nothing (docs/measurement.md)."""
    if found.verdict not in (Verdict.MET, Verdict.MISSED):
        return found
    so = "it looks met" if found.verdict is Verdict.MET else f"it looks missed ({found.reason})"
    return changed(found, verdict=Verdict.BORDERLINE, reason=f"{so}, but {LEAN_TELLS_NOTHING}")


def _asks_target(checkpoint: Checkpoint) -> bool:
    """Whether a value lies along the line to the target, of which a picture does not tell how it is turned."""
    measure = checkpoint.measure
    return getattr(measure, "signed", False) is True or (
        checkpoint.kind == "facing" and getattr(measure, "towards", None) == "target"
    )


def _to_settle(rests_on: tuple[RestsOn, ...], no_target: bool) -> str | None:
    """What would tell more of a value in depth, by what it rests on; `no_target`: it asks for a target of which nobody told."""
    if not rests_on:
        return None
    if "views" in rests_on:
        if no_target:
            return "say beside the bodies in space how the line to the target lies"
        return "place its points more closely in both views"
    second = "tie a second view, filmed at a right angle to this one"
    if "mat" in rests_on:
        return second
    if "lengths" in rests_on:
        return f"mark four corners of the mat, or {second}"
    return "mark the standing height, or take the limbs’ lengths from a still frame"


def _rests_on(checkpoint: Checkpoint, scene: Scene, reading: Reading) -> tuple[RestsOn, ...]:
    """What a value rests on in one picture: the picture, limbs' reference lengths, the mat; nothing where no point is read."""
    refs = checkpoint.measure.points_used
    if not refs:
        return ()
    if checkpoint.kind == "floor":
        return ("picture", "mat")
    bodies = {scene.resolve(name)[0] for ref in refs for name in (ref.on or (ref.name or "",))}
    if reading.in_space and scene.space is not None and scene.space.tie is not None:
        return ("picture", "lengths", "views")
    if reading.in_space and scene.space is not None and scene.space.standing is not None:
        return ("picture", "lengths", "mat")
    known = reading.in_space or any(body in scene.rep.bodies and scene.rep.bodies[body].reference_lengths_px for body in bodies)
    return ("picture", "lengths") if known else ("picture",)


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
            return changed(found, notes=(*found.notes, "depth does not show: the true one may be larger"))
        return found
    if found.verdict is not Verdict.MET:
        return found
    if not given:
        ask = confirm.ask if confirm else Confirm().ask
        reason = f"{CANNOT_TELL_DEPTH} Confirm it by eye or from a second view: {ask}"
        return changed(found, verdict=Verdict.NOT_SEEN, reason=reason, unconfirmed=True)
    found = changed(found, rests_on=(*found.rests_on, "eye"))
    if not any(given):
        return changed(found, verdict=Verdict.MISSED, reason="so it looks in the picture, but in depth it was seen not to hold")
    return found


def weigh(blank: Judgement, reading: Reading, checkpoint: Checkpoint) -> Judgement:
    """The verdict on what was read, with its reason."""
    verdict, reason = _weighed(blank.within, reading, checkpoint)
    return changed(
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
    if reading.differences:
        return _in_order(reading, checkpoint)
    value = _unwrapped(reading.value, limits) if reading.cyclic else reading.value
    verdict = judge_value(value, reading.u, limits, safety=checkpoint.safety, miss_margin=reading.miss_margin)
    return verdict, _reason(verdict, value, reading, limits, checkpoint)


def _in_order(reading: Reading, checkpoint: Checkpoint) -> tuple[Verdict, str | None]:
    """Verdict and reason of differences that must each not be negative: the worst of them."""
    limits = Limits(lo=0.0)
    verdicts = [judge_value(value, u, limits, safety=checkpoint.safety) for value, u in reading.differences]
    worst = min(range(len(verdicts)), key=lambda i: WORST_FIRST.index(verdicts[i]))
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


def _branch_not_taken(
    checkpoint: Checkpoint, technique: Technique, rep: RepFile, given: Mapping[str, frozenset[str]]
) -> str | None:
    """Why the answers that were given leave the checkpoint out."""
    for name, answers in checkpoint.branch.items():
        wanted = (answers,) if isinstance(answers, str) else answers
        taken = given.get(name, frozenset()) if technique.reaction(name) else _decided(technique, name, rep)
        if taken.isdisjoint(wanted):
            named = " or ".join(f"“{answer.replace('_', ' ')}”" for answer in wanted)
            return f"asked where the answer was {named}"
    return None


def _decided(technique: Technique, name: str, rep: RepFile) -> frozenset[str]:
    """The answer taken at a decision point of an older definition: the first that came, whenever that was."""
    decision = technique.decision(name)
    answers = () if decision is None else decision.answers
    came = [(frames[0], answer.event) for answer in answers if (frames := rep.events.get(answer.event))]
    return frozenset({min(came)[1]} if came else ())


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
        if why_not_asked(checkpoint, technique, rep) is not None:
            continue
        for event in checkpoint.measure.events_used if checkpoint.measure.points_used else ():
            frames = rep.events.get(event) or (None,)
            names = [name for ref in checkpoint.measure.points_used for name in (ref.on or (ref.name or "",))]
            places = dict.fromkeys(place for name in names for place in scene.landmarks_of(name))
            found += [Need(checkpoint=checkpoint.id, body=b, landmark=mark, frame=frames[0]) for b, mark in places]
    return tuple(found)
