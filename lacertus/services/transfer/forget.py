"""Deleting a student with everything, and joining two students into one.

Which tables hold something of a student is read off the schema, so that no table that comes later is forgotten.
"""

from __future__ import annotations

import uuid
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from sqlalchemy import Column, String, Table, cast, delete, func, or_, select, tuple_, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.services import outbox
from lacertus.services.clips import compared_films, intake, spool, uploads
from lacertus.services.errors import Conflict
from lacertus.services.people import audit, people
from lacertus.services.people.rights import Right, needs
from lacertus.services.sheets import share
from lacertus.store.media import captions_key, example_key, marked_key, media, paper_prefix, still_key, voice_key
from lacertus.store.tables import (
    Base,
    Clip,
    Correction,
    JudgementRow,
    PartnerRule,
    ReactedRow,
    RepRow,
    Review,
    Revision,
    ShareLink,
    Student,
    Tally,
    TrainedWith,
    UploadRow,
)


@dataclass(frozen=True, kw_only=True)
class Goes:
    """What is deleted with a student: how much of each. `shown_in` are clips of others that show them too, and stay."""

    clips: int
    reviews: int
    reps: int
    links: int
    mails: int
    of_others: int
    """Reps of other students in the clips that go."""
    shown_in: tuple[str, ...] = ()


def student_columns() -> Iterator[Column[uuid.UUID]]:
    """Every column of the schema that names a student."""
    for table in Base.metadata.sorted_tables:
        for column in table.columns:
            if any(key.column.table.name == Student.__tablename__ for key in column.foreign_keys):
                yield column


def _is_of_others(column: Column[uuid.UUID]) -> bool:
    """Whether rows that name a student there are somebody else's, as a rep's partner is: the database takes the name out."""
    return column.table.name == RepRow.__tablename__ and column.name == "partner_student_id"


def what_goes(db: Session, academy: uuid.UUID, student_id: uuid.UUID) -> Goes:
    """What deleting a student would delete; raises NotFound where there is none."""
    people.student(db, academy, student_id)
    own = select(Clip.id).where(Clip.student_id == student_id)
    of_own = select(Review.id).where(Review.clip_id.in_(own))
    reviews = list(db.scalars(of_own))
    reps = list(db.execute(select(RepRow.review_id, RepRow.student_id).where(RepRow.review_id.in_(of_own))))
    elsewhere = select(Review.clip_id).join(RepRow, RepRow.review_id == Review.id).where(RepRow.student_id == student_id)
    shown = select(Clip.name).where(Clip.id.in_(elsewhere), Clip.student_id.is_distinct_from(student_id)).order_by(Clip.name)
    mine = _reps_elsewhere(db, student_id, reviews)
    return Goes(
        clips=db.scalar(select(func.count()).select_from(own.subquery())) or 0,
        reviews=len(reviews),
        reps=sum(1 for _, of in reps if of in (None, student_id)) + len(mine),
        links=db.scalar(select(func.count()).where(ShareLink.review_id.in_(of_own))) or 0,
        mails=len(outbox.waiting(_addresses(db, student_id, reviews), _tokens(db, reviews))),
        of_others=sum(1 for _, of in reps if of not in (None, student_id)),
        shown_in=tuple(db.scalars(shown)),
    )


@needs(Right.DELETE_STUDENTS)
def forget(db: Session, academy: uuid.UUID, student_id: uuid.UUID) -> Goes:
    """Delete a student with clips, pictures, reviews, verdicts, sheets, links, uploads, and the mails in the outbox.

    What a backup still holds, and what a mail relay has taken, stays there (docs/operations.md).

    Raises:
        NotFound: no such student.
        Conflict: one of the clips is being read.
    """
    _lock(db, student_id)
    goes = what_goes(db, academy, student_id)
    clips = list(db.scalars(select(Clip).where(Clip.student_id == student_id)))
    busy = next((clip for clip in clips if clip.state == "reading"), None)
    if busy is not None:
        raise Conflict(f"“{busy.name}” is being read. Stop that first. Nothing was deleted.")
    reviews = list(db.scalars(select(Review.id).where(Review.clip_id.in_([clip.id for clip in clips]))))
    mails = outbox.waiting(_addresses(db, student_id, reviews), _tokens(db, reviews))
    gone_files = _forget_reps_elsewhere(db, student_id, reviews)
    gone_files += _forget_examples(db, student_id, [clip.id for clip in clips])
    for upload in db.scalars(select(UploadRow.id).where(UploadRow.student_id == student_id)):
        uploads.drop(db, academy, upload)
        spool.delete(academy, upload)
    for clip in clips:
        intake.delete_clip(db, academy, clip.id)
    for column in student_columns():
        if not _is_of_others(column):
            db.execute(delete(_table(column)).where(column == student_id))
    db.execute(delete(Student).where(Student.id == student_id))
    audit.write(db, academy, "student deleted", str(student_id))
    db.flush()
    for key in gone_files:
        media().delete(key)
    for mail in mails:
        mail.unlink(missing_ok=True)
    return goes


