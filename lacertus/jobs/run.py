"""One shell for every job: load what is wanted, work, note how it ended. None is left standing.

A job ends as done, as stopped by whoever asked for it, or with a reason that a person can act on: also when the work broke off for
a reason that lies with the server, and when its worker was killed again and again.
"""

from __future__ import annotations

import time
import uuid
from abc import ABC, abstractmethod
from collections.abc import Callable
from typing import ClassVar, Generic, TypeVar

import structlog
from sqlalchemy.orm import Session

from lacertus.core.errors import LacertusError
from lacertus.store.database import session

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
    def work(self, about: uuid.UUID, wanted: Wanted) -> Made:
        """The work itself, outside of any transaction; raises Stopped where it was stopped meanwhile."""

    @abstractmethod
    def done(self, db: Session, about: uuid.UUID, made: Made) -> None:
        """Note what was made."""

    @abstractmethod
    def failed(self, db: Session, about: uuid.UUID, reason: str) -> None:
        """Note why it was not."""

    def stopped(self, db: Session, about: uuid.UUID) -> None:
        """Note that it was stopped; whoever stopped it has noted it already unless said otherwise."""

    def broke_off(self, what: str) -> str:
        """Why it ended, for a reason that lies with the server."""
        return f"{self.what} broke off for a reason that lies with the server ({what}). {self.next_step}"

    def given_up(self) -> str:
        """Why it ended, after its workers were killed."""
        return f"{self.what} broke off {MOST_ATTEMPTS} times because the worker ended. {self.next_step}"


def run(job: Job[Wanted, Made], about: str, **more: int) -> None:
    """Do a job. Without a database nothing can be noted: the queue tries it again then."""
    row = uuid.UUID(about)
    with session() as db:
        wanted = job.load(db, row, **more)
    if wanted is None:
        return
    try:
        made = job.work(row, wanted)
    except Stopped:
        with session() as db:
            job.stopped(db, row)
        log.info("job stopped", task=job.task, about=about)
    except LacertusError as error:
        _failed(job, row, str(error))
    except Exception as error:
        # A fault of ours, or a full disk: told at once rather than tried for ever.
        log.exception("job broke off", task=job.task, about=about)
        _failed(job, row, job.broke_off(type(error).__name__))
    else:
        with session() as db:
            job.done(db, row, made)
        log.info("job done", task=job.task, about=about)


def give_up(job: Job[Wanted, Made], about: str) -> None:
    """End a job whose workers were killed."""
    log.warning("job given up", task=job.task, about=about)
    _failed(job, uuid.UUID(about), job.given_up())


def _failed(job: Job[Wanted, Made], row: uuid.UUID, reason: str) -> None:
    with session() as db:
        job.failed(db, row, reason)
    log.info("job failed", task=job.task, about=str(row), reason=reason)


class Progress:
    """Notes how far a job is, a few times a second, and stops it when what notes it says so."""

    def __init__(self, note: Callable[[Session, int, int | None], bool | None]) -> None:
        self._note = note
        self._next = 0.0

    def __call__(self, done: int, of: int | None) -> None:
        if time.monotonic() < self._next:
            return
        self._next = time.monotonic() + PROGRESS_EVERY_S
        with session() as db:
            if self._note(db, done, of):
                raise Stopped()
