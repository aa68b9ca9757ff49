"""The sheet of a review: what the student takes home, put together when the review is finished and kept with that revision."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from datetime import date, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session, object_session

from lacertus.core.phrases import Say
from lacertus.core.progress.fix_first import Fix
from lacertus.core.review.judgement import Judgement
from lacertus.core.sheets.phrases import Phrase
from lacertus.core.sheets.sheet import Picture, Sheet, SheetFix, choice_words, drills_for, good_of, numbers_of
from lacertus.core.techniques.definition import Technique
from lacertus.library.cautions import caution_text
from lacertus.outputs.languages import Language, language
from lacertus.services.corrections import correct
from lacertus.services.errors import NotFound
from lacertus.services.progress import ledger
from lacertus.services.review import loading
from lacertus.services.review.view import JudgedRep, view_of
from lacertus.services.techniques import catalogue
from lacertus.store.tables import Academy, Account, Correction, Review, Revision, Student

DEFAULT_RECHECK_DAYS = 14
"""When the next clip is due where the ledger asks for none: as after a fault that was missed once (docs/measurement.md)."""
MOST_PICTURES = 2
"""So many corrections of a fix are shown; more do not fit two pages."""


def sheet_of(review: Review) -> Sheet:
    """The sheet of a review as it is now."""
    db = object_session(review)
    assert db is not None
    words = review.words
    view = view_of(review)
    counted = [entry for entry in view.reps if entry.counts]
    # Several pairs may be in one clip: what others did is not this student's to take home.
    mine = [entry for entry in counted if entry.rep.student_id in (None, review.student_id)]
    by_technique: dict[str, Technique] = {}
    for entry in mine:
        by_technique.setdefault(entry.rep.technique_version.technique, catalogue.definition(entry.rep.technique_version))
    fixes = view.fixes_of(mine).first
    student = db.get(Student, review.student_id)
    academy = db.get(Academy, review.academy_id)
    assert student is not None and academy is not None
    tongue = language_of(student, academy)
    say = tongue.say
    recheck = _recheck(db, review, fixes, mine, say)
    good = [line for line in words.good.splitlines() if line.strip()]
    for technique in by_technique.values():
        if not words.good.strip():
            own = [entry.judgements for entry in mine if entry.rep.technique_version.technique == technique.id]
            good += good_of(technique, own, say)
    coach = db.get(Account, review.account_id) if review.account_id else None
    return Sheet(
        language=tongue.code,
        academy=academy.name,
        coach=coach.name if coach else "",
        student=student.name,
        filmed_on=review.clip.filmed_on.isoformat(),
        techniques=tuple(technique.names.main for technique in by_technique.values()),
        reps=len(mine),
        good=tuple(good[:4]),
        choice=choice_words([entry.choice for entry in mine], say),
        fixes=tuple(
            _fix(review, fix, by_technique[fix.technique], mine, student, tongue) for fix in fixes if fix.technique in by_technique
        ),
        question=review.clip.naming.question,
        answer=words.answer,
        next_on=words.next_on or recheck[0].isoformat(),
        next_why="" if words.next_on else recheck[1],
        cautions=tuple(dict.fromkeys(say(caution_text(key)) for technique in by_technique.values() for key in technique.cautions)),
        note=words.note,
    )


def language_of(student: Student, academy: Academy) -> Language:
    """In which language a student reads: their own, else the academy's."""
    return language(student.language or academy.sheet_language)


def _recheck(db: Session, review: Review, fixes: Sequence[Fix], mine: Sequence[JudgedRep], say: Say) -> tuple[date, str]:
    """When to film again, and why then: the earliest recheck of what is to be fixed."""
    on = review.clip.filmed_on
    due: list[date] = []
    for fix in fixes:
        earlier = ledger.sessions_of(db, review.student_id, fix.technique, on, review.id)
        earlier.setdefault(fix.checkpoint, [])
        reps = [entry.judgements for entry in mine if entry.rep.technique_version.technique == fix.technique]
        found = ledger.with_reps({fix.checkpoint: earlier[fix.checkpoint]}, reps, on, fresh=True).get(fix.checkpoint)
        if found is not None and found.recheck is not None:
            due.append(date.fromordinal(found.recheck))
    # What had cleared long ago would be rechecked in months; but it was missed now, and is to be worked on.
    latest = on + timedelta(days=DEFAULT_RECHECK_DAYS)
    if not due or min(due) >= latest:
        return latest, say(Phrase.SEEN_AGAIN)
    return min(due), say(Phrase.LOOKED_AT_AGAIN)


def _fix(review: Review, fix: Fix, technique: Technique, mine: Sequence[JudgedRep], student: Student, tongue: Language) -> SheetFix:
    asked = technique.asked(fix.checkpoint)
    assert asked is not None
    own: list[tuple[int, Judgement]] = []
    for number, entry in enumerate(mine, 1):
        if entry.rep.technique_version.technique == technique.id:
            own += [(number, j) for j in entry.judgements if j.id == fix.checkpoint]
    drawn = [c for c in review.corrections if c.checkpoint == fix.checkpoint and _of(review, c, technique.id)]
    cues = dict.fromkeys(correction.cue for correction in drawn) or dict.fromkeys([fix.cue])
    return SheetFix(
        technique=technique.id,
        technique_name=technique.names.main,
        checkpoint=fix.checkpoint,
        ask=asked.ask,
        fault=fix.fault,
        cues=tuple(cues)[:2],
        why=asked.why,
        # The rules say why in English alone; a coach's own words stay as they are.
        reason=fix.why or (fix.reason if tongue.code == "en" else ""),
        numbers=numbers_of(own, tongue.say),
        pictures=tuple(picture for correction in drawn[:MOST_PICTURES] for picture in _pictures(review, correction, tongue.say)),
        drills=drills_for(technique, fix.fault, student.side_policy, tongue.say),
        safety=asked.safety,
        entry=asked.entry,
    )


def _of(review: Review, correction: Correction, technique: str) -> bool:
    rep = next(rep for rep in review.reps if rep.id == correction.rep_id)
    return rep.technique_version.technique == technique and rep.student_id in (None, review.student_id)


def _pictures(review: Review, correction: Correction, say: Say) -> list[Picture]:
    """The frame with its marks, and what stands beside it."""
    rep = next(rep for rep in review.reps if rep.id == correction.rep_id)
    number = [entry.id for entry in review.reps if entry.blind_of is None].index(rep.id) + 1
    shown = correct.shown_of(correction, correct.scene_of(review, rep))
    found = [
        Picture(
            correction=str(correction.id),
            of="still",
            width=review.clip.width or 1,
            height=review.clip.height or 1,
            caption=say(Phrase.REP_AND_FRAME).format(number=number, frame=correction.frame),
            shapes=correct.shapes_at(shown, correction.frame),
        )
    ]
    example = correction.example
    if example:
        found.append(
            Picture(
                correction=str(correction.id),
                of="beside",
                width=example.width or 960,
                height=example.height or 540,
                caption=say(Phrase.THIS_IS_HOW).format(whose=example.words),
                shapes=example.shapes,
            )
        )
    return found


def latest(db: Session, academy: uuid.UUID, review_id: uuid.UUID) -> tuple[Review, Revision]:
    """A review and its newest revision.

    Raises:
        NotFound: no such review, or it has not been finished yet.
    """
    review = loading.load(db, academy, review_id)
    newest = select(Revision).where(Revision.review_id == review_id).order_by(Revision.number.desc()).limit(1)
    found = db.scalar(newest)
    if found is None:
        raise NotFound("This review has not been finished yet: finish it, and its sheet is there.")
    return review, found
