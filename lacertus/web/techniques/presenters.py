"""Lesson cards on their way out."""

from __future__ import annotations

from collections.abc import Container, Iterable

from lacertus.core.measuring.measures import KINDS
from lacertus.core.review.judgement import Judgement, shown, shown_with
from lacertus.core.techniques.checkpoint import Checkpoint
from lacertus.core.techniques.choices import USUAL, differences
from lacertus.core.techniques.definition import Asked, Technique
from lacertus.core.techniques.forms import FORMS, Range
from lacertus.core.techniques.practice import Drill
from lacertus.core.techniques.reaction import Decision, Reaction
from lacertus.core.techniques.vocabulary import FAMILIES, FAULT_FAMILIES, Wanted
from lacertus.library.cautions import CAUTIONS, caution_text
from lacertus.library.loader import positions
from lacertus.services.techniques import moving
from lacertus.services.techniques.adaptations import AdaptationInForce
from lacertus.services.techniques.lessons import Checked, Drawn, Spot
from lacertus.services.techniques.moving import MovingFigure
from lacertus.web import schemas as s
from lacertus.web.techniques import schemas as tec


def technique_out(technique: Technique, version: int) -> tec.TechniqueOut:
    return tec.TechniqueOut(
        id=technique.id,
        version=version,
        name=technique.names.main,
        aliases=list(technique.names.aliases),
        family=technique.family,
        summary=technique.summary,
        phases=list(technique.phases),
        events=_events(technique),
        checkpoints=[asked_out(asked) for asked in technique.asked_in_order],
        options=_options(technique),
        ladder=list(technique.ladder),
        layers=_layers(technique),
        starts=_starts(technique),
        best_view=technique.best_view,
        cautions=[caution_text(key) for key in technique.cautions],
    )


def _options(technique: Technique) -> list[tec.OptionOut]:
    return [
        tec.OptionOut(
            key=key,
            default=group.default,
            choices=[tec.ChoiceOut(key=k, name=choice.name, purpose=choice.purpose) for k, choice in group.choices.items()],
        )
        for key, group in technique.options.items()
    ]


def adaptation_out(found: AdaptationInForce) -> s.AdaptationOut:
    technique, adaptation = found.technique, found.adaptation
    asked = technique.checkpoint(adaptation.checkpoint)
    if adaptation.action == "replaced":
        words = f"instead: {(adaptation.instead or {}).get('ask', 'something else')}"
    elif adaptation.action == "off":
        words = "not asked"
    else:
        words = wanted_text(adaptation.within, None if asked is None else asked.measure.unit_shown)
    return s.AdaptationOut(
        id=found.id,
        technique=technique.id,
        technique_name=technique.names.main,
        checkpoint=adaptation.checkpoint,
        ask=adaptation.checkpoint.replace("_", " ") if asked is None else asked.ask,
        action=adaptation.action,
        words=words,
        reason=adaptation.reason,
    )


def wanted_text(within: Wanted | None, unit: str | None) -> str:
    """A wanted range as people read it."""
    lo, hi = within or (None, None)
    if lo is None:
        return "no limit" if hi is None else f"at most {shown(hi, unit)}"
    return f"at least {shown(lo, unit)}" if hi is None else f"{shown(lo, unit)} to {shown(hi, unit)}"


def _events(technique: Technique) -> list[tec.EventOut]:
    found = [(key, technique.events[key]) for key in technique.events_in_order()]
    return [tec.EventOut(key=key, phase=event.phase, mark=event.mark, body=event.body) for key, event in found]


def _layers(technique: Technique) -> list[tec.LayerOut]:
    return [
        tec.LayerOut(
            id=layer.id,
            name=layer.name,
            checkpoints=None if layer.checkpoints == "all" else list(layer.checkpoints),
            until=layer.until,
        )
        for layer in technique.layers
    ]


def _starts(technique: Technique, made: Container[str] = ()) -> list[tec.StartOut]:
    """The technique's starts, those first that its file has; `made` are the academy's own."""
    return [
        tec.StartOut(
            id=one.id,
            phase=one.phase,
            says=one.says,
            resists_from=one.resists_from,
            resistance=one.resistance,
            own=one.id in made,
        )
        for one in technique.starts
    ]


def asked_out(asked: Asked) -> tec.CheckpointOut:
    return checkpoint_out(asked) if isinstance(asked, Checkpoint) else _reaction_asked(asked)


def _reaction_asked(reaction: Reaction) -> tec.CheckpointOut:
    return tec.CheckpointOut(
        id=reaction.id,
        phase=reaction.phase,
        kind=reaction.kind,
        by_eye=False,
        eye_instead=False,
        entry=False,
        best_view=None,
        ask=reaction.ask,
        look_for=None,
        unit="ms",
        within=None if reaction.within_ms is None else [None, reaction.within_ms],
        reason_for_range=None,
        fault=reaction.fault.code,
        family=reaction.fault.family,
        cues=list(reaction.cues),
        why=reaction.why,
        core=False,
        safety=False,
        at=list(reaction.events_used),
    )


