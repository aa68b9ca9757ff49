"""A sheet as PDF: made once however many ask for it, while nobody else waits."""

from __future__ import annotations

import asyncio
from collections.abc import Callable

from sqlalchemy.orm import Session
from starlette.concurrency import run_in_threadpool

from lacertus.core.sheets.sheet import Sheet
from lacertus.services.errors import Busy
from lacertus.services.sheets import rendering
from lacertus.services.sheets.rendering import Paper
from lacertus.store import database
from lacertus.store.tables import Review

MOST_WAITING = 40
_under_way: dict[str, asyncio.Task[bytes]] = {}


async def pdf(found: Callable[[Session], tuple[Review, Sheet]]) -> bytes:
    """The PDF of the sheet that `found` looks up, in a session that is closed before the wait begins.

    Raises:
        Busy: too many different sheets are being made.
    """
    paper, there = await run_in_threadpool(_look_up, found)
    if there is not None:
        return there
    task = _under_way.get(paper.key)
    if task is None:
        if len(_under_way) >= MOST_WAITING:
            raise Busy("Many sheets are being made right now; try again in a few seconds.")
        task = _under_way[paper.key] = asyncio.create_task(_made(paper))
        task.add_done_callback(lambda _: _under_way.pop(paper.key, None))
    # Whoever goes away leaves the others their sheet.
    return await asyncio.shield(task)


def _look_up(found: Callable[[Session], tuple[Review, Sheet]]) -> tuple[Paper, bytes | None]:
    with database.session() as db:
        paper = rendering.paper_of(*found(db))
    return paper, rendering.kept(paper)


async def _made(paper: Paper) -> bytes:
    made = await asyncio.wrap_future(rendering.printing(paper))
    await run_in_threadpool(rendering.keep, paper, made)
    return made
