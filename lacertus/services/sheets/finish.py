"""Finishing a review, and revising it: what was finished is kept, and each revision says what changed."""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from typing import Annotated, Any

from pydantic import Field
from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from lacertus.core import bounds
from lacertus.core.corrections.marks import Mark
from lacertus.core.errors import BadRep
from lacertus.core.model import Record
from lacertus.core.texts import checked_text
from lacertus.services.corrections import correct
from lacertus.services.errors import Conflict
from lacertus.services.review import loading
from lacertus.services.review import review as reviewing
from lacertus.services.review.review import JudgedRep
from lacertus.services.sheets import sheet
from lacertus.store.tables import JudgementRow, Review, Revision

LONGEST_WHY = 400


def finish(db: Session, academy: uuid.UUID, review_id: uuid.UUID, account: uuid.UUID | None = None) -> Review:
    """Finish a review: its verdicts go into the ledger, and it is kept as it is, as a revision.

    Raises:
        BadInput: it has no rep, or no checkpoint of it was judged.
        Conflict: it is finished already.
    """
    review = loading.for_change(db, academy, review_id)
    reps = reviewing.judged(review)
    if not any(j.is_exposure for entry in reps for j in entry.judgements):
        raise BadRep("Nothing has been judged yet: cut a rep, mark its events and answer or measure a checkpoint first.")
    db.execute(delete(JudgementRow).where(JudgementRow.review_id == review.id))
    db.add_all(reviewing.ledger_rows(review, reps))
    review.finished_at = datetime.now(UTC)
    correct.note_drawn(review)
    keep(db, review, reps, account or review.account_id, review.reopened_why or "")
    review.reopened_why = None
    return review


def reopen(db: Session, academy: uuid.UUID, review_id: uuid.UUID, why: str) -> Review:
    """Open a finished review again, to revise it. The ledger and the sheet stay as they were finished until it is finished anew.

    Raises:
        BadInput: no reason is given.
        Conflict: it is open already.
    """
    review = loading.locked(db, academy, review_id)
    if review.finished_at is None:
        raise Conflict("This review is open already.")
    review.reopened_why = checked_text(why, "the reason", LONGEST_WHY)
    review.finished_at = None
    db.flush()
    return review


def change_words(
    db: Session, academy: uuid.UUID, review_id: uuid.UUID, words: Mapping[str, str], account: uuid.UUID | None = None
) -> None:
    """Change what the coach wrote for the sheet; of a finished review that makes a revision.

    Raises:
        BadInput: a text is too long, or no day.
    """
    review = loading.locked(db, academy, review_id)
    checked = sheet.checked_words(words)
    if checked == sheet.words_of(review):
        return
    review.words = checked
    db.flush()
    if review.finished_at is not None:
        keep(db, review, reviewing.judged(review), account, "the words on the sheet")


def note(db: Session, academy: uuid.UUID, review_id: uuid.UUID, account: uuid.UUID | None, why: str) -> None:
    """Keep a revision of a finished review whose verdicts were written anew."""
    review = loading.locked(db, academy, review_id)
    if review.finished_at is not None:
        keep(db, review, reviewing.judged(review), account, why)


def keep(db: Session, review: Review, reps: Sequence[JudgedRep], account: uuid.UUID | None, why: str) -> Revision:
    """Keep a review as it is now as its next revision, with what changed since the last."""
    newest = select(Revision).where(Revision.review_id == review.id).order_by(Revision.number.desc()).limit(1)
    before = db.scalar(newest)
    record = record_of(review, reps)
    revision = Revision(
        review_id=review.id,
        number=before.number + 1 if before else 1,
        account_id=account,
        why=why,
        changes=changes(before.record, record) if before else [],
        record=record,
        sheet=sheet.sheet_of(review, reps).model_dump(mode="json"),
    )
    db.add(revision)
    db.flush()
    return revision


def revisions(db: Session, review_id: uuid.UUID) -> list[Revision]:
    """The revisions of a review, the newest first."""
    return list(db.scalars(select(Revision).where(Revision.review_id == review_id).order_by(Revision.number.desc())))


class RecordedJudgement(Record):
    verdict: Annotated[str, Field(max_length=20)]
    value: Annotated[float, Field(ge=-1e9, le=1e9)] | None
    u: Annotated[float, Field(ge=0, le=1e9)] | None
    unit: bounds.Word | None


