"""What routes depend on: the database's session, who is signed in, and a body as it was sent."""

from __future__ import annotations

import tempfile
from collections.abc import AsyncIterator
from contextlib import AbstractContextManager
from pathlib import Path
from typing import Annotated, Any

from fastapi import Cookie, Depends, Request
from fastapi.concurrency import contextmanager_in_threadpool
from pydantic import BaseModel
from sqlalchemy.orm import Session
from starlette.concurrency import run_in_threadpool

from lacertus.services.people import accounts
from lacertus.services.people.accounts import Coach
from lacertus.settings import settings
from lacertus.store import database
from lacertus.web.body import COOKIE
from lacertus.web.pressure import turn


def transaction() -> AbstractContextManager[Session]:
    """A transaction of one's own, for what is no route: the guard, sockets, uploads."""
    return database.session()


async def database_session() -> AsyncIterator[Session]:
    async with turn(), contextmanager_in_threadpool(transaction()) as current:
        yield current


# Committed before the answer is sent: what is acknowledged is kept.
Db = Annotated[Session, Depends(database_session, scope="function")]
Token = Annotated[str | None, Cookie(alias=COOKIE, include_in_schema=False)]


def half_signed_in(db: Db, token: Token = None) -> Coach:
    return accounts.signed_in(db, token)


HalfSignedIn = Annotated[Coach, Depends(half_signed_in)]
"""Also who still lacks the second factor that the academy asks for: for one's own account alone."""


def signed_in(db: Db, token: Token = None) -> Coach:
    return accounts.fully_signed_in(db, token)


SignedIn = Annotated[Coach, Depends(signed_in)]


def site_of(request: Request) -> str:
    """Where the site is reached from outside, for links that go out."""
    return settings().public_url.rstrip("/") or str(request.base_url).rstrip("/")


async def _content(request: Request, _coach: SignedIn) -> bytes:
    """Read only once somebody is signed in; the guard counts it while it comes."""
    return await request.body()


Content = Annotated[bytes, Depends(_content)]
"""The body of a request as it was sent, of the routes that `web.body` names. It is read apart in the route, off the event loop."""


async def _content_file(request: Request, _coach: SignedIn) -> AsyncIterator[Path]:
    with tempfile.NamedTemporaryFile(prefix="lacertus-") as file:
        async for piece in request.stream():
            await run_in_threadpool(file.write, piece)
        file.flush()
        yield Path(file.name)


ContentFile = Annotated[Path, Depends(_content_file)]
"""As `Content`, in a file that is gone after the answer: for what is too large to be held in memory."""


def takes(kind: str, model: type[BaseModel] | None = None) -> dict[str, Any]:
    """What OpenAPI says of a body that is taken as it was sent."""
    schema: dict[str, Any] = {} if kind == "application/json" else {"type": "string", "format": "binary"}
    if model is not None:
        schema = model.model_json_schema()
    return {"requestBody": {"required": True, "content": {kind: {"schema": schema}}}}
