"""A student's own page behind its secret link: the page, its sheets, what is sent from it, and clips, without signing in."""

from __future__ import annotations

import shutil
import tempfile
import uuid
from pathlib import Path
from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Form, Request, Response
from fastapi.responses import FileResponse, JSONResponse, RedirectResponse, StreamingResponse
from starlette.background import BackgroundTask

from lacertus.core.errors import BadInput
from lacertus.core.sheets.sheet import Picture
from lacertus.outputs import student_page
from lacertus.services.clips import uploads as upload_services
from lacertus.services.clips.intake import Sent
from lacertus.services.compare import film
from lacertus.services.corrections import marked_clip
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.sheets import rendering
from lacertus.services.sheets.share import Opened
from lacertus.services.students import links, own_page
from lacertus.services.students.links import NoSuchPage, OpenedPage
from lacertus.services.transfer import student_out
from lacertus.settings import ui_folder
from lacertus.web.clips import uploads
from lacertus.web.clips.uploads import Uploader, speaks_tus
from lacertus.web.files import KEEP_NOTHING, FileAsked, send_file
from lacertus.web.guard import OWN_PAGE_HEADERS
from lacertus.web.session import Db, transaction
from lacertus.web.sheets import shared
from lacertus.web.sheets.shared import GivenAnswer

PREFIX = "/me"
router = APIRouter(prefix=PREFIX, include_in_schema=False)
Token = str
Field = Annotated[str, Form(max_length=20_000)]
RepId = Annotated[uuid.UUID, Form()]


@router.get("/worker.js")
def read_worker() -> Response:
    """What keeps the page on a phone for when the connection is away. It is read from here so that it may see these pages alone."""
    path = ui_folder() / "assets" / Path(student_page.WORKER).name
    if not path.is_file():
        raise NotFound("This server has no front end built.")
    return FileResponse(path, media_type="text/javascript", headers={"Cache-Control": "no-cache"})


@router.get("/{token}")
def read(token: Token, db: Db, sent: str = "") -> Response:
    """The page."""
    try:
        found = links.opened(db, token, count=True)
    except NoSuchPage as error:
        return shared.closed(str(error))
    return _html(db, found, token, sent=sent == "yes")


def _html(db: Db, found: OpenedPage, token: str, problem: str = "", status: int = 200, sent: bool = False) -> Response:
    base = f"{PREFIX}/{token}"
    shown = own_page.page(db, found)

    def address(picture: Picture) -> str:
        there = shown.newest is not None and rendering.picture_key(shown.newest.review, picture) is not None
        return f"{_sheet_base(base, shown.newest)}/{picture.of}/{picture.correction}" if there and shown.newest else ""

    def film(picture: Picture) -> str:
        return f"{_sheet_base(base, shown.newest)}/film/{picture.correction}" if shown.newest else ""

    html = student_page.page(shown, base, address, film, rendering.font_address(), problem, sent)
    return Response(html, status, media_type="text/html", headers=OWN_PAGE_HEADERS)


def _sheet_base(base: str, newest: Opened | None) -> str:
    return f"{base}/sheet/{newest.review.id}" if newest else base


@router.get("/{token}/manifest.webmanifest")
def read_manifest(token: Token, db: Db) -> JSONResponse:
    """What makes the page installable."""
    found = own_page.page(db, links.opened(db, token))
    made = student_page.manifest(found.student, found.academy, f"{PREFIX}/{token}", found.language.code)
    return JSONResponse(made, media_type="application/manifest+json")


# --- what is sent ----------------------------------------------------------------------------------


def _done(request: Request, base: str) -> Response:
    """After an act: the page again, or for a script that sends what was kept on a phone, that it is done."""
    if request.headers.get("accept") == "application/json":
        return JSONResponse({"done": True})
    return RedirectResponse(f"{base}?sent=yes", 303)


def _refused(request: Request, db: Db, found: OpenedPage, token: str, error: BadInput | Conflict | NotFound) -> Response:
    """Why an act was not kept. Whatever was begun of it is taken back."""
    status = 409 if isinstance(error, Conflict) else 404 if isinstance(error, NotFound) else 400
    if request.headers.get("accept") == "application/json":
        return JSONResponse({"code": "refused", "message": str(error)}, status)
    return _html(db, found, token, str(error), status)


@router.post("/{token}/message")
def send(token: Token, db: Db, request: Request, kind: Field = "", words: Field = "", key: Field = "") -> Response:
    """A question, a word of pain, or the wish to be forgotten."""
    found = links.opened(db, token)
    try:
        own_page.send(db, found, {"kind": kind, "words": words, "key": key})
    except (BadInput, Conflict) as error:
        return _refused(request, db, found, token, error)
    return _done(request, f"{PREFIX}/{token}")


@router.post("/{token}/eye")
def say_seen(token: Token, db: Db, request: Request, rep: RepId, checkpoint: Field = "", yes: Field = "") -> Response:
    """Answer a checkpoint that is asked of the student."""
    found = links.opened(db, token)
    try:
        own_page.say_seen(db, found, rep, checkpoint, yes == "yes")
    except (BadInput, Conflict, NotFound) as error:
        return _refused(request, db, found, token, error)
    return _done(request, f"{PREFIX}/{token}")


@router.post("/{token}/practice")
def tick(
    token: Token, db: Db, request: Request, prescription: Field = "", on: Field = "", felt: Field = "", pain: Field = "",
    key: Field = "",
) -> Response:  # fmt: skip
    """A prescribed drill was done."""
    found = links.opened(db, token)
    try:
        own_page.tick(db, found, {"prescription": prescription, "on": on, "felt": felt, "pain": pain, "key": key})
    except (BadInput, Conflict, NotFound) as error:
        return _refused(request, db, found, token, error)
    return _done(request, f"{PREFIX}/{token}")


