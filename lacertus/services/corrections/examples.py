"""Right beside wrong: the same checkpoint done right, at the same event, beside a correction."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from lacertus.core.corrections.default_corrections import default_correction
from lacertus.core.corrections.example import Example, Source
from lacertus.core.corrections.marks import drawn
from lacertus.core.corrections.shapes import Shape
from lacertus.core.errors import BadInput
from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.review.judgement import Judgement
from lacertus.services.corrections import correct
from lacertus.services.errors import NotFound
from lacertus.services.people import consents
from lacertus.services.people.rights import Right, needs
from lacertus.services.review import loading
from lacertus.services.review.view import view_of
from lacertus.services.techniques import catalogue, figure
from lacertus.store import queue
from lacertus.store.media import Media, NoMedia, example_key, media, reference_film_key, reference_key
from lacertus.store.queue import DRAW_EXAMPLE
from lacertus.store.tables import Clip, Correction, JudgementRow, RepRow, Review, Student


@dataclass(frozen=True, kw_only=True)
class Choice:
    """What can stand beside a correction: whose picture, what is said under it, and where it comes from."""

    source: Source
    words: str
    rep: uuid.UUID | None = None


def choices(db: Session, academy: uuid.UUID, correction_id: uuid.UUID) -> list[Choice]:
    """What can stand beside a correction: the student's own best rep, another's who lends pictures, the studio's figure.

    Raises:
        NotFound: no such correction.
    """
    correction = correct.one(db, academy, correction_id)
    review = loading.load(db, academy, correction.review_id)
    rep = next(rep for rep in review.reps if rep.id == correction.rep_id)
    found: list[Choice] = []
    both: tuple[Literal["own", "other"], ...] = ("own", "other")
    for source in both:
        best = _best(db, review, rep, correction.checkpoint, source)
        if best is not None:
            found.append(best)
    if figure.can_show(catalogue.definition(rep.technique_version), rep.options or {}):
        found.append(Choice(source="reference", words="The studio’s figure"))
    return found


def _best(db: Session, review: Review, rep: RepRow, checkpoint: str, source: Literal["own", "other"]) -> Choice | None:
    """The rep in which the checkpoint was met by most: of this student, or of others who lend their pictures."""
    performer = rep.student_id or review.student_id
    technique = catalogue.definition(rep.technique_version)
    asked = technique.checkpoint(checkpoint)
    low, high = (asked.within if asked else None) or (None, None)
    rows = (
        select(JudgementRow, Clip, Student)
        .join(RepRow, RepRow.id == JudgementRow.rep_id)
        .join(Review, Review.id == JudgementRow.review_id)
        .join(Clip, Clip.id == Review.clip_id)
        .join(Student, Student.id == JudgementRow.student_id)
        .where(
            Review.academy_id == review.academy_id,
            JudgementRow.technique == technique.id,
            JudgementRow.checkpoint == checkpoint,
            JudgementRow.verdict == Verdict.MET.value,
            JudgementRow.view.is_(None),
            RepRow.side == rep.side,
            RepRow.id != rep.id,
            Clip.has_film,
        )
        .order_by(JudgementRow.filmed_on.desc())
        .limit(200)
    )
    own = JudgementRow.student_id == performer
    rows = rows.where(own if source == "own" else (~own & Student.lends_pictures))

    def room(value: float | None) -> float:
        if value is None:
            return 0.0
        return min(value - low if low is not None else float("inf"), high - value if high is not None else float("inf"))

    found = [
        (room(row.value), row.filmed_on, row, student)
        for row, _, student in db.execute(rows)
        if row.frames and (source == "own" or consents.allows(db, student, "sharing"))
    ]
    here = _in_this_review(review, rep, checkpoint) if source == "own" else None
    if found:
        _, on, row, student = max(found, key=lambda entry: (entry[0], entry[1]))
        whose = "Your rep" if source == "own" else f"{student.name}’s rep"
        return Choice(source=source, words=f"{whose} of {on.day} {on:%B}", rep=row.rep_id)
    return here


def _in_this_review(review: Review, rep: RepRow, checkpoint: str) -> Choice | None:
    """Another rep of the same clip in which it was met."""
    if not review.clip.has_film:
        return None
    for number, entry in enumerate(view_of(review).reps, 1):
        alike = entry.rep.technique_version_id == rep.technique_version_id and entry.rep.side == rep.side
        same = (entry.rep.student_id or review.student_id) == (rep.student_id or review.student_id)
        met = any(j.id == checkpoint and j.verdict is Verdict.MET and j.frames and j.view is None for j in entry.judgements)
        if alike and same and met and entry.rep.id != rep.id and entry.rep.blind_of is None:
            return Choice(source="own", words=f"Your rep {number} of this clip", rep=entry.rep.id)
    return None


@needs(Right.REVIEW)
def put_example(db: Session, academy: uuid.UUID, correction_id: uuid.UUID, source: Source | None) -> Correction:
    """Have the best of a source stand beside a correction; None takes it away.

    Raises:
        BadInput: there is none.
        Conflict: the review is finished.
    """
    review, correction = correct.open_one(db, academy, correction_id)
    if source is None:
        correction.example = None
        db.flush()
        return correction
    choice = next((choice for choice in choices(db, academy, correction_id) if choice.source == source), None)
    if choice is None:
        raise BadInput(
            "there is no such picture: no rep is known in which this was met and filmed, or its student does not lend it"
        )
    if choice.rep is not None:
        correction.example = _from_rep(db, academy, choice, choice.rep, correction.checkpoint)
    else:
        rep = next(rep for rep in review.reps if rep.id == correction.rep_id)
        whole = {"version": rep.technique_version_id, "options": rep.options or {}, "side": rep.side}
        correction.example = Example.model_validate({"source": source, "words": choice.words} | whole)
    queue.ask(db, DRAW_EXAMPLE, correction.id, review.clip_id)
    return correction


@needs(Right.REVIEW)
def put_rep(db: Session, academy: uuid.UUID, correction_id: uuid.UUID, choice: Choice) -> Correction:
    """Have a certain rep stand beside a correction.

    Raises:
        BadInput: the rep does not tell the checkpoint.
        Conflict: the review is finished.
    """
    review, correction = correct.open_one(db, academy, correction_id)
    assert choice.rep is not None
    entry = view_of(loading.load(db, academy, loading.review_id_of(db, academy, choice.rep))).rep(choice.rep)
    judgement = entry.judgement(correction.checkpoint)
    if judgement is None or not judgement.frames or judgement.view is not None:
        raise BadInput("that rep does not show this checkpoint: mark its events and points first. Nothing was changed")
    correction.example = _from_rep(db, academy, choice, choice.rep, correction.checkpoint)
    queue.ask(db, DRAW_EXAMPLE, correction.id, review.clip_id)
    return correction


def _from_rep(db: Session, academy: uuid.UUID, choice: Choice, rep_id: uuid.UUID, checkpoint: str) -> Example:
    """Clip, frame and what is drawn of a rep in which the checkpoint was met."""
    review = loading.load(db, academy, loading.review_id_of(db, academy, rep_id))
    entry = view_of(review).rep(rep_id)
    judgement = entry.judgement(checkpoint)
    assert judgement is not None
    frame, shapes = pictured_at(review, entry.rep, judgement)
    return Example(
        source=choice.source,
        words=choice.words,
        rep=rep_id,
        clip=review.clip_id,
        frame=frame,
        width=review.clip.width or 1,
        height=review.clip.height or 1,
        shapes=shapes,
    )


def pictured_at(review: Review, rep: RepRow, judgement: Judgement) -> tuple[int, tuple[Shape, ...]]:
    """The frame on which a rep shows a checkpoint, and what is drawn of it: as it is seen, with nothing wanted beside it."""
    entry = view_of(review).rep(rep.id)
    technique, scene = entry.technique, entry.scene
    asked = technique.asked(judgement.id)
    assert asked is not None
    made = default_correction(technique, asked, judgement, scene)
    marks = [mark.model_copy(update={"wanted": None}) for mark in made.marks if mark.kind not in ("force", "space")]
    shapes = drawn(marks, scene, range(made.first, made.last + 1))[made.frame - made.first]
    return made.frame, tuple(shapes)


def example_file(db: Session, academy: uuid.UUID, correction_id: uuid.UUID) -> tuple[Media, str]:
    """Where the picture beside a correction is stored.

    Raises:
        NotFound: there is none, it is not drawn yet, or the clip that it came from was deleted.
    """
    correction = correct.one(db, academy, correction_id)
    key = key_of(correction)
    if key is None:
        raise NotFound("There is no example picture for this correction, or it is still being drawn.")
    try:
        media().size(key)
    except NoMedia as error:
        raise NotFound("The clip that this picture came from was deleted.") from error
    return media(), key


def key_of(correction: Correction) -> str | None:
    """Where the picture beside a correction is stored; None where there is none yet."""
    found = correction.example
    if found is None or not found.ready:
        return None
    if found.source == "reference":
        return None if found.name is None else reference_key(found.name)
    return None if found.clip is None else example_key(found.clip, correction.id)


def film_of(correction: Correction) -> str | None:
    """Where the film of what stands beside a correction is stored; None where there is none."""
    found = correction.example
    return reference_film_key(found.name) if found is not None and found.film and found.name is not None else None


def example_film(db: Session, academy: uuid.UUID, correction_id: uuid.UUID) -> tuple[Media, str]:
    """Where the film of what stands beside a correction is stored.

    Raises:
        NotFound: it is no figure of the studio's, or not filmed yet.
    """
    key = film_of(correct.one(db, academy, correction_id))
    if key is None:
        raise NotFound("There is no film beside this correction.")
    return media(), key


# --- what the worker does -----------------------------------------------------------------------


@dataclass(frozen=True, kw_only=True)
class Wanted:
    """The example that is to be drawn, of which checkpoint, and at what time of its clip where it is of one."""

    example: Example
    checkpoint: str
    time_s: float | None


def wanted(db: Session, correction_id: uuid.UUID) -> Wanted | None:
    """What is to stand beside a correction; None where it was taken away meanwhile."""
    correction = db.get(Correction, correction_id)
    if correction is None or correction.example is None or correction.example.ready:
        return None
    found = correction.example
    if found.clip is None or found.frame is None:
        return Wanted(example=found, checkpoint=correction.checkpoint, time_s=None)
    clip = db.scalar(select(Clip).where(Clip.id == found.clip).options(joinedload(Clip.student)))
    if clip is None:
        return None
    return Wanted(example=found, checkpoint=correction.checkpoint, time_s=correct.middle_of(clip, found.frame))


def note_ready(db: Session, correction_id: uuid.UUID, drawn: Example) -> bool:
    """Say that the picture is there, unless another one was chosen meanwhile; False where none of its clip is wanted now."""
    correction = db.get(Correction, correction_id)
    if correction is None:
        return False
    db.execute(select(Review.id).where(Review.id == correction.review_id).with_for_update())
    db.refresh(correction)
    now = correction.example
    if now is not None and (now.source, now.rep, now.version) == (drawn.source, drawn.rep, drawn.version):
        correction.example = drawn.model_copy(update={"ready": True})
    return now is not None and now.clip == drawn.clip
