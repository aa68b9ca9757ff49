"""Tracking a rep's bodies through its clip, from their placed points."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from pathlib import Path

from sqlalchemy.orm import Session

from lacertus.jobs.run import Job, Progress
from lacertus.services.review import tracking
from lacertus.settings import settings
from lacertus.store.media import media, review_key
from lacertus.store.queue import TRACK_POINTS
from lacertus.video.tracking.bodies import TrackedBodies, track_bodies


@dataclass(frozen=True, kw_only=True)
class Stretch:
    """What is to be tracked, from one frame to another."""

    task: tracking.TrackingTask
    first: int
    last: int


@dataclass(frozen=True, kw_only=True)
class Seen:
    """What was seen over a stretch."""

    found: TrackedBodies
    first: int
    last: int


class TrackPoints(Job[Stretch, Seen]):
    task, about = TRACK_POINTS, "rep"
    what = "Tracking the points"
    next_step = "Placed points are kept: track again."

    def load(self, db: Session, about: uuid.UUID, **more: int) -> Stretch | None:
        wanted = tracking.wanted(db, about)
        return None if wanted is None else Stretch(task=wanted, first=more["first"], last=more["last"])

    def work(self, about: uuid.UUID, wanted: Stretch, progress: Progress) -> Seen:
        task = wanted.task
        with media().as_local(review_key(task.clip)) as copy:
            span = (wanted.first, wanted.last)
            found = track_bodies(copy, task.bodies, span, task.wanted, _bundle(), task.times_s, progress, task.shown, task.like)
        return Seen(found=found, first=wanted.first, last=wanted.last)

    def done(self, db: Session, about: uuid.UUID, made: Seen) -> None:
        tracking.store(db, about, made.found, made.first, made.last)


def _bundle() -> Path | None:
    """The pose model's bundle, where it was built; without it flow is all there is."""
    path = Path(settings().pose_model)
    return path if path.is_file() else None
