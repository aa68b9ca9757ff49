"""The application: routes below /api, and the built front end for everything else."""

from __future__ import annotations

import gc
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

from fastapi import APIRouter, FastAPI
from fastapi.responses import FileResponse
from fastapi.staticfiles import StaticFiles
from starlette.types import ASGIApp

from lacertus.services.techniques import catalogue
from lacertus.settings import ui_folder
from lacertus.web import errors
from lacertus.web.academy import routes as academy
from lacertus.web.again import Again
from lacertus.web.classes import calendar
from lacertus.web.classes import routes as classes
from lacertus.web.clips import routes as clips
from lacertus.web.clips import uploads
from lacertus.web.compare import routes as compare
from lacertus.web.corrections import routes as corrections
from lacertus.web.eye import routes as eye
from lacertus.web.guard import Guard
from lacertus.web.jobs import routes as jobs
from lacertus.web.people import accounts
from lacertus.web.people import routes as people
from lacertus.web.practice import routes as practice
from lacertus.web.progress import ledger, rungs
from lacertus.web.progress import routes as progress
from lacertus.web.review import changes, live
from lacertus.web.review import routes as review
from lacertus.web.session import transaction
from lacertus.web.sheets import routes as sheets
from lacertus.web.sheets import shared
from lacertus.web.students import own_page, train
from lacertus.web.students import routes as students
from lacertus.web.techniques import routes as techniques
from lacertus.web.watching import routes as watching

GARBAGE = (100_000, 20, 20)
"""How often Python looks for garbage. A review of ten tracked reps is some 30,000 objects, all of which go by themselves: at
Python's own 700 the looking took more than half of the time of a mark (docs/benchmarks.md)."""


@asynccontextmanager
async def lifespan(_app: FastAPI) -> AsyncIterator[None]:
    with transaction() as db:
        catalogue.store_shipped(db)
    gc.freeze()
    gc.set_threshold(*GARBAGE)
    gc.enable()
    yield


class Application(FastAPI):
    """The application with its guard outermost: what goes wrong further in is answered with headers and request id too."""

    def build_middleware_stack(self) -> ASGIApp:
        return Guard(Again(super().build_middleware_stack()))


def create_app() -> FastAPI:
    """The whole web application."""
    app = Application(title="Lacertus", version="0.1.0", lifespan=lifespan, docs_url=None, redoc_url=None, openapi_url=None)
    app.include_router(uploads.router, include_in_schema=False)
    app.include_router(api())
    app.include_router(watching.figures)
    app.include_router(shared.router)
    app.include_router(calendar.public)
    app.include_router(own_page.clips)
    app.include_router(train.router)
    app.include_router(own_page.router)
    errors.install(app)
    _serve_ui(app)
    return app


def api() -> APIRouter:
    router = APIRouter(prefix="/api", responses=errors.RESPONSES)
    for module in (
        people,
        accounts,
        students,
        ledger,
        clips,
        review,
        compare,
        corrections,
        sheets,
        rungs,
        progress,
        academy,
        practice,
        calendar,
        classes,
        techniques,
        eye,
        jobs,
        live,
        changes,
        watching,
    ):
        router.include_router(module.router)
    return router


def _serve_ui(app: FastAPI) -> None:
    folder = ui_folder()
    if not (folder / "index.html").is_file():
        return
    app.mount("/assets", StaticFiles(directory=folder / "assets"), name="assets")

    @app.get("/own-icon.png", include_in_schema=False)
    def icon() -> FileResponse:
        return FileResponse(folder / "own-icon.png")

    @app.get("/", include_in_schema=False)
    def index() -> FileResponse:
        return FileResponse(folder / "index.html", headers={"Cache-Control": "no-cache"})
