"""What others change in a review, told over a WebSocket as soon as it is saved, at whichever server."""

from __future__ import annotations

import asyncio
import uuid
from collections.abc import Callable
from typing import Annotated, Any

from fastapi import APIRouter, Query, WebSocket
from starlette.concurrency import run_in_threadpool

from lacertus.services.errors import NotFound, NotSignedIn, SecondFactorLacking
from lacertus.services.people import accounts
from lacertus.services.review import changed
from lacertus.store.notices import TooManyFollow, notices
from lacertus.web.body import COOKIE
from lacertus.web.guard import same_host
from lacertus.web.review import schemas as ben
from lacertus.web.review.live import REFUSED
from lacertus.web.session import transaction

router = APIRouter()
TRY_LATER = 1013
"""Close code of a server that has too many of these (RFC 6455 leaves it to IANA, which has it as “try again later”)."""
LOOK_AGAIN_S = 60
"""So often it is looked whether whoever follows is still signed in."""


@router.websocket("/reviews/{review_id}/changes")
async def follow_changes(socket: WebSocket, review_id: uuid.UUID, window: Annotated[str, Query(max_length=64)] = "") -> None:
    """Tells `{revision, by}` at once and after every change. Nothing is expected from the other side."""
    token = socket.cookies.get(COOKIE)
    if not same_host(socket.headers.get("origin"), socket.headers.get("host")):
        await socket.close(REFUSED)
        return
    try:
        newest = await run_in_threadpool(_newest, token, review_id, window)
    except (NotSignedIn, SecondFactorLacking, NotFound):
        await socket.close(REFUSED)
        return
    await socket.accept()
    loop, woken = asyncio.get_running_loop(), asyncio.Event()
    try:
        with notices().follow(review_id, lambda: loop.call_soon_threadsafe(woken.set)):
            await _tell(socket, newest, woken, lambda: _newest(token, review_id, window))
    except TooManyFollow:
        await socket.close(TRY_LATER)
    except (NotSignedIn, SecondFactorLacking, NotFound):
        await socket.close(REFUSED)


async def _tell(socket: WebSocket, newest: ben.RevisionOut, woken: asyncio.Event, look: Callable[[], ben.RevisionOut]) -> None:
    """Send what is newest whenever it is another one, until the other side goes away."""
    gone = asyncio.create_task(socket.receive())
    try:
        told = None
        while not gone.done():
            if newest.revision != told:
                await socket.send_text(newest.model_dump_json())
                told = newest.revision
            await _until(woken, gone)
            woken.clear()
            if not gone.done():
                newest = await run_in_threadpool(look)
    finally:
        gone.cancel()
    # A page sends nothing here.
    if gone.done() and not gone.cancelled() and gone.result()["type"] != "websocket.disconnect":
        await socket.close(REFUSED)


async def _until(woken: asyncio.Event, gone: asyncio.Task[Any]) -> None:
    waiting = asyncio.create_task(woken.wait())
    await asyncio.wait((waiting, gone), timeout=LOOK_AGAIN_S, return_when=asyncio.FIRST_COMPLETED)
    waiting.cancel()


def _newest(token: str | None, review_id: uuid.UUID, window: str) -> ben.RevisionOut:
    """The newest change of a review; raises NotSignedIn, SecondFactorLacking or NotFound where it is not to be told."""
    with transaction() as db:
        coach = accounts.fully_signed_in(db, token)
        return ben.RevisionOut.model_validate(changed.newest(db, coach.academy_id, review_id, window))