def _lock(db: Session, *students: uuid.UUID) -> None:
    """Hold every review that holds anything of some students, so that nobody changes one meanwhile."""
    own = select(Clip.id).where(Clip.student_id.in_(students))
    texts = select(cast(Clip.id, String)).where(Clip.student_id.in_(students))
    concerned = or_(
        Review.student_id.in_(students),
        Review.clip_id.in_(own),
        Review.id.in_(select(RepRow.review_id).where(RepRow.student_id.in_(students) | RepRow.partner_student_id.in_(students))),
        Review.id.in_(select(Correction.review_id).where(Correction.example["clip"].astext.in_(texts))),
    )
    # In one order, so that two who do this at the same moment wait for each other.
    db.execute(select(Review.id).where(concerned).order_by(Review.id).with_for_update())


def _table(column: Column[uuid.UUID]) -> Table:
    assert isinstance(column.table, Table)
    return column.table


def _addresses(db: Session, student_id: uuid.UUID, reviews: Sequence[uuid.UUID]) -> set[str]:
    student = db.get_one(Student, student_id)
    sent = db.scalars(select(ShareLink.sent_to).where(ShareLink.review_id.in_(reviews))) if reviews else ()
    return {address for address in (student.email, student.guardian_email, *sent) if address}


def _tokens(db: Session, reviews: Sequence[uuid.UUID]) -> set[str]:
    if not reviews:
        return set()
    return {share.token_of(db, link) for link in db.scalars(select(ShareLink).where(ShareLink.review_id.in_(reviews)))}


def _reps_elsewhere(db: Session, student_id: uuid.UUID, reviews: Sequence[uuid.UUID]) -> list[RepRow]:
    """The student's reps in clips of others."""
    found = db.scalars(select(RepRow).where(RepRow.student_id == student_id))
    return [rep for rep in found if rep.review_id not in reviews]


def _forget_reps_elsewhere(db: Session, student_id: uuid.UUID, reviews: Sequence[uuid.UUID]) -> list[str]:
    """Delete the student's reps in clips of others, also in what those reviews' revisions keep; gives the files that go."""
    reps = _reps_elsewhere(db, student_id, reviews)
    if not reps:
        return []
    ids = {rep.id for rep in reps}
    files = compared_films.forget_films(db, reps=ids)
    for review in db.scalars(select(Review).where(Review.id.in_({rep.review_id for rep in reps}))):
        corrections = db.scalars(select(Correction.id).where(Correction.rep_id.in_(ids), Correction.review_id == review.id))
        for correction in corrections:
            files += [still_key(review.clip_id, correction), voice_key(review.clip_id, correction)]
            files.append(example_key(review.clip_id, correction))
        # The marked clip and the printed sheets show all reps.
        review.marked = None
        files += [marked_key(review.clip_id), captions_key(review.clip_id), paper_prefix(review.clip_id)]
        for revision in db.scalars(select(Revision).where(Revision.review_id == review.id)):
            record = revision.record
            revision.record = record.model_copy(
                update={
                    "reps": tuple(rep for rep in record.reps if rep.id not in ids),
                    "corrections": tuple(one for one in record.corrections if one.rep not in ids),
                    "left": tuple(one for one in record.left if one.rep not in ids),
                }
            )
    for table in (JudgementRow, ReactedRow):
        db.execute(delete(table).where(table.rep_id.in_(ids)))
    db.execute(delete(RepRow).where(RepRow.id.in_(ids)))
    db.flush()
    return files


