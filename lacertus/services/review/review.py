"""A review of a clip: cutting reps, marking events, placing points, answering by eye."""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, object_session

from lacertus.core.errors import BadInput
from lacertus.core.measuring.body import BODIES, LANDMARKS
from lacertus.core.measuring.measures import KINDS
from lacertus.core.measuring.repfile import Marking
from lacertus.core.progress.fix_first import MOST, Choice, FixChoice, as_chosen
from lacertus.core.review.asking import check_fits
from lacertus.services.clips import intake
from lacertus.services.errors import Conflict
from lacertus.services.people import consents, people
from lacertus.services.people.rights import Right, check, needs
from lacertus.services.review import blind_remarking
from lacertus.services.review.cuts import RepChanges, RepCut
from lacertus.services.review.kept.held import put_back
from lacertus.services.review.loading import (
    fitted_to,
    for_change,
    load,
    rep_file,
    review_id_of,
    review_of_rep,
)
from lacertus.services.review.view import view_of
from lacertus.services.techniques import catalogue, starts
from lacertus.store.tables import Answer, Clip, EventMark, OverruleRow, PointRow, RepRow, Review, TechniqueVersion

MOST_REPS = 60


def open_review(db: Session, academy: uuid.UUID, clip_id: uuid.UUID, account: uuid.UUID | None = None) -> Review:
    """The review of a clip, started if there is none; whoever starts it (`account`) marks as closely as was measured.

    Everybody may look at one that is there.

    Raises:
        Conflict: the clip has not been read, or nobody has said whose it is.
        NotAllowed: there is none, and whoever asks may start none.
    """
    clip, student = intake.named_clip(db, academy, clip_id)
    there = db.scalar(select(Review.id).where(Review.clip_id == clip.id))
    if there is not None:
        return load(db, academy, there)
    check(db, Right.REVIEW)
    start = insert(Review).values(
        id=uuid.uuid4(),
        academy_id=academy,
        clip_id=clip.id,
        student_id=student,
        account_id=account,
        marking=blind_remarking.marking_of(db, account) if account else Marking(),
        heights_px={},
        proposals=clip.proposals,
    )
    db.execute(start.on_conflict_do_nothing(index_elements=["clip_id"]))
    review_id = db.scalar(select(Review.id).where(Review.clip_id == clip.id))
    assert review_id is not None
    return load(db, academy, review_id)


def checked(review: Review) -> Review:
    """The review itself, with every rep checked against its clip and its technique.

    Raises:
        BadInput: one does not fit.
    """
    for rep in review.reps:
        check_rep(review, rep)
    return review


# --- reps -----------------------------------------------------------------------------------------


@needs(Right.REVIEW)
def cut_rep(
    db: Session, academy: uuid.UUID, review_id: uuid.UUID, technique: str, cut: RepCut, rep_id: uuid.UUID | None = None
) -> RepRow:
    """Cut a rep: a range of frames with technique, side and how it was done.

    With the id of a rep that is there already, that one is changed: sending a cut twice cuts once.

    Raises:
        BadInput: the range does not fit the clip, or the technique has no such option or rung.
        NotFound: no such technique.
    """
    review = for_change(db, academy, review_id)
    if rep_id is not None and any(rep.id == rep_id for rep in review.reps):
        return change_rep(db, academy, rep_id, RepChanges.model_validate(cut.model_dump()))
    if len(review.reps) >= MOST_REPS:
        raise Conflict(f"A review holds at most {MOST_REPS} reps.")
    if rep_id is not None and db.get(RepRow, rep_id) is not None:
        raise Conflict("This rep belongs to another review.")
    version = catalogue.newest(db, academy, technique)
    rep = RepRow(id=rep_id or uuid.uuid4(), review_id=review.id, technique_version_id=version.id, technique_version=version)
    rep.events, rep.points, rep.answers, rep.overrules = [], [], [], []
    _check_shown(db, academy, rep, cut)
    _check_link(review, rep, cut.linked_to)
    _apply(review, rep, cut.model_dump())
    check_rep(review, rep)
    db.add(rep)
    db.flush()
    return rep


@needs(Right.REVIEW)
def change_rep(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, changes: RepChanges) -> RepRow:
    """Change a rep's range or how it was done; events that fall outside are refused, not dropped.

    Raises:
        BadInput: as `cut_rep`, or an event would lie outside the new range.
    """
    review, rep = review_of_rep(db, academy, rep_id)
    _check_shown(db, academy, rep, changes)
    _check_link(review, rep, changes.linked_to)
    _apply(review, rep, changes.given)
    check_rep(review, rep)
    db.flush()
    return rep


def _check_link(review: Review, rep: RepRow, linked: uuid.UUID | None) -> None:
    """Raise BadInput where a rep is linked to one that is not another rep of its review."""
    if linked is not None and not any(other.id == linked and other.id != rep.id for other in review.reps):
        raise BadInput("a rep is linked to another rep of the same review: the partner’s fall to the throw")


