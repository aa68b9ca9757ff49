"""Reps beside one another, the curves behind a checkpoint’s number, and model reps."""

from __future__ import annotations

import uuid
from typing import Annotated

from fastapi import APIRouter, Path, Query, Response
from fastapi.responses import StreamingResponse

from lacertus.services.compare import beside, choices, comparison, film, models, set_curves
from lacertus.web import schemas as base
from lacertus.web.compare import presenters
from lacertus.web.compare import schemas as c
from lacertus.web.files import FileAsked, send_file
from lacertus.web.session import Db, SignedIn

router = APIRouter(tags=["compare"])
Word = Annotated[str, Query(max_length=200)]


@router.get("/compare")
def read_comparison(
    coach: SignedIn,
    db: Db,
    side: Annotated[list[c.SideKey], Query(min_length=2, max_length=4)],
    anchor: Word | None = None,
    checkpoint: Word | None = None,
) -> c.ComparisonOut:
    """Two to four sides beside one another, locked on an event: the leading rep first."""
    return presenters.comparison_out(comparison.compare(db, coach.academy_id, side, anchor, checkpoint), checkpoint)


@router.get("/reps/{rep_id}/comparable")
def read_comparable(rep_id: uuid.UUID, coach: SignedIn, db: Db) -> list[c.ComparableOut]:
    """With what a rep can be compared."""
    return [c.ComparableOut.model_validate(one) for one in choices.of_rep(db, coach.academy_id, rep_id)]


@router.get("/techniques/{technique_id}/comparable")
def read_reps_of_technique(technique_id: base.Name, coach: SignedIn, db: Db) -> list[c.ComparableOut]:
    """The reps of a technique that can be compared with the studio’s move: models first, then the newest of each student."""
    return [c.ComparableOut.model_validate(one) for one in choices.of_technique(db, coach.academy_id, technique_id)]


@router.get("/reps/{rep_id}/curves/{checkpoint}")
def read_curves(rep_id: uuid.UUID, checkpoint: Annotated[str, Path(max_length=200)], coach: SignedIn, db: Db) -> c.CurvesOut:
    """A checkpoint’s quantity over this rep and over the others of its set, locked on the event at which it is read."""
    return presenters.set_out(set_curves.of_review(db, coach.academy_id, rep_id, checkpoint))


@router.get("/reps/{rep_id}/model")
def read_model(rep_id: uuid.UUID, coach: SignedIn, db: Db) -> list[str]:
    """For which checkpoints a rep is a model of the academy; an empty name stands for its technique."""
    return models.of_rep(db, coach.academy_id, rep_id)


@router.put("/reps/{rep_id}/model")
def set_model(rep_id: uuid.UUID, form: c.ModelIn, coach: SignedIn, db: Db) -> list[str]:
    """Name a rep of a finished review as a model, or take that back."""
    if form.model:
        models.name_model(db, coach.academy_id, rep_id, form.checkpoint, coach.id)
    else:
        models.take_back(db, coach.academy_id, rep_id, form.checkpoint)
    return models.of_rep(db, coach.academy_id, rep_id)


@router.put("/reps/{rep_id}/beside")
def put_beside(rep_id: uuid.UUID, form: c.BesideIn, coach: SignedIn, db: Db) -> c.BesideOut:
    """Put a picture of another rep beside the correction of a checkpoint in this one."""
    done = beside.put_beside(db, coach.academy_id, rep_id, form.checkpoint, form.other)
    return c.BesideOut(correction=done.id, words=done.example.words if done.example else "")


# --- films -------------------------------------------------------------------------------------------


@router.post("/reps/{rep_id}/films", status_code=201)
def make_film(rep_id: uuid.UUID, form: c.FilmIn, coach: SignedIn, db: Db) -> list[c.FilmOut]:
    """Have a film of a comparison made for the sheet; its job tells how far it is."""
    wish = film.FilmWish(**form.model_dump() | {"sides": tuple(form.sides)})
    made = film.ask(db, coach.academy_id, rep_id, wish, coach.id)
    return presenters.films_out(film.films(db, coach.academy_id, made.review_id))


@router.get("/reviews/{review_id}/films")
def read_films(review_id: uuid.UUID, coach: SignedIn, db: Db) -> list[c.FilmOut]:
    """The films of comparisons on a review’s sheet."""
    return presenters.films_out(film.films(db, coach.academy_id, review_id))


@router.delete("/films/{film_id}")
def delete_film(film_id: uuid.UUID, coach: SignedIn, db: Db) -> list[c.FilmOut]:
    """Delete a film of a comparison."""
    return presenters.films_out(film.films(db, coach.academy_id, film.delete(db, coach.academy_id, film_id)))


@router.get("/films/{film_id}/film.mp4", response_class=StreamingResponse)
def read_film(film_id: uuid.UUID, coach: SignedIn, db: Db, asked: FileAsked) -> Response:
    """A film of a comparison, whole or a range of bytes."""
    return send_file(*film.file_of(db, coach.academy_id, film_id), "video/mp4", asked)