def _forget_examples(db: Session, student_id: uuid.UUID, clips: Sequence[uuid.UUID]) -> list[str]:
    """Take the student's pictures from beside the corrections of others; gives the files that go."""
    if not clips:
        return []
    source = Correction.example["source"].astext
    lent = select(Correction).join(Review, Review.id == Correction.review_id)
    lent = lent.where(source == "other", Correction.example["clip"].astext.in_([str(clip) for clip in clips]))
    files = []
    for correction in db.scalars(lent.where(Review.student_id != student_id)):
        assert correction.example is not None
        if correction.example.clip is not None:
            files.append(example_key(correction.example.clip, correction.id))
        correction.example = None
    db.flush()
    return files


@needs(Right.CHANGE_STUDENTS)
def join(db: Session, academy: uuid.UUID, kept_id: uuid.UUID, gone_id: uuid.UUID) -> Student:
    """Join two students into one: all that belongs to the second belongs to the first, and what the first lacks is taken over.

    Raises:
        BadInput: it is one and the same.
        NotFound: one of them is not in this academy.
    """
    if kept_id == gone_id:
        raise BadInput("choose two students; this is one and the same")
    # In one order, so that two who join the same pair wait for each other.
    for one in sorted((kept_id, gone_id)):
        people.student(db, academy, one)
        db.execute(select(Student.id).where(Student.id == one).with_for_update())
    _lock(db, kept_id, gone_id)
    kept, gone = people.student(db, academy, kept_id), people.student(db, academy, gone_id)
    _take_pairs(db, kept_id, gone_id)
    for column in student_columns():
        _drop_doubles(db, column, kept_id, gone_id)
    for column in student_columns():
        table = _table(column)
        # The tally is added up anew by the database as the verdicts move.
        if table.name != Tally.__tablename__:
            db.execute(update(table).where(column == gone_id).values({column: kept_id}))
    _take_over(kept, gone)
    # Where one was the other's partner, it is not known any more who that was.
    performer = func.coalesce(RepRow.student_id, select(Review.student_id).where(Review.id == RepRow.review_id).scalar_subquery())
    db.execute(update(RepRow).where(RepRow.partner_student_id == kept_id, performer == kept_id).values(partner_student_id=None))
    db.flush()
    db.execute(delete(Tally).where(Tally.student_id == gone_id))
    db.execute(delete(Student).where(Student.id == gone_id))
    audit.write(db, academy, "students joined", f"{gone_id} into {kept_id}")
    db.flush()
    db.expire_all()
    return people.student(db, academy, kept_id)


def _drop_doubles(db: Session, column: Column[uuid.UUID], kept: uuid.UUID, gone: uuid.UUID) -> None:
    """Delete rows of the second of which the first has the same: of what stands once for a student and something else."""
    table = _table(column)
    rest = [one for one in table.primary_key.columns if one is not column]
    if table.name == Tally.__tablename__ or not table.primary_key.contains_column(column):
        return
    own = select(*rest).where(column == kept)
    db.execute(delete(table).where(column == gone, tuple_(*rest).in_(own)))


def _take_pairs(db: Session, kept: uuid.UUID, gone: uuid.UUID) -> None:
    """Rules between two students, and who trained with whom, of the second for the first; of the two themselves nothing is left."""
    rules = db.scalars(select(PartnerRule).where(or_(PartnerRule.student_id == gone, PartnerRule.other_id == gone))).all()
    trained = db.scalars(select(TrainedWith).where(or_(TrainedWith.student_id == gone, TrainedWith.other_id == gone))).all()
    rows: list[PartnerRule | TrainedWith] = [*rules, *trained]
    for row in rows:
        other = row.other_id if row.student_id == gone else row.student_id
        values = {column.name: getattr(row, column.name) for column in type(row).__table__.columns}
        db.delete(row)
        db.flush()
        if other != kept:
            pair = {"student_id": min(kept, other), "other_id": max(kept, other)}
            db.execute(insert(type(row)).values(**values | pair).on_conflict_do_nothing())


def _take_over(kept: Student, gone: Student) -> None:
    for name in ("email", "born_on", "height_cm", "weight_kg", "guardian", "guardian_email", "grade_id", "fix_choice"):
        if not getattr(kept, name):
            setattr(kept, name, getattr(gone, name))
    kept.note = "\n".join(dict.fromkeys(note for note in (kept.note, gone.note) if note))[: people.LONGEST_NOTE]
    kept.groups = list(dict.fromkeys([*kept.groups, *gone.groups]))
    kept.equipment = list(dict.fromkeys([*kept.equipment, *gone.equipment]))
    # Pictures are lent only where both agreed.
    kept.lends_pictures = kept.lends_pictures and gone.lends_pictures
    if gone.archived_at is None:
        kept.archived_at = None