def checkpoint_out(checkpoint: Checkpoint) -> tec.CheckpointOut:
    return tec.CheckpointOut(
        id=checkpoint.id,
        phase=checkpoint.phase,
        kind=checkpoint.kind,
        by_eye=KINDS[checkpoint.kind].by_eye,
        eye_instead=any(KINDS[other.kind].by_eye for other in (*checkpoint.any_of, *checkpoint.or_else)),
        entry=checkpoint.entry,
        best_view=checkpoint.best_view,
        ask=checkpoint.ask,
        look_for=checkpoint.look_for,
        unit=checkpoint.measure.unit_shown,
        within=checkpoint.within,
        reason_for_range=checkpoint.reason_for_range,
        fault=checkpoint.fault.code,
        family=checkpoint.fault.family,
        cues=list(checkpoint.cues),
        why=checkpoint.why,
        core=checkpoint.core,
        safety=checkpoint.safety,
        at=list(checkpoint.measure.events_used),
    )


def cautions_out(keys: Iterable[str]) -> list[str]:
    return [caution_text(key) for key in keys]


def lesson_out(technique: Technique, version: int, *, own: bool, made: Container[str] = ()) -> tec.LessonOut:
    return tec.LessonOut(
        id=technique.id,
        version=version,
        own=own,
        name=technique.names.main,
        aliases=list(technique.names.aliases),
        look_alikes=[tec.PairOut(name=other.name, text=other.tell) for other in technique.names.look_alikes],
        family=technique.family,
        summary=technique.summary,
        works_when=technique.works_when,
        starts_from=_position(technique.starts_from) if technique.starts_from else None,
        falls_back_to=[_position(name) for name in technique.falls_back_to],
        phases=list(technique.phases),
        teaching_order=list(technique.teaching_order or technique.phases),
        events=_events(technique),
        checkpoints=[_checkpoint(checkpoint, moving.faults_of(technique)) for checkpoint in technique.in_phase_order],
        options=[
            tec.LessonOptionOut(
                key=key,
                default=group.default,
                choices=[
                    tec.LessonChoiceOut(key=k, name=c.name, purpose=c.purpose, cautions=[caution_text(x) for x in c.cautions])
                    for k, c in group.choices.items()
                ],
                changes=_changes(technique, key),
            )
            for key, group in technique.options.items()
        ],
        ladder=list(technique.ladder),
        drills=[_drill(drill, technique) for drill in technique.drills],
        reactions=_reactions(technique),
        layers=_layers(technique),
        starts=_starts(technique, made),
        best_view=technique.best_view,
        fits=list(technique.fits),
        moves=moving.moves(technique),
        cautions=[caution_text(key) for key in technique.cautions],
    )


def _position(name: str) -> tec.PairOut:
    known = positions().get(name, {})
    return tec.PairOut(name=known.get("name", name.replace("_", " ")), text=known.get("is", ""))


def _checkpoint(checkpoint: Checkpoint, shown_faults: Container[str]) -> tec.LessonCheckpointOut:
    plain = checkpoint_out(checkpoint)
    return tec.LessonCheckpointOut(
        **plain.model_dump(by_alias=False),
        wanted=_wanted(checkpoint),
        cues_for_children=list(checkpoint.cues_for_children),
        when={key: [value] if isinstance(value, str) else list(value) for key, value in checkpoint.when.items()},
        leads_to=list(checkpoint.leads_to),
        points=[str(point) for point in checkpoint.measure.points_used],
        shows_fault=checkpoint.fault.code in shown_faults,
    )


def _wanted(checkpoint: Checkpoint) -> str:
    if checkpoint.within is None:
        return "seen by eye" if checkpoint.kind == "seen" else "in order"
    return wanted_text(checkpoint.within, checkpoint.measure.unit_shown)


def _changes(technique: Technique, group: str) -> list[tec.ChangeOut]:
    """What the choices of an option ask differently, side by side."""
    return [
        tec.ChangeOut(
            ask=row.asked.ask,
            kind=row.asked.kind,
            by_choice=[_under(row.asked, row.by_choice[choice]) for choice in technique.options[group].choices],
        )
        for row in differences(technique, group)
    ]


def _under(asked: Asked, wanted: Wanted | None) -> str:
    if wanted is None:
        return "not asked"
    if not isinstance(asked, Checkpoint):
        return "asked"
    return _wanted(asked) if wanted == USUAL else wanted_text(wanted, asked.measure.unit_shown)


