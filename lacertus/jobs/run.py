"""One shell for every job: load what is wanted, work, note how far it is and how it ended. None is left standing.

A job ends as done, as stopped by whoever asked for it, or with a reason that a person can act on: also when the server failed
at it, and when its worker was killed again and again.
"""

from __future__ import annotations

import time
import uuid
from abc import ABC, abstractmethod
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from typing import Any, ClassVar, Generic, TypeVar

import structlog
from sqlalchemy.orm import Session

from lacertus.core.errors import LacertusError
from lacertus.store import apart, queue
from lacertus.store.database import DatabaseError, session
from lacertus.store.queue import Started, TakenOver

log = structlog.get_logger()
PROGRESS_EVERY_S = 0.25
MOST_ATTEMPTS = 3

Wanted = TypeVar("Wanted")
Made = TypeVar("Made")


class Stopped(LacertusError):
    """The work was stopped. What it began from is kept."""


class Job(ABC, Generic[Wanted, Made]):
    """A kind of work. `about` names the row that it is about: a clip, a correction, a review, a rep."""

    task: ClassVar[str]
    """Its name in the queue."""
    about: ClassVar[str]
    """The argument that names the row."""
    what: ClassVar[str]
    """What it does, for the reason why it ended: “Reading this clip”."""
    next_step: ClassVar[str]
    """What to do when it broke off, in a sentence."""

    @abstractmethod
    def load(self, db: Session, about: uuid.UUID, **more: int) -> Wanted | None:
        """What is wanted; None where nobody wants it any more."""

    @abstractmethod
    def work(self, about: uuid.UUID, wanted: Wanted, progress: Progress) -> Made:
        """The work itself, outside of any transaction. It calls `progress` now and then, which raises Stopped where it was
        stopped meanwhile."""

    @abstractmethod
    def done(self, db: Session, about: uuid.UUID, made: Made) -> None:
        """Note what was made."""

    def noted(self, db: Session, about: uuid.UUID, done: int, of: int | None) -> bool:
        """Note how far it is, where more is told of it than its row in the table of jobs tells; True where it should stop."""
        return False

    def failed(self, db: Session, about: uuid.UUID, reason: str) -> None:
        """Note why it failed, where more is told of it than its row in the table of jobs tells."""

    def stopped(self, db: Session, about: uuid.UUID) -> None:
        """Note that it was stopped, as for `failed`."""

    def broke_off(self, what: str) -> str:
        """Why it ended, for a reason that lies with the server."""
        return f"{self.what} failed because of an error on the server ({what}). {self.next_step}"

    def given_up(self) -> str:
        """Why it ended, after its workers were killed."""
        return f"{self.what} stopped {MOST_ATTEMPTS} times because the worker ended. {self.next_step}"


def run(job: Job[Wanted, Made], about: str, **more: int) -> None:
    """Do a job. Where the database fails nothing can be noted: the queue tries it again then."""
    row = uuid.UUID(about)
    with session() as db:
        asked = queue.start(db, job.task, row)
    if asked is None:
        return
    with structlog.contextvars.bound_contextvars(request=asked.request, task=job.task, about=about):
        try:
            _do_to_its_end(job, row, asked, more)
        except DatabaseError:
            # The queue tries it again; where that fails too, the worker that looks after jobs ends it (`lost`).
            raise
        except TakenOver:
            log.warning("job taken over by another worker")


def _do_to_its_end(job: Job[Wanted, Made], row: uuid.UUID, asked: Started, more: Mapping[str, int]) -> None:
    """Do it, and note how it ended where it did not come to its end."""
    try:
        _do(job, row, asked, more)
    except (DatabaseError, TakenOver):
        raise
    except Stopped:
        with session() as db:
            job.stopped(db, row)
            queue.check_held(db, job.task, row, asked)
            queue.end(db, job.task, row, "stopped", asked_at=asked.asked_at)
        log.info("job stopped")
    except LacertusError as error:
        _failed(job, row, str(error), type(error).__name__, asked)
    except Exception as error:
        # A fault of ours, or a full disk: told at once rather than tried for ever.
        log.exception("job failed by a fault of ours")
        _failed(job, row, job.broke_off(type(error).__name__), type(error).__name__, asked)


def _do(job: Job[Wanted, Made], row: uuid.UUID, asked: Started, more: Mapping[str, int]) -> None:
    """Load, work and note what was made: whatever any of the three raises ends the job. It sees its academy's rows alone."""
    with _session_for(asked) as db:
        wanted = job.load(db, row, **more)
        if wanted is None:
            queue.end(db, job.task, row, "stopped", asked_at=asked.asked_at)
            return
    made = job.work(row, wanted, Progress(job, row, asked))
    with _session_for(asked) as db:
        job.done(db, row, made)
        # After what it is about, as everywhere; what was noted above is taken back where another worker has ended it.
        queue.check_held(db, job.task, row, asked)
        queue.end(db, job.task, row, "done", asked_at=asked.asked_at)
    log.info("job done")


@contextmanager
def _session_for(asked: Started) -> Iterator[Session]:
    with session() as db:
        if asked.academy is not None:
            apart.work_for(db, asked.academy)
        yield db


def give_up(job: Job[Wanted, Made], about: str) -> None:
    """End a job whose workers were killed."""
    with structlog.contextvars.bound_contextvars(task=job.task, about=about):
        log.warning("job given up")
        _failed(job, uuid.UUID(about), job.given_up(), "given up")


def lost(job: Job[Wanted, Made], about: uuid.UUID) -> None:
    """End a job that the queue does not hold any more, though nobody noted how it ended."""
    with structlog.contextvars.bound_contextvars(task=job.task, about=str(about)):
        log.warning("job lost")
        _failed(job, about, job.broke_off("its result could not be saved"), "lost")


def _failed(job: Job[Wanted, Made], row: uuid.UUID, reason: str, kind: str, asked: Started | None = None) -> None:
    """End a job with a reason for people. The log has its kind alone: a reason may hold a file's name, and that a student's."""
    with session() as db:
        job.failed(db, row, reason)
        if asked is not None:
            queue.check_held(db, job.task, row, asked)
        queue.end(db, job.task, row, "failed", reason, asked.asked_at if asked is not None else None)
    log.info("job failed", kind=kind)


class Progress:
    """Notes how far a job is, a few times a second, and stops it when somebody asked for that."""

    def __init__(self, job: Job[Any, Any], about: uuid.UUID, asked: Started | None = None) -> None:
        self._job, self._about, self._asked = job, about, asked
        self._next = 0.0

    def __call__(self, done: int, of: int | None) -> None:
        if time.monotonic() < self._next:
            return
        self._next = time.monotonic() + PROGRESS_EVERY_S
        with session() as db:
            # First what the job is about, then its row, as wherever a job ends or is stopped: two that meet do not deadlock.
            stopped = self._job.noted(db, self._about, done, of)
            if self._asked is not None:
                queue.check_held(db, self._job.task, self._about, self._asked)
            if queue.note(db, self._job.task, self._about, done, of) or stopped:
                raise Stopped()
