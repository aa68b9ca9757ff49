"""Training the eye: sets, answers, films, and what one's own eye is like."""

from __future__ import annotations

import uuid

from fastapi import APIRouter
from fastapi.responses import Response, StreamingResponse

from lacertus.services.eye import pool, progress, training
from lacertus.services.eye.overview import film_of, overview
from lacertus.web.eye import presenters
from lacertus.web.eye import schemas as e
from lacertus.web.files import FileAsked, send_file
from lacertus.web.session import Db, SignedIn

router = APIRouter(prefix="/eye", tags=["eye"])


@router.get("")
def read_eye(coach: SignedIn, db: Db) -> e.EyeOut:
    """One’s own eye, beside the academy’s."""
    return presenters.eye_out(overview(db, coach.academy_id, coach.id), pool.techniques())


@router.post("/sets")
def make_eye_set(form: e.EyeSetIn, coach: SignedIn, db: Db) -> e.EyeSetOut:
    """Questions for some minutes. What lacks a film is put on the list of films to be made."""
    made = training.make_set(db, coach.id, form.minutes, form.techniques, form.kinds)
    return presenters.set_out(made, pool.techniques())


@router.post("/answers")
def answer_eye(form: e.EyeAnswerIn, coach: SignedIn, db: Db) -> e.EyeAnsweredOut:
    """Keep an answer, and tell what is so. The same key again gives the same."""
    found = training.answer(db, coach.academy_id, coach.id, form.key, form.films, form.kind, form.subject, form.given, form.at)
    return presenters.answered_out(found)


@router.put("/own-events")
def use_own_events(form: e.OwnEventsIn, coach: SignedIn, db: Db) -> e.OwnEventsOut:
    """Use the own scatter of events in one’s reviews, or the default again."""
    found = progress.use_own_events(db, coach.academy_id, coach.id, use=form.use)
    return e.OwnEventsOut.model_validate(found.own_events)


@router.get("/films/{film_id}/film.mp4", response_class=StreamingResponse)
def read_eye_film(film_id: uuid.UUID, coach: SignedIn, db: Db, asked: FileAsked) -> Response:
    """A film that a question is asked on, whole or a range of bytes."""
    return send_file(*film_of(db, film_id), "video/mp4", asked)
