"""Saying who and what: clips named by a line, with what file name, folder and the student's last clip suggest."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from datetime import date

from sqlalchemy import or_, select, update
from sqlalchemy.orm import Session, joinedload

from lacertus.core.clips.naming import Known, Line, Naming, Vocabulary, read_line, suggest, write_line
from lacertus.core.errors import BadInput
from lacertus.core.techniques.practice import Drill
from lacertus.services.clips import intake
from lacertus.services.errors import Conflict
from lacertus.services.people import consents, people
from lacertus.services.people.rights import Right, needs
from lacertus.services.techniques import catalogue
from lacertus.store.tables import Clip, OwnDrill, Prescription, RepRow, Review, Student

MOST_AT_ONCE = 200


def vocabulary(db: Session, academy: uuid.UUID) -> Vocabulary:
    """The students and techniques that a line can mean."""
    students = {str(student.id): student.name for student in people.students(db, academy)}
    definitions = [catalogue.definition(version) for version in catalogue.techniques(db, academy)]
    own = _own_drills(db, academy)
    known = [
        Known(
            id=technique.id,
            names=(technique.names.main, *technique.names.aliases),
            options={
                group: {key: choice.name for key, choice in option.choices.items()} for group, option in technique.options.items()
            },
            ladder=technique.ladder,
            drills={drill.id: drill.name for drill in technique.drills if isinstance(drill, Drill)} | own.get(technique.id, {}),
        )
        for technique in definitions
    ]
    return Vocabulary(students=students, techniques=tuple(known))


def _own_drills(db: Session, academy: uuid.UUID) -> dict[str, dict[str, str]]:
    """By technique, the drills that coaches wrote: those kept for the academy, and those written in a prescription."""
    kept = select(OwnDrill.technique, OwnDrill.name).where(OwnDrill.academy_id == academy)
    by_hand = (
        select(Prescription.technique, Prescription.name)
        .join(Student, Student.id == Prescription.student_id)
        .where(Student.academy_id == academy, or_(Prescription.drill == "", Prescription.start.is_not(None)))
    )
    found: dict[str, dict[str, str]] = {}
    for technique, name in db.execute(kept.union(by_hand)):
        found.setdefault(technique, {})[name] = name
    return found


def line_of(clip: Clip, words: Vocabulary) -> str:
    """A clip's naming as a line; empty where nothing was said."""
    return write_line(clip.student.name if clip.student else None, clip.naming, words)


@needs(Right.NAME_CLIPS)
def name_clips(db: Session, academy: uuid.UUID, clip_ids: Sequence[uuid.UUID], text: str) -> list[Clip]:
    """Name several clips by one line; what it does not say stays as it was for each.

    Raises:
        BadInput: a part is not understood; nothing is changed then.
        NotFound: no such clip.
        Conflict: a reviewed clip would be given to another student or day.
    """
    if not clip_ids or len(clip_ids) > MOST_AT_ONCE:
        raise BadInput(f"choose between 1 and {MOST_AT_ONCE} clips to name")
    words = vocabulary(db, academy)
    clips = [intake.clip(db, academy, clip_id) for clip_id in dict.fromkeys(clip_ids)]
    lines = [read_line(text, words, clip.naming) for clip in clips]
    for line in lines:
        if line.problems:
            raise BadInput("; ".join(line.problems) + ". Nothing was changed.")
    newcomer = next((line.new_student for line in lines if line.new_student), None)
    if newcomer:
        people.check_no_double(db, academy, newcomer)
    added = people.create_student(db, academy, newcomer).id if newcomer else None
    for clip, line in zip(clips, lines, strict=True):
        _apply(db, clip, line, added)
    db.flush()
    found = select(Clip).where(Clip.id.in_([clip.id for clip in clips])).options(joinedload(Clip.student))
    return list(db.scalars(found.execution_options(populate_existing=True)))


def _apply(db: Session, clip: Clip, line: Line, added: uuid.UUID | None) -> None:
    clip.naming = line.naming
    student = added or (uuid.UUID(line.student) if line.student else clip.student_id)
    day = date.fromisoformat(line.day) if line.day else clip.filmed_on
    if (student, day) == (clip.student_id, clip.filmed_on):
        return
    review = db.scalar(select(Review).where(Review.clip_id == clip.id).with_for_update().execution_options(populate_existing=True))
    if review is not None and review.finished_at is not None:
        raise Conflict(f"“{clip.name}” is reviewed and kept as it was: its student and its day stay. Nothing was changed.")
    if student is not None and student != clip.student_id:
        consents.check(db, db.get_one(Student, student), "filming")
    clip.student_id, clip.filmed_on = student, day
    if review is not None:
        db.execute(update(Review).where(Review.id == review.id).values(student_id=student))
        # A rep named for the new student by itself needs it no more.
        db.execute(update(RepRow).where(RepRow.review_id == review.id, RepRow.student_id == student).values(student_id=None))
        theirs = (RepRow.review_id == review.id, RepRow.student_id.is_(None), RepRow.partner_student_id == student)
        db.execute(update(RepRow).where(*theirs).values(partner_student_id=None))


def suggested(db: Session, academy: uuid.UUID, clips: Sequence[Clip], words: Vocabulary) -> dict[uuid.UUID, str]:
    """For each clip that nobody has named, a line to start from."""
    unnamed = [clip for clip in clips if clip.naming == Naming() and clip.has_film]
    if not unnamed:
        return {}
    last = last_namings(db, academy)
    found = {}
    for clip in unnamed:
        known = str(clip.student_id) if clip.student_id else None
        student, naming = suggest(f"{clip.folder}/{clip.name}", words, last, known)
        found[clip.id] = write_line(words.students.get(student or ""), naming, words)
    return found


def last_namings(db: Session, academy: uuid.UUID) -> dict[str, Naming]:
    """How each student's latest named clip was done; the question belongs to that clip alone."""
    latest = (
        select(Clip.student_id, Clip.naming)
        .where(Clip.academy_id == academy, Clip.student_id.is_not(None), Clip.naming != Naming())
        .distinct(Clip.student_id)
        .order_by(Clip.student_id, Clip.filmed_on.desc(), Clip.created_at.desc())
    )
    return {str(student): naming.model_copy(update={"question": ""}) for student, naming in db.execute(latest)}