def _drill(drill: Drill | str, technique: Technique) -> tec.DrillOut:
    if isinstance(drill, str):
        name = drill.replace("-", " ").capitalize()
        nothing = {"objective": None, "start": None, "resists_from": None, "partner_task": None, "space_m": None, "minutes": None}
        return tec.DrillOut.model_validate(
            nothing | {"name": name, "answers": [], "how": "", "dose": "", "resistance": "none", "solo": {}}
        )
    start = technique.start(drill.start) if drill.start else None
    return tec.DrillOut(
        name=drill.name,
        answers=list(drill.answers),
        how=drill.how,
        dose=drill.dose_words,
        objective=drill.objective,
        start=start.says if start else None,
        resistance=drill.resistance,
        resists_from=drill.resists_from,
        partner_task=drill.partner_task,
        solo=drill.alone,
        space_m=drill.space_m,
        minutes=drill.takes_minutes,
    )


def _reactions(technique: Technique) -> list[tec.LessonReactionOut]:
    moves = moving.reactions_of(technique)
    return [_reaction(one, moves) for one in technique.reactions] + [_reaction(one, moves) for one in technique.decisions]


def _reaction(one: Reaction | Decision, shown_reactions: Container[str]) -> tec.LessonReactionOut:
    """A reaction, or a decision point of an older definition."""
    return tec.LessonReactionOut(
        id=one.id,
        says=one.says,
        answers=[tec.LessonAnswerOut(name=a.name, then=a.then) for a in one.answers],
        wrong=[tec.LessonAnswerOut(name=a.name, then=a.then) for a in one.wrong],
        within_ms=one.within_ms,
        cues=list(one.cues) if isinstance(one, Reaction) else [],
        cues_for_children=list(one.cues_for_children) if isinstance(one, Reaction) else [],
        why=one.why or "",
        moves=one.id in shown_reactions,
    )


def checked_out(checked: Checked) -> tec.CheckedOut:
    return tec.CheckedOut(
        problems=[tec.ProblemOut(path=list(p.path), line=p.line, message=p.message) for p in checked.problems],
        lesson=None if checked.technique is None else lesson_out(checked.technique, 0, own=True),
        drawn=[drawn_out(drawn) for drawn in checked.drawn],
    )


def figure_out(figure: MovingFigure) -> tec.FigureOut:
    return tec.FigureOut(
        technique=figure.technique,
        side=figure.side,
        options=dict(figure.options),
        fault=figure.fault,
        says=figure.says,
        degree=_degree(figure),
        joints=list(moving.JOINTS),
        axes=list(moving.AXES),
        times_s=list(figure.times_s),
        bodies=[tec.BodyMotionOut.model_validate(body) for body in figure.bodies],
        events_s=dict(figure.events_s),
        checkpoints=[
            tec.FigureCheckpointOut(
                id=one.judgement.id,
                verdict=one.judgement.verdict,
                value=_value(one.judgement),
                time_s=one.time_s,
                places=[tec.PlaceOut.model_validate(place) for place in one.places],
            )
            for one in figure.checkpoints
        ],
    )


def _degree(figure: MovingFigure) -> str:
    if figure.fault is None or figure.unit is None:
        return ""
    return f"{figure.degree:.0f}°" if figure.unit == "deg" else f"{figure.degree:.0f} {figure.unit}"


def _value(j: Judgement) -> str | None:
    return None if j.value is None or j.kind == "seen" else shown_with(j.value, j.uncertainty or 0.0, j.unit)


def drawn_out(drawn: Drawn) -> tec.DrawnOut:
    j = drawn.judgement
    return tec.DrawnOut(
        id=drawn.id,
        frame=drawn.frame,
        verdict=j.verdict.value,
        value=_value(j),
        spots=[_spot(spot) for spot in drawn.spots],
        limbs=[tec.LimbOut(start=_spot(a), end=_spot(b)) for a, b in drawn.limbs],
    )


def _spot(spot: Spot) -> tec.SpotOut:
    return tec.SpotOut(name=spot.name, body=spot.body, x=spot.x, y=spot.y)


def _ruler(found: Range | None) -> tec.FormRangeOut | None:
    return None if found is None else tec.FormRangeOut.model_validate(found)


def building_out(moving_ones: Iterable[str]) -> tec.BuildingOut:
    return tec.BuildingOut(
        forms=[
            tec.FormOut(
                id=form.id,
                kind=form.kind,
                name=form.name,
                fault=form.fault,
                says=form.says,
                places=[tec.FormPlaceOut.model_validate(place) for place in form.places],
                fixed=[tec.FixedOut(path=list(path), value=value) for path, value in form.fixed],
                blank=form.blank,
                wanted=_ruler(form.wanted),
                in_lengths=_ruler(form.in_lengths),
            )
            for form in FORMS
        ],
        families=list(FAMILIES),
        fault_families=list(FAULT_FAMILIES),
        cautions=[tec.CautionOut(key=key, says=says) for key, says in CAUTIONS.items()],
        moving=sorted(moving_ones),
    )
