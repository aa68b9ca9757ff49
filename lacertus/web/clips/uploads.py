"""Resumable uploads by the tus protocol 1.0: an upload goes on where it stopped, also when this server was killed in the middle.

Written here and not taken from a library: docs/decisions.md says why.
"""

from __future__ import annotations

import asyncio
import base64
import binascii
import errno
import time
import uuid
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager, suppress
from dataclasses import dataclass
from datetime import UTC, date, datetime
from email.utils import format_datetime
from typing import Annotated, TypeVar

import structlog
from fastapi import APIRouter, Depends, Request, Response
from starlette.concurrency import run_in_threadpool
from starlette.requests import ClientDisconnect

from lacertus.core.errors import BadInput, LacertusError
from lacertus.services.clips import spool, uploads
from lacertus.services.clips.intake import Sent
from lacertus.services.clips.spool import Slot
from lacertus.services.clips.uploads import Upload
from lacertus.services.errors import Conflict, Held, HereAlready, NotFound, TooLarge
from lacertus.settings import settings
from lacertus.web.body import BodyRefused, too_slow
from lacertus.web.session import Db, SignedIn, transaction

Result = TypeVar("Result")
log = structlog.get_logger()

VERSION = "1.0.0"
EXTENSIONS = "creation,creation-with-upload,termination,expiration"
CONTENT = "application/offset+octet-stream"
LONGEST_METADATA = 4000
IDLE_S = 30.0
"""A sender who is silent for so long has gone; the upload is free for the next."""
STALLED_S = 2.0
"""A sender who has been silent for so long gives way to another of the same upload."""
PIECE_BYTES = 1 << 20


async def speaks_tus(request: Request) -> None:
    if request.method != "OPTIONS" and request.headers.get("tus-resumable") != VERSION:
        raise BodyRefused(412, "bad_input", f"uploads speak tus {VERSION}; nothing was stored")


@dataclass(frozen=True, kw_only=True)
class Uploader:
    """Who sends: for which academy, below which path, what is said of a file, and whether an upload is theirs."""

    academy_id: uuid.UUID
    path: str
    sent: Callable[[Db, dict[str, str]], Sent]
    check: Callable[[Db, uuid.UUID], None]


PATH = "/api/uploads"
router = APIRouter(prefix=PATH, dependencies=[Depends(speaks_tus)])


class _Sender:
    """Who sends an upload to this process, and when the last piece came."""

    def __init__(self) -> None:
        self.last = time.monotonic()
        self._task, self._loop = asyncio.current_task(), asyncio.get_running_loop()
        self._gives_way = False

    @property
    def is_stalled(self) -> bool:
        return time.monotonic() - self.last > STALLED_S

    def give_way(self) -> None:
        """Break off the wait for the next piece; from any thread."""
        if self._task is not None and not self._gives_way:
            self._gives_way = True
            self._loop.call_soon_threadsafe(self._task.cancel)

    def gave_way(self) -> bool:
        """Whether a wait was broken off for another sender; the work goes on then."""
        if self._gives_way and self._task is not None:
            self._task.uncancel()
        return self._gives_way


_senders: dict[uuid.UUID, _Sender] = {}


async def tell() -> Response:
    """What is spoken here."""
    headers = {"Tus-Version": VERSION, "Tus-Extension": EXTENSIONS, "Tus-Max-Size": str(settings().largest_upload_bytes)}
    return _answer(204, headers)


async def begin(request: Request, who: Uploader) -> Response:
    """Begin an upload; its first bytes, or all of them, may come with it."""
    length, said = _length(request, "upload-length"), _metadata(request.headers.get("upload-metadata", ""))
    try:
        upload = await run_in_threadpool(_in_session, lambda db: uploads.begin(db, who.academy_id, length, who.sent(db, said)))
    except Conflict as error:
        raise _final(error) from error
    if request.headers.get("content-type") == CONTENT:
        upload = await _receive(request, who, upload)
    # A path, not an address: behind a proxy this server does not know by which name it is reached.
    headers = {"Location": f"{who.path}/{upload.id}", "Upload-Expires": _expires()}
    return _answer(201, headers | _offset(upload))


def _find(who: Uploader, upload_id: uuid.UUID) -> Callable[[Db], Upload]:
    def find(db: Db) -> Upload:
        who.check(db, upload_id)
        return uploads.find(db, who.academy_id, upload_id)

    return find


async def ask(upload_id: uuid.UUID, who: Uploader) -> Response:
    """How much of an upload is here. One that is whole and was not taken in, as the database was away then, is taken in now."""
    upload = await run_in_threadpool(_in_session, _find(who, upload_id))
    if upload.offset == upload.length and not upload.stored:
        await run_in_threadpool(_take_in, who, upload)
    return _answer(200, {"Upload-Length": str(upload.length)} | _offset(upload))


