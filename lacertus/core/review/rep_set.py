"""Checkpoints that are told over several reps of one technique."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from lacertus.core.errors import Coincident, NotSeen, Unreadable
from lacertus.core.measuring.measures import KINDS
from lacertus.core.measuring.measures.over_set import FromRep, SetMeasure, read_set
from lacertus.core.measuring.repfile import RepFile
from lacertus.core.measuring.scene import Scene
from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.review.asking import chosen_options
from lacertus.core.review.judge import blank_of, weigh
from lacertus.core.review.judgement import Judgement
from lacertus.core.techniques.checkpoint import Checkpoint
from lacertus.core.techniques.definition import Technique


def judge_set(technique: Technique, reps: Sequence[RepFile], judged: Sequence[tuple[Judgement, ...]]) -> tuple[Judgement, ...]:
    """Judge what only the set shows, in phase order. Demonstrations are left out.

    Args:
        technique: of all reps.
        reps: in the order in which they were done.
        judged: their judgements, in the same order.
    """
    pairs = [(rep, found) for rep, found in zip(reps, judged, strict=True) if rep.purpose != "demonstration"]
    over = [checkpoint for checkpoint in technique.in_phase_order if KINDS[checkpoint.kind].over_reps]
    return tuple(_judge(checkpoint, technique, pairs) for checkpoint in over)


def _judge(checkpoint: Checkpoint, technique: Technique, pairs: Sequence[tuple[RepFile, tuple[Judgement, ...]]]) -> Judgement:
    blank = blank_of(checkpoint, checkpoint.within)
    assert isinstance(checkpoint.measure, SetMeasure)
    measure = checkpoint.measure
    try:
        reading = read_set(measure, [_from_rep(measure, technique, rep, judged) for rep, judged in pairs])
    except NotSeen as error:
        return replace(blank, reason=str(error))
    return weigh(blank, reading, checkpoint)


def _from_rep(measure: SetMeasure, technique: Technique, rep: RepFile, judged: Sequence[Judgement]) -> FromRep:
    """What one rep gives; nothing where it cannot be read."""
    of = measure.of
    if of.option is not None:
        return FromRep(side=rep.side, choice=chosen_options(technique, rep).get(of.option))
    if of.checkpoint is not None:
        found = next((judgement for judgement in judged if judgement.id == of.checkpoint), None)
        if found is None or found.value is None or found.verdict in (Verdict.NOT_SEEN, Verdict.NOT_ASKED):
            return FromRep(side=rep.side)
        return FromRep(side=rep.side, value=found.value, u=found.uncertainty or 0.0, unit=found.unit)
    assert of.nested is not None
    try:
        reading = of.nested.read(Scene(rep, technique.edges), "")
    except (Unreadable, Coincident):
        return FromRep(side=rep.side)
    return FromRep(side=rep.side, value=reading.value, u=reading.u, unit=reading.unit)
