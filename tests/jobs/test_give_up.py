"""Every job ends in a reason that a person can act on, also when its worker was killed three times."""

from __future__ import annotations

import asyncio
import time
import uuid
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
import sqlalchemy as sa
import structlog
from sqlalchemy.orm import Session

from lacertus.core.errors import LacertusError
from lacertus.jobs import tasks, worker
from lacertus.jobs.run import Job, Progress, Stopped, run
from lacertus.jobs.tasks import JOBS
from lacertus.services import jobs
from lacertus.services.compare import film
from lacertus.services.corrections import correct, examples, marked_clip
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.review import tracking
from lacertus.services.sheets import finish
from lacertus.store import queue
from lacertus.store.database import session
from lacertus.store.tables import Clip, RepRow
from tests.halls import Hall, taken_in


class Begin:
    """Work that was asked for, as it stands while a worker is at it; each gives what the work is about."""

    def __init__(self, db: Session, where: Hall, clips: dict[str, Path], folder: Path) -> None:
        self.db, self.where, self.clips, self.folder = db, where, clips, folder

    def read_clip(self, rep: uuid.UUID) -> uuid.UUID:
        clip = taken_in(self.db, self.where, self.clips["variable"], self.folder, queued=False)
        self.db.get_one(Clip, clip).state = "reading"
        return clip

    def draw_still(self, rep: uuid.UUID) -> uuid.UUID:
        # Not committed yet: a worker beside this test would do it.
        return correct.draw_default(self.db, self.where.academy, rep, "thigh_lifted", uuid.uuid4()).id

    def draw_example(self, rep: uuid.UUID) -> uuid.UUID:
        return examples.put_example(self.db, self.where.academy, self.draw_still(rep), "reference").id

    def make_marked_clip(self, rep: uuid.UUID) -> uuid.UUID:
        self.draw_still(rep)
        return marked_clip.ask(self.db, self.where.academy, self.db.get_one(RepRow, rep).review_id).id

    def make_compared_film(self, rep: uuid.UUID) -> uuid.UUID:
        finish.finish(self.db, self.where.academy, self.db.get_one(RepRow, rep).review_id)
        wish = film.FilmWish(sides=(f"rep.{rep}", "studio.right"), anchor="full_reach")
        return film.ask(self.db, self.where.academy, rep, wish, None).id

    def track_points(self, rep: uuid.UUID) -> uuid.UUID:
        found = self.db.get_one(RepRow, rep)
        tracking.ask(self.db, self.where.academy, rep, found.first_frame, found.last_frame)
        return rep


def test_every_job_of_the_queue_is_known() -> None:
    assert set(JOBS) == set(queue.ABOUT)
    assert all(job.about == queue.ABOUT[task] for task, job in JOBS.items())
    assert all(hasattr(Begin, task) for task in JOBS)


@pytest.mark.parametrize("task", JOBS)
def test_after_three_dead_workers_it_ends_with_a_reason(
    db: Session, where: Hall, rep: uuid.UUID, clips: dict[str, Path], tmp_path: Path, task: str
) -> None:
    about = getattr(Begin(db, where, clips, tmp_path), task)(rep)
    db.execute(sa.text("delete from procrastinate_jobs where task_name <> :task"), {"task": task})
    dead = {"at": datetime.now(UTC) - timedelta(minutes=5)}
    db.execute(sa.text("insert into procrastinate_workers (last_heartbeat) values (:at)"), dead)
    newest = "(select max(id) from procrastinate_workers)"
    db.execute(sa.text(f"update procrastinate_jobs set status = 'doing', attempts = 2, worker_id = {newest}"))
    db.commit()

    async def take_up() -> None:
        async with tasks.worker_app().open_async():
            await worker.take_up_stalled()

    asyncio.run(take_up())
    db.expire_all()
    job = queue.state_of(db, task, about)
    assert job is not None
    assert job.state == "failed"
    told = job.reason or ""
    assert "stopped 3 times because the worker ended" in told
    assert told.endswith(JOBS[task].next_step)
    assert db.scalar(sa.text("select count(*) from procrastinate_jobs")) == 0
    again = jobs.try_again(db, where.academy, job.id)
    assert (again.state, again.reason) == ("waiting", None)
    assert db.scalars(sa.text("select task_name from procrastinate_jobs")).all() == [task]
    stopped = jobs.stop(db, where.academy, job.id)
    assert stopped.state == "stopped"
    with pytest.raises(Conflict, match="ended already"):
        jobs.stop(db, where.academy, job.id)


