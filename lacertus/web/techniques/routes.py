"""The Techniques screen: lesson cards, files in and out, and the editor's checks."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import PlainTextResponse

from lacertus.core.techniques.definition import Technique
from lacertus.services.techniques import catalogue, lessons, moving, sampled, starts
from lacertus.web import schemas as s
from lacertus.web.session import Content, Db, SignedIn, takes
from lacertus.web.techniques import presenters as out
from lacertus.web.techniques import schemas as tec

router = APIRouter(tags=["techniques"])
TEXT = takes("application/json", tec.TextIn)


def _text(content: bytes) -> str:
    """A technique's text out of the body that brought it."""
    return s.read_form(tec.TextIn, content).text


@router.get("/techniques/building")
def read_building(coach: SignedIn) -> tec.BuildingOut:
    """What a technique is put together from: checkpoints as sentences, families, cautions, and figures that move."""
    return out.building_out(sampled.shown_by_the_studio())


@router.post("/techniques/sampled")
def read_sampled(form: tec.SampledIn, coach: SignedIn) -> tec.SampledOut:
    """What a measure comes to on the studio's figure, while a checkpoint is being written."""
    return tec.SampledOut.model_validate(sampled.sampled(form.technique, form.events, form.kind, form.measure))


@router.get("/techniques/{technique_id}")
def read_lesson(technique_id: s.Name, coach: SignedIn, db: Db) -> tec.LessonOut:
    """A technique's lesson card."""
    version = catalogue.newest(db, coach.academy_id, technique_id)
    own = [row for row in starts.made(db, coach.academy_id, [technique_id]).get(technique_id, ()) if row.offered]
    technique = starts.with_made(catalogue.definition(version), own)
    return out.lesson_out(technique, version.version, own=version.academy_id is not None, made={row.name for row in own})


@router.get("/techniques/{technique_id}/drawn")
def read_drawn(technique_id: s.Name, coach: SignedIn, db: Db) -> list[tec.DrawnOut]:
    """Each checkpoint drawn on a sample rep without a fault."""
    version = catalogue.newest(db, coach.academy_id, technique_id)
    return [out.drawn_out(drawn) for drawn in lessons.drawn(catalogue.definition(version))]


@router.get("/techniques/{technique_id}/figure")
def read_figure(technique_id: s.Name, coach: SignedIn, db: Db, asked: Annotated[tec.FigureAsked, Query()]) -> tec.FigureOut:
    """A rep of the studio's as joint data, done right, with a fault or with a reaction, to be drawn from any side."""
    return _figure(catalogue.definition(catalogue.newest(db, coach.academy_id, technique_id)), asked)


@router.post("/techniques/figure", openapi_extra=TEXT)
def figure_of_text(content: Content, coach: SignedIn, asked: Annotated[tec.FigureAsked, Query()]) -> tec.FigureOut:
    """The same, judged by a technique's text that is still being written."""
    return _figure(lessons.technique_of(_text(content)), asked)


def _figure(technique: Technique, asked: tec.FigureAsked) -> tec.FigureOut:
    options = dict(one.split(":", 1) for one in asked.option)
    return out.figure_out(moving.figure_of(technique, asked.side, options, asked.fault, asked.reaction))


@router.put("/techniques/{technique_id}/starts/{name}")
def change_start(technique_id: s.Name, name: s.Name, form: tec.StartIn, coach: SignedIn, db: Db) -> tec.LessonOut:
    """Rename a start of the academy's own, and say from when and how much the partner resists."""
    known = catalogue.definition(catalogue.newest(db, coach.academy_id, technique_id))
    starts.change(db, coach.academy_id, known, name, form.says, form.resistance, form.resists_from)
    return read_lesson(technique_id, coach, db)


@router.delete("/techniques/{technique_id}/starts/{name}")
def delete_start(technique_id: s.Name, name: s.Name, coach: SignedIn, db: Db) -> tec.LessonOut:
    """Offer a start of the academy's own no longer."""
    starts.delete(db, coach.academy_id, technique_id, name)
    return read_lesson(technique_id, coach, db)


@router.get("/techniques/{technique_id}/file", response_class=PlainTextResponse)
def read_file(technique_id: s.Name, coach: SignedIn, db: Db) -> PlainTextResponse:
    """The technique file, YAML."""
    version = catalogue.newest(db, coach.academy_id, technique_id)
    headers = {"Content-Disposition": f'attachment; filename="{version.technique}.yaml"'}
    return PlainTextResponse(lessons.as_yaml(catalogue.definition(version)), headers=headers)


@router.post("/techniques/check", openapi_extra=TEXT)
def check_text(content: Content) -> tec.CheckedOut:
    """Check a technique's text: every problem with its line, or the lesson and its checkpoints drawn."""
    return out.checked_out(lessons.check(_text(content)))


@router.put("/techniques", openapi_extra=TEXT)
def keep_text(content: Content, coach: SignedIn, db: Db) -> tec.LessonOut:
    """Keep a text as the academy's own technique; old reviews keep the version that they were judged by."""
    version = lessons.keep(db, coach.academy_id, _text(content))
    return out.lesson_out(catalogue.definition(version), version.version, own=True)
