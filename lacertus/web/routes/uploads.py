"""Resumable uploads (tus): an upload goes on where it stopped."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from datetime import date
from pathlib import Path
from typing import Any

import structlog
from fastapi import APIRouter, HTTPException
from tuspyserver import create_tus_router

from lacertus.core.errors import BadInput, LacertusError
from lacertus.jobs import queue
from lacertus.services import intake, people
from lacertus.settings import settings
from lacertus.store import database
from lacertus.web.guard import SignedIn, signed_in

log = structlog.get_logger()

Metadata = dict[str, Any]


def _before(coach: SignedIn) -> Callable[[Metadata, Metadata], None]:
    """Refuse an upload that cannot become a clip, before a byte is sent."""

    def check(metadata: Metadata, upload: Metadata) -> None:
        try:
            intake.check_upload(str(metadata.get("filename", "")), upload.get("size"))
            student, _ = _named(metadata)
            with database.session() as db:
                people.student(db, coach.academy_id, student)
        except LacertusError as error:
            raise HTTPException(400, str(error)) from error

    return check


def _after(coach: SignedIn) -> Callable[[str, Metadata], None]:
    """Turn a whole upload into a clip that waits to be read."""

    def take_in(path: str, metadata: Metadata) -> None:
        try:
            student, filmed_on = _named(metadata)
            with database.session() as db:
                clip = intake.take_in(db, coach.academy_id, student, str(metadata["filename"]), Path(path), filmed_on)
            queue.ask_to_read_clip(clip.id)
        except LacertusError as error:
            raise HTTPException(400, str(error)) from error
        log.info("clip taken in", clip=str(clip.id), bytes=clip.size_bytes)

    return take_in


def _folder(coach: SignedIn) -> Callable[[Metadata], Metadata]:
    """Uploads of an academy lie in a folder of their own, so that nobody can go on with another's."""
    return lambda _metadata: {"files_dir": str(Path(settings().uploads_dir) / str(coach.academy_id))}


def _named(metadata: Metadata) -> tuple[uuid.UUID, date]:
    try:
        student = uuid.UUID(str(metadata.get("student", "")))
        filmed = metadata.get("filmed_on")
        return student, date.fromisoformat(str(filmed)) if filmed else date.today()
    except ValueError as error:
        raise BadInput("choose whose clip this is, and a date as year-month-day") from error


def uploads_router() -> APIRouter:
    """The tus routes below /api/uploads, for signed-in coaches only."""
    router: APIRouter = create_tus_router(
        prefix="api/uploads",
        files_dir=settings().uploads_dir,
        max_size=settings().largest_upload_bytes,
        auth=signed_in,  # type: ignore[arg-type]
        days_to_keep=3,
        pre_create_dep=_before,
        upload_complete_dep=_after,
        file_dep=_folder,  # type: ignore[arg-type]
    )
    return router
