"""What a link opens: the sheet, its pictures, the PDF and the marked clip, without signing in; and the student's answers."""

from __future__ import annotations

import uuid
from typing import Annotated

from fastapi import APIRouter, Form, Response
from fastapi.responses import RedirectResponse, StreamingResponse

from lacertus.core.errors import BadInput
from lacertus.core.sheets.sheet import Picture, Sheet
from lacertus.outputs import sheet as outputs
from lacertus.outputs.sheet import Answer, Live
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
        return _closed(str(error))
    return _html(found, token, _answers(found.sheet, share.answers_in_words(db, found.review.id)))


def _html(found: Opened, token: str, answers: list[Answer], problem: str = "", status: int = 200) -> Response:
    def address(picture: Picture) -> str:
        there = rendering.picture_key(found.review, picture) is not None
        return f"/s/{token}/{picture.of}/{picture.correction}" if there else ""

    ready = found.review.marked is not None
    live = Live(
        answer_to=f"/s/{token}/answer",
        clip=f"/s/{token}/marked.mp4" if ready else "",
        captions=f"/s/{token}/marked.vtt" if ready else "",
        pdf=f"/s/{token}/sheet.pdf",
        answers=answers,
        problem=problem,
        revised="This sheet was revised; what stands here is the newest." if found.revision.number > 1 else "",
    )

    def film(picture: Picture) -> str:
        return f"/s/{token}/film/{picture.correction}"

    html = outputs.page(rendering.filled(found.review, found.sheet), address, rendering.font_address(), live, film=film)
    return Response(html, status, media_type="text/html", headers=PAGE_HEADERS)


def _closed(message: str) -> Response:
    return Response(outputs.closed(message, rendering.font_address()), 404, media_type="text/html", headers=PAGE_HEADERS)


def _answers(sheet: Sheet, said: list[SaidInWords]) -> list[Answer]:
    asks = {(fix.technique, fix.checkpoint): fix.ask for fix in sheet.fixes}
    return [Answer(about=asks.get((one.technique, one.checkpoint), ""), said=one.words) for one in said]


@router.post("/{token}/answer")
def answer(
    token: Token,
    db: Db,
    technique: Field = "",
    checkpoint: Field = "",
    felt: Field = "",
    tried: Field = "",
    sure: Field = "",
    words: Field = "",
) -> Response:
    """Keep what the student answers, and show the sheet again."""
    try:
        found = share.opened(db, token)
    except NoSuchLink as error:
        return _closed(str(error))
    given = {"technique": technique, "checkpoint": checkpoint, "felt": felt, "tried": tried, "sure": sure, "words": words}
    try:
        share.answer(db, found, given)
    except (BadInput, Conflict) as error:
        status = 409 if isinstance(error, Conflict) else 400
        said = share.answers_in_words(db, found.review.id)
        return _html(
            found, token, _answers(found.sheet, said), f"Not sent: {error}. Go back: what you wrote is still there.", status
        )
    return RedirectResponse(f"/s/{token}#answer", 303)


@router.get("/{token}/still/{correction_id}", response_class=StreamingResponse)
def read_still(token: Token, correction_id: uuid.UUID, db: Db, asked: FileAsked) -> Response:
    found = share.opened(db, token)
    correction = share.correction_on(found, correction_id)
    return send_file(media(), still_key(found.review.clip_id, correction.id), "image/jpeg", asked, KEEP_NOTHING)


@router.get("/{token}/beside/{correction_id}", response_class=StreamingResponse)
def read_example(token: Token, correction_id: uuid.UUID, db: Db, asked: FileAsked) -> Response:
    key = examples.key_of(share.correction_on(share.opened(db, token), correction_id))
    if key is None:
        raise NoSuchLink()
    return send_file(media(), key, "image/jpeg", asked, KEEP_NOTHING)


@router.get("/{token}/film/{correction_id}", response_class=StreamingResponse)
def read_film(token: Token, correction_id: uuid.UUID, db: Db, asked: FileAsked) -> Response:
    key = examples.film_of(share.correction_on(share.opened(db, token), correction_id))
    if key is None:
        raise NoSuchLink()
    return send_file(media(), key, "video/mp4", asked, KEEP_NOTHING)


@router.get("/{token}/sheet.pdf", response_class=Response)
async def read_pdf(token: Token) -> Response:
    def found(db: Db) -> Paper:
        opened = share.opened(db, token)
        return rendering.paper_of(opened.review, opened.sheet)

    headers = {"Content-Disposition": 'inline; filename="sheet.pdf"'}
    return Response(await printing.pdf(found), media_type="application/pdf", headers=headers)


@router.get("/{token}/marked.mp4", response_class=StreamingResponse)
def read_marked(token: Token, db: Db, asked: FileAsked) -> Response:
    return send_file(*marked_clip.marked_file(share.opened(db, token).review), "video/mp4", asked, KEEP_NOTHING)


@router.get("/{token}/marked.vtt", response_class=StreamingResponse)
def read_captions(token: Token, db: Db, asked: FileAsked) -> Response:
    return send_file(*marked_clip.captions_file(share.opened(db, token).review), "text/vtt", asked, KEEP_NOTHING)
