"""Clips: the list, their frame times, the review copy by ranges, and starting over."""

from __future__ import annotations

import re
import uuid
from typing import Annotated

from fastapi import APIRouter, Header
from fastapi.responses import StreamingResponse
from sqlalchemy import select

from lacertus.jobs import queue
from lacertus.services import correct, intake
from lacertus.services import review as reviewing
from lacertus.store.media import Media, media, review_key
from lacertus.store.tables import Review
from lacertus.web import schemas as s
from lacertus.web import shapes
from lacertus.web.errors import body
from lacertus.web.guard import Db, SignedIn

router = APIRouter(tags=["clips"])
_RANGE = re.compile(r"bytes=(\d{0,18})-(\d{0,18})")


@router.get("/clips")
def read_clips(coach: SignedIn, db: Db) -> list[s.ClipOut]:
    """Every clip of the academy, newest first, with how far its reading is."""
    found = intake.clips(db, coach.academy_id)
    reviews = db.scalars(select(Review).where(Review.academy_id == coach.academy_id))
    states = {review.clip_id: shapes.review_state(review) for review in reviews}
    return [shapes.clip_out(clip, states.get(clip.id, "none")) for clip in found]


@router.get("/clips/{clip_id}")
def read_clip(clip_id: uuid.UUID, coach: SignedIn, db: Db) -> s.ClipTimesOut:
    """A clip with every frame's own time."""
    clip = intake.clip(db, coach.academy_id, clip_id)
    return shapes.clip_times_out(clip, shapes.review_state(db.scalar(select(Review).where(Review.clip_id == clip.id))))


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
    db.commit()
    queue.ask_to_read_clip(clip_id)
    return s.Done()


@router.get("/clips/{clip_id}/video", response_class=StreamingResponse)
def read_video(clip_id: uuid.UUID, coach: SignedIn, db: Db, range: Annotated[str | None, Header()] = None):  # type: ignore[no-untyped-def]
    """The review copy, whole or a range of bytes."""
    clip = intake.ready_clip(db, coach.academy_id, clip_id)
    return _file(media(), review_key(clip.id), "video/mp4", range)


@router.post("/clips/{clip_id}/review")
def open_review(clip_id: uuid.UUID, coach: SignedIn, db: Db) -> s.ReviewOut:
    """The review of a clip, started if there is none."""
    return shapes.review_out(reviewing.open_review(db, coach.academy_id, clip_id))


@router.get("/corrections/{correction_id}/still", response_class=StreamingResponse)
def read_still(correction_id: uuid.UUID, coach: SignedIn, db: Db):  # type: ignore[no-untyped-def]
    """The picture of a correction (JPEG)."""
    return _file(*correct.still_file(db, coach.academy_id, correction_id), "image/jpeg", None)


def _file(files: Media, key: str, kind: str, wanted: str | None):  # type: ignore[no-untyped-def]
    size = files.size(key)
    headers = {"Accept-Ranges": "bytes", "Cache-Control": "private, max-age=3600"}
    match = _RANGE.fullmatch(wanted or "")
    if wanted is None or match is None:
        return StreamingResponse(files.read(key, 0, size), media_type=kind, headers=headers | {"Content-Length": str(size)})
    start, end = _span(match, size)
    if start >= size or start >= end:
        response = body(416, "bad_range", f"The file has {size} bytes.")
        response.headers["Content-Range"] = f"bytes */{size}"
        return response
    headers |= {"Content-Range": f"bytes {start}-{end - 1}/{size}", "Content-Length": str(end - start)}
    return StreamingResponse(files.read(key, start, end), 206, media_type=kind, headers=headers)


def _span(match: re.Match[str], size: int) -> tuple[int, int]:
    """First byte and the one after the last, of `bytes=a-b`, `bytes=a-` or `bytes=-n`."""
    first, last = match.groups()
    if not first:
        return (max(size - int(last), 0), size) if last else (size, size)
    return int(first), min(int(last) + 1, size) if last else size
