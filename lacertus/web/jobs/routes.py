"""Routes of the academy's jobs."""

from __future__ import annotations

import uuid

from fastapi import APIRouter

from lacertus.services import jobs
from lacertus.web.jobs.schemas import JobOut, ListedJobOut
from lacertus.web.session import Db, SignedIn

router = APIRouter(tags=["jobs"])


@router.get("/jobs")
def read_jobs(coach: SignedIn, db: Db) -> list[ListedJobOut]:
    """What waits or runs, and what failed lately, the newest first."""
    return [
        ListedJobOut(**JobOut.model_validate(one.job).model_dump(), clip_name=one.clip, ahead=one.ahead)
        for one in jobs.listing(db, coach.academy_id)
    ]


@router.post("/jobs/{job_id}/stop")
def stop_job(job_id: uuid.UUID, coach: SignedIn, db: Db) -> JobOut:
    """Stop a job."""
    return JobOut.model_validate(jobs.stop(db, coach.academy_id, job_id))


@router.post("/jobs/{job_id}/again")
def try_job_again(job_id: uuid.UUID, coach: SignedIn, db: Db) -> JobOut:
    """Ask again for what failed or was stopped."""
    return JobOut.model_validate(jobs.try_again(db, coach.academy_id, job_id))
