"""What the partner did in a rep, how it was answered, and how fast."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from lacertus.core.errors import NotSeen
from lacertus.core.measuring.repfile import RepFile
from lacertus.core.measuring.scene import Scene
from lacertus.core.measuring.uncertainty import Limits, Verdict, judge_value
from lacertus.core.review.asking import why_not_asked
from lacertus.core.review.judgement import WORST_FIRST, Judgement, shown
from lacertus.core.techniques.definition import Technique
from lacertus.core.techniques.reaction import Reaction


@dataclass(frozen=True, kw_only=True)
class Reacted:
    """One time that a reaction came, and what was done about it.

    `frame` is the reaction's, None where none is marked; `answer` the event of the first answer after it, right or wrong, at
    `answer_frame`; `latency_ms` the time between the two instants and `u_ms` its standard uncertainty.
    """

    id: str
    frame: int | None
    verdict: Verdict
    answer: str | None = None
    answer_frame: int | None = None
    latency_ms: float | None = None
    u_ms: float | None = None
    reason: str | None = None


def reacted(technique: Technique, rep: RepFile, scene: Scene) -> tuple[Reacted, ...]:
    """Every reaction of a technique in one rep, a row each time that it came, in the order of the phases.

    Only answers at later frames count, before the reaction comes again or the rep ends. A right one is held against the window
    by its latency; a wrong one is missed, and so is none, where every answer was looked for. A reaction that did not occur is
    not asked.
    """
    in_order = sorted(technique.reactions, key=lambda reaction: technique.phases.index(reaction.phase))
    return tuple(row for reaction in in_order for row in _rows(reaction, technique, rep, scene))


def _rows(reaction: Reaction, technique: Technique, rep: RepFile, scene: Scene) -> list[Reacted]:
    nothing = Reacted(id=reaction.id, frame=None, verdict=Verdict.NOT_ASKED)
    left_out = why_not_asked(reaction, technique, rep)
    if left_out is not None:
        return [replace(nothing, reason=left_out)]
    came = rep.events.get(reaction.event)
    if came is None:
        return [replace(nothing, verdict=Verdict.NOT_SEEN, reason=f"“{_words(reaction.event)}” is not marked")]
    if not came:
        return [replace(nothing, reason=f"“{_words(reaction.event)}” did not happen")]
    ends = (*came[1:], rep.range[1] + 1)
    return [_row(reaction, frame, end, rep, scene) for frame, end in zip(came, ends, strict=True)]


def _row(reaction: Reaction, frame: int, end: int, rep: RepFile, scene: Scene) -> Reacted:
    blank = Reacted(id=reaction.id, frame=frame, verdict=Verdict.NOT_SEEN)
    listed = [*reaction.answers, *reaction.wrong]
    came = [(at, place) for place, answer in enumerate(listed) for at in rep.events.get(answer.event, ()) if frame < at < end]
    if not came:
        unmarked = [answer for answer in reaction.answers if answer.event not in rep.events]
        if unmarked:
            return replace(blank, reason=f"no answer is marked; mark “{_words(unmarked[0].event)}”, or say that it did not happen")
        return replace(blank, verdict=Verdict.MISSED, reason=f"no answer to “{reaction.says}”")
    at, place = min(came)
    answer = listed[place]
    found = _timed(replace(blank, answer=answer.event, answer_frame=at), reaction, scene)
    if place >= len(reaction.answers):
        return replace(found, verdict=Verdict.MISSED, reason=f"“{answer.name}” is no answer to “{reaction.says}”")
    if found.latency_ms is None or found.u_ms is None:
        return found
    limits = Limits(hi=reaction.within_ms, least=0.0)
    verdict = judge_value(found.latency_ms, found.u_ms, limits)
    return replace(found, verdict=verdict, reason=_reason(verdict, found.latency_ms, found.u_ms, reaction.within_ms))


def _timed(row: Reacted, reaction: Reaction, scene: Scene) -> Reacted:
    """The row with its latency: real time between the instants of reaction and answer, u² the sum of theirs."""
    assert row.frame is not None and row.answer is not None and row.answer_frame is not None
    try:
        start = scene.time.instant(row.frame, scene.edges.get(reaction.event, "first"))
        end = scene.time.instant(row.answer_frame, scene.edges.get(row.answer, "first"))
    except NotSeen as error:
        return replace(row, reason=str(error))
    return replace(row, latency_ms=(end.time_s - start.time_s) * 1000, u_ms=math.hypot(start.u_s, end.u_s) * 1000)


def _reason(verdict: Verdict, latency_ms: float, u_ms: float, within_ms: float | None) -> str | None:
    if verdict is Verdict.MET or within_ms is None:
        return None
    window, latency = shown(within_ms, "ms"), shown(latency_ms, "ms")
    if verdict is Verdict.MISSED:
        return f"answered after {latency}, and {window} are allowed"
    if verdict is Verdict.BORDERLINE:
        return f"answered after {latency}, too near to {window} for ±{shown(u_ms, 'ms')}"
    return f"±{shown(u_ms, 'ms')} is too coarse for a window of {window}; needs more frames a second (120 or 240)"


def answers_given(rows: Sequence[Reacted]) -> dict[str, frozenset[str]]:
    """By reaction, the answers that were given to it."""
    return {name: frozenset(row.answer for row in rows if row.id == name and row.answer) for name in {row.id for row in rows}}


def as_judgements(technique: Technique, rows: Sequence[Reacted]) -> Mapping[str, Judgement]:
    """Each reaction as one exposure of the rep: missed if any time that it came was, else the worst of them."""
    return {reaction.id: _judgement(reaction, [row for row in rows if row.id == reaction.id]) for reaction in technique.reactions}


def _judgement(reaction: Reaction, rows: Sequence[Reacted]) -> Judgement:
    worst = min(rows, key=lambda row: WORST_FIRST.index(row.verdict))
    times = sum(row.frame is not None for row in rows)
    notes: list[str] = []
    if worst.answer is not None and (named := reaction.answer(worst.answer)) is not None:
        notes.append(f"answered by “{named.name}”")
    if times > 1:
        notes.append(f"the worst of {times} times")
    return Judgement(
        id=reaction.id,
        kind=reaction.kind,
        phase=reaction.phase,
        verdict=worst.verdict,
        fault=reaction.fault.code,
        safety=False,
        value=worst.latency_ms,
        unit="ms",
        uncertainty=worst.u_ms,
        within=None if reaction.within_ms is None else (None, reaction.within_ms),
        frames=tuple(frame for frame in (worst.frame, worst.answer_frame) if frame is not None),
        reason=worst.reason,
        notes=tuple(notes),
    )


def _words(event: str) -> str:
    return event.replace("_", " ")