def _check_shown(db: Session, academy: uuid.UUID, rep: RepRow, said: RepCut | RepChanges) -> None:
    """Raise NotFound where a rep’s performer or partner is no student here, and NoConsent where they are not to be filmed."""
    for one in {said.student_id, said.partner_student_id} - {None, rep.student_id, rep.partner_student_id}:
        assert one is not None
        consents.check(db, people.student(db, academy, one), "filming")


def _apply(review: Review, rep: RepRow, facts: Mapping[str, object]) -> None:
    """Set what is said of a rep; a bag has no name, and nobody is their own partner.

    Raises:
        BadInput: performer and partner are the same.
    """
    for name, value in facts.items():
        setattr(rep, name, value)
    if rep.partner != "person":
        rep.partner_student_id = None
    elif rep.partner_student_id is not None and rep.partner_student_id == (rep.student_id or review.student_id):
        raise BadInput("the partner of a rep is somebody else than its performer")


def check_rep(review: Review, rep: RepRow, *, with_points: bool = True) -> None:
    """Raise BadInput where a rep does not fit its clip or its technique; `with_points` where its points may have changed too."""
    technique = catalogue.definition(rep.technique_version)
    db = object_session(review)
    if rep.start is not None and db is not None and technique.start(rep.start) is None:
        technique = starts.with_made(technique, starts.made(db, review.academy_id, [technique.id]).get(technique.id, ()))
    check_fits(technique, rep_file(review, rep, with_points=with_points))


@needs(Right.REVIEW)
def delete_rep(db: Session, academy: uuid.UUID, rep_id: uuid.UUID) -> None:
    _, rep = review_of_rep(db, academy, rep_id)
    db.delete(rep)
    db.flush()


@needs(Right.REVIEW)
def set_proposals(db: Session, academy: uuid.UUID, review_id: uuid.UUID, cuts: Sequence[tuple[int, int]]) -> None:
    """Keep the cuts that are still proposed, after the coach has dragged, dropped or accepted some.

    Raises:
        BadInput: one lies outside the clip.
    """
    review = for_change(db, academy, review_id)
    frames = len(review.clip.pts_s or ())
    for first, last in cuts:
        if not 0 <= first <= last < frames:
            raise BadInput(f"the proposed cut {first}–{last} does not fit the clip’s frames 0–{frames - 1}")
    review.proposals = tuple(cuts)
    db.flush()


@needs(Right.REVIEW)
def make_start(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, frame: int) -> None:
    """Make a frame of a rep a start that the academy drills its technique from.

    Raises:
        BadInput: the frame lies outside the rep.
        NotFound: no such rep.
    """
    review = load(db, academy, review_id_of(db, academy, rep_id))
    rep = next(rep for rep in review.reps if rep.id == rep_id)
    if not rep.first_frame <= frame <= rep.last_frame:
        raise BadInput(f"frame {frame} lies outside the rep ({rep.first_frame}–{rep.last_frame})")
    events = {mark.event: mark.frames for mark in rep.events}
    starts.make(db, academy, catalogue.definition(rep.technique_version), rep.id, frame, events)


# --- events, points, answers ------------------------------------------------------------------------


@needs(Right.REVIEW)
def mark_event(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, event: str, frames: list[int] | None) -> None:
    """Mark an event's frames; an empty list says that it did not happen, None takes the mark away.

    Raises:
        BadInput: the technique has no such event, or a frame lies outside the rep.
    """
    review, rep = review_of_rep(db, academy, rep_id)
    if event not in catalogue.definition(rep.technique_version).events:
        raise BadInput(f"the technique has no event “{event}”")
    if frames is None:
        db.execute(delete(EventMark).where(EventMark.rep_id == rep.id, EventMark.event == event))
    else:
        mark = insert(EventMark).values(rep_id=rep.id, event=event, frames=frames)
        db.execute(mark.on_conflict_do_update(index_elements=["rep_id", "event"], set_={"frames": frames}))
    put_back(db, review, rep, "events", EventMark)
    # What does not fit is rolled back by the error. The points are as they were.
    check_rep(review, rep, with_points=False)


@dataclass(frozen=True, kw_only=True)
class Spot:
    """A landmark of a body on a frame."""

    body: str
    landmark: str
    frame: int


@needs(Right.REVIEW)
def place_point(
    db: Session,
    academy: uuid.UUID,
    rep_id: uuid.UUID,
    spot: Spot,
    x: float,
    y: float,
    hidden: bool = False,
    sigma: float | None = None,
    grain: float | None = None,
) -> None:
    """Place a landmark, in pixels of the displayed picture; a second time moves it. Without σ the joint's own counts, widened by
    the grain: how many picture pixels a pixel of the screen covered.

    Raises:
        BadInput: no such landmark or frame, or a place far outside the picture.
    """
    review, rep = review_of_rep(db, academy, rep_id)
    _check_spot(review.clip, spot, x, y)
    values = {"x": x, "y": y, "by": "placed", "hidden": hidden, "sigma": sigma, "grain": grain}
    place = insert(PointRow).values(rep_id=rep.id, body=spot.body, landmark=spot.landmark, frame=spot.frame, **values)
    keys = ["rep_id", "body", "landmark", "frame"]
    db.execute(place.on_conflict_do_update(index_elements=keys, set_=values))
    put_back(db, review, rep, "points", PointRow)


