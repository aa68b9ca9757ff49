"""Every job ends in a reason that a person can act on, also when its worker was killed three times."""

from __future__ import annotations

import asyncio
import uuid
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
import sqlalchemy as sa
from sqlalchemy.orm import Session

from lacertus.core.errors import LacertusError
from lacertus.jobs import queue, worker
from lacertus.jobs.run import Job, Stopped, run
from lacertus.jobs.tasks import JOBS
from lacertus.services.corrections import examples, marked_clip
from lacertus.store.tables import Clip, Correction, RepRow, Review
from tests import watch
from tests.halls import Hall, taken_in
from tests.services.corrections.test_corrections import usual

Begun = tuple[dict[str, str | int], Callable[[], str | None]]
"""A job's arguments, and what is told of how it ended."""


class Begin:
    """Work that was asked for, as it stands while a worker is at it."""

    def __init__(self, db: Session, where: Hall, clips: dict[str, Path], folder: Path) -> None:
        self.db, self.where, self.clips, self.folder = db, where, clips, folder

    def read_clip(self, rep: uuid.UUID) -> Begun:
        clip = taken_in(self.db, self.where, self.clips["variable"], self.folder, queued=False)
        self.db.get_one(Clip, clip).state = "reading"
        return {"clip": str(clip)}, lambda: self.db.get_one(Clip, clip, populate_existing=True).failure

    def draw_still(self, rep: uuid.UUID) -> Begun:
        one = usual(self.db, self.where, rep).id
        return {"correction": str(one)}, lambda: self.db.get_one(Correction, one, populate_existing=True).still_failed

    def draw_beside(self, rep: uuid.UUID) -> Begun:
        one = usual(self.db, self.where, rep).id
        examples.put_beside(self.db, self.where.academy, one, "reference")

        def reason() -> str | None:
            return (self.db.get_one(Correction, one, populate_existing=True).beside or {}).get("failed")

        return {"correction": str(one)}, reason

    def make_marked(self, rep: uuid.UUID) -> Begun:
        usual(self.db, self.where, rep)
        review = self.db.get_one(RepRow, rep).review_id
        marked_clip.ask(self.db, self.where.academy, review)
        return {"review": str(review)}, lambda: (self.db.get_one(Review, review, populate_existing=True).marked or {}).get("reason")

    def carry_points(self, rep: uuid.UUID) -> Begun:
        with watch.paused():
            self.db.execute(sa.update(RepRow).where(RepRow.id == rep).values(carrying={"state": "carrying", "done": 3, "of": 9}))
        found: dict[str, str | int] = {"rep": str(rep), "first": 0, "last": 9}
        return found, lambda: (self.db.get_one(RepRow, rep, populate_existing=True).carrying or {}).get("reason")


def test_every_job_of_the_queue_is_known() -> None:
    known = {queue.READ_CLIP, queue.DRAW_STILL, queue.CARRY, queue.DRAW_BESIDE, queue.MAKE_MARKED}
    assert set(JOBS) == known
    assert all(hasattr(Begin, task) for task in known)


@pytest.mark.parametrize("task", JOBS)
def test_after_three_dead_workers_it_ends_with_a_reason(
    db: Session, where: Hall, rep: uuid.UUID, clips: dict[str, Path], tmp_path: Path, task: str
) -> None:
    arguments, reason = getattr(Begin(db, where, clips, tmp_path), task)(rep)
    db.execute(sa.text("delete from procrastinate_jobs"))
    queue.ask(db, task, **arguments)
    dead = {"at": datetime.now(UTC) - timedelta(minutes=5)}
    db.execute(sa.text("insert into procrastinate_workers (last_heartbeat) values (:at)"), dead)
    newest = "(select max(id) from procrastinate_workers)"
    db.execute(sa.text(f"update procrastinate_jobs set status = 'doing', attempts = 2, worker_id = {newest}"))
    db.commit()
    assert reason() is None
    db.rollback()

    async def take_up() -> None:
        async with worker.worker_app().open_async():
            await worker.take_up_stalled()

    asyncio.run(take_up())
    told = reason()
    assert told is not None
    assert "broke off 3 times because the worker ended" in told
    assert told.endswith(JOBS[task].next_step)
    assert db.scalar(sa.text("select count(*) from procrastinate_jobs")) == 0


class Sum(Job[int, int]):
    """A job of the tests' own."""

    task, about, what, next_step = "sum", "it", "Adding up", "Add again."

    def __init__(self, work: Callable[[], int]) -> None:
        self._work, self.ended = work, ""

    def load(self, db: Session, about: uuid.UUID, **more: int) -> int | None:
        return more.get("wanted")

    def work(self, about: uuid.UUID, wanted: int) -> int:
        return self._work() + wanted

    def done(self, db: Session, about: uuid.UUID, made: int) -> None:
        self.ended = f"done {made}"

    def failed(self, db: Session, about: uuid.UUID, reason: str) -> None:
        self.ended = reason

    def stopped(self, db: Session, about: uuid.UUID) -> None:
        self.ended = "stopped"


def raising(error: Exception) -> Callable[[], int]:
    def work() -> int:
        raise error

    return work


@pytest.mark.parametrize(
    ("work", "ended"),
    [
        (lambda: 3, "done 5"),
        (raising(Stopped()), "stopped"),
        (raising(LacertusError("Too long. Cut it.")), "Too long. Cut it."),
        (raising(OSError(28, "No space")), "Adding up broke off for a reason that lies with the server (OSError). Add again."),
    ],
    ids=["done", "stopped", "refused", "our fault"],
)
def test_the_shell_notes_how_it_ended(db: Session, work: Callable[[], int], ended: str) -> None:
    job = Sum(work)
    run(job, str(uuid.uuid4()), wanted=2)
    assert job.ended == ended


def test_what_nobody_wants_any_more_is_not_done(db: Session) -> None:
    job = Sum(raising(AssertionError("nobody asked")))
    run(job, str(uuid.uuid4()))
    assert job.ended == ""
