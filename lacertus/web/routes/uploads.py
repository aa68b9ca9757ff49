"""Resumable uploads (tus): an upload goes on where it stopped, also when this server was killed in the middle."""

from __future__ import annotations

import re
import uuid
from collections.abc import Awaitable, Callable
from contextlib import suppress
from datetime import date
from pathlib import Path
from types import SimpleNamespace
from typing import Any, cast

import structlog
from fastapi import APIRouter, HTTPException, Request
from starlette.concurrency import run_in_threadpool
from tuspyserver import create_tus_router
from tuspyserver.file import TusUploadFile
from tuspyserver.lock import acquire_upload_lock

from lacertus.core.errors import BadInput, LacertusError
from lacertus.jobs import queue
from lacertus.services import intake, people
from lacertus.services.intake import Sent
from lacertus.settings import settings
from lacertus.store import database
from lacertus.web.guard import SignedIn, signed_in

log = structlog.get_logger()

Metadata = dict[str, Any]
_UPLOAD_ID = re.compile(r"[0-9a-f]{32}")


def _before(coach: SignedIn) -> Callable[[Metadata, Metadata], None]:
    """Refuse an upload that cannot become a clip, before a byte is sent."""

    def check(metadata: Metadata, upload: Metadata) -> None:
        try:
            intake.check_upload(str(metadata.get("filename", "")), upload.get("size"))
            sent = _sent(metadata)
            if sent.student is not None:
                with database.session() as db:
                    people.student(db, coach.academy_id, sent.student)
        except LacertusError as error:
            raise HTTPException(400, str(error)) from error

    return check


def _after(coach: SignedIn) -> Callable[[str, Metadata], Awaitable[None]]:
    """Turn a whole upload into a clip that waits to be read."""

    def take_in(path: Path, metadata: Metadata) -> None:
        try:
            with database.session() as db:
                clip = intake.take_in(db, coach.academy_id, path, _sent(metadata))
        except LacertusError as error:
            _forget(path)
            raise HTTPException(400, str(error)) from error
        # Only now that the clip is kept: until here a crash loses nothing that was sent.
        _forget(path)
        queue.ask_to_read_clip(clip.id)
        log.info("clip taken in", clip=str(clip.id), bytes=clip.size_bytes)

    # In a thread: a large file's hash takes seconds, and others are served meanwhile.
    return lambda path, metadata: run_in_threadpool(take_in, Path(path), metadata)


def _forget(path: Path) -> None:
    """Delete an upload with what the library keeps beside it."""
    for found in (path, path.with_name(f"{path.name}.info")):
        found.unlink(missing_ok=True)


def _folder(coach: SignedIn, request: Request) -> Callable[[Metadata], Metadata]:
    """Uploads of an academy lie in a folder of their own, so that nobody can go on with another's."""
    folder = Path(settings().uploads_dir) / str(coach.academy_id)
    upload = str(request.path_params.get("uuid", ""))
    if request.method == "HEAD" and _UPLOAD_ID.fullmatch(upload):
        _mend_offset(folder, upload)
    return lambda _metadata: {"files_dir": str(folder)}


def _mend_offset(folder: Path, upload: str) -> None:
    """Say how much of an upload is really there.

    The library notes the offset at the end of a piece. Was the server killed within one, the file is longer than
    noted, and going on from the note would write those bytes twice. They came in order, so what is there counts.
    """
    file = TusUploadFile(uid=upload, options=cast(Any, SimpleNamespace(files_dir=str(folder), storage=None)))
    if not file.exists or file.info is None:
        return
    with suppress(OSError, TimeoutError), acquire_upload_lock(file.path, locks_dir=str(folder / ".locks"), blocking=False):
        info, there = file.info, Path(file.path).stat().st_size
        if info.offset != there and (info.size is None or there <= info.size):
            log.info("upload offset mended", noted=info.offset, there=there)
            info.offset = there
            file.info = info


def _sent(metadata: Metadata) -> Sent:
    """What was said of a file when its upload began."""
    try:
        student, filmed = metadata.get("student"), metadata.get("filmed_on")
        return Sent(
            name=str(metadata.get("filename", "")),
            filmed_on=date.fromisoformat(str(filmed)) if filmed else date.today(),
            folder=str(metadata.get("folder", "")),
            student=uuid.UUID(str(student)) if student else None,
        )
    except ValueError as error:
        raise BadInput("say whose clip this is, and a date as year-month-day") from error


def uploads_router() -> APIRouter:
    """The tus routes below /api/uploads, for signed-in coaches only."""
    router: APIRouter = create_tus_router(
        prefix="api/uploads",
        files_dir=settings().uploads_dir,
        max_size=settings().largest_upload_bytes,
        auth=signed_in,  # type: ignore[arg-type]
        days_to_keep=7,
        pre_create_dep=_before,
        upload_complete_dep=_after,  # type: ignore[arg-type]
        file_dep=_folder,  # type: ignore[arg-type]
    )
    return router