@needs(Right.REVIEW)
def remove_point(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, spot: Spot) -> None:
    review, rep = review_of_rep(db, academy, rep_id)
    db.execute(
        delete(PointRow).where(
            PointRow.rep_id == rep.id,
            PointRow.body == spot.body,
            PointRow.landmark == spot.landmark,
            PointRow.frame == spot.frame,
        )
    )
    put_back(db, review, rep, "points", PointRow)


def _check_spot(clip: Clip, spot: Spot, x: float, y: float) -> None:
    check_names(spot, len(clip.pts_s or ()))
    check_inside(clip, x, y)


def check_names(spot: Spot, frames: int) -> None:
    """Raise BadInput where there is no such body, landmark or frame."""
    if spot.body not in BODIES:
        raise BadInput(f"there is no body “{spot.body}”")
    if spot.landmark not in LANDMARKS:
        raise BadInput(f"“{spot.landmark}” is not a landmark")
    if not 0 <= spot.frame < frames:
        raise BadInput(f"frame {spot.frame} is not in the clip")


def check_inside(clip: Clip, x: float, y: float) -> None:
    """Raise BadInput for a place outside the picture."""
    if not (0 <= x <= (clip.width or 0) and 0 <= y <= (clip.height or 0)):
        raise BadInput(f"the place {x:g}, {y:g} lies outside the picture ({clip.width}×{clip.height}); nothing was stored")


@needs(Right.REVIEW)
def answer(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, checkpoint: str, yes: bool | None) -> None:
    """Answer a by-eye checkpoint, for whomever it is asked of; None takes the answer back.

    Raises:
        BadInput: the technique has no such by-eye checkpoint.
    """
    review, rep = review_of_rep(db, academy, rep_id)
    asked = catalogue.definition(rep.technique_version).checkpoint(checkpoint)
    if asked is None or not any(KINDS[measure.kind].by_eye for measure in asked.measures):
        raise BadInput(f"the technique has no by-eye checkpoint “{checkpoint}”")
    db.execute(delete(Answer).where(Answer.rep_id == rep.id, Answer.checkpoint == checkpoint))
    if yes is not None:
        db.add(Answer(rep_id=rep.id, checkpoint=checkpoint, asked_of=asked.asked_of, yes=yes))
    put_back(db, review, rep, "answers", Answer)


@needs(Right.REVIEW)
def overrule(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, checkpoint: str, verdict: str | None, reason: str = "") -> None:
    """Give a verdict in place of the measured one, with the reason; None goes back to what was measured.

    Raises:
        BadInput: the technique has no such checkpoint.
    """
    review, rep = review_of_rep(db, academy, rep_id)
    if catalogue.definition(rep.technique_version).asked(checkpoint) is None:
        raise BadInput(f"the technique has no checkpoint “{checkpoint}”")
    db.execute(delete(OverruleRow).where(OverruleRow.rep_id == rep.id, OverruleRow.checkpoint == checkpoint))
    if verdict is not None:
        db.add(OverruleRow(rep_id=rep.id, checkpoint=checkpoint, verdict=verdict, reason=reason))
    put_back(db, review, rep, "overrules", OverruleRow)


# --- judging and finishing --------------------------------------------------------------------------


def move_to(db: Session, review: Review, rep: RepRow, version: TechniqueVersion) -> None:
    """Have a rep judged by another version of its technique; what that one does not have falls away."""
    fits = fitted_to(catalogue.definition(version), rep_file(review, rep))
    rep.technique_version_id = version.id
    rep.options, rep.rung, rep.layer, rep.start = fits.options, fits.rung, fits.layer, fits.start
    rep.start_at, rep.end_at = fits.start_at, fits.end_at
    db.flush()


@needs(Right.REVIEW)
def choose_fixes(db: Session, academy: uuid.UUID, review_id: uuid.UUID, choices: Sequence[Choice], why: str) -> None:
    """Say what is to be fixed first in place of what is recommended, and why; no choices go back to that.

    Raises:
        BadInput: more than two, one twice, one that these reps were not judged by, or no reason.
        Conflict: the review is finished.
    """
    review = for_change(db, academy, review_id)
    if len(choices) > MOST or len(set(choices)) < len(choices):
        raise BadInput(f"at most {MOST} things are fixed first, each once")
    if choices and not why.strip():
        raise BadInput("say why you choose otherwise than is recommended")
    choice = FixChoice(choices=tuple(choices), why=why.strip())
    if len(as_chosen(view_of(review).groups_of(view_of(review).reps), choice)) < len(choices):
        raise BadInput("only what these reps were judged met or missed by can be fixed first")
    review.fix_choice = choice if choices else None
    db.flush()
