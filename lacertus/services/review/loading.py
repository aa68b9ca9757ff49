"""A stored rep as the core reads it: clip, frame of reference, marks, points and answers in one rep file."""

from __future__ import annotations

import json
import uuid
from functools import lru_cache
from typing import Any

from sqlalchemy import Select, bindparam, select
from sqlalchemy.orm import Session, joinedload, selectinload
from sqlalchemy.orm.attributes import set_committed_value

from lacertus.core.clips.onsets import Onset
from lacertus.core.measuring.body import BODIES
from lacertus.core.measuring.rep_facts import FACT_NAMES
from lacertus.core.measuring.repfile import RepFile, read_rep
from lacertus.core.measuring.steady import Matrix
from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.review.overrule import Overrule
from lacertus.core.techniques.definition import Technique
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.review import beside
from lacertus.services.review.kept import held
from lacertus.services.review.kept.entries import entries_of
from lacertus.store.media import NoMedia, made_key, media
from lacertus.store.tables import Answer, Clip, Correction, OverruleRow, RepRow, Review
from lacertus.video.intake.reading import CAMERA, TRACES


def load(db: Session, academy: uuid.UUID, review_id: uuid.UUID) -> Review:
    """A review with its clip, reps and corrections.

    Raises:
        NotFound: not in this academy.
    """
    held.forget(db)
    row = db.execute(_reviews(), {"academy": academy, "review": review_id}).one_or_none()
    if row is None:
        raise NotFound("There is no such review in your academy.")
    review: Review = row[0]
    held.keep_beside(db, review, beside.told_in(row))
    _load_reps(db, review, tuple(name for name in ("answers", "overrules") if getattr(row, name)))
    corrections = db.scalars(_corrections(), {"review": review_id}).all() if row.corrections else []
    set_committed_value(review, "corrections", list(corrections))
    return review


# Statements that every mark sends are made once: making them takes longer than the database does for them.


@lru_cache(maxsize=1)
def _reviews() -> Select[Any]:
    """A review with its clip, what there is beside it, and whether it has answers, overrules and corrections."""
    own = RepRow.review_id == Review.id
    parts = {
        "answers": select(Answer.checkpoint).join(RepRow).where(own).exists(),
        "overrules": select(OverruleRow.checkpoint).join(RepRow).where(own).exists(),
        "corrections": select(Correction.id).where(Correction.review_id == Review.id).exists(),
    }
    return (
        select(Review, *beside.columns(), *(there.label(name) for name, there in parts.items()))
        .where(Review.academy_id == bindparam("academy"), Review.id == bindparam("review"))
        .options(joinedload(Review.clip).joinedload(Clip.student))
        .execution_options(populate_existing=True)
    )


@lru_cache(maxsize=1)
def _corrections() -> Select[Correction]:
    own = select(Correction).where(Correction.review_id == bindparam("review")).order_by(Correction.created_at)
    return own.execution_options(populate_existing=True)


@lru_cache(maxsize=4)
def _reps(parts: tuple[str, ...]) -> Select[RepRow]:
    own = select(RepRow).where(RepRow.review_id == bindparam("review")).order_by(RepRow.blind_of.is_not(None), RepRow.first_frame)
    there = [selectinload(getattr(RepRow, name)) for name in ("events", *parts)]
    return own.options(joinedload(RepRow.technique_version), *there).execution_options(populate_existing=True)


def _load_reps(db: Session, review: Review, parts: tuple[str, ...]) -> None:
    """Read the reps of a review with their events, and of `answers` and `overrules` those that there are: each is a statement."""
    reps = list(db.scalars(_reps(parts), {"review": review.id}))
    for rep in reps:
        for name in ("answers", "overrules"):
            if name not in parts:
                set_committed_value(rep, name, [])
    set_committed_value(review, "reps", reps)


def lock(db: Session, academy: uuid.UUID, review_id: uuid.UUID) -> None:
    """Keep others from changing a review until the end of the transaction: two who change it at once do so one after the other.

    Raises:
        NotFound: not in this academy.
    """
    found = select(Review.id).where(Review.academy_id == academy, Review.id == review_id).with_for_update()
    if db.scalar(found) is None:
        raise NotFound("There is no such review in your academy.")


def locked(db: Session, academy: uuid.UUID, review_id: uuid.UUID) -> Review:
    """A review that nobody else changes until the end of the transaction, read after it was locked.

    Raises:
        NotFound: not in this academy.
    """
    lock(db, academy, review_id)
    return load(db, academy, review_id)


def for_change(db: Session, academy: uuid.UUID, review_id: uuid.UUID) -> Review:
    """A review that may be changed, as `locked`.

    Raises:
        NotFound: not in this academy.
        Conflict: it is finished.
    """
    return _open(locked(db, academy, review_id))


def at_hand(db: Session, academy: uuid.UUID, review_id: uuid.UUID) -> Review:
    """A review as it is now: the one that this transaction has locked and changed, or read anew; raises as `load`."""
    db.flush()
    return held.held(db, review_id) or load(db, academy, review_id)


def lock_of_clip(db: Session, clip_id: uuid.UUID) -> Review | None:
    """The review of a clip, locked and with nothing loaded of it; None where there is none."""
    return db.scalar(select(Review).where(Review.clip_id == clip_id).with_for_update().execution_options(populate_existing=True))


