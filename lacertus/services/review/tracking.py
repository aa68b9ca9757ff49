"""TrackedBodies a rep's bodies through its clip: asked for on the bench, done by the worker, corrected as the coach places points.

What the pose model and flow saw is kept beside the clip, so that one corrected point makes its landmark's path anew at once.
"""

from __future__ import annotations

import uuid
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from pydantic import TypeAdapter
from sqlalchemy import delete
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.measuring.body import BODIES, LANDMARKS, BodyName
from lacertus.core.measuring.repfile import Body, PointEntry
from lacertus.core.model import Record
from lacertus.core.review.judge import needed_points
from lacertus.core.review.proposals import points_read
from lacertus.core.review.reconcile import Observed, path_of
from lacertus.core.review.tracking import Tracked
from lacertus.services.people.rights import Right, needs
from lacertus.services.review import loading, tied
from lacertus.services.review.kept.held import put_back
from lacertus.services.techniques import catalogue
from lacertus.store import queue
from lacertus.store.media import NoMedia, made_key, media
from lacertus.store.queue import TRACK_POINTS
from lacertus.store.tables import Clip, PointRow, RepRow, Review
from lacertus.video.tracking.bodies import TrackedBodies

TRACKED = "tracked"


class Kept(Record):
    """What was seen of a rep's landmarks, over which stretch of frames."""

    first: int
    last: int
    bodies: dict[BodyName, dict[str, Observed]]


_KEPT = TypeAdapter(Kept)


@dataclass(frozen=True, kw_only=True)
class TrackingTask:
    """What the worker needs: the clip, the bodies with their placed points, and by body the landmarks to look for."""

    clip: uuid.UUID
    shown: tuple[int, int]
    bodies: Mapping[BodyName, Body]
    wanted: Mapping[BodyName, frozenset[str]]
    times_s: tuple[float, ...]
    like: Mapping[BodyName, Mapping[str, tuple[float, float]]]


def _key(clip: uuid.UUID, rep: uuid.UUID) -> str:
    return made_key(clip, f"followed-{rep}.json")  # Named so since the first version; a site keeps its files.


@needs(Right.REVIEW)
def ask(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, first: int, last: int) -> None:
    """Ask for a rep's points to be tracked over a stretch.

    Raises:
        BadInput: no placed point lies in the stretch, or the film is not kept here.
    """
    review, rep = loading.review_of_rep(db, academy, rep_id)
    if review.clip.film is None:
        raise BadInput("the film of this clip is not kept here, so points cannot be tracked through it")
    if not any(first <= point.frame <= last and point.by != TRACKED for point in rep.points) and not _like(review, rep):
        raise BadInput("place at least one point in this stretch first; tracking starts from it")
    queue.check_room(db, academy)
    rep.tracking = None
    queue.ask(db, TRACK_POINTS, rep.id, review.clip_id, {"first": first, "last": last})


@needs(Right.REVIEW)
def drop(db: Session, academy: uuid.UUID, rep_id: uuid.UUID) -> None:
    """Delete every tracked point of a rep."""
    review, rep = loading.review_of_rep(db, academy, rep_id)
    db.execute(delete(PointRow).where(PointRow.rep_id == rep.id, PointRow.by == TRACKED))
    media().delete(_key(review.clip_id, rep.id))
    rep.tracking = None


def wanted(db: Session, rep_id: uuid.UUID) -> TrackingTask | None:
    """What is to be tracked; None where the rep is gone or its review finished meanwhile."""
    found = db.get(RepRow, rep_id)
    owner = None if found is None else db.get(Review, found.review_id)
    if owner is None or owner.finished_at is not None:
        return None
    review = loading.load(db, owner.academy_id, owner.id)
    rep = next(rep for rep in review.reps if rep.id == rep_id)
    file = loading.rep_file(review, rep)
    technique = catalogue.definition(rep.technique_version)
    needs = {(need.body, need.landmark) for need in needed_points(technique, file)} | points_read(technique, file)
    return TrackingTask(
        clip=review.clip_id,
        shown=(review.clip.width or 1, review.clip.height or 1),
        bodies=file.bodies,
        wanted={body: frozenset(mark for owner, mark in needs if owner == body and mark in LANDMARKS) for body in BODIES},
        times_s=tied.time_base(review.clip).real_s,
        like=_like(review, rep),
    )


