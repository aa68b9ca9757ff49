"""Bringing in rep files: measured reps become a clip without its film, with points, events and answers as they were."""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from datetime import date
from typing import Any

from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.measuring.body import BodyName
from lacertus.core.measuring.rep_facts import FACT_NAMES, KeptRepFacts
from lacertus.core.measuring.repfile import Body, PointEntry, RepFile
from lacertus.core.texts import checked_file_name
from lacertus.services.people import people
from lacertus.services.review import loading
from lacertus.services.review import review as reviewing
from lacertus.services.review.review import Spot
from lacertus.services.techniques import catalogue
from lacertus.store.tables import Answer, Clip, EventMark, PointRow, RepRow, Review

MOST_FRAMES = 60_000
MOST_POINTS = 500_000


def bring_in(db: Session, academy: uuid.UUID, student: uuid.UUID, name: str, filmed_on: date, reps: Sequence[RepFile]) -> Review:
    """Take in the reps of one clip as an open review; the film itself is not asked for.

    Raises:
        BadInput: no reps, reps of different clips, or one that does not fit its technique.
        NotFound: no such student or technique.
    """
    if not reps:
        raise BadInput("there is no rep to bring in")
    first = reps[0]
    if any((rep.pts_s, rep.size, rep.capture_rate) != (first.pts_s, first.size, first.capture_rate) for rep in reps):
        raise BadInput("these reps were read from different clips; bring each clip's reps in by themselves")
    if len(first.pts_s) > MOST_FRAMES:
        raise BadInput(f"the clip has more than {MOST_FRAMES} frames, the most that is taken here")
    clip = _clip(academy, people.student(db, academy, student).id, name, filmed_on, first)
    db.add(clip)
    db.flush()
    review = reviewing.open_review(db, academy, clip.id)
    review.heights_px = {body: data.height_px for body, data in first.bodies.items() if data.height_px is not None}
    return add_reps(db, academy, review.id, reps)


def add_reps(db: Session, academy: uuid.UUID, review_id: uuid.UUID, reps: Sequence[RepFile]) -> Review:
    """Add measured reps to an open review of the clip that they were read from.

    Raises:
        BadInput: a rep does not fit the clip or its technique.
        Conflict: the review is finished.
    """
    review = loading.for_change(db, academy, review_id)
    if len(review.reps) + len(reps) > reviewing.MOST_REPS:
        raise BadInput(f"a review holds at most {reviewing.MOST_REPS} reps")
    if any(tuple(rep.size) != (review.clip.width, review.clip.height) for rep in reps):
        raise BadInput("these reps were read from another clip: its picture has another size")
    if any(len(rep.pts_s) != len(review.clip.pts_s or ()) for rep in reps):
        raise BadInput("these reps were read from another clip: it has another number of frames")
    db.add_all(_rep_row(db, academy, review.id, rep) for rep in reps)
    db.flush()
    return reviewing.checked(loading.load(db, academy, review.id))


def _clip(academy: uuid.UUID, student: uuid.UUID, name: str, filmed_on: date, rep: RepFile) -> Clip:
    gaps = [b - a for a, b in zip(rep.pts_s, rep.pts_s[1:], strict=False)]
    usual = sorted(gaps)[len(gaps) // 2] if gaps else 1 / 30
    return Clip(
        id=uuid.uuid4(),
        academy_id=academy,
        student_id=student,
        name=checked_file_name(name, "the clip’s name"),
        filmed_on=filmed_on,
        state="ready",
        has_film=False,
        frames_done=len(rep.pts_s),
        frames_expected=len(rep.pts_s),
        width=rep.size[0],
        height=rep.size[1],
        rotation=0,
        nominal_fps=round(1 / usual, 3),
        variable_rate=bool(gaps) and max(gaps) - min(gaps) > 0.01 * usual,
        duration_s=rep.pts_s[-1] + usual,
        pts_s=list(rep.pts_s),
        capture_rate=rep.capture_rate,
    )


def _rep_row(db: Session, academy: uuid.UUID, review: uuid.UUID, rep: RepFile) -> RepRow:
    version = catalogue.newest(db, academy, rep.technique)
    row = RepRow(
        id=uuid.uuid4(),
        review_id=review,
        technique_version_id=version.id,
        first_frame=rep.range[0],
        last_frame=rep.range[1],
        **_facts(rep).model_dump(),
    )
    row.events = [EventMark(event=event, frames=list(frames)) for event, frames in rep.events.items()]
    row.answers = [
        Answer(checkpoint=checkpoint, asked_of=who, yes=yes) for checkpoint, given in rep.seen.items() for who, yes in given.items()
    ]
    row.points = [
        PointRow(body=body, landmark=landmark, **_kept(point))
        for body, data in rep.bodies.items()
        for landmark, points in data.landmarks.items()
        for point in points
    ]
    return row


def _facts(rep: RepFile) -> KeptRepFacts:
    """How a rep was done; what its file leaves open is as by default."""
    said = {name: value for name in FACT_NAMES if (value := getattr(rep, name)) is not None}
    return KeptRepFacts.model_validate(said)


def _kept(point: PointEntry) -> dict[str, Any]:
    return {name: getattr(point, name) for name in ("frame", "x", "y", "by", "hidden", "sigma", "shared", "grain")}


def bring_tracks(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, bodies: Mapping[BodyName, Body]) -> int:
    """Put tracks from a file on a rep; what the coach has placed by hand stays. Returns how many points were put.

    Raises:
        BadInput: a frame lies outside the clip, a place outside the picture, or there is nothing in it.
        Conflict: the review is finished.
    """
    review, rep = loading.review_of_rep(db, academy, rep_id)
    placed = {(p.body, p.landmark, p.frame) for p in rep.points if p.by == "placed"}
    rows = []
    for body, data in bodies.items():
        for landmark, points in data.landmarks.items():
            for point in points:
                spot = Spot(body=body, landmark=landmark, frame=point.frame)
                reviewing.check_names(spot, len(review.clip.pts_s or ()))
                reviewing.check_inside(review.clip, point.x, point.y)
                if (body, landmark, point.frame) not in placed:
                    rows.append({"rep_id": rep_id, "body": body, "landmark": landmark, **_kept(point)})
    if not rows:
        raise BadInput("there is no point in this file that is not placed already; nothing was changed")
    if len(rows) > MOST_POINTS:
        raise BadInput(f"a rep takes at most {MOST_POINTS} points")
    for first in range(0, len(rows), 2000):
        put = insert(PointRow).values(rows[first : first + 2000])
        changed = {name: put.excluded[name] for name in ("x", "y", "by", "hidden", "sigma", "shared", "grain")}
        db.execute(put.on_conflict_do_update(index_elements=["rep_id", "body", "landmark", "frame"], set_=changed))
    db.flush()
    return len(rows)