def _open(review: Review) -> Review:
    if review.finished_at is not None:
        raise Conflict("This review is finished and kept as it was. Nothing was changed.")
    return review


def review_of_rep(db: Session, academy: uuid.UUID, rep_id: uuid.UUID) -> tuple[Review, RepRow]:
    """A rep that may be changed, and its review, locked until the end of the transaction.

    Raises:
        NotFound: not in this academy.
        Conflict: its review is finished.
    """
    there = held.held_of_rep(db, academy, rep_id)
    if there is not None:
        return _open(there[0]), there[1]
    review_id = held.locked_of(db, rep_id) or review_id_of(db, academy, rep_id, lock=True)
    review = _open(held.held(db, review_id) or held.hold(db, load(db, academy, review_id)))
    rep = next((rep for rep in review.reps if rep.id == rep_id), None)
    if rep is None:
        raise NotFound("There is no such rep in your academy.")
    return review, rep


def review_id_of(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, *, lock: bool = False) -> uuid.UUID:
    """Which review a rep belongs to; `lock` keeps others from changing it until the end of the transaction.

    Raises:
        NotFound: not in this academy.
    """
    owner = select(Review.id).join(RepRow, RepRow.review_id == Review.id)
    owner = owner.where(RepRow.id == rep_id, Review.academy_id == academy)
    review_id = db.scalar(owner.with_for_update(of=Review) if lock else owner)
    if review_id is None:
        raise NotFound("There is no such rep in your academy.")
    return review_id


def rep_file(review: Review, rep: RepRow, *, with_points: bool = True, is_stored: bool = False) -> RepFile:
    """A stored rep as the core reads it.

    Args:
        review: the review.
        rep: a rep of it.
        with_points: false where only its marks are checked.
        is_stored: its points are as the database has them, so that those of their version are read once.

    Raises:
        BadRep: what is stored does not fit the clip.
    """
    clip = review.clip
    known = review.reference
    entries = entries_of(rep, is_stored=is_stored) if with_points else {}
    bodies: dict[str, Any] = {
        body: {
            "landmarks": entries.get(body, {}),
            "height_px": review.heights_px.get(body),
            "reference_lengths_px": known.lengths_px.get(body, {}),
        }
        for body in BODIES
    }
    seen: dict[str, dict[str, bool]] = {}
    for given in rep.answers:
        seen.setdefault(given.checkpoint, {})[given.asked_of] = given.yes
    file = read_rep(
        {
            "lacertus_rep": 1,
            "technique": rep.technique_version.technique,
            **{name: getattr(rep, name) for name in FACT_NAMES},
            "upright": known.upright or {},
            "centimetres_per_pixel": known.centimetres_per_pixel,
            "floor": known.floor,
            "size": [clip.width, clip.height],
            "pts_s": clip.pts_s,
            "capture_rate": clip.capture_rate,
            "marking": review.marking,
            "range": [rep.first_frame, rep.last_frame],
            "events": {mark.event: mark.frames for mark in rep.events},
            "seen": seen,
            "bodies": bodies,
        }
    )
    if not knows_camera(clip, rep.first_frame, rep.last_frame):
        return file
    # Checked once when it was read off the clip; for each change of the rep anew it would take longer than the judging.
    return file.model_copy(
        update={"camera_motion": None if clip.camera is None or clip.camera.still else _matrices(made_key(clip.id, CAMERA))}
    )


def fitted_to(technique: Technique, file: RepFile) -> RepFile:
    """A rep without the options, rung and phases that another version of its technique does not have."""
    options = {key: choice for key, choice in file.options.items() if choice in getattr(technique.options.get(key), "choices", {})}
    keep = {
        "options": options,
        "rung": file.rung if file.rung in technique.ladder else None,
        "start_at": file.start_at if file.start_at in technique.phases else None,
        "end_at": file.end_at if file.end_at in technique.phases else None,
        "layer": file.layer if file.layer and technique.layer(file.layer) else None,
        "start": file.start if file.start and technique.start(file.start) else None,
    }
    return file.model_copy(update=keep)


def knows_camera(clip: Clip, first: int, last: int) -> bool:
    """Whether the camera's own motion was registered all through a stretch of frames."""
    return clip.camera is not None and clip.camera.is_known(first, last)


def onsets_of(clip: Clip) -> tuple[Onset, ...]:
    """Where sounds begin in a clip; none where it has no film here."""
    return _onsets(made_key(clip.id, TRACES)) if clip.has_film and clip.has_sound else ()


@lru_cache(maxsize=16)
def _onsets(key: str) -> tuple[Onset, ...]:
    try:
        found = json.loads(b"".join(media().read(key, 0, media().size(key))))
    except NoMedia:
        return ()
    return tuple(Onset(time_s=one["time_s"], strength=one["strength"], voiced=one["voiced"]) for one in found["onsets"])


@lru_cache(maxsize=16)
def _matrices(key: str) -> tuple[Matrix, ...] | None:
    found = json.loads(b"".join(media().read(key, 0, media().size(key))))["camera_motion"]
    return None if found is None else tuple((tuple(row[0]), tuple(row[1])) for row in found)


def given_verdicts(rep: RepRow) -> dict[str, Overrule]:
    """The coach's own verdicts on a rep, by checkpoint."""
    return {row.checkpoint: Overrule(verdict=Verdict(row.verdict), reason=row.reason) for row in rep.overrules}
