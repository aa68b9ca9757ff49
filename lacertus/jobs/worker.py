"""Running a worker, and taking up what another one left when it died."""

from __future__ import annotations

import asyncio
import os
import sys
import time
from asyncio.subprocess import DEVNULL, PIPE
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import asdict
from datetime import UTC, date, datetime
from logging import ERROR, INFO

import structlog
from procrastinate.exceptions import ConnectorException
from procrastinate.jobs import Job, Status
from sqlalchemy import text
from sqlalchemy.orm import Session

from lacertus.confined.probe import probe
from lacertus.core.errors import LacertusError
from lacertus.jobs import scratch
from lacertus.jobs.run import MOST_ATTEMPTS, give_up, lost
from lacertus.jobs.tasks import JOBS, worker_app
from lacertus.services import site
from lacertus.services.clips import intake, uploads
from lacertus.services.eye import filming, real
from lacertus.services.students import retention
from lacertus.settings import settings
from lacertus.store import queue
from lacertus.store.database import DatabaseAway, session
from lacertus.store.queue import READ_CLIP

log = structlog.get_logger()

HEARTBEAT_S = 3.0
DEAD_AFTER_S = 12.0
"""A worker that has not been heard of for so long is taken for dead."""
LOOK_EVERY_S = 4.0
ROUNDS_AN_HOUR = int(3600 / LOOK_EVERY_S)
FAILED_KEPT_HOURS = 14 * 24
ASK_EVERY_S = 60.0
IDLE_LOOK_S = 5.0
TRY_AGAIN_S = 3600.0
PATIENCE_S = 60.0
"""So long a worker that starts waits for the database."""
LOST_AFTER_S = 60.0
"""Work that was asked for so long ago and that the queue does not hold is lost."""


def run_worker() -> None:
    """Work on jobs until ended, one at a time: reading a clip keeps all cores busy."""
    # A film is read a little later, so that a mark is answered now by the server on the same machine.
    with suppress(OSError):
        os.nice(settings().worker_nice)
    scratch.clear_abandoned()
    with _once_there() as db:
        swept = intake.sweep(db)
    if swept:
        log.info("orphans deleted", clips=swept)
    _note_confinement()
    asyncio.run(_work())


@contextmanager
def _once_there() -> Iterator[Session]:
    """A session with the database, which is waited for: one that is being started again should not end a worker that starts too.

    Raises:
        DatabaseAway: it has not answered for `PATIENCE_S`; what looks after services is to say so then.
    """
    end = time.monotonic() + PATIENCE_S
    while True:
        try:
            with session() as db:
                db.execute(text("select 1"))
                break
        except DatabaseAway:
            if time.monotonic() > end:
                raise
            log.warning("the database does not answer yet; waiting for it")
            time.sleep(1.0)
    with session() as db:
        yield db


def _note_confinement() -> None:
    """Find out how the readers of this machine are held, so that health can tell."""
    try:
        held = probe()
    except (LacertusError, OSError) as error:
        log.warning("confinement not found out", error=str(error))
        return
    with session() as db:
        site.note_readers(db, held)
    log.info("readers are confined", **asdict(held))


async def _work() -> None:
    app = worker_app()
    async with app.open_async():
        beside = [asyncio.create_task(work()) for work in (_look_after, back_up_nightly, film_while_idle)]
        try:
            await app.run_worker_async(
                concurrency=1,
                delete_jobs="successful",
                fetch_job_polling_interval=1.0,
                update_heartbeat_interval=HEARTBEAT_S,
                stalled_worker_timeout=DEAD_AFTER_S,
            )
        finally:
            for task in beside:
                task.cancel()
            await asyncio.gather(*beside, return_exceptions=True)


async def _look_after() -> None:
    """Every few seconds: jobs of dead workers, and clips that no job reads; every hour what is kept no longer."""
    rounds = 0
    while True:
        try:
            await take_up_stalled()
            await asyncio.to_thread(give_jobs)
            await asyncio.to_thread(end_lost)
            if rounds % ROUNDS_AN_HOUR == 0:
                await clear_old()
            rounds += 1
        except Exception as error:  # noqa: BLE001 (the worker itself goes on whatever it is, and says so)
            # A database that is away for a moment must not end the looking.
            log.warning("could not look after other workers' jobs", error=repr(error))
        await asyncio.sleep(LOOK_EVERY_S)


