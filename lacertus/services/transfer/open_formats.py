"""What goes out of a review in open formats, and tracks that come in."""

from __future__ import annotations

import uuid
from datetime import UTC, date, datetime
from typing import Any

from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.measuring.repfile import RepFile, read_rep
from lacertus.core.review.reference import FrameOfReference
from lacertus.core.sheets.sheet import Sheet
from lacertus.jsonfile import parse_json
from lacertus.outputs.calendar import due_calendar
from lacertus.outputs.captions import vtt
from lacertus.outputs.coco import bodies_of, coco_of
from lacertus.outputs.measures import MeasureRow, measures_csv
from lacertus.services.people import people
from lacertus.services.people.rights import Right, needs
from lacertus.services.review import loading, reference
from lacertus.services.review.view import view_of
from lacertus.services.sheets import sheet
from lacertus.services.transfer import rep_files
from lacertus.store.tables import Review


def measures(db: Session, academy: uuid.UUID, review_id: uuid.UUID) -> str:
    """Every checkpoint of every rep of a review as CSV."""
    review = loading.load(db, academy, review_id)
    rows = []
    number = 0
    technique_of = {rep.id: technique for rep, technique in view_of(review).asked}
    for entry in view_of(review).reps:
        rep = entry.rep
        if rep.blind_of is not None:
            continue
        number += 1
        performer = people.student(db, academy, rep.student_id or review.student_id)
        for j in entry.judgements:
            low, high = j.within or (None, None)
            rows.append(
                MeasureRow(
                    student=performer.name,
                    filmed_on=review.clip.filmed_on.isoformat(),
                    clip=review.clip.name,
                    technique=technique_of[rep.id].id,
                    version=rep.technique_version.version,
                    rep=number,
                    first_frame=rep.first_frame,
                    last_frame=rep.last_frame,
                    side=rep.side,
                    pace=rep.pace or "",
                    rung=rep.rung or "",
                    purpose=rep.purpose or "",
                    phase=j.phase,
                    checkpoint=j.id,
                    kind=j.kind,
                    verdict=j.verdict.value,
                    measured="" if j.measured is None else j.measured.value,
                    value=j.value,
                    unit=j.unit or "",
                    uncertainty=j.uncertainty,
                    wanted_low=low,
                    wanted_high=high,
                    frames=" ".join(str(frame) for frame in j.frames),
                    view=j.view or "",
                    fault=j.fault,
                    safety=j.safety,
                    reason=j.because or j.reason or "",
                )
            )
    return measures_csv(rows)


def rep_json(db: Session, academy: uuid.UUID, rep_id: uuid.UUID) -> dict[str, Any]:
    """A rep as a rep file; what is not known is left out, as no camera motion is not a still camera."""
    _review, file = _rep(db, academy, rep_id)
    return file.model_dump(mode="json", by_alias=True, exclude_unset=True)


def rep_coco(db: Session, academy: uuid.UUID, rep_id: uuid.UUID) -> dict[str, Any]:
    """A rep's points as COCO person keypoints."""
    review, file = _rep(db, academy, rep_id)
    return coco_of(file.bodies, file.size, review.clip.name)


def _rep(db: Session, academy: uuid.UUID, rep_id: uuid.UUID) -> tuple[Review, RepFile]:
    review = loading.load(db, academy, loading.review_id_of(db, academy, rep_id))
    return review, loading.rep_file(review, next(rep for rep in review.reps if rep.id == rep_id))


def corrections_vtt(db: Session, academy: uuid.UUID, review_id: uuid.UUID) -> str:
    """The cues of a review's corrections at the times of the clip itself, as WebVTT."""
    review = loading.load(db, academy, review_id)
    times = review.clip.pts_s or []
    end = review.clip.duration_s or (times[-1] if times else 0.0)
    cues = [
        (times[c.first_frame], times[c.last_frame + 1] if c.last_frame + 1 < len(times) else end, c.cue) for c in review.corrections
    ]
    return vtt(sorted(cues))


def schedule(db: Session, academy: uuid.UUID, review_id: uuid.UUID) -> bytes:
    """When the next clip is due, as iCalendar.

    Raises:
        NotFound: the review has not been finished.
    """
    review, revision = sheet.latest(db, academy, review_id)
    return calendar_of(Sheet.model_validate(revision.sheet), review.id, revision.created_at)


def calendar_of(found: Sheet, review: uuid.UUID, stamp: datetime) -> bytes:
    on = date.fromisoformat(found.next_on) if found.next_on else datetime.now(UTC).date()
    work = "; ".join(f"{fix.ask}: {fix.cues[0]}" for fix in found.fixes)
    return due_calendar(str(review), on, f"Film again: {', '.join(found.techniques)}", work, stamp)


# --- in ---------------------------------------------------------------------------------------------


def parsed(content: bytes) -> Any:
    """JSON that was sent in.

    Raises:
        BadInput: it is none, or over a limit.
    """
    return parse_json(content, "the file")


@needs(Right.REVIEW)
def bring_rep(db: Session, academy: uuid.UUID, review_id: uuid.UUID, data: Any) -> Review:
    """Add a rep file as a rep of a review; the first one brings its frame of reference and heights with it.

    Raises:
        BadInput: it is no rep file, or of another clip.
    """
    file = read_rep(data)
    review = loading.for_change(db, academy, review_id)
    if not review.reps and review.reference == FrameOfReference():
        reference.adopt(review, file)
    return rep_files.add_reps(db, academy, review_id, [file])


@needs(Right.REVIEW)
def bring_tracks(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, data: Any) -> int:
    """Put tracks on a rep, from a rep file, its `bodies` alone, or COCO person keypoints; returns how many points.

    Raises:
        BadInput: it is none of these, of another skeleton, or of another clip.
    """
    _review, file = _rep(db, academy, rep_id)
    if isinstance(data, dict) and "annotations" in data:
        bodies = bodies_of(data, file.size, len(file.pts_s))
    elif isinstance(data, dict) and "lacertus_rep" in data:
        given = read_rep(data)
        if (given.size, len(given.pts_s)) != (file.size, len(file.pts_s)):
            raise BadInput("these tracks were read from another clip: its size or its number of frames differs")
        bodies = given.bodies
    else:
        raise BadInput("tracks come as a rep file (lacertus_rep) or as COCO person keypoints (annotations); this is neither")
    return rep_files.bring_tracks(db, academy, rep_id, bodies)
