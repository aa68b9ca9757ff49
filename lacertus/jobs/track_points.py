"""Tracking a rep's bodies through its clip, from their placed points."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from pathlib import Path

from sqlalchemy.orm import Session

from lacertus.jobs.queue import CARRY
from lacertus.jobs.run import Job, Progress
from lacertus.services.review import tracking
from lacertus.settings import settings
from lacertus.store.media import media, review_key
from lacertus.video.following import Following, follow_bodies


@dataclass(frozen=True, kw_only=True)
class Stretch:
    """What is to be tracked, from one frame to another."""

    carry: tracking.Carry
    first: int
    last: int


@dataclass(frozen=True, kw_only=True)
class Tracked:
    """What was seen over a stretch."""

    found: Following
    first: int
    last: int


class TrackPoints(Job[Stretch, Tracked]):
    task, about = CARRY, "rep"
    what = "Tracking the points"
    next_step = "Placed points are kept: track again."

    def load(self, db: Session, about: uuid.UUID, **more: int) -> Stretch | None:
        wanted = tracking.wanted(db, about)
        return None if wanted is None else Stretch(carry=wanted, first=more["first"], last=more["last"])

    def work(self, about: uuid.UUID, wanted: Stretch) -> Tracked:
        carry = wanted.carry
        progress = Progress(lambda db, done, of: tracking.note(db, about, {"state": "carrying", "done": done, "of": of}))
        with media().as_local(review_key(carry.clip)) as copy:
            span = (wanted.first, wanted.last)
            found = follow_bodies(
                copy, carry.bodies, span, carry.wanted, _bundle(), carry.times_s, progress, carry.shown, carry.like
            )
        return Tracked(found=found, first=wanted.first, last=wanted.last)

    def done(self, db: Session, about: uuid.UUID, made: Tracked) -> None:
        tracking.store(db, about, made.found, made.first, made.last)

    def failed(self, db: Session, about: uuid.UUID, reason: str) -> None:
        tracking.note(db, about, {"state": "failed", "reason": reason})


def _bundle() -> Path | None:
    """The pose model's bundle, where it was built; without it flow is all there is."""
    path = Path(settings().pose_model)
    return path if path.is_file() else None
