"""A review's sheet as the coach sees to it: words, revisions, links, mail, the marked clip, and files in open formats."""

from __future__ import annotations

import uuid
from collections.abc import Mapping

from fastapi import APIRouter, Request, Response
from fastapi.responses import JSONResponse, StreamingResponse

from lacertus.core.sheets.sheet import Picture
from lacertus.core.sheets.words import read_words
from lacertus.outputs import sheet as outputs
from lacertus.services.corrections import marked_clip
from lacertus.services.people.accounts import Coach
from lacertus.services.review import loading
from lacertus.services.sheets import finish as finishing
from lacertus.services.sheets import mail, rendering, share
from lacertus.services.sheets import sheet as sheets
from lacertus.services.sheets.page import link_of, sheet_page
from lacertus.services.sheets.rendering import Paper
from lacertus.services.transfer import open_formats
from lacertus.web.files import FileAsked, send_file
from lacertus.web.guard import PAGE_HEADERS
from lacertus.web.review import schemas as ben
from lacertus.web.review.routes import answer_rep, answer_review
from lacertus.web.session import Content, Db, SignedIn, site_of, takes
from lacertus.web.sheets import presenters as out
from lacertus.web.sheets import printing
from lacertus.web.sheets import schemas as t

router = APIRouter(tags=["sheets"])
JSON = takes("application/json")


def _page(db: Db, coach: Coach, review_id: uuid.UUID, request: Request) -> t.SheetPageOut:
    return out.sheet_page_out(sheet_page(db, coach.academy_id, review_id), site_of(request))


@router.get("/reviews/{review_id}/sheet")
def read_sheet(review_id: uuid.UUID, coach: SignedIn, db: Db, request: Request) -> t.SheetPageOut:
    """The sheet of a finished review: its words, revisions, links, answers, and how far the marked clip is."""
    return _page(db, coach, review_id, request)


@router.put("/reviews/{review_id}/words")
def write_words(review_id: uuid.UUID, form: t.WordsIn, coach: SignedIn, db: Db, request: Request) -> t.SheetPageOut:
    """Change the coach's words on the sheet; of a finished review that makes a revision."""
    finishing.change_words(db, coach.academy_id, review_id, read_words(form.model_dump()), coach.id)
    return _page(db, coach, review_id, request)


@router.get("/reviews/{review_id}/sheet.html", response_class=Response)
def preview(review_id: uuid.UUID, coach: SignedIn, db: Db) -> Response:
    """The sheet as the student sees it."""
    review, revision = sheets.latest(db, coach.academy_id, review_id)
    found = revision.sheet

    def address(picture: Picture) -> str:
        if rendering.picture_key(review, picture) is None:
            return ""
        return f"/api/corrections/{picture.correction}/{'still' if picture.of == 'still' else 'example/picture'}"

    def film(picture: Picture) -> str:
        return f"/api/corrections/{picture.correction}/example/film"

    return Response(
        outputs.page(rendering.filled(review, found), address, rendering.font_address(), film=film),
        media_type="text/html",
        headers=PAGE_HEADERS,
    )


@router.get("/reviews/{review_id}/sheet.pdf", response_class=Response)
async def read_pdf(review_id: uuid.UUID, coach: SignedIn) -> Response:
    """The sheet as a PDF of one or two A4 pages."""

    def found(db: Db) -> Paper:
        review, revision = sheets.latest(db, coach.academy_id, review_id)
        return rendering.paper_of(review, revision.sheet)

    return _file(await printing.pdf(found), "application/pdf", "sheet.pdf")


# --- sending -----------------------------------------------------------------------------------------


@router.post("/reviews/{review_id}/links", status_code=201)
def make_link(review_id: uuid.UUID, form: t.LinkIn, coach: SignedIn, db: Db, request: Request) -> t.LinkOut:
    """A link to the sheet that opens without signing in, until it expires or is revoked."""
    link, _ = share.make_link(db, coach.academy_id, review_id, coach.id, form.days)
    return out.link_out(link_of(db, link), site_of(request))


@router.delete("/links/{link_id}")
def revoke(link_id: uuid.UUID, coach: SignedIn, db: Db, request: Request) -> t.LinkOut:
    """Withdraw a link: it opens nothing from now on."""
    return out.link_out(link_of(db, share.revoke(db, coach.academy_id, link_id)), site_of(request))


