"""Reactions, answers and success on their way out, in the words of their techniques."""

from __future__ import annotations

from lacertus.core.progress.answers import AnswerRow, ReactionTable, SuccessBy
from lacertus.core.techniques.definition import Technique
from lacertus.core.techniques.reaction import Reaction
from lacertus.services.progress.answers import AnswersPage
from lacertus.web.progress import ledger_schemas as led

_CHOICES = {"open": "It was open", "wrong": "It was not open", "unknown": "It cannot be told"}


def answers_out(page: AnswersPage) -> led.AnswersOut:
    return led.AnswersOut(
        reactions=[_reaction(table, page.techniques.get(table.technique)) for table in page.reactions],
        success=[_success(one, page.techniques.get(one.technique)) for one in page.success],
    )


def _reaction(table: ReactionTable, technique: Technique | None) -> led.ReactionOut:
    reaction = technique.reaction(table.reaction) if technique else None
    return led.ReactionOut(
        technique=table.technique,
        technique_name=technique.names.main if technique else table.technique,
        reaction=table.reaction,
        says=reaction.says if reaction else _words(table.reaction),
        within_ms=reaction.within_ms if reaction else None,
        held=None if table.held is None else led.ShareOut.model_validate(table.held),
        answers=[_answer(row, reaction) for row in table.answers],
    )


def _answer(row: AnswerRow, reaction: Reaction | None) -> led.AnswerRowOut:
    named = reaction.answer(row.answer) if reaction and row.answer else None
    return led.AnswerRowOut(
        answer=row.answer,
        name="No answer" if row.answer is None else named.name if named else _words(row.answer),
        counts=reaction is not None and any(answer.event == row.answer for answer in reaction.answers),
        times=led.ShareOut.model_validate(row.times),
        latency=None if row.latency is None else led.LatencyOut.model_validate(row.latency),
        completed=None if row.completed is None else led.ShareOut.model_validate(row.completed),
    )


def _success(one: SuccessBy, technique: Technique | None) -> led.SuccessByOut:
    return led.SuccessByOut(
        technique=one.technique,
        technique_name=technique.names.main if technique else one.technique,
        group=_words(one.group),
        choices=[
            led.SuccessByChoiceOut(name=_choice(one.group, name, technique), completed=led.ShareOut.model_validate(share))
            for name, share in one.choices
        ],
    )


def _choice(group: str, name: str, technique: Technique | None) -> str:
    if group == "choice":
        return _CHOICES.get(name, name)
    option = technique.options.get(group) if technique else None
    if option is not None and name in option.choices:
        return option.choices[name].name
    start = technique.start(name) if technique and group == "start" else None
    return start.says if start else _words(name).capitalize()


def _words(key: str) -> str:
    return key.replace("_", " ").replace("-", " ")
