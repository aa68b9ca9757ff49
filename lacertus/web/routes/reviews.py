"""The bench: reps, events, points, answers. Every change answers with the review judged anew."""

from __future__ import annotations

import uuid

from fastapi import APIRouter
from sqlalchemy.orm import Session

from lacertus.core.fixfirst import Choice
from lacertus.jobs import queue
from lacertus.services import carrying, reference, repeat, stored, techniques
from lacertus.services import finish as finishing
from lacertus.services import rejudge as rejudging
from lacertus.services import review as reviewing
from lacertus.services.people import Coach
from lacertus.services.review import Spot
from lacertus.web import schemas as s
from lacertus.web import shapes
from lacertus.web.guard import Db, SignedIn

router = APIRouter(tags=["review"])
MAY_BE_EMPTY = ("rung", "student_id", "linked_to", *stored.REP_FACTS)


def answer_review(db: Session, coach: Coach, review_id: uuid.UUID) -> s.ReviewOut:
    db.flush()
    return shapes.review_out(stored.load(db, coach.academy_id, review_id))


def answer_rep(db: Session, coach: Coach, rep_id: uuid.UUID) -> s.ReviewOut:
    review, _ = stored.review_of_rep(db, coach.academy_id, rep_id)
    return answer_review(db, coach, review.id)


@router.get("/techniques")
def read_techniques(coach: SignedIn, db: Db) -> list[s.TechniqueOut]:
    return [shapes.technique_out(version) for version in techniques.offered(db, coach.academy_id)]


@router.get("/reviews/{review_id}")
def read_review(review_id: uuid.UUID, coach: SignedIn, db: Db) -> s.ReviewOut:
    return answer_review(db, coach, review_id)


@router.post("/reviews/{review_id}/finish")
def finish_review(review_id: uuid.UUID, coach: SignedIn, db: Db) -> s.ReviewOut:
    """Finish a review: its verdicts go into the ledger and it is kept as it is."""
    finishing.finish(db, coach.academy_id, review_id, coach.id)
    return answer_review(db, coach, review_id)


@router.get("/reviews/{review_id}/newer")
def read_newer(review_id: uuid.UUID, coach: SignedIn, db: Db) -> s.NewerOut:
    """Whether newer versions of the review's techniques are there, and which verdicts they would change."""
    newer, differences = rejudging.newer(db, coach.academy_id, review_id)
    return s.NewerOut(
        newer=[s.NewerTechniqueOut.model_validate(entry) for entry in newer],
        differences=[s.DifferenceOut.model_validate(entry) for entry in differences],
    )


@router.post("/reviews/{review_id}/rejudge")
def rejudge(review_id: uuid.UUID, coach: SignedIn, db: Db) -> s.ReviewOut:
    """Judge the review by the newest versions; a finished one's part of the ledger is written anew."""
    rejudging.rejudge(db, coach.academy_id, review_id)
    finishing.note(db, coach.academy_id, review_id, coach.id, "judged by newer versions of its techniques")
    return answer_review(db, coach, review_id)


@router.post("/reviews/{review_id}/reopen")
def reopen_review(review_id: uuid.UUID, form: s.WhyIn, coach: SignedIn, db: Db) -> s.ReviewOut:
    """Open a finished review again, to revise it; ledger and sheet stay as they are until it is finished anew."""
    finishing.reopen(db, coach.academy_id, review_id, form.why)
    return answer_review(db, coach, review_id)


@router.put("/reviews/{review_id}/heights/{body}")
def set_height(review_id: uuid.UUID, body: s.Name, form: s.HeightIn, coach: SignedIn, db: Db) -> s.ReviewOut:
    """A body's standing height in the picture, in pixels."""
    reference.set_height(db, coach.academy_id, review_id, body, form.px)
    return answer_review(db, coach, review_id)


@router.put("/reviews/{review_id}/proposals")
def set_proposals(review_id: uuid.UUID, form: s.ProposalsIn, coach: SignedIn, db: Db) -> s.ReviewOut:
    """Keep the cuts that are still proposed, after some were dragged, dropped or accepted."""
    reviewing.set_proposals(db, coach.academy_id, review_id, [(cut.first, cut.last) for cut in form.cuts])
    return answer_review(db, coach, review_id)