@router.post("/reviews/{review_id}/mail", status_code=201)
def send(review_id: uuid.UUID, form: t.MailIn, coach: SignedIn, db: Db, request: Request) -> t.MailOut:
    """Send the sheet by mail with a link of its own; without a relay the mail is written into the outbox."""
    mailed = mail.send(db, coach.academy_id, review_id, coach.id, site_of(request), form.days, form.to)
    link = out.link_out(link_of(db, mailed.link), site_of(request))
    return t.MailOut(link=link, to=mailed.to, file=mailed.file)


# --- the marked clip ---------------------------------------------------------------------------------


@router.post("/reviews/{review_id}/marked")
def make_marked_clip(review_id: uuid.UUID, coach: SignedIn, db: Db, request: Request) -> t.SheetPageOut:
    """Have the marked clip made by the worker; its job tells how far it is."""
    marked_clip.ask(db, coach.academy_id, review_id)
    return _page(db, coach, review_id, request)


@router.get("/reviews/{review_id}/marked.mp4", response_class=StreamingResponse)
def read_marked(review_id: uuid.UUID, coach: SignedIn, db: Db, asked: FileAsked) -> Response:
    """The marked clip, whole or a range of bytes."""
    return send_file(*marked_clip.marked_file(loading.load(db, coach.academy_id, review_id)), "video/mp4", asked)


@router.get("/reviews/{review_id}/marked.vtt", response_class=StreamingResponse)
def read_captions(review_id: uuid.UUID, coach: SignedIn, db: Db, asked: FileAsked) -> Response:
    """The cues of the marked clip (WebVTT)."""
    return send_file(*marked_clip.captions_file(loading.load(db, coach.academy_id, review_id)), "text/vtt", asked)


# --- open formats ------------------------------------------------------------------------------------


def _file(content: bytes | str, kind: str, name: str) -> Response:
    headers: Mapping[str, str] = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(content, media_type=kind, headers=headers)


@router.get("/reviews/{review_id}/measures.csv", response_class=Response)
def read_measures(review_id: uuid.UUID, coach: SignedIn, db: Db) -> Response:
    """Every checkpoint of every rep (CSV)."""
    return _file(open_formats.measures(db, coach.academy_id, review_id), "text/csv; charset=utf-8", "measures.csv")


@router.get("/reviews/{review_id}/corrections.vtt", response_class=Response)
def read_cues(review_id: uuid.UUID, coach: SignedIn, db: Db) -> Response:
    """The cues of the corrections at the times of the clip itself (WebVTT)."""
    return _file(open_formats.corrections_vtt(db, coach.academy_id, review_id), "text/vtt; charset=utf-8", "corrections.vtt")


@router.get("/reviews/{review_id}/schedule.ics", response_class=Response)
def read_schedule(review_id: uuid.UUID, coach: SignedIn, db: Db) -> Response:
    """When the next clip is due (iCalendar)."""
    return _file(open_formats.schedule(db, coach.academy_id, review_id), "text/calendar; charset=utf-8", "next-clip.ics")


@router.get("/reps/{rep_id}/rep.json", response_class=JSONResponse)
def read_rep_file(rep_id: uuid.UUID, coach: SignedIn, db: Db) -> JSONResponse:
    """The rep as a rep file (docs/formats.md)."""
    return JSONResponse(open_formats.rep_json(db, coach.academy_id, rep_id))


@router.get("/reps/{rep_id}/coco.json", response_class=JSONResponse)
def read_coco(rep_id: uuid.UUID, coach: SignedIn, db: Db) -> JSONResponse:
    """The rep's points as COCO person keypoints."""
    return JSONResponse(open_formats.rep_coco(db, coach.academy_id, rep_id))


@router.post("/reviews/{review_id}/reps/file", openapi_extra=JSON)
def bring_rep(review_id: uuid.UUID, content: Content, coach: SignedIn, db: Db) -> ben.ReviewOut:
    """Add a rep file as a rep of the review."""
    open_formats.bring_rep(db, coach.academy_id, review_id, open_formats.parsed(content))
    return answer_review(db, coach, review_id)


@router.put("/reps/{rep_id}/tracks", openapi_extra=JSON)
def bring_tracks(rep_id: uuid.UUID, content: Content, coach: SignedIn, db: Db) -> ben.ReviewOut:
    """Put tracks on a rep, from a rep file or COCO person keypoints; what was placed by hand stays."""
    open_formats.bring_tracks(db, coach.academy_id, rep_id, open_formats.parsed(content))
    return answer_rep(db, coach, rep_id)
