"""Film of finished reviews that trains the eye: of students who agreed to it, where the rules' verdict was firm.

Nothing is copied: a film is cut out of the clip's review copy as it is asked for, so that it goes with the clip, with the consent,
and with the review that is opened again.
"""

from __future__ import annotations

import tempfile
import uuid
from collections.abc import Collection
from datetime import datetime
from pathlib import Path

import structlog
from sqlalchemy import Select, delete, func, select
from sqlalchemy.orm import Session

from lacertus.core.errors import LacertusError
from lacertus.core.eye.facts import Facts, facts_of
from lacertus.core.eye.questions import questions_of
from lacertus.services.errors import NotFound
from lacertus.services.people import consents
from lacertus.services.review import loading
from lacertus.services.review.view import view_of
from lacertus.services.techniques import catalogue
from lacertus.store.media import media, review_key
from lacertus.store.tables import Clip, ConsentRow, EyeTake, RepRow, Review, Student
from lacertus.video.errors import BadVideo
from lacertus.video.excerpt import first_of, write_excerpt

log = structlog.get_logger()
LEVEL = 3
"""It is as it was filmed: neither the easiest nor the hardest."""
MOST = 200
"""So many reps of an academy, the last that were finished, are asked about. A convention."""
ONE_AT_A_TIME = 2_410_001
"""The number of the database's lock that the worker holds which takes reps in."""


def shown(db: Session, academy: uuid.UUID) -> Collection[uuid.UUID]:
    """The reps whose film the academy may be asked about now: agreed to, and finished as the film knows them."""
    may = consents.agreed(db, academy, "training")
    if not may:
        return ()
    rows = _finished(may).join(EyeTake, EyeTake.rep_id == RepRow.id).where(EyeTake.finished_at == Review.finished_at)
    return frozenset(rep for rep, _, _ in db.execute(rows.where(Review.academy_id == academy)))


def _finished(may: Collection[uuid.UUID]) -> Select[uuid.UUID, uuid.UUID, datetime | None]:
    """Reps of finished reviews, with the film that shows them, where everybody in them is among some students: the clip's student,
    the performer and the partner. A partner whom nobody named cannot have agreed."""
    return (
        select(RepRow.id, Review.id, Review.finished_at)
        .join(Review, Review.id == RepRow.review_id)
        .join(Clip, Clip.id == Review.clip_id)
        .where(
            Review.finished_at.is_not(None),
            RepRow.blind_of.is_(None),
            Clip.has_film,
            Clip.state == "ready",
            Clip.student_id.in_(may),
            RepRow.student_id.is_(None) | RepRow.student_id.in_(may),
            (RepRow.partner != "person") | RepRow.partner_student_id.in_(may),
            Review.student_id.in_(may),
        )
    )


def take_in(db: Session) -> bool:
    """Take in the next rep of a finished review that can be asked about; False where there is none.

    What is no longer finished as it was is dropped, and what nothing can be asked of is not looked at again.
    """
    if not db.scalar(select(func.pg_try_advisory_xact_lock(ONE_AT_A_TIME))):
        # Another worker is at it.
        return False
    known = select(EyeTake.id).join(RepRow, RepRow.id == EyeTake.rep_id).join(Review, Review.id == RepRow.review_id)
    changed = known.where(Review.finished_at.is_distinct_from(EyeTake.finished_at))
    db.execute(delete(EyeTake).where(EyeTake.id.in_(changed)))
    asked = select(ConsentRow.student_id).where(ConsentRow.purpose == "training", ConsentRow.withdrawn_on.is_(None))
    for academy in db.scalars(select(Student.academy_id).where(Student.id.in_(asked)).distinct()):
        may = consents.agreed(db, academy, "training")
        newest = _finished(may).where(Review.academy_id == academy).order_by(Review.finished_at.desc(), RepRow.first_frame)
        rows = {rep: (review, finished_at) for rep, review, finished_at in db.execute(newest.limit(MOST))}
        have = set(db.scalars(select(EyeTake.rep_id).where(EyeTake.academy_id == academy, EyeTake.rep_id.is_not(None))))
        old = have - set(rows)
        if old:
            db.execute(delete(EyeTake).where(EyeTake.rep_id.in_(old)))
        new = next((rep for rep in rows if rep not in have), None)
        if new is not None:
            review, finished_at = rows[new]
            _add(db, academy, review, new, finished_at)
            return True
    return False


def _add(db: Session, academy: uuid.UUID, review_id: uuid.UUID, rep_id: uuid.UUID, finished_at: datetime | None) -> None:
    take = EyeTake(
        id=uuid.uuid4(), academy_id=academy, rep_id=rep_id, finished_at=finished_at, level=LEVEL, seed=rep_id.int % 2**31,
        state="failed", fault="",
    )  # fmt: skip
    review = loading.load(db, academy, review_id)
    rep = next(one for one in review.reps if one.id == rep_id)
    take.version_id, take.technique = rep.technique_version_id, rep.technique_version.technique
    take.reaction = rep.reaction or ""
    try:
        facts = _facts(review, rep)
        if questions_of(catalogue.definition(rep.technique_version), facts, take.seed):
            take.facts, take.state = facts, "ready"
    except LacertusError as error:
        log.warning("a rep cannot be asked about", rep=str(rep_id), error=type(error).__name__)
    db.add(take)
    db.flush()


def _facts(review: Review, rep: RepRow) -> Facts:
    """What is true of a rep, by the verdicts that were given, in the frames of the film that is cut out."""
    technique = catalogue.definition(rep.technique_version)
    facts = facts_of(technique, loading.rep_file(review, rep), view_of(review).rep(rep.id).judgements, rep.reaction or "")
    with media().as_local(review_key(review.clip_id)) as copy:
        return facts.cut(first_of(copy, rep.first_frame), rep.last_frame)


def film(db: Session, academy: uuid.UUID, take_id: uuid.UUID) -> bytes:
    """The film of a rep (MP4), cut out of its clip.

    Raises:
        NotFound: it may not be shown, or not any more.
    """
    row = db.execute(
        select(EyeTake.facts, RepRow.id, RepRow.first_frame, Review.clip_id)
        .join(RepRow, RepRow.id == EyeTake.rep_id)
        .join(Review, Review.id == RepRow.review_id)
        .where(EyeTake.id == take_id, EyeTake.academy_id == academy)
    ).first()
    if row is None or row.facts is None or row.id not in shown(db, academy):
        raise NotFound("There is no such film any more; go on with the next question.")
    start = row.first_frame - row.facts.first
    with tempfile.TemporaryDirectory() as name:
        target = Path(name) / "film.mp4"
        try:
            with media().as_local(review_key(row.clip_id)) as copy:
                write_excerpt(copy, target, start, row.facts.times_s)
        except BadVideo as error:
            raise NotFound("This film cannot be shown; go on with the next question.") from error
        return target.read_bytes()
