"""What a definition refers to and does not have, what it repeats, and what goes round in a circle."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from typing import get_args

from lacertus.core.errors import Problem
from lacertus.core.measuring.rep_facts import Pace, Partner, Stance
from lacertus.core.techniques.checkpoint import Checkpoint
from lacertus.core.techniques.definition import Technique
from lacertus.core.techniques.practice import Drill

_RANGES_BY = ("pace", "rung", "grade")
Found = tuple[tuple[str | int, ...], str]
"""Where something is wrong, as a path of keys, and what."""


def reference_problems(technique: Technique) -> list[Problem]:
    """Everything that refers to something that is not there, repeats, or goes round in a circle."""
    parts = (_phases, _names, _checkpoints, _reactions, _decisions, _layers, _starts, _drills, _moves_like, _cycles)
    return [Problem(path=path, message=message) for part in parts for path, message in part(technique)]


def _phases(technique: Technique) -> Iterator[Found]:
    named: list[Found] = [(("events", key, "phase"), event.phase) for key, event in technique.events.items()]
    named += [(("checkpoints", i, "phase"), c.phase) for i, c in enumerate(technique.checkpoints)]
    named += [(("starts", i, "phase"), start.phase) for i, start in enumerate(technique.starts)]
    named += [(("repeats", i), phase) for i, phase in enumerate(technique.repeats)]
    named += [(("teaching_order", i), phase) for i, phase in enumerate(technique.teaching_order)]
    yield from (((*path,), f"phase “{phase}” is not in phases") for path, phase in named if phase not in technique.phases)
    yield from (
        (("phases", i), f"phase “{phase}” is listed twice")
        for i, phase in enumerate(technique.phases)
        if phase in technique.phases[:i]
    )


def _moves_like(technique: Technique) -> Iterator[Found]:
    for event in technique.moves_like.events if technique.moves_like is not None else ():
        yield from _events(technique, ("moves_like", "events", event), [event])


def _names(technique: Technique) -> Iterator[Found]:
    """Ids that are used twice. Checkpoints and reactions share theirs."""
    asked: list[Found] = [(("checkpoints", i, "id"), c.id) for i, c in enumerate(technique.checkpoints)]
    asked += [(("reactions", i, "id"), r.id) for i, r in enumerate(technique.reactions)]
    lists: list[list[Found]] = [
        asked,
        [(("layers", i, "id"), layer.id) for i, layer in enumerate(technique.layers)],
        [(("starts", i, "id"), start.id) for i, start in enumerate(technique.starts)],
        [(("drills", i, "id"), drill.id) for i, drill in enumerate(technique.drills) if isinstance(drill, Drill)],
    ]
    for named in lists:
        seen: set[str] = set()
        for path, name in named:
            if name in seen:
                yield path, f"id “{name}” is used twice"
            seen.add(name)


def _events(technique: Technique, path: tuple[str | int, ...], used: Iterable[str]) -> Iterator[Found]:
    yield from ((path, f"event “{event}” is not defined") for event in dict.fromkeys(used) if event not in technique.events)


def _checkpoints(technique: Technique) -> Iterator[Found]:
    for i, c in enumerate(technique.checkpoints):
        here = ("checkpoints", i)
        yield from ((here + path, message) for path, message in _in_checkpoint(technique, c))


def _in_checkpoint(technique: Technique, c: Checkpoint) -> Iterator[Found]:
    yield from _events(technique, ("measure",), c.measure.events_used)
    for key, others in (("any_of", c.any_of), ("or_else", c.or_else)):
        yield from _events(technique, (key,), (event for other in others for event in other.events_used))
    yield from _events(technique, ("only_if",), c.only_if.events_used if c.only_if else ())
    yield from _branches(technique, c)
    if c.from_grade is not None and technique.grades and c.from_grade not in technique.grades:
        yield ("from_grade",), f"grade “{c.from_grade}” is not in grades"
    ids = {other.id for other in technique.checkpoints}
    yield from ((("leads_to", i), f"no checkpoint “{to}”") for i, to in enumerate(c.leads_to) if to not in ids)
    yield from _when(technique, c.when)
    if c.from_rung is not None and c.from_rung not in technique.ladder:
        yield ("from_rung",), f"rung “{c.from_rung}” is not in the ladder"
    yield from (
        (("within_by", key), "ranges may differ by pace, rung, grade or an option")
        for key in c.within_by
        if key not in _RANGES_BY and key not in technique.options
    )


def _branches(technique: Technique, c: Checkpoint) -> Iterator[Found]:
    for name, answers in c.branch.items():
        asked = technique.reaction(name) or technique.decision(name)
        if asked is None:
            yield ("branch", name), f"no reaction “{name}”"
            continue
        known = {answer.event for answer in (*asked.answers, *asked.wrong)}
        for answer in (answers,) if isinstance(answers, str) else answers:
            if answer not in known:
                what = "decision" if technique.reaction(name) is None else "reaction"
                yield ("branch", name), f"{what} “{name}” has no answer “{answer}”"


def _when(technique: Technique, when: Mapping[str, str | tuple[str, ...]]) -> Iterator[Found]:
    facts = {
        "stance": get_args(Stance),
        "partner": get_args(Partner),
        "pace": get_args(Pace),
        "rung": technique.ladder,
        "start": tuple(start.id for start in technique.starts),
    }
    for group, wanted in when.items():
        choices = (wanted,) if isinstance(wanted, str) else wanted
        if group in technique.options:
            known, what = tuple(technique.options[group].choices), f"option “{group}” has no choice"
        elif group in facts:
            known, what = facts[group], f"{group} is never"
        else:
            yield ("when", group), f"no option “{group}”"
            continue
        yield from ((("when", group), f"{what} “{choice}”") for choice in choices if choice not in known)


def _reactions(technique: Technique) -> Iterator[Found]:
    for i, reaction in enumerate(technique.reactions):
        here = ("reactions", i)
        yield from _events(technique, here, reaction.events_used)
        yield from ((here + path, message) for path, message in _when(technique, reaction.when))
        event = technique.events.get(reaction.event)
        if event is not None and event.body != "partner":
            yield (*here, "event"), f"a reaction is the partner’s: give event “{reaction.event}” the key `body: partner`"
        for key, answers in (("answers", reaction.answers), ("wrong", reaction.wrong)):
            for n, answer in enumerate(answers):
                if (own := technique.events.get(answer.event)) is not None and own.body != "performer":
                    yield (*here, key, n), f"an answer is the performer’s, and “{answer.event}” is an event of the partner’s body"
                if answer.event == reaction.event:
                    yield (*here, key, n), "a reaction is no answer to itself"


def _decisions(technique: Technique) -> Iterator[Found]:
    for i, decision in enumerate(technique.decisions):
        used = (decision.when, *(answer.event for answer in (*decision.answers, *decision.wrong)))
        yield from _events(technique, ("decisions", i), used)


def _layers(technique: Technique) -> Iterator[Found]:
    known = {asked.id for asked in technique.everything_asked}
    for i, layer in enumerate(technique.layers):
        listed = () if layer.checkpoints == "all" else layer.checkpoints
        yield from (
            (("layers", i, "checkpoints", n), f"no checkpoint or reaction “{name}”")
            for n, name in enumerate(listed)
            if name not in known
        )
        if layer.until is not None:
            yield from _events(technique, ("layers", i, "until"), (layer.until,))


def _starts(technique: Technique) -> Iterator[Found]:
    for i, start in enumerate(technique.starts):
        if start.resists_from is not None:
            yield from _events(technique, ("starts", i, "resists_from"), (start.resists_from,))


def _drills(technique: Technique) -> Iterator[Found]:
    codes = {asked.fault.code for asked in technique.everything_asked}
    for i, drill in enumerate(technique.drills):
        if not isinstance(drill, Drill):
            continue
        here = ("drills", i)
        yield from (((*here, "for"), f"no checkpoint has the fault “{code}”") for code in drill.answers if code not in codes)
        if drill.start is not None and technique.start(drill.start) is None:
            yield (*here, "start"), f"no start “{drill.start}”"
        if drill.resists_from is not None:
            yield from _events(technique, (*here, "resists_from"), (drill.resists_from,))


def _cycles(technique: Technique) -> Iterator[Found]:
    leads = {c.id: c.leads_to for c in technique.checkpoints}
    for i, c in enumerate(technique.checkpoints):
        reached, frontier = set[str](), list(c.leads_to)
        while frontier:
            step = frontier.pop()
            if step not in reached:
                reached.add(step)
                frontier += leads.get(step, ())
        if c.id in reached:
            yield ("checkpoints", i, "leads_to"), f"“{c.id}” leads back to itself"
