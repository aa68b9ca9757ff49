"""Carrying a rep's placed points through its clip: asked for on the bench, done by the worker, told on the bench."""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import delete
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lacertus.core.body import BodyName
from lacertus.core.errors import BadInput
from lacertus.core.repfile import Body
from lacertus.services import review as reviewing
from lacertus.store.tables import Clip, PointRow, RepRow, Review

CARRIED = "tracked"


@dataclass(frozen=True, kw_only=True)
class Carry:
    """What the worker needs: the clip, and the bodies with their placed points."""

    clip: uuid.UUID
    shown: tuple[int, int]
    bodies: Mapping[BodyName, Body]


def ask(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, first: int, last: int) -> None:
    """Note that a rep's points are to be carried.

    Raises:
        BadInput: no placed point lies in the stretch, or the film is not kept here.
    """
    review, rep = reviewing.review_of_rep(db, academy, rep_id)
    if review.clip.film is None:
        raise BadInput("the film of this clip is not kept here, so points cannot be carried through it")
    if not any(first <= point.frame <= last and point.by != CARRIED for point in rep.points):
        raise BadInput("place at least one point in this stretch first; it is carried from there")
    rep.carrying = {"state": "waiting"}
    db.flush()


def drop(db: Session, academy: uuid.UUID, rep_id: uuid.UUID) -> None:
    """Take away every carried point of a rep."""
    _, rep = reviewing.review_of_rep(db, academy, rep_id)
    db.execute(delete(PointRow).where(PointRow.rep_id == rep.id, PointRow.by == CARRIED))
    rep.carrying = None


def wanted(db: Session, rep_id: uuid.UUID) -> Carry | None:
    """What is to be carried; None where the rep is gone or its review finished meanwhile."""
    found = db.get(RepRow, rep_id)
    owner = None if found is None else db.get(Review, found.review_id)
    if owner is None or owner.finished_at is not None:
        return None
    review = reviewing.load(db, owner.academy_id, owner.id)
    rep = next(rep for rep in review.reps if rep.id == rep_id)
    return Carry(
        clip=review.clip_id, shown=(review.clip.width or 1, review.clip.height or 1), bodies=reviewing.rep_file(review, rep).bodies
    )


def note(db: Session, rep_id: uuid.UUID, state: Mapping[str, Any]) -> None:
    """Note how far the carrying is, or how it ended."""
    rep = db.get(RepRow, rep_id)
    if rep is not None:
        rep.carrying = dict(state)


def store(db: Session, rep_id: uuid.UUID, bodies: Mapping[BodyName, Body], first: int, last: int, lost: Sequence[str]) -> None:
    """Keep the carried points in place of those that were carried before; a point placed meanwhile stays as it is."""
    rep = db.get(RepRow, rep_id)
    owner = None if rep is None else db.get(Review, rep.review_id, with_for_update=True)
    if rep is None or owner is None or owner.finished_at is not None:
        return
    inside = (PointRow.frame >= first) & (PointRow.frame <= last)
    db.execute(delete(PointRow).where(PointRow.rep_id == rep_id, PointRow.by == CARRIED, inside))
    clip = db.get(Clip, owner.clip_id)
    width, height = (clip.width or 0, clip.height or 0) if clip else (0, 0)
    rows = [
        {
            "rep_id": rep_id,
            "body": body,
            "landmark": landmark,
            "frame": p.frame,
            "x": p.x,
            "y": p.y,
            "by": CARRIED,
            "sigma": p.sigma,
        }
        for body, data in bodies.items()
        for landmark, points in data.landmarks.items()
        for p in points
        if p.by == CARRIED and 0 <= p.x <= width and 0 <= p.y <= height
    ]
    if rows:
        # Handed over as rows, so that thousands of points go in batches: one statement takes 65,535 values at most.
        db.execute(insert(PointRow).on_conflict_do_nothing(), rows)
    rep.carrying = {"state": "done", "lost": list(lost)}
