"""Sets, answers and one's own eye → what the API gives."""

from __future__ import annotations

from collections.abc import Mapping

from lacertus.core.phrases import Say, in_english
from lacertus.core.techniques.definition import Technique
from lacertus.services.eye.overview import Overview
from lacertus.services.eye.progress import LEAST_OTHERS, OfSubject, Progress
from lacertus.services.eye.training import Answered, AskedOnce, MadeSet
from lacertus.web.eye import schemas as e


def set_out(made: MadeSet, say: Say = in_english) -> e.EyeSetOut:
    """A set as pages ask it."""
    return e.EyeSetOut(asked=[_asked(one, say) for one in made.asked], waiting=made.waiting)


def _asked(one: AskedOnce, say: Say) -> e.EyeAskedOut:
    films = [
        e.EyeFilmOut(
            id=take.id,
            width=take.facts.size[0],
            height=take.facts.size[1],
            first=take.facts.first,
            last=take.facts.last,
            pts_s=list(take.facts.times_s),
            is_real=take.rep is not None,
        )
        for take in one.takes
    ]
    name = one.takes[0].technique.names.main
    asked = one.question
    question = e.EyeQuestionOut(
        **asked.model_dump(exclude={"says", "choices"}),
        says=asked.says.said(say),
        choices=[e.EyeChoiceOut(id=choice.id, says=choice.says.said(say)) for choice in asked.choices],
    )
    return e.EyeAskedOut(question=question, technique_name=name, level=one.level, films=films)


def answered_out(found: Answered, say: Say = in_english) -> e.EyeAnsweredOut:
    """What came of an answer."""
    truth = found.truth
    return e.EyeAnsweredOut(
        scored=e.EyeScoredOut.model_validate(found.scored),
        truth=e.EyeTruthOut(
            **truth.model_dump(exclude={"says", "why"}),
            says=truth.says.said(say),
            why=" ".join(one.said(say) for one in truth.why),
        ),
        level=found.level,
        due_at=found.due_at,
    )


def eye_out(found: Overview) -> e.EyeOut:
    """The page of one's own eye."""
    progress, techniques = found.progress, found.techniques
    return e.EyeOut(
        answers=progress.answers,
        due=found.due,
        films=sum(found.films.values()),
        waiting=found.waiting,
        techniques=[
            e.EyeTechniqueOut(id=technique.id, name=technique.names.main, films=found.films.get(technique.id, 0))
            for technique in techniques.values()
        ],
        events=_subject(progress.events, techniques),
        angles=_subject(progress.angles, techniques),
        helped=e.EyeSpreadOut.model_validate(progress.helped),
        by_event=[_subject(one, techniques) for one in progress.by_event],
        by_angle=[_subject(one, techniques) for one in progress.by_angle],
        alarms=[
            e.EyeAlarmsOut(
                technique=technique,
                checkpoint=alarms.checkpoint,
                says=_ask(techniques.get(technique), alarms.checkpoint),
                hits=e.EyeRateOut.model_validate(alarms.hits),
                false_alarms=e.EyeRateOut.model_validate(alarms.false_alarms),
            )
            for technique, alarms in progress.alarms
        ],
        opinions=progress.opinions,
        kinds=[
            e.EyeKindOut(kind=kind, own=e.EyeRateOut.model_validate(own), others=e.EyeRateOut.model_validate(others))
            for kind, own, others in progress.kinds
        ],
        least_others=LEAST_OTHERS,
        weeks=[
            e.EyeWeekOut(
                day=one.day, hits=e.EyeRateOut.model_validate(one.hits), events_ms=one.events_ms, angles_deg=one.angles_deg
            )
            for one in progress.weeks
        ],
        own_events=e.OwnEventsOut.model_validate(progress.own_events),
        named=named_out(progress),
    )


def named_out(progress: Progress) -> e.EyeNamedOut:
    """Who shows their eye by name."""
    return e.EyeNamedOut(
        is_named=progress.is_named, colleagues=[e.EyeColleagueOut.model_validate(one) for one in progress.colleagues]
    )


def _subject(one: OfSubject, techniques: Mapping[str, Technique]) -> e.EyeSubjectOut:
    technique = techniques.get(one.technique)
    event = technique.events.get(one.subject) if technique is not None else None
    return e.EyeSubjectOut(
        technique=one.technique,
        subject=one.subject,
        says=event.mark if event is not None else _ask(technique, one.subject),
        own=e.EyeSpreadOut.model_validate(one.own),
        others=e.EyeSpreadOut.model_validate(one.others),
    )


def _ask(technique: Technique | None, checkpoint: str) -> str:
    asked = technique.asked(checkpoint) if technique is not None else None
    return asked.ask if asked is not None else checkpoint