def _like(review: Review, rep: RepRow) -> dict[BodyName, dict[str, tuple[float, float]]]:
    """Where the bodies were when the nearest other rep of the same performer began: a first guess for this one."""
    others = [
        other
        for other in review.reps
        if other.id != rep.id and other.student_id == rep.student_id and other.blind_of is None and other.points
    ]
    if not others or rep.blind_of is not None:
        return {}
    nearest = min(others, key=lambda other: abs(other.first_frame - rep.first_frame))
    found: dict[BodyName, dict[str, tuple[float, float]]] = {}
    for body in BODIES:
        frames: dict[int, dict[str, tuple[float, float]]] = {}
        for point in nearest.points:
            if point.body == body:
                frames.setdefault(point.frame, {})[point.landmark] = (point.x, point.y)
        if frames:
            most = max(len(points) for points in frames.values())
            found[body] = frames[min(frame for frame, points in frames.items() if len(points) == most)]
    return found


def store(db: Session, rep_id: uuid.UUID, found: TrackedBodies, first: int, last: int) -> None:
    """Keep what was seen, and the paths in place of those that were tracked before; a placed point stays as it is."""
    rep = db.get(RepRow, rep_id)
    owner = None if rep is None else db.get(Review, rep.review_id, with_for_update=True)
    if rep is None or owner is None or owner.finished_at is not None:
        return
    kept = Kept(first=first, last=last, bodies=found.observed)
    media().write(_key(owner.clip_id, rep_id), _KEPT.dump_json(kept))
    review = loading.load(db, owner.academy_id, owner.id)
    _make(db, review, next(one for one in review.reps if one.id == rep_id), kept, None)
    rep.tracking = Tracked(lost=found.lost)
    db.flush()


@needs(Right.REVIEW)
def update_path(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, body: str, landmark: str) -> None:
    """Make one landmark's path anew after a point of it was placed, moved or taken away; nothing where none was tracked."""
    review, rep = loading.review_of_rep(db, academy, rep_id)
    if rep.tracking is None:
        return
    key = _key(review.clip_id, rep_id)
    try:
        kept = _KEPT.validate_json(b"".join(media().read(key, 0, media().size(key))))
    except NoMedia:
        return
    _make(db, review, rep, kept, (body, landmark))


def _make(db: Session, review: Review, rep: RepRow, kept: Kept, only: tuple[str, str] | None) -> None:
    """Write the paths of all landmarks, or of one, in place of what was tracked of them."""
    file, clip = loading.rep_file(review, rep), review.clip
    times = tied.time_base(clip).real_s
    inside = (PointRow.frame >= kept.first) & (PointRow.frame <= kept.last)
    gone = delete(PointRow).where(PointRow.rep_id == rep.id, PointRow.by == TRACKED, inside)
    if only is not None:
        gone = gone.where(PointRow.body == only[0], PointRow.landmark == only[1])
    db.execute(gone)
    rows: list[dict[str, Any]] = []
    for body, landmarks in kept.bodies.items():
        data = file.bodies.get(body, Body())
        tall = data.height_px or float(clip.height or 1)
        for landmark, seen in landmarks.items():
            if only in (None, (body, landmark)):
                rows += _rows(rep.id, body, landmark, path_of(times, landmark, data, seen, tall), clip)
    if rows:
        # Handed over as rows, so that thousands of points go in batches: one statement takes 65,535 values at most.
        db.execute(insert(PointRow).on_conflict_do_nothing(), rows)
    put_back(db, review, rep, "points", PointRow)


def _rows(rep: uuid.UUID, body: str, landmark: str, path: Iterable[PointEntry], clip: Clip) -> list[dict[str, Any]]:
    width, height = clip.width or 0, clip.height or 0
    return [
        {"rep_id": rep, "body": body, "landmark": landmark, "frame": p.frame, "x": p.x, "y": p.y, "by": TRACKED, "sigma": p.sigma}
        for p in path
        if p.by == TRACKED and 0 <= p.x <= width and 0 <= p.y <= height
    ]
