"""Classes, notes and rounds as the screens take them."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date

from lacertus.core.plan.clock import Where
from lacertus.core.plan.layers import Next
from lacertus.core.plan.rounds import Summary, Third
from lacertus.core.techniques.definition import Technique
from lacertus.services.classes import floor, rounds
from lacertus.web.classes import schemas as c


def clock_out(found: Where, now: float) -> c.ClockOut:
    return c.ClockOut(**found.model_dump(), now=now)


def next_out(found: Next, technique: Technique) -> c.NextOut:
    layer = technique.layer(found.layer) if found.layer else None
    start = technique.start(found.start) if found.start else None
    return c.NextOut(
        layer=found.layer,
        layer_name=layer.name if layer else "",
        start=found.start,
        start_says=start.says if start else "",
        is_new=found.is_new,
        holding=found.holding,
        coming=found.coming,
    )


def teachable_out(technique: Technique, found: Next, last: Mapping[str, date]) -> c.TeachableOut:
    return c.TeachableOut(
        technique=technique.id,
        name=technique.names.main,
        family=technique.family,
        grown_ups=technique.for_grown_ups,
        layers=[c.TaughtLayerOut(id=one.id, name=one.name) for one in technique.layers],
        starts=[c.TaughtStartOut(id=one.id, says=one.says) for one in technique.starts],
        next=next_out(found, technique),
        last_taught=last.get(technique.id),
    )


def floor_out(shown: floor.Shown) -> c.FloorOut:
    row = shown.row
    own = {key: getattr(row, key) for key in c.FloorOut.model_fields if hasattr(row, key)}
    more = {"student": row.student_id, "by": shown.by, "ask": shown.ask, "technique_name": shown.technique_name}
    return c.FloorOut.model_validate(own | more)


def round_out(shown: rounds.Shown, now: float) -> c.RoundOut:
    row = shown.row
    attempts = [
        c.RoundAttemptOut.model_validate({**vars(attempt), "by": by, "technique_name": name})
        for attempt, name, by in shown.attempts
    ]
    answers = [
        c.RoundAnswerOut(
            reaction=table.reaction,
            answer=one.answer,
            times=one.times,
            median_ms=one.latency.median_ms if one.latency else None,
            interval_ms=list(one.latency.interval_ms) if one.latency else None,
            completed=one.completed,
        )
        for table in shown.answers
        for one in table.answers
    ]
    return c.RoundOut(
        id=row.id,
        held_on=row.held_on,
        objective=row.objective,
        student=row.student_id,
        student_name=shown.student,
        other=row.other_id,
        other_name=shown.other,
        clip=row.clip_id,
        clip_name=shown.clip_name,
        first_frame=row.first_frame,
        last_frame=row.last_frame,
        rounds=row.rounds,
        seconds=row.seconds,
        rest_s=row.rest_s,
        clock=clock_out(rounds.now_in(row, now), now),
        taps=list(row.taps),
        attempts=attempts,
        summaries=[_summary(name, found) for name, found in shown.summaries.items()],
        answers=answers,
        game=c.GameOut.model_validate(shown.game) if shown.game else None,
    )


def _summary(name: str, found: Summary) -> c.RoundSummaryOut:
    return c.RoundSummaryOut(
        student=name,
        over_all=found.over_all,
        completed=found.completed,
        by_side=found.by_side,
        mix=found.mix,
        first=_third(found.first),
        last=_third(found.last),
    )


def _third(found: Third) -> c.ThirdOut:
    return c.ThirdOut.model_validate({**vars(found), "interval": list(found.interval)})
