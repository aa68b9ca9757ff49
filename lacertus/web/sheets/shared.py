"""What a link opens: the sheet, its pictures, the PDF and the marked clip, without signing in; and the student's answers."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Form, Response
from fastapi.responses import RedirectResponse, StreamingResponse

from lacertus.core.errors import BadInput
from lacertus.core.sheets.sheet import Picture, Sheet
from lacertus.outputs import sheet as outputs
from lacertus.outputs.languages import language
from lacertus.outputs.sheet import REVISED, Answer, Live
from lacertus.services.compare import film
from lacertus.services.corrections import examples, marked_clip
from lacertus.services.errors import Conflict
from lacertus.services.sheets import rendering, share
from lacertus.services.sheets.rendering import Paper
from lacertus.services.sheets.share import NoSuchLink, Opened, SaidInWords
from lacertus.store.media import media, still_key
from lacertus.web.files import KEEP_NOTHING, FileAsked, send_file
from lacertus.web.guard import PAGE_HEADERS
from lacertus.web.session import Db
from lacertus.web.sheets import printing

router = APIRouter(prefix="/s", include_in_schema=False)
Token = str
Field = Annotated[str, Form(max_length=20_000)]


@router.get("/{token}")
def read(token: Token, db: Db) -> Response:
    """The sheet, on a page of its own."""
    try:
        found = share.opened(db, token, count=True)
    except NoSuchLink as error:
        return closed(str(error))
    return html_of(db, found, f"/s/{token}")


def html_of(db: Db, found: Opened, base: str, problem: str = "", status: int = 200, back: str = "") -> Response:
    """A sheet's page, with everything that belongs to it below `base`; `back` is the page that it was opened from."""

    def address(picture: Picture) -> str:
        there = rendering.picture_key(found.review, picture) is not None
        return f"{base}/{picture.of}/{picture.correction}" if there else ""

    ready = found.review.marked is not None
    say = language(found.sheet.language).say
    live = Live(
        answer_to=f"{base}/answer",
        clip=f"{base}/marked.mp4" if ready else "",
        captions=f"{base}/marked.vtt" if ready else "",
        compared=[outputs.Compared(address=f"{base}/compared/{one.id}", words=one.words) for one in film.shown(db, found.review)],
        pdf=f"{base}/sheet.pdf",
        answers=_answers(found.sheet, share.answers_in_words(db, found.review.id, say)),
        problem=problem,
        revised=say(REVISED) if found.revision.number > 1 else "",
        back=back,
    )

    def moving(picture: Picture) -> str:
        return f"{base}/film/{picture.correction}"

    html = outputs.page(rendering.filled(found.review, found.sheet), address, rendering.font_address(), live, film=moving)
    return Response(html, status, media_type="text/html", headers=PAGE_HEADERS)


def closed(message: str) -> Response:
    """The page of a link that opens nothing."""
    return Response(outputs.closed(message, rendering.font_address()), 404, media_type="text/html", headers=PAGE_HEADERS)


def _answers(sheet: Sheet, said: list[SaidInWords]) -> list[Answer]:
    asks = {(fix.technique, fix.checkpoint): fix.ask for fix in sheet.fixes}
    return [Answer(about=asks.get((one.technique, one.checkpoint), ""), said=one.words) for one in said]


def given_answer(
    technique: Field = "",
    checkpoint: Field = "",
    felt: Field = "",
    tried: Field = "",
    sure: Field = "",
    words: Field = "",
    key: Field = "",
) -> dict[str, str]:
    return {
        "technique": technique, "checkpoint": checkpoint, "felt": felt, "tried": tried, "sure": sure, "words": words, "key": key,
    }  # fmt: skip


GivenAnswer = Annotated[dict[str, str], Depends(given_answer)]
"""The fields of the form that answers a sheet."""


@router.post("/{token}/answer")
def answer(token: Token, db: Db, given: GivenAnswer) -> Response:
    """Keep what the student answers, and show the sheet again."""
    try:
        found = share.opened(db, token)
    except NoSuchLink as error:
        return closed(str(error))
    try:
        share.answer(db, found, given)
    except (BadInput, Conflict) as error:
        return not_sent(db, found, f"/s/{token}", error)
    return RedirectResponse(f"/s/{token}#answer", 303)


def not_sent(db: Db, found: Opened, base: str, error: BadInput | Conflict, back: str = "") -> Response:
    """The sheet again, with the reason why an answer was not kept."""
    status = 409 if isinstance(error, Conflict) else 400
    return html_of(db, found, base, f"Not sent: {error}. Go back: what you wrote is still there.", status, back)


def picture_of(found: Opened, kind: str, correction_id: uuid.UUID, asked: FileAsked) -> Response:
    """A still, the picture beside it (`beside`), or its film, of a correction that stands on an opened sheet.

    Raises:
        NoSuchLink: it is none of this sheet's.
    """
    correction = share.correction_on(found, correction_id)
    if kind == "still":
        return send_file(media(), still_key(found.review.clip_id, correction.id), "image/jpeg", asked, KEEP_NOTHING)
    key = examples.key_of(correction) if kind == "beside" else examples.film_of(correction) if kind == "film" else None
    if key is None:
        raise NoSuchLink()
    return send_file(media(), key, "image/jpeg" if kind == "beside" else "video/mp4", asked, KEEP_NOTHING)


@router.get("/{token}/compared/{film_id}", response_class=StreamingResponse)
def read_compared(token: Token, film_id: uuid.UUID, db: Db, asked: FileAsked) -> Response:
    return send_file(*film.file_for_student(db, share.opened(db, token).review, film_id), "video/mp4", asked, KEEP_NOTHING)


@router.get("/{token}/{kind}/{correction_id}", response_class=StreamingResponse)
def read_picture(
    token: Token, kind: Literal["still", "beside", "film"], correction_id: uuid.UUID, db: Db, asked: FileAsked
) -> Response:
    return picture_of(share.opened(db, token), kind, correction_id, asked)


@router.get("/{token}/sheet.pdf", response_class=Response)
async def read_pdf(token: Token) -> Response:
    return await pdf_of(lambda db: share.opened(db, token))


async def pdf_of(opened: Callable[[Db], Opened]) -> Response:
    """The PDF of the sheet that `opened` looks up."""

    def found(db: Db) -> Paper:
        sheet = opened(db)
        return rendering.paper_of(sheet.review, sheet.sheet)

    headers = {"Content-Disposition": 'inline; filename="sheet.pdf"'}
    return Response(await printing.pdf(found), media_type="application/pdf", headers=headers)


@router.get("/{token}/marked.mp4", response_class=StreamingResponse)
def read_marked(token: Token, db: Db, asked: FileAsked) -> Response:
    return send_file(*marked_clip.marked_file(share.opened(db, token).review), "video/mp4", asked, KEEP_NOTHING)


@router.get("/{token}/marked.vtt", response_class=StreamingResponse)
def read_captions(token: Token, db: Db, asked: FileAsked) -> Response:
    return send_file(*marked_clip.captions_file(share.opened(db, token).review), "text/vtt", asked, KEEP_NOTHING)
