"""Training the eye from a student's own page, behind its secret link: the page, sets, answers and films, without signing in."""

from __future__ import annotations

import uuid

from fastapi import APIRouter
from fastapi.responses import Response, StreamingResponse

from lacertus.outputs import eye_page
from lacertus.services.errors import NotFound
from lacertus.services.eye import training
from lacertus.services.eye.learner import Learner
from lacertus.services.eye.overview import film_of, overview
from lacertus.services.students import links, own_page
from lacertus.services.students.links import NoSuchPage, OpenedPage
from lacertus.settings import ui_folder
from lacertus.web.eye import presenters
from lacertus.web.eye import schemas as e
from lacertus.web.eye.routes import answered, sent
from lacertus.web.files import FileAsked
from lacertus.web.guard import EYE_PAGE_HEADERS
from lacertus.web.session import Db
from lacertus.web.sheets import shared

PREFIX = "/me/{token}/train"
PAGE = "train.html"
router = APIRouter(prefix=PREFIX, include_in_schema=False)
Token = str


def _learner(found: OpenedPage) -> Learner:
    return Learner(academy=found.academy, student=found.student.id)


@router.get("")
def read_page(token: Token, db: Db) -> Response:
    """The page: as it was built, with whose it is and its words in the page's language."""
    try:
        found = links.opened(db, token)
    except NoSuchPage as error:
        return shared.closed(str(error))
    path = ui_folder() / PAGE
    if not path.is_file():
        raise NotFound("This server has no front end built.")
    told = own_page.trained(db, found)
    html = eye_page.page(path.read_text(encoding="utf-8"), f"/me/{token}", told)
    return Response(html, media_type="text/html", headers=EYE_PAGE_HEADERS)


@router.get("/eye")
def read_eye(token: Token, db: Db) -> e.EyeOut:
    """The student's own eye, beside the other students' where they are enough."""
    return presenters.eye_out(overview(db, _learner(links.opened(db, token))))


@router.post("/sets")
def make_set(token: Token, form: e.EyeSetIn, db: Db) -> e.EyeSetOut:
    """Questions for some minutes."""
    found = links.opened(db, token)
    made = training.make_set(db, _learner(found), form.minutes, form.techniques, form.kinds)
    return presenters.set_out(made, own_page.language_of(db, found).say)


@router.post("/answers")
def answer(token: Token, form: e.EyeAnswerIn, db: Db) -> e.EyeAnsweredOut:
    """Keep an answer, and tell what is so. The same key again gives the same."""
    found = links.opened(db, token)
    return presenters.answered_out(answered(db, _learner(found), form), own_page.language_of(db, found).say)


@router.get("/films/{film_id}/film.mp4", response_class=StreamingResponse)
def read_film(token: Token, film_id: uuid.UUID, db: Db, asked: FileAsked) -> Response:
    """A film that a question is asked on."""
    return sent(film_of(db, links.opened(db, token).academy, film_id), asked)
