"""Health for everybody, figures for whoever has the token."""

from __future__ import annotations

import secrets
from typing import Annotated

from fastapi import APIRouter, Header, Response
from prometheus_client import CONTENT_TYPE_LATEST

from lacertus.services import watching
from lacertus.services.errors import NotFound
from lacertus.services.watching import Standing
from lacertus.settings import settings
from lacertus.web.schemas import HealthOut, QueueOut, ReaderOut
from lacertus.web.watching import metrics

router = APIRouter()
figures = APIRouter(include_in_schema=False)


@router.get("/health", tags=["health"])
def health(response: Response) -> HealthOut:
    """How the site is: answered with 503 where database or storage do not answer. Tells also what holds the processes that read
    what strangers send."""
    now = watching.look()
    if not (now.database and now.storage):
        response.status_code = 503
    return HealthOut(
        ok=now.database and now.storage,
        database="ok" if now.database else "away",
        storage="ok" if now.storage else "away",
        free_bytes=now.free_bytes,
        queue=None if now.queue is None else _queue(now.queue),
        reader=None if now.reader is None else ReaderOut.model_validate(now.reader),
    )


def _queue(standing: Standing) -> QueueOut:
    counted = {
        name: sum(count for (_, state), count in standing.counts.items() if state == name) for name in ("waiting", "running")
    }
    return QueueOut(**counted, oldest_s=round(standing.oldest_s, 1), workers=standing.workers)


@figures.get("/metrics")
def read_metrics(authorization: Annotated[str, Header()] = "") -> Response:
    """Figures for Prometheus. Without a token in the settings there are none for anybody.

    Raises:
        NotFound: the token is another one, or there is none.
    """
    wanted = settings().metrics_token
    if not wanted or not secrets.compare_digest(authorization.encode(), f"Bearer {wanted}".encode()):
        raise NotFound("There is nothing here.")
    return Response(metrics.told(), media_type=CONTENT_TYPE_LATEST)
