"""Our errors → HTTP, once; and one error body everywhere."""

from __future__ import annotations

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from starlette.exceptions import HTTPException

from lacertus.core.errors import BadInput, LacertusError, Unreadable
from lacertus.services.errors import (
    Busy,
    ChangedMeanwhile,
    CodeNeeded,
    Conflict,
    Held,
    HereAlready,
    LikelyDouble,
    NotAllowed,
    NotFound,
    SecondFactorLacking,
    ServiceError,
    SignInRefused,
    TooLarge,
    TooManyTries,
    WrongCode,
    WrongPassword,
)
from lacertus.services.outbox import NotSent
from lacertus.store.broker import QueueFull
from lacertus.store.database import DatabaseAway, DatabaseError, DatabaseFull, DatabaseStopped, SameMoment
from lacertus.store.media import BadKey, NoMedia, StorageAway, StorageFull, TooMuch
from lacertus.web.again import SAME_MOMENT


class ErrorBody(BaseModel):
    """What every error answers: a word for programs and a sentence for people."""

    code: str
    message: str


STATUS: tuple[tuple[type[LacertusError], int, str], ...] = (
    (TooLarge, 413, "too_large"),
    (BadInput, 400, "bad_input"),
    (NotFound, 404, "not_found"),
    (NoMedia, 404, "not_found"),
    (BadKey, 404, "not_found"),
    (HereAlready, 409, "here_already"),
    (ChangedMeanwhile, 409, "changed_meanwhile"),
    (LikelyDouble, 409, "likely_double"),
    (Conflict, 409, "conflict"),
    (Held, 423, "held"),
    (SecondFactorLacking, 403, "second_factor"),
    (WrongPassword, 403, "wrong_password"),
    (NotAllowed, 403, "not_allowed"),
    (CodeNeeded, 401, "code_needed"),
    (WrongCode, 401, "wrong_code"),
    (SignInRefused, 401, "signed_out"),
    (TooManyTries, 429, "too_many_tries"),
    (Busy, 503, "busy"),
    (QueueFull, 503, "queue_full"),
    (DatabaseAway, 503, "database_away"),
    (SameMoment, 503, "same_moment"),
    (DatabaseFull, 507, "database_full"),
    (DatabaseStopped, 503, "database_stopped"),
    (DatabaseError, 503, "database"),
    (TooMuch, 413, "too_large"),
    (StorageFull, 507, "storage_full"),
    (StorageAway, 503, "storage_away"),
    (NotSent, 502, "not_sent"),
    (Unreadable, 422, "unreadable"),
    (ServiceError, 409, "refused"),
)
RESPONSES: dict[int | str, dict[str, type[ErrorBody]]] = {
    status: {"model": ErrorBody} for status in sorted({400, 401, 403, 404, 408, 409, 413, 422, 429, 502, 503, 507})
}


def respond(error: LacertusError) -> JSONResponse:
    for kind, status, code in STATUS:
        if isinstance(error, kind):
            return body(status, code, str(error))
    return body(500, "inside", "Something went wrong inside Lacertus. What was saved before is kept; try again.")


def body(status: int, code: str, message: str) -> JSONResponse:
    return JSONResponse(ErrorBody(code=code, message=message).model_dump(), status_code=status)


def install(app: FastAPI) -> None:
    """Make every error answer with the one body."""

    @app.exception_handler(LacertusError)
    def _ours(request: Request, error: LacertusError) -> JSONResponse:
        request.scope[SAME_MOMENT] = isinstance(error, SameMoment)
        return respond(error)

    @app.exception_handler(RequestValidationError)
    def _invalid(_request: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"] if part not in ("body", "query", "path"))
        return body(422, "bad_input", f"{where}: {first['msg']}. Nothing was stored." if where else str(first["msg"]))

    @app.exception_handler(HTTPException)
    def _http(_request: Request, error: HTTPException) -> JSONResponse:
        response = body(error.status_code, getattr(error, "code", "http"), str(error.detail))
        response.headers.update(error.headers or {})
        return response

    @app.exception_handler(Exception)
    def _unexpected(_request: Request, _error: Exception) -> JSONResponse:
        # The guard logs it, once.
        return respond(LacertusError())
