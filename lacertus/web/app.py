"""The application: routes below /api, and the built front end for everything else."""

from __future__ import annotations

import gc
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

from fastapi import APIRouter, FastAPI
from fastapi.responses import FileResponse
from fastapi.staticfiles import StaticFiles

from lacertus.jobs import queue
from lacertus.services import techniques
from lacertus.settings import ui_folder
from lacertus.store import database
from lacertus.web import errors, shared
from lacertus.web.guard import Guard
from lacertus.web.routes import (
    academy,
    clips,
    corrections,
    ledger,
    lessons,
    live,
    people,
    progress,
    reviews,
    rungs,
    sheets,
    uploads,
)
from lacertus.web.schemas import Done


@asynccontextmanager
async def lifespan(_app: FastAPI) -> AsyncIterator[None]:
    queue.open_queue()
    with database.session() as db:
        techniques.store_shipped(db)
    gc.freeze()
    gc.enable()
    yield


def create_app() -> FastAPI:
    """The whole web application."""
    app = FastAPI(title="Lacertus", version="0.1.0", lifespan=lifespan, docs_url=None, redoc_url=None, openapi_url=None)
    app.include_router(uploads.uploads_router(), include_in_schema=False)
    app.include_router(api())
    app.include_router(shared.router)
    errors.install(app)
    app.add_middleware(Guard)
    _serve_ui(app)
    return app


def api() -> APIRouter:
    router = APIRouter(prefix="/api", responses=errors.RESPONSES)
    for module in (people, ledger, clips, reviews, corrections, sheets, rungs, progress, academy, lessons, live):
        router.include_router(module.router)

    @router.get("/health", tags=["health"])
    def health() -> Done:
        """Answers while the server is up."""
        return Done()

    return router


def _serve_ui(app: FastAPI) -> None:
    folder = ui_folder()
    if not (folder / "index.html").is_file():
        return
    app.mount("/assets", StaticFiles(directory=folder / "assets"), name="assets")

    @app.get("/", include_in_schema=False)
    def index() -> FileResponse:
        return FileResponse(folder / "index.html", headers={"Cache-Control": "no-cache"})
