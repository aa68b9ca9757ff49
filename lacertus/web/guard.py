"""What stands before every request: security headers, same-origin writes, request ids, and who is signed in."""

from __future__ import annotations

import time
import uuid
from collections.abc import Iterator
from typing import Annotated, Any
from urllib.parse import urlsplit

import structlog
from fastapi import Cookie, Depends, Request, Response
from sqlalchemy.orm import Session
from starlette.middleware.base import BaseHTTPMiddleware, RequestResponseEndpoint

from lacertus.services import people
from lacertus.services.people import Coach
from lacertus.store import database
from lacertus.web.errors import body

log = structlog.get_logger()

COOKIE = "lacertus_session"
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


PAGE_HEADERS = {
    # A sheet runs no script at all, and only this site may show it in a frame.
    "Content-Security-Policy": "default-src 'none'; img-src 'self'; media-src 'self'; font-src 'self'; style-src 'unsafe-inline'; "
    "form-action 'self'; base-uri 'none'; frame-ancestors 'self'",
    "Cache-Control": "no-store",
    "X-Robots-Tag": "noindex, nofollow",
}
MOST_BODY_BYTES = 80_000_000
MOST_SHARED_BYTES = 100_000
"""What someone with a link may send at once: an answer is a few words."""
UPLOADS = "/api/uploads"


class Guard(BaseHTTPMiddleware):
    """Refuses writes from other origins, and puts the security headers and a request id on every answer."""

    async def dispatch(self, request: Request, call_next: RequestResponseEndpoint) -> Response:
        started, request_id = time.perf_counter(), uuid.uuid4().hex[:12]
        if request.method not in SAFE and not _same_origin(request):
            response: Response = body(403, "other_origin", "This request came from another site and was refused.")
        elif _holds_nul(request):
            response = body(400, "bad_input", "This address holds the character NUL. Nothing was stored.")
        elif _too_large(request):
            response = body(413, "too_large", "This is more than is taken at once here. Nothing was stored.")
        else:
            response = await call_next(request)
        for name, value in HEADERS.items():
            response.headers.setdefault(name, value)
        response.headers["X-Request-Id"] = request_id
        shared = request.url.path.startswith("/s/")
        if request.url.path.startswith("/api") or shared:
            response.headers.setdefault("Cache-Control", "no-store")
            ms = round((time.perf_counter() - started) * 1000, 1)
            log.info(
                "request",
                id=request_id,
                method=request.method,
                path="/s/…" if shared else request.url.path,
                status=response.status_code,
                ms=ms,
            )
        return response


def _holds_nul(request: Request) -> bool:
    """The database knows no NUL; bodies are seen to by their models."""
    return "\0" in request.scope["path"] or b"%00" in request.scope["query_string"]


def _too_large(request: Request) -> bool:
    """Only uploads come in pieces and may be large; all else is read into memory, and must say how long it is."""
    if request.method in SAFE or request.url.path.startswith(UPLOADS):
        return False
    most = MOST_SHARED_BYTES if request.url.path.startswith("/s/") else MOST_BODY_BYTES
    length = request.headers.get("content-length", "0")
    return "chunked" in request.headers.get("transfer-encoding", "") or not length.isdigit() or int(length) > most


def _same_origin(request: Request) -> bool:
    """Browsers say where a write comes from; other clients send no Origin and no cookie of ours by accident."""
    return same_host(request.headers.get("origin"), request.headers.get("host"))


def same_host(origin: str | None, host: str | None) -> bool:
    return origin is None or urlsplit(origin).netloc == host


def database_session() -> Iterator[Session]:
    with database.session() as current:
        yield current


# Committed before the answer is sent: what is acknowledged is kept.
Db = Annotated[Session, Depends(database_session, scope="function")]
Token = Annotated[str | None, Cookie(alias=COOKIE, include_in_schema=False)]


def signed_in(db: Db, token: Token = None) -> Coach:
    return people.signed_in(db, token)


async def _content(request: Request) -> bytes:
    return await request.body()


Content = Annotated[bytes, Depends(_content)]
"""The body of a request as it was sent; `Guard` has seen to its length."""


def takes(kind: str) -> dict[str, Any]:
    """What OpenAPI says of a body that is taken as it was sent."""
    schema: dict[str, Any] = {} if kind == "application/json" else {"type": "string", "format": "binary"}
    return {"requestBody": {"required": True, "content": {kind: {"schema": schema}}}}


SignedIn = Annotated[Coach, Depends(signed_in)]
