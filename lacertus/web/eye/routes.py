"""Training the eye: sets, answers, films, and what one's own eye is like."""

from __future__ import annotations

import uuid

from fastapi import APIRouter
from fastapi.responses import Response, StreamingResponse

from lacertus.services.eye import progress, training
from lacertus.services.eye.learner import Learner
from lacertus.services.eye.overview import film_of, overview
from lacertus.store.media import Media
from lacertus.web.eye import presenters
from lacertus.web.eye import schemas as e
from lacertus.web.files import KEEP_NOTHING, FileAsked, send_bytes, send_file
from lacertus.web.session import Db, SignedIn

router = APIRouter(prefix="/eye", tags=["eye"])


def _learner(coach: SignedIn) -> Learner:
    return Learner(academy=coach.academy_id, account=coach.id)


@router.get("")
def read_eye(coach: SignedIn, db: Db) -> e.EyeOut:
    """One’s own eye, beside the academy’s."""
    return presenters.eye_out(overview(db, _learner(coach)))


@router.post("/sets")
def make_eye_set(form: e.EyeSetIn, coach: SignedIn, db: Db) -> e.EyeSetOut:
    """Questions for some minutes. What lacks a film is put on the list of films to be made."""
    return presenters.set_out(training.make_set(db, _learner(coach), form.minutes, form.techniques, form.kinds))


@router.post("/answers")
def answer_eye(form: e.EyeAnswerIn, coach: SignedIn, db: Db) -> e.EyeAnsweredOut:
    """Keep an answer, and tell what is so. The same key again gives the same."""
    return presenters.answered_out(answered(db, _learner(coach), form))


def answered(db: Db, learner: Learner, form: e.EyeAnswerIn) -> training.Answered:
    """What came of an answer, whoever gave it."""
    return training.answer(db, learner, form.key, form.films, form.kind, form.subject, form.given, form.at)


@router.put("/own-events")
def use_own_events(form: e.OwnEventsIn, coach: SignedIn, db: Db) -> e.OwnEventsOut:
    """Use the own scatter of events in one’s reviews, or the default again."""
    found = progress.use_own_events(db, coach.academy_id, coach.id, use=form.use)
    return e.OwnEventsOut.model_validate(found.own_events)


@router.put("/named")
def show_eye_by_name(form: e.EyeNamedIn, coach: SignedIn, db: Db) -> e.EyeNamedOut:
    """Let the others who teach here see one’s eye by name, or no longer."""
    return presenters.named_out(progress.show_by_name(db, coach.academy_id, coach.id, shown=form.shown))


@router.get("/films/{film_id}/film.mp4", response_class=StreamingResponse)
def read_eye_film(film_id: uuid.UUID, coach: SignedIn, db: Db, asked: FileAsked) -> Response:
    """A film that a question is asked on, whole or a range of bytes."""
    return sent(film_of(db, coach.academy_id, film_id), asked)


def sent(film: tuple[Media, str] | bytes, asked: FileAsked) -> Response:
    """A film on its way out; of real film nothing is kept on the way."""
    return send_bytes(film, "video/mp4", asked, KEEP_NOTHING) if isinstance(film, bytes) else send_file(*film, "video/mp4", asked)
