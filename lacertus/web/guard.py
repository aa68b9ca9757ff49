"""What stands before every request: security headers, same-origin writes, how much is read, request ids and the log."""

from __future__ import annotations

import re
import time
import uuid
from urllib.parse import urlsplit

import structlog
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from lacertus.core.errors import LacertusError
from lacertus.services.errors import NotSignedIn
from lacertus.services.people import accounts
from lacertus.settings import settings
from lacertus.web import pressure
from lacertus.web.body import (
    FILE_WHOLE_S,
    MOST_BYTES,
    UPLOADS,
    WHOLE_S,
    BodyRefused,
    CountedBody,
    NobodyMaySend,
    SpooledBody,
    announced_bytes,
    file_route,
    session_token,
    too_large,
)
from lacertus.web.errors import body, respond
from lacertus.web.session import transaction
from lacertus.web.watching import metrics

log = structlog.get_logger()

SAFE = ("GET", "HEAD", "OPTIONS")
POLICY = (
    "default-src 'self'; img-src 'self' data: blob:; media-src 'self' blob:; "
    # Svelte writes style attributes; scripts stay strictly our own files.
    "style-src 'self' 'unsafe-inline'; frame-src 'self'; object-src 'none'; base-uri 'none'; form-action 'self'; "
    "frame-ancestors 'none'"
)
HEADERS = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Permissions-Policy": "camera=(), geolocation=(), microphone=(self)",
}
TLS_HEADERS = {"Strict-Transport-Security": "max-age=31536000"}
PAGE_HEADERS = {
    # A sheet runs no script at all, and only this site may show it in a frame.
    "Content-Security-Policy": "default-src 'none'; img-src 'self'; media-src 'self'; font-src 'self'; style-src 'unsafe-inline'; "
    "form-action 'self'; base-uri 'none'; frame-ancestors 'self'",
    "Cache-Control": "no-store",
    "X-Robots-Tag": "noindex, nofollow",
}

OWN_PAGE_HEADERS = PAGE_HEADERS | {
    # A student's own page runs our own file: it sends clips, and keeps what is written while the connection is away.
    "Content-Security-Policy": "default-src 'none'; img-src 'self'; media-src 'self' blob:; font-src 'self'; "
    "style-src 'unsafe-inline'; script-src 'self'; connect-src 'self'; worker-src 'self'; manifest-src 'self'; "
    "form-action 'self'; base-uri 'none'; frame-ancestors 'none'",
}
EYE_PAGE_HEADERS = OWN_PAGE_HEADERS | {
    # The same, built with the front end: its styles are files of ours.
    "Content-Security-Policy": OWN_PAGE_HEADERS["Content-Security-Policy"].replace("style-src", "style-src 'self'"),
}
OWN_UPLOADS = re.compile(r"/me/[^/]+/uploads(/|$)")


class Guard:
    """Refuses writes from other origins and bodies that are too large, before anything of them is read into memory.

    It puts the security headers and a request id on every answer, also on the one to a fault of ours, which ends here.
    """

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        request = _Request(scope, send)
        structlog.contextvars.clear_contextvars()
        structlog.contextvars.bind_contextvars(request=request.id)
        if pressure.is_full(scope["path"]):
            await request.answer(503, "busy", pressure.FULL, {"Retry-After": str(pressure.RETRY_S)})
            request.log()
            return
        counted: Receive | None = None
        try:
            counted = await self._let_in(request, receive)
            if isinstance(counted, SpooledBody):
                await counted.read()
            await self.app(scope, counted, request.send)
        except BodyRefused as refused:
            await request.answer(refused.status_code, refused.code, str(refused.detail), dict(refused.headers or {}))
        except Exception as error:
            log.exception("unexpected", path=request.shown_path)
            await request.fail(error)
        finally:
            if isinstance(counted, SpooledBody):
                counted.close()
            request.log()

    async def _let_in(self, request: _Request, receive: Receive) -> Receive:
        """The body as it may be read; raises BodyRefused where none of it may."""
        if request.method not in SAFE and not _same_origin(request.headers):
            raise BodyRefused(403, "other_origin", "This request came from another site and was refused.")
        if "\0" in request.scope["path"] or b"%00" in request.scope["query_string"]:
            raise BodyRefused(400, "bad_input", "This address holds the character NUL. Nothing was stored.")
        path = request.scope["path"]
        if path == UPLOADS or path.startswith(f"{UPLOADS}/") or OWN_UPLOADS.match(path):
            # Read to the disk in pieces, counted there.
            return receive
        announced = announced_bytes(request.headers)
        route = file_route(request.method, path)
        if route is None:
            if announced is not None and announced > MOST_BYTES:
                raise too_large(MOST_BYTES)
            return CountedBody(receive, MOST_BYTES, WHOLE_S)
        if announced is not None and announced > route.most_bytes:
            raise too_large(route.most_bytes)
        is_small = announced is not None and announced <= MOST_BYTES
        if not is_small and not await run_in_threadpool(_is_signed_in, session_token(request.headers)):
            raise NobodyMaySend()
        return SpooledBody(CountedBody(receive, route.most_bytes, WHOLE_S if is_small else FILE_WHOLE_S))