async def back_up_nightly() -> None:
    """Every day from the hour of the settings on: a backup, where a folder is set. One that failed is tried again in an hour."""
    done_on: date | None = None
    while True:
        now = datetime.now(UTC)
        wait = ASK_EVERY_S
        if settings().backup_dir and now.hour >= settings().backup_hour and done_on != now.date():
            if await back_up():
                done_on = now.date()
            else:
                wait = TRY_AGAIN_S
        await asyncio.sleep(wait)


async def back_up() -> bool:
    """Write today's backup in a process of its own; False where it failed, which is in the log."""
    command = (sys.executable, "-m", "lacertus.cli", "backup", "--nightly")
    try:
        process = await asyncio.create_subprocess_exec(*command, stdin=DEVNULL, stdout=DEVNULL, stderr=PIPE)
    except OSError as error:
        log.error("backup", said=f"no process could be started for it ({error.strerror})")
        return False
    try:
        _, told = await process.communicate()
    except asyncio.CancelledError:
        process.kill()
        raise
    last = told.decode(errors="replace").strip().splitlines()[-1:]
    log.log(INFO if process.returncode == 0 else ERROR, "backup", code=process.returncode, said=" ".join(last))
    return process.returncode == 0


async def film_while_idle() -> None:
    """Make films to train the eye on, one at a time, as long as no work waits or runs."""
    most = settings().eye_films
    while most:
        made = False
        try:
            made = await asyncio.to_thread(film_if_idle, most)
        except Exception as error:  # noqa: BLE001 (the worker itself goes on whatever it is, and says so)
            log.warning("could not make a film for the eye", error=repr(error))
        await asyncio.sleep(0.0 if made else IDLE_LOOK_S)


def film_if_idle(most: int) -> bool:
    """Make the next film where the queue is empty; False where there was nothing to do, or other work waits or runs."""
    busy = text(
        "select exists (select from procrastinate_jobs where status = 'doing' or (status = 'todo' and scheduled_at is null))"
    )
    with session() as db:
        return not db.scalar(busy) and (real.take_in(db) or filming.film_next(db, most))


async def clear_old() -> None:
    """Delete what is kept no longer: rows of failed jobs, and uploads that nobody went on with."""
    await worker_app().job_manager.delete_old_jobs(nb_hours=FAILED_KEPT_HOURS, include_failed=True, include_cancelled=True)
    await asyncio.to_thread(_sweep_uploads)
    await asyncio.to_thread(_delete_films)


def _sweep_uploads() -> None:
    with session() as db:
        gone = uploads.sweep(db)
    if gone:
        log.info("uploads deleted that nobody went on with", uploads=gone)


def _delete_films() -> None:
    with session() as db:
        gone = retention.run(db)
    if gone:
        log.info("films deleted after the academy's time", clips=gone)


async def take_up_stalled() -> None:
    """Put the jobs of dead workers back into the queue; after several times, end them with a reason."""
    manager = worker_app().job_manager
    for job in await manager.get_stalled_jobs(seconds_since_heartbeat=DEAD_AFTER_S):
        try:
            if job.attempts + 1 < MOST_ATTEMPTS:
                await manager.retry_job(job)
                log.info("job taken up", job=job.id, task=job.task_name, attempts=job.attempts + 1)
            else:
                await asyncio.to_thread(_give_up, job)
                await manager.finish_job(job, status=Status.FAILED, delete_job=True)
        except ConnectorException:
            # Another worker that looks after them was quicker.
            log.info("job taken up elsewhere", job=job.id, task=job.task_name)
    await asyncio.to_thread(scratch.clear_abandoned)


def _give_up(job: Job) -> None:
    known = JOBS.get(job.task_name)
    if known is not None:
        give_up(known, str(job.task_kwargs[known.about]))


def give_jobs() -> None:
    """Hand in a job for every clip that waits without one: its server ended between keeping the clip and asking."""
    with session() as db:
        wanted = intake.unread(db)
        asked = text("select args->>'clip' from procrastinate_jobs where task_name = :task and status in ('todo', 'doing')")
        have = set(db.scalars(asked, {"task": READ_CLIP}))
        for clip_id in wanted:
            if str(clip_id) not in have:
                queue.ask(db, READ_CLIP, clip_id, clip_id)
                log.info("job handed in for a clip without one", clip=str(clip_id))


def end_lost() -> None:
    """End what stands as waiting or running though the queue has given it up, as where nothing could be noted at its end."""
    with session() as db:
        found = queue.lost(db, LOST_AFTER_S)
    for task, about in found:
        if task in JOBS:
            lost(JOBS[task], about)
