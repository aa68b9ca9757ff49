"""The jobs that a worker runs, by their names in the queue. Files are touched here, never in the web process."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from typing import Any

import procrastinate

from lacertus.jobs.draw_example import DrawExample
from lacertus.jobs.draw_still import DrawStill
from lacertus.jobs.make_compared_film import MakeComparedFilm
from lacertus.jobs.make_marked_clip import MakeMarkedClip
from lacertus.jobs.read_clip import ReadClip
from lacertus.jobs.run import Job, run
from lacertus.jobs.track_points import TrackPoints
from lacertus.settings import settings
from lacertus.store import connecting

RETRIES = 2
_ALL: tuple[Job[Any, Any], ...] = (ReadClip(), DrawStill(), DrawExample(), MakeMarkedClip(), MakeComparedFilm(), TrackPoints())
JOBS = {job.task: job for job in _ALL}


@cache
def worker_app() -> procrastinate.App:
    """The queue as a worker sees it, with its tasks."""
    app = procrastinate.App(
        connector=procrastinate.PsycopgConnector(conninfo=settings().database_url, kwargs=connecting.arguments())
    )
    for task, work in WORK.items():
        app.task(name=task, retry=RETRIES)(work)
    return app


def read_clip(clip: str) -> None:
    run(JOBS[ReadClip.task], clip)


def draw_still(correction: str) -> None:
    run(JOBS[DrawStill.task], correction)


def draw_example(correction: str) -> None:
    run(JOBS[DrawExample.task], correction)


def make_marked_clip(review: str) -> None:
    run(JOBS[MakeMarkedClip.task], review)


def make_compared_film(film: str) -> None:
    run(JOBS[MakeComparedFilm.task], film)


def track_points(rep: str, first: int, last: int) -> None:
    run(JOBS[TrackPoints.task], rep, first=first, last=last)


WORK: dict[str, Callable[..., None]] = {
    ReadClip.task: read_clip,
    DrawStill.task: draw_still,
    DrawExample.task: draw_example,
    MakeMarkedClip.task: make_marked_clip,
    MakeComparedFilm.task: make_compared_film,
    TrackPoints.task: track_points,
}
"""What the queue calls: its arguments have names, which stand in the rows of jobs that wait."""
