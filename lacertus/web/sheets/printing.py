"""A sheet as PDF: made once however many ask for it, while nobody else waits."""

from __future__ import annotations

import asyncio
from collections.abc import Callable

from starlette.concurrency import run_in_threadpool

from lacertus.services.errors import Busy
from lacertus.services.sheets import rendering
from lacertus.services.sheets.rendering import Paper
from lacertus.web.session import Db, transaction

MOST_WAITING = 40
_under_way: dict[str, asyncio.Task[bytes]] = {}


async def pdf(found: Callable[[Db], Paper]) -> bytes:
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


def _look_up(found: Callable[[Db], Paper]) -> tuple[Paper, bytes | None]:
    with transaction() as db:
        paper = found(db)
    return paper, rendering.kept(paper)


async def _made(paper: Paper) -> bytes:
    made = await asyncio.wrap_future(rendering.printing(paper))
    await run_in_threadpool(rendering.keep, paper, made)
    return made