class Sum(Job[int, int]):
    """A job of the tests' own, about a clip."""

    task, about, what, next_step = "sum", "it", "Adding up", "Add again."

    def __init__(self, work: Callable[[Progress], int]) -> None:
        self._work, self.ended = work, ""

    def load(self, db: Session, about: uuid.UUID, **more: int) -> int | None:
        return more.get("wanted")

    def work(self, about: uuid.UUID, wanted: int, progress: Progress) -> int:
        return self._work(progress) + wanted

    def done(self, db: Session, about: uuid.UUID, made: int) -> None:
        self.ended = f"done {made}"

    def failed(self, db: Session, about: uuid.UUID, reason: str) -> None:
        self.ended = reason

    def stopped(self, db: Session, about: uuid.UUID) -> None:
        self.ended = "stopped"


def raising(error: Exception) -> Callable[[Progress], int]:
    def work(_progress: Progress) -> int:
        raise error

    return work


def told(_progress: Progress) -> int:
    _progress(2, 9)
    return 3


@pytest.fixture
def asked(db: Session, where: Hall, clip: uuid.UUID, monkeypatch: pytest.MonkeyPatch) -> uuid.UUID:
    """A sum that was asked for, in a request with an id."""
    monkeypatch.setitem(queue.ABOUT, "sum", "it")
    with structlog.contextvars.bound_contextvars(request="request-7"):
        queue.ask(db, "sum", clip, clip)
    db.commit()
    return clip


@pytest.mark.parametrize(
    ("work", "ended", "state"),
    [
        (told, "done 5", "done"),
        (raising(Stopped()), "stopped", "stopped"),
        (raising(LacertusError("Too long. Cut it.")), "Too long. Cut it.", "failed"),
        (
            raising(OSError(28, "No space")),
            "Adding up failed because of an error on the server (OSError). Add again.",
            "failed",
        ),
    ],
    ids=["done", "stopped", "refused", "our fault"],
)
def test_the_shell_notes_how_it_ended(
    db: Session, asked: uuid.UUID, work: Callable[[Progress], int], ended: str, state: str
) -> None:
    job = Sum(work)
    with structlog.testing.capture_logs([structlog.contextvars.merge_contextvars]) as lines:
        run(job, str(asked), wanted=2)
    assert job.ended == ended
    row = queue.state_of(db, "sum", asked)
    assert row is not None
    assert (row.state, row.reason) == (state, ended if state == "failed" else None)
    assert row.ended_at is not None
    assert (row.done, row.of) == ((2, 9) if state == "done" else (0, None))
    assert lines
    assert {line["request"] for line in lines} == {"request-7"}


@pytest.mark.parametrize("step", ["load", "done"])
def test_what_fails_before_or_after_the_work_ends_it_too(
    db: Session, asked: uuid.UUID, monkeypatch: pytest.MonkeyPatch, step: str
) -> None:
    def broken(*_given: object, **_more: object) -> None:
        raise ValueError(step)

    monkeypatch.setattr(Sum, step, broken)
    run(Sum(told), str(asked), wanted=2)
    row = queue.state_of(db, "sum", asked)
    assert row is not None
    assert (row.state, row.reason) == ("failed", "Adding up failed because of an error on the server (ValueError). Add again.")


@pytest.mark.parametrize("task", JOBS)
def test_what_the_queue_gave_up_ends_with_a_reason(
    db: Session, where: Hall, rep: uuid.UUID, clips: dict[str, Path], tmp_path: Path, task: str
) -> None:
    """As where the database failed each time that the end was to be noted."""
    about = getattr(Begin(db, where, clips, tmp_path), task)(rep)
    long_ago = datetime.now(UTC) - timedelta(minutes=5)
    db.execute(sa.text("update job set state = 'running', asked_at = :at where task = :task"), {"at": long_ago, "task": task})
    db.commit()
    worker.end_lost()
    db.expire_all()
    assert queue.runs(db, task, about), "the queue still holds it"
    db.execute(sa.text("update procrastinate_jobs set status = 'failed'"))
    db.commit()
    worker.end_lost()
    db.expire_all()
    job = queue.state_of(db, task, about)
    assert job is not None
    assert job.state == "failed"
    assert job.reason == f"{JOBS[task].broke_off('its result could not be saved')}"


