"""Whether a rep asks for a checkpoint or a reaction at all: options, facts, layer, start, rung, grade, partner."""

from __future__ import annotations

from collections.abc import Iterable

from lacertus.core.errors import BadRep
from lacertus.core.measuring.measures import KINDS
from lacertus.core.measuring.measures.base import PointRef
from lacertus.core.measuring.repfile import RepFile
from lacertus.core.techniques.checkpoint import Checkpoint
from lacertus.core.techniques.definition import Asked, Technique
from lacertus.core.techniques.vocabulary import USUAL_GRADES, Wanted


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
    if rep.layer is not None and technique.layer(rep.layer) is None:
        raise BadRep(f"technique “{technique.id}” has no layer “{rep.layer}”{_known(layer.id for layer in technique.layers)}")
    _check_start(technique, rep)


def _check_start(technique: Technique, rep: RepFile) -> None:
    """Raise BadRep for a start that is not there, or a rep that says otherwise than its start."""
    if rep.start is None:
        return
    start = technique.start(rep.start)
    if start is None:
        raise BadRep(f"technique “{technique.id}” has no start “{rep.start}”{_known(start.id for start in technique.starts)}")
    for key, said, own in (("start_at", rep.start_at, start.phase), ("resists_from", rep.resists_from, start.resists_from)):
        if said is not None and said != own:
            raise BadRep(f"{key} is “{said}”, but start “{start.id}” sets it to {f'“{own}”' if own else 'nothing'}; leave it out")


def _known(names: Iterable[str]) -> str:
    found = ", ".join(names)
    return f"; it has {found}" if found else ""


def begins_at(technique: Technique, rep: RepFile) -> str | None:
    """The phase that the rep begins at where it does not begin at the beginning."""
    start = None if rep.start is None else technique.start(rep.start)
    return rep.start_at if start is None else start.phase


def chosen_options(technique: Technique, rep: RepFile) -> dict[str, str]:
    """The choice of every option group: the rep's own, else the default."""
    return {name: rep.options.get(name, group.default) for name, group in technique.options.items()}


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


def why_not_asked(asked: Asked, technique: Technique, rep: RepFile) -> str | None:
    """Why this rep leaves a checkpoint or a reaction out, or None where it is asked."""
    if asked.switched_off is not None:
        return f"switched off: {asked.switched_off}"
    return (
        _other_option(asked, technique, rep)
        or _other_layer(asked, technique, rep)
        or _outside_the_rep(asked, technique, rep)
        or (_of_checkpoint(asked, technique, rep) if isinstance(asked, Checkpoint) else None)
        or _no_partner(asked, technique, rep)
    )


def asked_events(technique: Technique, rep: RepFile) -> tuple[str, ...]:
    """The events that are to be marked in a rep, in the order of marking.

    They are what its checkpoints read, and, where the partner was seen to react, what may have followed.
    """
    read: set[str] = set()
    for asked in technique.everything_asked:
        if why_not_asked(asked, technique, rep) is not None:
            continue
        if isinstance(asked, Checkpoint) or rep.events.get(asked.event):
            read.update(asked.events_used)
    return tuple(event for event in technique.events_in_order() if event in read)


def _other_option(asked: Asked, technique: Technique, rep: RepFile) -> str | None:
    facts = {"stance": rep.stance, "partner": rep.partner, "start": rep.start, "pace": rep.pace, "rung": rep.rung}
    known = facts | chosen_options(technique, rep)
    for group, wanted in asked.when.items():
        choices = (wanted,) if isinstance(wanted, str) else wanted
        if known[group] not in choices:
            unsaid = "; the rep does not say it" if known[group] is None else ""
            return f"asked only when {group} is {' or '.join(choices)}{unsaid}"
    return None


def _other_layer(asked: Asked, technique: Technique, rep: RepFile) -> str | None:
    layer = None if rep.layer is None else technique.layer(rep.layer)
    if layer is None:
        return None
    if not asked.safety and not layer.lists(asked.id):
        return f"not looked at in the layer “{layer.name}”"
    if layer.until is not None:
        order = technique.events_in_order()
        late = [event for event in asked.events_used if order.index(event) > order.index(layer.until)]
        if late:
            return f"the layer “{layer.name}” ends with “{_words(layer.until)}”, before “{_words(late[0])}”"
    return None


def _outside_the_rep(asked: Asked, technique: Technique, rep: RepFile) -> str | None:
    """What belongs to phases before the rep's start or after its end, or to an event before the start that nobody marked."""
    phases, first = technique.phases, begins_at(technique, rep)
    if first is not None:
        if phases.index(asked.phase) < phases.index(first):
            return f"the rep starts at {_words(first)}"
        early = [e for e in asked.events_used if phases.index(technique.events[e].phase) < phases.index(first)]
        unmarked = [event for event in early if event not in rep.events]
        if unmarked:
            return f"the rep starts at {_words(first)}, after “{_words(unmarked[0])}”"
    if rep.end_at and phases.index(asked.phase) > phases.index(rep.end_at):
        return f"the rep ends with {_words(rep.end_at)}"
    return None


def _of_checkpoint(checkpoint: Checkpoint, technique: Technique, rep: RepFile) -> str | None:
    kind, ladder = KINDS[checkpoint.kind], technique.ladder
    if kind.over_reps:
        return "told over a set of reps"
    if checkpoint.from_grade and rep.grade and _below_grade(rep.grade, checkpoint.from_grade, technique):
        return f"asked from grade {_words(checkpoint.from_grade)}"
    if checkpoint.from_rung and rep.rung and ladder.index(rep.rung) < ladder.index(checkpoint.from_rung):
        return f"asked from rung {_words(checkpoint.from_rung)}"
    if not kind.by_eye and kind.own_range is None and wanted_range(checkpoint, technique, rep) is None:
        return "not asked at this pace, rung, grade or option"
    return None


def _below_grade(grade: str, asked: str, technique: Technique) -> bool:
    grades = list(technique.grades or USUAL_GRADES)
    return grade in grades and asked in grades and grades.index(grade) < grades.index(asked)


def _no_partner(asked: Asked, technique: Technique, rep: RepFile) -> str | None:
    if rep.partner != "none":
        return None
    points = asked.measure.points_used if isinstance(asked, Checkpoint) else ()
    theirs = any(technique.events[event].body == "partner" for event in asked.events_used)
    return "asks for a partner, and there is none" if theirs or any(_asks_partner(ref) for ref in points) else None


def _asks_partner(ref: PointRef) -> bool:
    names = (ref.name,) if ref.on is None else ref.on
    return any(name is not None and name.startswith("partner.") for name in names)


def _words(key: str) -> str:
    return key.replace("_", " ")