async def go_on(upload_id: uuid.UUID, request: Request, who: Uploader) -> Response:
    """Go on with an upload at the place where it is."""
    if request.headers.get("content-type") != CONTENT:
        raise BodyRefused(415, "bad_input", f"an upload goes on with {CONTENT}; nothing was stored")
    at = _length(request, "upload-offset", least=0)
    upload = await run_in_threadpool(_in_session, _find(who, upload_id))
    if upload.stored and at == upload.length:
        return _answer(204, _offset(upload))
    if at != upload.offset:
        raise BodyRefused(409, "conflict", f"this upload goes on at byte {upload.offset}, not at {at}; ask where it is")
    return _answer(204, _offset(await _receive(request, who, upload)))


async def cancel(upload_id: uuid.UUID, who: Uploader) -> Response:
    """Forget an upload with all that came of it."""

    def drop(db: Db) -> None:
        who.check(db, upload_id)
        uploads.drop(db, who.academy_id, upload_id)

    await run_in_threadpool(_in_session, drop)
    await run_in_threadpool(spool.delete, who.academy_id, upload_id)
    return _answer(204, {})


# --- the academy's own ----------------------------------------------------------------------------------


def _coach_sends(coach: SignedIn) -> Uploader:
    return Uploader(academy_id=coach.academy_id, path=PATH, sent=lambda _db, said: _sent(said), check=lambda _db, _id: None)


Sender = Annotated[Uploader, Depends(_coach_sends)]


@router.options("")
@router.options("/", include_in_schema=False)
async def tell_coach() -> Response:
    return await tell()


@router.post("")
@router.post("/")
async def begin_of_coach(request: Request, who: Sender) -> Response:
    return await begin(request, who)


@router.head("/{upload_id}")
async def ask_of_coach(upload_id: uuid.UUID, who: Sender) -> Response:
    return await ask(upload_id, who)


@router.patch("/{upload_id}")
async def go_on_of_coach(upload_id: uuid.UUID, request: Request, who: Sender) -> Response:
    return await go_on(upload_id, request, who)


@router.delete("/{upload_id}")
async def cancel_of_coach(upload_id: uuid.UUID, who: Sender) -> Response:
    return await cancel(upload_id, who)


# --- the bytes ----------------------------------------------------------------------------------------


async def _receive(request: Request, who: Uploader, upload: Upload) -> Upload:
    """Write what comes behind what is there; a whole upload is taken in. What came before a break stays."""
    room = upload.length - upload.offset
    if (announced := request.headers.get("content-length", "")).isdigit() and int(announced) > room:
        raise BodyRefused(413, "too_large", f"{room} bytes are left of this upload, and {announced} were sent; nothing was stored")
    with ExitStack() as opened:
        sender = _Sender()
        slot = await run_in_threadpool(opened.enter_context, _slot(who, upload, sender))
        # It may have grown since it was looked at.
        if slot.size != upload.offset:
            raise BodyRefused(409, "conflict", "this upload went on meanwhile; ask where it is")
        count = await _write(request, slot, room, sender)
    upload = Upload(id=upload.id, length=upload.length, offset=upload.offset + count)
    if upload.offset == upload.length:
        await run_in_threadpool(_take_in, who, upload)
        return Upload(id=upload.id, length=upload.length, offset=upload.length, stored=True)
    await run_in_threadpool(_in_session, lambda db: uploads.note_touched(db, upload.id))
    return upload


@contextmanager
def _slot(who: Uploader, upload: Upload, sender: _Sender) -> Iterator[Slot]:
    """The upload's end, for this sender alone; whoever else sends it is told so at once, unless that one has fallen silent."""
    try:
        with spool.held(who.academy_id, upload.id) as slot:
            _senders[upload.id] = sender
            try:
                yield slot
            finally:
                if _senders.get(upload.id) is sender:
                    del _senders[upload.id]
    except Held:
        other = _senders.get(upload.id)
        if other is not None and other.is_stalled:
            # The next try finds the upload free. This one does not wait for it.
            other.give_way()
        raise