def test_what_nobody_wants_any_more_is_not_done(db: Session, asked: uuid.UUID) -> None:
    job = Sum(raising(AssertionError("nobody asked")))
    run(job, str(asked))
    assert job.ended == ""


def test_what_was_stopped_while_it_waited_is_not_begun(db: Session, where: Hall, asked: uuid.UUID) -> None:
    found = next(one.job for one in jobs.listing(db, where.academy) if (one.job.task, one.clip) == ("sum", "constant.mp4"))
    jobs.stop(db, where.academy, found.id)
    db.commit()
    job = Sum(raising(AssertionError("it was stopped")))
    run(job, str(asked), wanted=2)
    assert job.ended == ""
    with pytest.raises(NotFound, match="no such job"):
        jobs.stop(db, uuid.uuid4(), found.id)


def test_a_stop_in_the_middle_ends_it(db: Session, where: Hall, asked: uuid.UUID) -> None:
    def work(progress: Progress) -> int:
        with session() as other:
            found = next(one.job for one in jobs.listing(other, where.academy) if one.job.task == "sum")
            jobs.stop(other, where.academy, found.id)
        progress(1, 2)
        raise AssertionError("it should have stopped")

    job = Sum(work)
    run(job, str(asked), wanted=2)
    assert job.ended == "stopped"


def test_what_is_asked_anew_in_the_middle_is_done_again(db: Session, asked: uuid.UUID) -> None:
    """A correction is moved while its picture is drawn: the picture of the new place is drawn after it."""

    def work(_progress: Progress) -> int:
        with session() as other:
            queue.ask(other, "sum", asked, asked)
        return 1

    run(Sum(work), str(asked), wanted=1)
    again = Sum(lambda _progress: 1)
    run(again, str(asked), wanted=1)
    assert again.ended == "done 2"


def test_progress_and_an_end_at_the_same_moment_do_not_deadlock(
    db: Session, where: Hall, clips: dict[str, Path], tmp_path: Path
) -> None:
    clip = taken_in(db, where, clips["variable"], tmp_path, queued=False)
    with ThreadPoolExecutor(1) as pool, session() as ending:
        JOBS["read_clip"].failed(ending, clip, "it broke off")
        ending.flush()
        noted = pool.submit(Progress(JOBS["read_clip"], clip), 1, 10)
        waits = sa.text("select exists (select from pg_locks where not granted)")
        for _ in range(200):
            if db.scalar(waits):
                break
            db.rollback()
            time.sleep(0.02)
        assert db.scalar(waits)
        queue.end(ending, "read_clip", clip, "failed", "it broke off")
        ending.commit()
        noted.result(timeout=10)
    db.expire_all()
    assert db.get_one(Clip, clip).state == "failed"


ENDS = ("job done", "job failed", "job taken over by another worker")


class Named(Sum):
    """Adding up that is noted in the database."""

    def __init__(self, work: Callable[[Progress], int], name: str) -> None:
        super().__init__(work)
        self.name = name

    def done(self, db: Session, about: uuid.UUID, made: int) -> None:
        db.execute(sa.update(Clip).where(Clip.id == about).values(folder=f"{db.get_one(Clip, about).folder}{self.name} "))

    def failed(self, db: Session, about: uuid.UUID, reason: str) -> None:
        self.done(db, about, 0)


@pytest.mark.parametrize("after", ["done", "told", "failed"])
def test_what_another_worker_took_over_is_done_once(db: Session, asked: uuid.UUID, after: str) -> None:
    """A worker that was taken for dead comes back, as after a machine slept: what it makes of it is not kept."""
    second = Named(lambda _progress: 2, "second")

    def slept(progress: Progress) -> int:
        run(second, str(asked), wanted=1)
        if after == "told":
            progress(1, 2)
            raise AssertionError("it should have noticed")
        if after == "failed":
            raise OSError(28, "No space")
        return 1

    with structlog.testing.capture_logs() as lines:
        run(Named(slept, "first"), str(asked), wanted=1)
    assert [line["event"] for line in lines if line["event"] in ENDS] == ["job done", "job taken over by another worker"]
    db.expire_all()
    assert db.get_one(Clip, asked).folder == "second "
    row = queue.state_of(db, "sum", asked)
    assert row is not None and row.state == "done"