class RecordedRep(Record):
    id: uuid.UUID
    frames: tuple[int, int]
    technique: bounds.Word
    version: Annotated[int, Field(ge=1, le=1_000_000)]
    judgements: dict[bounds.Word, RecordedJudgement]


class RecordedCorrection(Record):
    id: uuid.UUID
    rep: uuid.UUID
    checkpoint: bounds.Word
    frame: int
    cue: Annotated[str, Field(max_length=200)]
    marks: Annotated[list[Mark], Field(max_length=50)]


class RevisionRecord(Record):
    """What a revision keeps of a review: verdict, value and u of each checkpoint, corrections, what to fix first, words."""

    reps: Annotated[list[RecordedRep], Field(max_length=200)]
    corrections: Annotated[list[RecordedCorrection], Field(max_length=200)]
    fix_first: Annotated[list[bounds.Word], Field(max_length=10)]
    words: Annotated[dict[bounds.Word, Annotated[str, Field(max_length=4000)]], Field(max_length=20)]


def record_of(review: Review, reps: Sequence[JudgedRep]) -> dict[str, Any]:
    """What a revision keeps, as JSON that `RevisionRecord` reads."""
    fixes = reviewing.fixes(review, list(reps)).first
    return {
        "reps": [
            {
                "id": str(entry.rep.id),
                "frames": [entry.rep.first_frame, entry.rep.last_frame],
                "technique": entry.rep.technique_version.technique,
                "version": entry.rep.technique_version.version,
                "judgements": {
                    j.id: {"verdict": j.verdict.value, "value": j.value, "u": j.uncertainty, "unit": j.unit}
                    for j in entry.judgements
                },
            }
            for entry in reps
            if entry.rep.blind_of is None
        ],
        "corrections": [
            {"id": str(c.id), "rep": str(c.rep_id), "checkpoint": c.checkpoint, "frame": c.frame, "cue": c.cue, "marks": c.marks}
            for c in review.corrections
        ],
        "fix_first": [fix.checkpoint for fix in fixes],
        "words": sheet.words_of(review),
    }


def changes(before: Mapping[str, Any], after: Mapping[str, Any]) -> list[str]:
    """What differs between two records, in sentences."""
    found: list[str] = []
    old, new = ({rep["id"]: (number, rep) for number, rep in enumerate(record["reps"], 1)} for record in (before, after))
    for key, (number, rep) in new.items():
        if key not in old:
            found.append(f"Rep {number} was added.")
            continue
        was = old[key][1]
        if was["frames"] != rep["frames"]:
            found.append(f"Rep {number} was cut anew: frames {_span(was)}, now {_span(rep)}.")
        if was["version"] != rep["version"]:
            found.append(f"Rep {number} is judged by version {rep['version']} of its technique, before by {was['version']}.")
        for name in {**was["judgements"], **rep["judgements"]}:
            a, b = (r["judgements"].get(name, {}).get("verdict", "not asked") for r in (was, rep))
            if a != b:
                found.append(f"Rep {number}, {_spoken(name)}: {_spoken(a)} became {_spoken(b)}.")
    found += [f"Rep {number} was taken away." for key, (number, _) in old.items() if key not in new]
    drawn_before, drawn = ({c["id"]: c for c in record["corrections"]} for record in (before, after))
    for key in {**drawn_before, **drawn}:
        a, b = drawn_before.get(key), drawn.get(key)
        if a is None and b is not None:
            found.append(f"A correction of {_spoken(b['checkpoint'])} was drawn.")
        elif b is None and a is not None:
            found.append(f"The correction of {_spoken(a['checkpoint'])} was taken away.")
        elif a != b and a is not None:
            found.append(f"The correction of {_spoken(a['checkpoint'])} was changed.")
    if before["fix_first"] != after["fix_first"]:
        found.append("What to fix first: " + (", then ".join(_spoken(name) for name in after["fix_first"]) or "nothing") + ".")
    if before["words"] != after["words"]:
        found.append("The words on the sheet were changed.")
    return found


def _span(rep: Mapping[str, Any]) -> str:
    return f"{rep['frames'][0]}–{rep['frames'][1]}"


def _spoken(key: str) -> str:
    return key.replace("_", " ")


def count(db: Session, review_id: uuid.UUID) -> int:
    """How often a review was finished."""
    return db.scalar(select(func.count()).where(Revision.review_id == review_id)) or 0
