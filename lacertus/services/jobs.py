"""The academy's jobs: what runs, what failed, stopping one, and trying one again."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from lacertus.services.clips import intake
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.people.rights import Right, needs
from lacertus.store import queue
from lacertus.store.queue import READ_CLIP, RUNNING
from lacertus.store.tables import Clip, JobRow

SHOWN = timedelta(days=3)
"""For so long it is told that one failed."""
MOST_SHOWN = 100


@dataclass(frozen=True, kw_only=True)
class ListedJob:
    """A job with its clip's name, and how many wait before it, where it waits."""

    job: JobRow
    clip: str
    ahead: int | None


def listing(db: Session, academy: uuid.UUID) -> list[ListedJob]:
    """Jobs that wait or run, and those that failed lately, the newest first."""
    lately = datetime.now(UTC) - SHOWN
    told = or_(JobRow.state.in_(RUNNING), (JobRow.state == "failed") & (JobRow.ended_at > lately))
    rows = select(JobRow, Clip.name).join(Clip, Clip.id == JobRow.clip_id).where(JobRow.academy_id == academy, told)
    found = db.execute(rows.order_by(JobRow.asked_at.desc()).limit(MOST_SHOWN)).all()
    ahead = queue.ahead(db, [job for job, _ in found])
    return [ListedJob(job=job, clip=name, ahead=ahead.get(job.id)) for job, name in found]


@needs(Right.NAME_CLIPS)
def stop(db: Session, academy: uuid.UUID, job_id: uuid.UUID) -> JobRow:
    """Stop a job: one that waits ends at once, one that runs as soon as its worker looks.

    Raises:
        NotFound: no such job in this academy.
        Conflict: it has ended.
    """
    job = _locked(db, academy, job_id)
    if job.state not in RUNNING:
        raise Conflict("This has ended already.")
    if job.task == READ_CLIP:
        intake.stop_reading(db, academy, job.about)
    job.stop_asked = True
    if job.state == "waiting":
        job.state, job.ended_at = "stopped", datetime.now(UTC)
    db.flush()
    return job


@needs(Right.NAME_CLIPS)
def try_again(db: Session, academy: uuid.UUID, job_id: uuid.UUID) -> JobRow:
    """Ask again for what failed or was stopped.

    Raises:
        NotFound: no such job in this academy.
        Conflict: it runs, or it is done.
    """
    job = _locked(db, academy, job_id)
    if job.state not in ("failed", "stopped"):
        raise Conflict("This is done, or being done.")
    if job.task == READ_CLIP:
        intake.read_again(db, academy, job.about)
    else:
        queue.ask(db, job.task, job.about, job.clip_id, job.arguments)
    db.flush()
    db.refresh(job)
    return job


def name_of_clip(db: Session, job: JobRow) -> str:
    return db.scalar(select(Clip.name).where(Clip.id == job.clip_id)) or ""


def _locked(db: Session, academy: uuid.UUID, job_id: uuid.UUID) -> JobRow:
    found = db.scalar(select(JobRow).where(JobRow.academy_id == academy, JobRow.id == job_id).with_for_update())
    if found is None:
        raise NotFound("There is no such job in your academy.")
    return found
