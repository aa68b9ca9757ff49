"""A student's everything into one ZIP: clips, reviews, marks, verdicts, sheets, adaptations.

The rows lie in `lacertus_student.json`, the points of each rep in `points/`, files below `media/`.
"""

from __future__ import annotations

import json
import re
import uuid
import zipfile
from itertools import groupby
from pathlib import Path
from typing import Any

import sqlalchemy as sa
from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.services.compare import film
from lacertus.services.people import audit, people
from lacertus.services.people.rights import Right, needs
from lacertus.services.transfer.archive_child import ROWS as NAME
from lacertus.services.transfer.rows import PARTS, VERSION, as_kept, part_name
from lacertus.store import tables as t
from lacertus.store.media import clip_prefix, compared_key, compared_prefix, media

_UUID = r"[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}"


def find(db: Session, student: str) -> t.Student:
    """A student by id, of whatever academy: for the administrator of the site.

    Raises:
        BadInput: this is no id, or nobody's.
    """
    found = db.get(t.Student, uuid.UUID(student)) if re.fullmatch(_UUID, student.lower()) else None
    if found is None:
        raise BadInput(f"there is no student with the id “{student}”")
    return found


@needs(Right.SHARE)
def write(db: Session, academy: uuid.UUID, student_id: uuid.UUID, target: Path) -> None:
    """Write a student's everything into a ZIP.

    Raises:
        NotFound: no such student.
    """
    student = people.student(db, academy, student_id)
    audit.write(db, academy, "everything of a student exported", str(student_id))
    found = _rows_of(db, student)
    versions = {rep.technique_version_id for rep in found["reps"]}
    known = db.scalars(select(t.TechniqueVersion).where(t.TechniqueVersion.id.in_(versions))).all()
    data = {
        "lacertus_student": VERSION,
        "student": as_kept(student),
        "techniques": [{"id": str(one.id), "technique": one.technique, "body": one.body} for one in known],
        "attendance": _attendance(db, student),
    } | {name: [as_kept(row) for row in rows] for name, rows in found.items() if name not in PARTS}
    store = media()
    # A film of a comparison shows others too: it goes out while they agree, as on the sheet.
    agreed = {compared_key(review.clip_id, one.id) for review in found["reviews"] for one in film.shown(db, review)}
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(NAME, _text(data))
        for name, owner in PARTS.items():
            rows = sorted(found[name], key=lambda row: str(getattr(row, owner)))
            for key, own in groupby(rows, key=lambda row: str(getattr(row, owner))):
                archive.writestr(part_name(name, key), _text([as_kept(row) for row in own]))
        for clip in found["clips"]:
            for key in store.files(clip_prefix(clip.id)):
                if key.startswith(f"{compared_prefix(clip.id)}/") and key not in agreed:
                    continue
                name = f"media/{clip.id}/{key.removeprefix(clip_prefix(clip.id) + '/')}"
                with archive.open(zipfile.ZipInfo(name, (2000, 1, 1, 0, 0, 0)), "w", force_zip64=True) as out:
                    for piece in store.read(key, 0, store.size(key)):
                        out.write(piece)


def _attendance(db: Session, student: t.Student) -> list[dict[str, Any]]:
    """To which classes the student came: for whoever reads the file. It is not brought in, as the classes stay."""
    rows = select(t.Lesson.held_on, t.Lesson.name, t.Attendance.came).join(t.Attendance, t.Attendance.lesson_id == t.Lesson.id)
    own = rows.where(t.Attendance.student_id == student.id, t.Lesson.booked_at.is_not(None)).order_by(t.Lesson.held_on)
    return [{"on": on.isoformat(), "class": name, "came": came} for on, name, came in db.execute(own)]


def _text(data: Any) -> str:
    return json.dumps(data, ensure_ascii=False, separators=(",", ":"))


def _rows_of(db: Session, student: t.Student) -> dict[str, list[Any]]:
    """The student's rows: own clips and all of them that shows this student. Reps of others in the same clips are theirs."""

    def all_of(model: Any, *where: Any) -> list[Any]:
        return list(db.scalars(select(model).where(*where).order_by(*model.__table__.primary_key)))

    clips = all_of(t.Clip, t.Clip.student_id == student.id)
    clip_ids = [clip.id for clip in clips]
    reviews = all_of(t.Review, t.Review.clip_id.in_(clip_ids))
    review_ids = [review.id for review in reviews]
    mine = sa.or_(t.RepRow.student_id.is_(None), t.RepRow.student_id == student.id)
    reps = all_of(t.RepRow, t.RepRow.review_id.in_(review_ids), mine)
    rep_ids = [rep.id for rep in reps]
    return {
        "adaptations": all_of(t.AdaptationRow, t.AdaptationRow.student_id == student.id),
        "notes": all_of(t.Note, t.Note.student_id == student.id),
        "feelings": all_of(t.Feeling, t.Feeling.student_id == student.id),
        "decisions": all_of(t.RungDecision, t.RungDecision.student_id == student.id),
        "clips": clips,
        "ties": all_of(t.ViewTie, t.ViewTie.clip_id.in_(clip_ids), t.ViewTie.other_id.in_(clip_ids)),
        "reviews": reviews,
        "reps": reps,
        "events": all_of(t.EventMark, t.EventMark.rep_id.in_(rep_ids)),
        "points": all_of(t.PointRow, t.PointRow.rep_id.in_(rep_ids)),
        "answers": all_of(t.Answer, t.Answer.rep_id.in_(rep_ids)),
        "overrules": all_of(t.OverruleRow, t.OverruleRow.rep_id.in_(rep_ids)),
        "corrections": all_of(t.Correction, t.Correction.rep_id.in_(rep_ids)),
        "revisions": all_of(t.Revision, t.Revision.review_id.in_(review_ids)),
        "said": all_of(t.SheetAnswer, t.SheetAnswer.review_id.in_(review_ids)),
        "consents": all_of(t.ConsentRow, t.ConsentRow.student_id == student.id),
        # What hangs on a clip or review of others stays with them.
        "sent": all_of(
            t.InboxRow,
            t.InboxRow.student_id == student.id,
            sa.or_(t.InboxRow.clip_id.is_(None), t.InboxRow.clip_id.in_(clip_ids)),
            sa.or_(t.InboxRow.review_id.is_(None), t.InboxRow.review_id.in_(review_ids)),
        ),
        "prescriptions": all_of(t.Prescription, t.Prescription.student_id == student.id),
        "practice": all_of(t.PracticeLog, t.PracticeLog.student_id == student.id),
        "floor": all_of(t.FloorNote, t.FloorNote.student_id == student.id),
        "layers": all_of(t.LayerWord, t.LayerWord.student_id == student.id),
        "eye": all_of(t.EyeAnswer, t.EyeAnswer.student_id == student.id),
        "judgements": all_of(t.JudgementRow, t.JudgementRow.rep_id.in_(rep_ids)),
        "reacted": all_of(t.ReactedRow, t.ReactedRow.rep_id.in_(rep_ids)),
    }
