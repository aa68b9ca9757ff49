"""How much of a request's body is read, from whom, and how long it is waited for."""

from __future__ import annotations

import asyncio
import re
import tempfile
import time
from collections.abc import Callable
from dataclasses import dataclass
from http.cookies import CookieError, SimpleCookie
from typing import Literal

from starlette.concurrency import run_in_threadpool
from starlette.exceptions import HTTPException
from starlette.types import Message, Receive

MOST_BYTES = 64_000
"""What a form or a mark takes, many times over. A route that takes a file is named below."""
IDLE_S = 30.0
"""A sender who is silent for so long in the middle of a body has gone."""
WHOLE_S = 60.0
"""A small body is here within this time, however slowly it drips."""
FILE_WHOLE_S = 900.0
IN_MEMORY_BYTES = 1_000_000
"""What is larger lies on the disk while it comes."""
PIECE_BYTES = 1 << 18
COOKIE = "lacertus_session"
UPLOADS = "/api/uploads"
_ID = r"[0-9a-fA-F-]{36}"


@dataclass(frozen=True, kw_only=True)
class FileRoute:
    """A route that takes a file: who may send it, and at most how many bytes."""

    method: str
    path: re.Pattern[str]
    most_bytes: int
    who: Literal["coach"] = "coach"


def _route(method: str, path: str, most_bytes: int) -> FileRoute:
    return FileRoute(method=method, path=re.compile(path), most_bytes=most_bytes)


FILE_ROUTES = (
    _route("POST", rf"/api/reviews/{_ID}/reps/file", 20_000_000),
    _route("PUT", rf"/api/reps/{_ID}/tracks", 20_000_000),
    _route("POST", r"/api/students/list", 2_000_000),
    # Written to the disk as it comes.
    _route("POST", r"/api/students/file", 500_000_000),
    _route("PUT", rf"/api/corrections/{_ID}/voice", 8_000_000),
    _route("PUT", r"/api/techniques", 1_000_000),
    _route("POST", r"/api/techniques/check", 1_000_000),
)


class BodyRefused(HTTPException):
    """A body that is not read, or not to its end. Nothing of it was stored."""

    def __init__(self, status: int, code: str, message: str) -> None:
        super().__init__(status, message, headers={"Connection": "close"})
        self.code = code


class NobodyMaySend(BodyRefused):
    """A large body from somebody who is not signed in."""

    def __init__(self) -> None:
        super().__init__(
            401, "signed_out", "You are not signed in, or the session has ended. What you saved is kept; sign in again."
        )


def too_large(most_bytes: int) -> BodyRefused:
    most = f"{most_bytes / 1e6:g} MB" if most_bytes >= 1_000_000 else f"{most_bytes // 1000} kB"
    return BodyRefused(413, "too_large", f"This request is larger than the limit of {most}. Nothing was stored.")


def too_slow() -> BodyRefused:
    return BodyRefused(408, "too_slow", "The rest of this request did not arrive in time. Nothing was stored; send it again.")


def file_route(method: str, path: str) -> FileRoute | None:
    """The route that a request goes to where it takes a file."""
    return next((route for route in FILE_ROUTES if route.method == method and route.path.fullmatch(path)), None)


def announced_bytes(headers: dict[bytes, bytes]) -> int | None:
    """The length that a request announces; None where it does not say, as in chunks.

    Raises:
        BodyRefused: it is no length.
    """
    text = headers.get(b"content-length", b"").decode("latin-1")
    if not text:
        return None
    if not text.isascii() or not text.isdigit() or len(text) > 15:
        raise BodyRefused(400, "bad_input", "The length of this request is no number. Nothing was stored.")
    return int(text)


def session_token(headers: dict[bytes, bytes]) -> str | None:
    """The session's token among the cookies."""
    try:
        found = SimpleCookie(headers.get(b"cookie", b"").decode("latin-1")).get(COOKIE)
    except CookieError:
        return None
    return found.value if found else None


class CountedBody:
    """A request's body as it comes, counted and timed: what is too large or too slow is refused while it comes, not afterwards."""

    def __init__(self, receive: Receive, most_bytes: int, whole_s: float, now: Callable[[], float] = time.monotonic) -> None:
        self._receive, self._most, self._now = receive, most_bytes, now
        self._ends = now() + whole_s
        self._count = 0
        self._whole = False

    async def __call__(self) -> Message:
        if self._whole:
            # What comes now is that the other side has gone, whenever that is.
            return await self._receive()
        try:
            message = await asyncio.wait_for(self._receive(), max(min(IDLE_S, self._ends - self._now()), 0.001))
        except TimeoutError as error:
            raise too_slow() from error
        if message["type"] != "http.request":
            self._whole = True
            return message
        self._count += len(message.get("body", b""))
        if self._count > self._most:
            raise too_large(self._most)
        self._whole = not message.get("more_body", False)
        return message


class SpooledBody:
    """A file that is wholly here before anything is done with it: however slowly it comes, it keeps nobody from the database."""

    def __init__(self, receive: Receive) -> None:
        self._receive = receive
        self._file = tempfile.SpooledTemporaryFile(max_size=IN_MEMORY_BYTES, prefix="lacertus-")  # noqa: SIM115 (see `close`)
        self._broken_off: Message | None = None
        self._whole = False

    async def read(self) -> None:
        """Wait for all of it; raises BodyRefused as `CountedBody` does. One that was broken off ends where it did."""
        more = True
        while more:
            message = await self._receive()
            if message["type"] != "http.request":
                self._broken_off = message
                break
            await run_in_threadpool(self._file.write, message.get("body", b""))
            more = message.get("more_body", False)
        self._file.seek(0)

    async def __call__(self) -> Message:
        if self._whole:
            return await self._receive()
        piece = await run_in_threadpool(self._file.read, PIECE_BYTES)
        if not piece and self._broken_off is not None:
            return self._broken_off
        self._whole = not piece
        return {"type": "http.request", "body": piece, "more_body": bool(piece)}

    def close(self) -> None:
        """Forget it."""
        self._file.close()