@router.put("/reviews/{review_id}/fix-first")
def choose_fixes(review_id: uuid.UUID, form: s.FixesIn, coach: SignedIn, db: Db) -> s.ReviewOut:
    """Choose what is fixed first in place of what is recommended, and say why."""
    choices = [Choice(technique=choice.technique, checkpoint=choice.checkpoint) for choice in form.choices]
    reviewing.choose_fixes(db, coach.academy_id, review_id, choices, form.why)
    return answer_review(db, coach, review_id)


@router.put("/reviews/{review_id}/reps/{rep_id}")
def cut_rep(review_id: uuid.UUID, rep_id: uuid.UUID, form: s.RepIn, coach: SignedIn, db: Db) -> s.ReviewOut:
    """Cut a rep under an id of the sender's making, so that sending it again cuts it once."""
    reviewing.cut_rep(db, coach.academy_id, review_id, form.technique, form.model_dump(exclude={"technique"}), rep_id)
    return answer_review(db, coach, review_id)


@router.patch("/reps/{rep_id}")
def change_rep(rep_id: uuid.UUID, form: s.RepChange, coach: SignedIn, db: Db) -> s.ReviewOut:
    given = form.model_dump(exclude_unset=True)
    # These may be emptied; for the rest null means “leave it”.
    facts = {key: value for key, value in given.items() if value is not None or key in MAY_BE_EMPTY}
    reviewing.change_rep(db, coach.academy_id, rep_id, facts)
    return answer_rep(db, coach, rep_id)


@router.delete("/reps/{rep_id}")
def delete_rep(rep_id: uuid.UUID, coach: SignedIn, db: Db) -> s.ReviewOut:
    review, _ = stored.review_of_rep(db, coach.academy_id, rep_id)
    reviewing.delete_rep(db, coach.academy_id, rep_id)
    return answer_review(db, coach, review.id)


@router.put("/reps/{rep_id}/events/{event}")
def mark_event(rep_id: uuid.UUID, event: s.Name, form: s.EventIn, coach: SignedIn, db: Db) -> s.ReviewOut:
    reviewing.mark_event(db, coach.academy_id, rep_id, event, form.frames)
    return answer_rep(db, coach, rep_id)


@router.delete("/reps/{rep_id}/events/{event}")
def unmark_event(rep_id: uuid.UUID, event: s.Name, coach: SignedIn, db: Db) -> s.ReviewOut:
    reviewing.mark_event(db, coach.academy_id, rep_id, event, None)
    return answer_rep(db, coach, rep_id)


@router.put("/reps/{rep_id}/points/{body}/{landmark}/{frame}")
def place_point(
    rep_id: uuid.UUID, body: s.Name, landmark: s.Name, frame: s.Frame, form: s.PointIn, coach: SignedIn, db: Db
) -> s.ReviewOut:
    """Place a landmark on a frame, or move it."""
    spot = Spot(body=body, landmark=landmark, frame=frame)
    reviewing.place_point(db, coach.academy_id, rep_id, spot, form.x, form.y, form.hidden, form.sigma, form.grain)
    carrying.mend(db, coach.academy_id, rep_id, body, landmark)
    return answer_rep(db, coach, rep_id)


@router.delete("/reps/{rep_id}/points/{body}/{landmark}/{frame}")
def remove_point(rep_id: uuid.UUID, body: s.Name, landmark: s.Name, frame: s.Frame, coach: SignedIn, db: Db) -> s.ReviewOut:
    reviewing.remove_point(db, coach.academy_id, rep_id, Spot(body=body, landmark=landmark, frame=frame))
    carrying.mend(db, coach.academy_id, rep_id, body, landmark)
    return answer_rep(db, coach, rep_id)


@router.put("/reps/{rep_id}/answers/{checkpoint}")
def answer(rep_id: uuid.UUID, checkpoint: s.Name, form: s.AnswerIn, coach: SignedIn, db: Db) -> s.ReviewOut:
    """Answer a by-eye checkpoint."""
    reviewing.answer(db, coach.academy_id, rep_id, checkpoint, form.yes)
    return answer_rep(db, coach, rep_id)