class _Request:
    """One request on its way: its headers by name, and the answer with ours put on it."""

    def __init__(self, scope: Scope, send: Send) -> None:
        self.scope, self._send = scope, send
        self.id = uuid.uuid4().hex[:12]
        self.started = time.perf_counter()
        self.status: int | None = None
        self.is_whole = False
        self.method: str = scope["method"]
        self.headers: dict[bytes, bytes] = {}
        for name, value in scope["headers"]:
            # Two of a kind where one is expected are read as one that fits nothing.
            self.headers[name] = self.headers[name] + b"," + value if name in self.headers and name != b"cookie" else value

    @property
    def is_shared(self) -> bool:
        return bool(self.scope["path"].startswith(("/s/", "/me/")))

    @property
    def shown_path(self) -> str:
        """The path as it may stand in a log: the token of a link opens what it links to."""
        return f"/{self.scope['path'].split('/')[1]}/…" if self.is_shared else self.scope["path"]

    @property
    def route(self) -> str | None:
        """The pattern of the route that took it; a router that others are put into does not tell its own part of the path."""
        pattern: str | None = getattr(self.scope.get("route"), "path", None)
        if pattern is not None and self.scope["path"].startswith("/api/") and not pattern.startswith("/api/"):
            return f"/api{pattern}"
        return pattern

    async def send(self, message: Message) -> None:
        if message["type"] == "http.response.start":
            self.status = message["status"]
            headers = MutableHeaders(scope=message)
            for name, value in HEADERS.items():
                headers.setdefault(name, value)
            if is_tls(self.scope):
                for name, value in TLS_HEADERS.items():
                    headers.setdefault(name, value)
            headers["X-Request-Id"] = self.id
            if self.scope["path"].startswith("/api") or self.is_shared:
                headers.setdefault("Cache-Control", "no-store")
        await self._send(message)
        self.is_whole = message["type"] == "http.response.body" and not message.get("more_body", False)

    async def answer(self, status: int, code: str, message: str, headers: dict[str, str]) -> None:
        if self.status is None:
            response = body(status, code, message)
            response.headers.update(headers)
            await response(self.scope, _nothing, self.send)

    async def fail(self, error: Exception) -> None:
        """Answer for a fault of ours; where the answer has begun it is broken off, so that nobody takes it for whole."""
        if self.is_whole:
            return
        if self.status is not None:
            raise error
        await respond(LacertusError())(self.scope, _nothing, self.send)

    def log(self) -> None:
        seconds = time.perf_counter() - self.started
        metrics.note(self.method, self.route, self.status, seconds)
        if self.scope["path"].startswith("/api") or self.is_shared:
            ms = round(seconds * 1000, 1)
            log.info("request", method=self.method, path=self.shown_path, status=self.status, ms=ms)


async def _nothing() -> Message:
    return {"type": "http.disconnect"}


def is_tls(scope: Scope) -> bool:
    """Whether the browser reached the site by TLS: here, at a proxy that is trusted, or at the address that is set."""
    return bool(scope.get("scheme") in ("https", "wss")) or settings().public_url.startswith("https://")


def _is_signed_in(token: str | None) -> bool:
    with transaction() as db:
        try:
            accounts.signed_in(db, token)
        except NotSignedIn:
            return False
    return True


def _same_origin(headers: dict[bytes, bytes]) -> bool:
    """Browsers say where a write comes from; other clients send no Origin and no cookie of ours by accident."""
    if headers.get(b"sec-fetch-site", b"same-origin") not in (b"same-origin", b"none"):
        return False
    origin, host = headers.get(b"origin"), headers.get(b"host", b"")
    return same_host(None if origin is None else origin.decode("latin-1"), host.decode("latin-1"))


def same_host(origin: str | None, host: str | None) -> bool:
    """Whether an origin is this site's own; a client that names none is no browser."""
    if origin is None:
        return True
    try:
        return bool(host) and urlsplit(origin).netloc == host
    except ValueError:
        return False
