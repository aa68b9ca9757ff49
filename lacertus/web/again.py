"""A request that met another one in the database at the same moment is done again, before anybody is told.

PostgreSQL ends one of two transactions that wait for each other. Nothing of it is stored, so doing it once more is what a person
would do; only a request whose body is small enough to be at hand is done again.
"""

from __future__ import annotations

import asyncio
import random

import structlog
from starlette.types import ASGIApp, Message, Receive, Scope, Send

log = structlog.get_logger()
SAME_MOMENT = "lacertus.same_moment"
"""Where in a request's scope it is noted that its transaction was ended for another one."""
MOST_TRIES = 3
WAIT_S = 0.05
MOST_BYTES = 64_000


class Again:
    """Does a request again where it says that it met another one; what it answered then is not sent."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        body = _Replayed(receive)
        for tried in range(1, MOST_TRIES + 1):
            held = _Held(send, last=tried == MOST_TRIES or not body.is_small)
            inner: Scope = {**scope, "state": dict(scope.get("state", {}))}
            body.rewind()
            try:
                await self.app(inner, body, held.over(inner, body))
            finally:
                # Which route took it is counted further out.
                scope["route"] = inner.get("route")
            if not held.again:
                return
            log.info("done again", tried=tried)
            await asyncio.sleep(WAIT_S * 2**tried * random.random())


class _Replayed:
    """A body that can be read again from its beginning, as long as it is small."""

    def __init__(self, receive: Receive) -> None:
        self._receive = receive
        self._read: list[Message] = []
        self._at = 0
        self._bytes = 0

    @property
    def is_small(self) -> bool:
        return self._bytes <= MOST_BYTES

    def rewind(self) -> None:
        self._at = 0

    async def __call__(self) -> Message:
        if self._at < len(self._read):
            self._at += 1
            return self._read[self._at - 1]
        message = await self._receive()
        self._bytes += len(message.get("body", b""))
        if self.is_small and message["type"] == "http.request":
            self._read.append(message)
            self._at += 1
        else:
            self._read.clear()
        return message


class _Held:
    """Sends what is answered, unless the request is to be done again."""

    def __init__(self, send: Send, *, last: bool) -> None:
        self._send, self._last = send, last
        self.again = False

    def over(self, scope: Scope, body: _Replayed) -> Send:
        async def send(message: Message) -> None:
            if message["type"] == "http.response.start":
                self.again = not self._last and body.is_small and bool(scope.get(SAME_MOMENT))
            if not self.again:
                await self._send(message)

        return send