@router.post("/{token}/consent")
def agree(token: Token, db: Db, request: Request, purpose: Field = "", yes: Field = "", name: Field = "") -> Response:
    """Give or withdraw a consent."""
    found = links.opened(db, token)
    try:
        own_page.agree(db, found, purpose, yes == "yes", name)
    except (BadInput, Conflict, NotFound) as error:
        return _refused(request, db, found, token, error)
    return _done(request, f"{PREFIX}/{token}")


@router.get("/{token}/everything.zip", response_class=FileResponse)
def read_everything(token: Token, db: Db) -> FileResponse:
    """Everything that the academy keeps of the student, as the ZIP that coaches export."""
    found = links.opened(db, token)
    room = Path(tempfile.mkdtemp(prefix="lacertus-"))
    path = room / "everything.zip"
    try:
        student_out.write(db, found.academy, found.student.id, path)
    except BaseException:
        shutil.rmtree(room, ignore_errors=True)
        raise
    gone = BackgroundTask(shutil.rmtree, room, ignore_errors=True)
    return FileResponse(path, media_type="application/zip", filename="everything.zip", background=gone)


# --- sheets ----------------------------------------------------------------------------------------


@router.get("/{token}/sheet/{review_id}")
def read_sheet(token: Token, review_id: uuid.UUID, db: Db) -> Response:
    """One of the student's sheets."""
    try:
        sheet = own_page.opened_sheet(db, links.opened(db, token), review_id)
    except NotFound as error:
        return shared.closed(str(error))
    base = f"{PREFIX}/{token}"
    return shared.html_of(db, sheet, f"{base}/sheet/{review_id}", back=base)


@router.post("/{token}/sheet/{review_id}/answer")
def answer(token: Token, review_id: uuid.UUID, db: Db, request: Request, given: GivenAnswer) -> Response:
    """Keep what is answered on a sheet, from the sheet or from the page."""
    found = links.opened(db, token)
    try:
        own_page.answer(db, found, review_id, given)
    except (BadInput, Conflict) as error:
        return _refused(request, db, found, token, error)
    return _done(request, f"{PREFIX}/{token}")


@router.get("/{token}/sheet/{review_id}/compared/{film_id}", response_class=StreamingResponse)
def read_compared(token: Token, review_id: uuid.UUID, film_id: uuid.UUID, db: Db, asked: FileAsked) -> Response:
    sheet = own_page.opened_sheet(db, links.opened(db, token), review_id)
    return send_file(*film.file_for_student(db, sheet.review, film_id), "video/mp4", asked, KEEP_NOTHING)


@router.get("/{token}/sheet/{review_id}/{kind}/{correction_id}", response_class=StreamingResponse)
def read_picture(
    token: Token, review_id: uuid.UUID, kind: Literal["still", "beside", "film"], correction_id: uuid.UUID, db: Db, asked: FileAsked
) -> Response:
    return shared.picture_of(own_page.opened_sheet(db, links.opened(db, token), review_id), kind, correction_id, asked)


@router.get("/{token}/sheet/{review_id}/sheet.pdf", response_class=Response)
async def read_pdf(token: Token, review_id: uuid.UUID) -> Response:
    return await shared.pdf_of(lambda db: own_page.opened_sheet(db, links.opened(db, token), review_id))


@router.get("/{token}/sheet/{review_id}/marked.mp4", response_class=StreamingResponse)
def read_marked(token: Token, review_id: uuid.UUID, db: Db, asked: FileAsked) -> Response:
    sheet = own_page.opened_sheet(db, links.opened(db, token), review_id)
    return send_file(*marked_clip.marked_file(sheet.review), "video/mp4", asked, KEEP_NOTHING)


@router.get("/{token}/sheet/{review_id}/marked.vtt", response_class=StreamingResponse)
def read_captions(token: Token, review_id: uuid.UUID, db: Db, asked: FileAsked) -> Response:
    sheet = own_page.opened_sheet(db, links.opened(db, token), review_id)
    return send_file(*marked_clip.captions_file(sheet.review), "text/vtt", asked, KEEP_NOTHING)


# --- clips -----------------------------------------------------------------------------------------

clips = APIRouter(prefix=f"{PREFIX}/{{token}}/uploads", include_in_schema=False, dependencies=[Depends(speaks_tus)])


def _page_sends(token: Token) -> Uploader:
    """Whoever holds the link sends clips of this student alone, and goes on with no upload but those."""
    with transaction() as db:
        found = links.opened(db, token)
        academy, student = found.academy, found.student.id

    def sent(db: Db, said: dict[str, str]) -> Sent:
        return own_page.sent_clip(db, links.opened(db, token), said)

    return Uploader(
        academy_id=academy,
        path=f"{PREFIX}/{token}/uploads",
        sent=sent,
        check=lambda db, upload: upload_services.check_own(db, student, upload),
    )


Sender = Annotated[Uploader, Depends(_page_sends)]


@clips.options("")
async def tell(who: Sender) -> Response:
    return await uploads.tell()


@clips.post("")
async def begin(request: Request, who: Sender) -> Response:
    return await uploads.begin(request, who)


@clips.head("/{upload_id}")
async def ask(upload_id: uuid.UUID, who: Sender) -> Response:
    return await uploads.ask(upload_id, who)


@clips.patch("/{upload_id}")
async def go_on(upload_id: uuid.UUID, request: Request, who: Sender) -> Response:
    return await uploads.go_on(upload_id, request, who)


@clips.delete("/{upload_id}")
async def cancel(upload_id: uuid.UUID, who: Sender) -> Response:
    return await uploads.cancel(upload_id, who)