@router.delete("/reps/{rep_id}/answers/{checkpoint}")
def take_answer_back(rep_id: uuid.UUID, checkpoint: s.Name, coach: SignedIn, db: Db) -> s.ReviewOut:
    reviewing.answer(db, coach.academy_id, rep_id, checkpoint, None)
    return answer_rep(db, coach, rep_id)


@router.put("/reps/{rep_id}/overrules/{checkpoint}")
def overrule(rep_id: uuid.UUID, checkpoint: s.Name, form: s.OverruleIn, coach: SignedIn, db: Db) -> s.ReviewOut:
    """Give a verdict in place of the measured one, with the reason; both are kept."""
    reviewing.overrule(db, coach.academy_id, rep_id, checkpoint, form.verdict, form.reason)
    return answer_rep(db, coach, rep_id)


@router.delete("/reps/{rep_id}/overrules/{checkpoint}")
def take_overrule_back(rep_id: uuid.UUID, checkpoint: s.Name, coach: SignedIn, db: Db) -> s.ReviewOut:
    reviewing.overrule(db, coach.academy_id, rep_id, checkpoint, None)
    return answer_rep(db, coach, rep_id)


@router.post("/reps/{rep_id}/carry")
def carry_points(rep_id: uuid.UUID, form: s.CarryIn, coach: SignedIn, db: Db) -> s.ReviewOut:
    """Have the bodies followed through a stretch from their placed points; the worker does, and the review tells how far it is."""
    carrying.ask(db, coach.academy_id, rep_id, form.first, form.last)
    db.commit()
    queue.ask_to_carry(rep_id, form.first, form.last)
    return answer_rep(db, coach, rep_id)


@router.delete("/reps/{rep_id}/carried")
def drop_carried(rep_id: uuid.UUID, coach: SignedIn, db: Db) -> s.ReviewOut:
    """Take away every point that was carried; placed ones stay."""
    carrying.drop(db, coach.academy_id, rep_id)
    return answer_rep(db, coach, rep_id)


@router.get("/reps/{rep_id}/ground")
def read_ground(rep_id: uuid.UUID, coach: SignedIn, db: Db) -> list[s.GroundOut]:
    """The rep over the mat: feet seen from above, where four mat points are marked, and where the bodies' mass is."""
    return [s.GroundOut.model_validate(one) for one in reference.ground(db, coach.academy_id, rep_id)]


@router.post("/reps/{rep_id}/again")
def mark_again(rep_id: uuid.UUID, coach: SignedIn, db: Db) -> s.ReviewOut:
    """Begin to mark a rep a second time, blind: the review has a rep more, `blind_of` this one."""
    repeat.mark_again(db, coach.academy_id, rep_id)
    return answer_rep(db, coach, rep_id)


@router.post("/reps/{rep_id}/compare")
def compare(rep_id: uuid.UUID, coach: SignedIn, db: Db) -> s.RepeatOut:
    """Compare a rep that was marked blind with its first marking, and keep the coach's own scatter."""
    here, all_told = repeat.compare(db, coach.academy_id, coach.id, rep_id)
    return s.RepeatOut(here=s.ScatterOut.model_validate(here), all=s.ScatterOut.model_validate(all_told))


@router.patch("/reviews/{review_id}/reference")
def set_reference(review_id: uuid.UUID, form: s.ReferenceIn, coach: SignedIn, db: Db) -> s.ReviewOut:
    """Change parts of the frame of reference: where up is, the scale, the mat."""
    reference.set_reference(db, coach.academy_id, review_id, form.model_dump(exclude_unset=True))
    return answer_review(db, coach, review_id)


@router.put("/reps/{rep_id}/lengths")
def read_lengths(rep_id: uuid.UUID, form: s.LengthsIn, coach: SignedIn, db: Db) -> s.ReviewOut:
    """Name a still frame: the limbs' lengths in it are the body's reference lengths."""
    reference.read_lengths(db, coach.academy_id, rep_id, form.body, form.frame)
    return answer_rep(db, coach, rep_id)
