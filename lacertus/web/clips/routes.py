"""Clips: the list, their frame times, the review copy by ranges, and starting over."""

from __future__ import annotations

import uuid
from typing import Annotated

from fastapi import APIRouter, Query, Response
from fastapi import Path as PathParameter
from fastapi.responses import StreamingResponse

from lacertus.core.clips.naming import complete, read_line
from lacertus.services.clips import intake, naming
from lacertus.services.clips.listing import listed
from lacertus.services.review import review as reviewing
from lacertus.services.review.view import view_of, work_on
from lacertus.services.sheets import clip_facts
from lacertus.store.media import made_key, media, review_key
from lacertus.video.intake.filmstrip import sheet_name
from lacertus.video.intake.reading import TRACES
from lacertus.web import schemas as s
from lacertus.web.clips import presenters as out
from lacertus.web.clips import schemas as clp
from lacertus.web.files import FileAsked, send_file
from lacertus.web.review import presenters
from lacertus.web.review import schemas as ben
from lacertus.web.session import Db, SignedIn

router = APIRouter(tags=["clips"])
Small = Annotated[int, PathParameter(ge=0, le=100_000)]


@router.get("/clips")
def read_clips(coach: SignedIn, db: Db, take: Annotated[int, Query(ge=1, le=10_000)] = 100) -> list[clp.ClipOut]:
    """The academy’s clips, those not reviewed yet first, then the newest, with how far each is read and its name as a line."""
    return [out.clip_out(one) for one in listed(db, coach.academy_id, intake.clips(db, coach.academy_id, take))]


@router.get("/clips/{clip_id}")
def read_clip(clip_id: uuid.UUID, coach: SignedIn, db: Db) -> clp.ClipTimesOut:
    """A clip with every frame's own time, in the file and in reality, and its second views."""
    return out.clip_times_out(clip_facts.clip_times(db, coach.academy_id, clip_id))


@router.put("/clips/names")
def name(form: clp.NamesIn, coach: SignedIn, db: Db) -> list[clp.ClipOut]:
    """Name several clips by one line; what it does not say stays as it was for each."""
    named = naming.name_clips(db, coach.academy_id, form.clips, form.line)
    return [out.clip_out(one) for one in listed(db, coach.academy_id, named)]


@router.post("/naming")
def read_naming(form: clp.LineIn, coach: SignedIn, db: Db) -> clp.LineOut:
    """How a line is understood, and what its last part may become. Nothing is stored."""
    words = naming.vocabulary(db, coach.academy_id)
    base = None
    if form.clip is not None:
        base = intake.clip(db, coach.academy_id, form.clip).naming
    line = read_line(form.line, words, base)
    return clp.LineOut(
        parts=[clp.PartOut.model_validate(part.model_dump()) for part in line.parts],
        completions=list(complete(form.line, words, base)),
    )


@router.put("/clips/{clip_id}/capture-rate")
def set_capture_rate(clip_id: uuid.UUID, form: clp.CaptureIn, coach: SignedIn, db: Db) -> clp.CaptureOut:
    """Set how many seconds of the file one second of reality lasts, from which frame on; every measure follows."""
    return clp.CaptureOut(
        verdicts_changed=clip_facts.set_capture_rate(db, coach, clip_id, [(entry.frame, entry.rate) for entry in form.rates])
    )


@router.put("/clips/{clip_id}/views/{other_id}")
def tie_view(clip_id: uuid.UUID, other_id: uuid.UUID, form: clp.TieIn, coach: SignedIn, db: Db) -> s.Done:
    """Tie a second view by the frames at which both show the same instant."""
    clip_facts.tie_views(db, coach.academy_id, clip_id, other_id, form.frame, form.other_frame, coach.id)
    return s.Done()


@router.delete("/clips/{clip_id}/views/{other_id}")
def untie_view(clip_id: uuid.UUID, other_id: uuid.UUID, coach: SignedIn, db: Db) -> s.Done:
    clip_facts.untie_views(db, coach.academy_id, clip_id, other_id, coach.id)
    return s.Done()


@router.get("/clips/{clip_id}/film/{level}/{sheet}", response_class=StreamingResponse)
def read_film(clip_id: uuid.UUID, level: Small, sheet: Small, coach: SignedIn, db: Db, asked: FileAsked) -> Response:
    """A sheet of the filmstrip (JPEG, 10 × 10 pictures)."""
    clip = intake.ready_clip(db, coach.academy_id, clip_id)
    return send_file(media(), made_key(clip.id, sheet_name(level, sheet)), "image/jpeg", asked)


@router.get("/clips/{clip_id}/traces")
def read_traces(clip_id: uuid.UUID, coach: SignedIn, db: Db) -> clp.TracesOut:
    """How much moves in each frame, how loud it is, and where sounds begin."""
    clip = intake.ready_clip(db, coach.academy_id, clip_id)
    key = made_key(clip.id, TRACES)
    return clp.TracesOut.model_validate_json(b"".join(media().read(key, 0, media().size(key))))


@router.delete("/clips/{clip_id}")
def delete_clip(clip_id: uuid.UUID, coach: SignedIn, db: Db) -> s.Done:
    """Delete a clip with all that was derived from it."""
    intake.delete_clip(db, coach.academy_id, clip_id)
    return s.Done()


@router.post("/clips/{clip_id}/stop")
def stop_reading(clip_id: uuid.UUID, coach: SignedIn, db: Db) -> s.Done:
    intake.stop_reading(db, coach.academy_id, clip_id)
    return s.Done()


@router.post("/clips/{clip_id}/read-again")
def read_again(clip_id: uuid.UUID, coach: SignedIn, db: Db) -> s.Done:
    intake.read_again(db, coach.academy_id, clip_id)
    return s.Done()


@router.get("/clips/{clip_id}/video", response_class=StreamingResponse)
def read_video(clip_id: uuid.UUID, coach: SignedIn, db: Db, asked: FileAsked) -> Response:
    """The review copy, whole or a range of bytes."""
    clip = intake.ready_clip(db, coach.academy_id, clip_id)
    return send_file(media(), review_key(clip.id), "video/mp4", asked)


@router.post("/clips/{clip_id}/review")
def open_review(clip_id: uuid.UUID, coach: SignedIn, db: Db) -> ben.ReviewOut:
    """The review of a clip, started if there is none."""
    review = reviewing.open_review(db, coach.academy_id, clip_id, coach.id)
    return presenters.review_out(view_of(review), work_on(db, review.id))