async def _write(request: Request, slot: Slot, room: int, sender: _Sender) -> int:
    """Write a body behind what is there; returns how many bytes. What came before a break is kept, whatever the break was.

    Raises:
        BodyRefused: more came than there is room for, or the sender broke off, fell silent or gave way.
    """
    count, held, why = 0, bytearray(), None
    pieces = aiter(request.stream())
    while why is None:
        try:
            piece = await asyncio.wait_for(anext(pieces), IDLE_S)
        except StopAsyncIteration:
            break
        except TimeoutError:
            why = too_slow()
        except ClientDisconnect:
            why = BodyRefused(408, "too_slow", "The connection broke off. What came before is kept.")
        except asyncio.CancelledError:
            if not sender.gave_way():
                raise
            why = BodyRefused(408, "too_slow", "Another sender went on with this upload. What came before is kept.")
        else:
            sender.last = time.monotonic()
            if count + len(held) + len(piece) > room:
                why = BodyRefused(413, "too_large", "More was sent than this upload was to hold. What is too much was not stored.")
                continue
            held += piece
            if len(held) >= PIECE_BYTES:
                count += await run_in_threadpool(_flush, slot, held)
    count += await run_in_threadpool(_flush, slot, held)
    await run_in_threadpool(slot.close)
    if why is not None:
        raise why
    return count


def _flush(slot: Slot, held: bytearray) -> int:
    """Write all of a buffer and empty it; returns how many bytes.

    Raises:
        TooLarge: the disk is full.
    """
    view, done = bytes(held), 0
    held.clear()
    while done < len(view):
        try:
            done += slot.write(view[done:])
        except OSError as error:
            if error.errno in (errno.ENOSPC, errno.EDQUOT):
                raise TooLarge("The server’s disk is full. What was sent is kept; tell its administrator.") from error
            raise
    return done


def _take_in(who: Uploader, upload: Upload) -> None:
    """Make a clip of a whole upload. What cannot become one is dropped; what failed for another reason is kept for the next try."""
    try:
        clip = _in_session(lambda db: uploads.take_in(db, who.academy_id, upload.id))
    except (BadInput, Conflict, TooLarge) as error:
        with suppress(NotFound):
            _in_session(lambda db: uploads.drop(db, who.academy_id, upload.id))
        spool.delete(who.academy_id, upload.id)
        raise _final(error) from error
    # Only now that the clip is kept: until here a crash loses nothing that was sent.
    spool.delete(who.academy_id, upload.id)
    if clip is not None:
        log.info("clip taken in", clip=str(clip.id), bytes=clip.size_bytes)


def _final(error: LacertusError) -> LacertusError | BodyRefused:
    """A refusal as a tus client takes it for one: a conflict (409) would be sent again and again."""
    code = "here_already" if isinstance(error, HereAlready) else "conflict"
    return BodyRefused(400, code, str(error)) if isinstance(error, Conflict) else error


def _in_session(work: Callable[[Db], Result]) -> Result:
    with transaction() as db:
        return work(db)


# --- what is said -------------------------------------------------------------------------------------


def _length(request: Request, header: str, least: int = 1) -> int:
    """A number of bytes out of a header.

    Raises:
        BodyRefused: it is none, or no file is so long.
    """
    text = request.headers.get(header, "")
    if not (text.isascii() and text.isdigit() and len(text) <= 18 and int(text) >= least):
        why = (
            "is empty; send the original file from the phone again"
            if text == "0"
            else f"has no length that can be taken ({header})"
        )
        raise BodyRefused(400, "bad_input", f"this file {why}. Nothing was stored.")
    return int(text)


def _sent(said: dict[str, str]) -> Sent:
    """What is said of a file as its upload begins."""
    try:
        student, filmed = said.get("student"), said.get("filmed_on")
        return Sent(
            name=said.get("filename", ""),
            filmed_on=date.fromisoformat(filmed) if filmed else date.today(),
            folder=said.get("folder", ""),
            student=uuid.UUID(student) if student else None,
        )
    except ValueError as error:
        raise BadInput("say whose clip this is, and a date as year-month-day") from error


def _metadata(text: str) -> dict[str, str]:
    """Names and values of a tus metadata header: `name base64` with commas between."""
    if len(text) > LONGEST_METADATA:
        raise BadInput("what is said of this file is too long; nothing was stored")
    found = {}
    for part in filter(None, (one.strip() for one in text.split(","))):
        name, _, value = part.partition(" ")
        try:
            found[name] = base64.b64decode(value, validate=True).decode("utf-8")
        except (binascii.Error, UnicodeDecodeError) as error:
            raise BadInput(f"what is said of this file as “{name[:40]}” cannot be read; nothing was stored") from error
    return found


def _offset(upload: Upload) -> dict[str, str]:
    return {"Upload-Offset": str(upload.offset)}


def _expires() -> str:
    return format_datetime(datetime.now(UTC) + uploads.KEPT, usegmt=True)


def _answer(status: int, headers: dict[str, str]) -> Response:
    return Response(status_code=status, headers={"Tus-Resumable": VERSION, "Cache-Control": "no-store"} | headers)
