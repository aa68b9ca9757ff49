"""The bench: reps, events, points, answers. Every change answers with the review judged anew."""

from __future__ import annotations

import uuid

from fastapi import APIRouter, Depends

from lacertus.core.review.ground import Ground
from lacertus.core.review.reference import FrameOfReference
from lacertus.core.review.views.believed import BelievedBody
from lacertus.services.people.accounts import Coach
from lacertus.services.review import blind_remarking, changed, loading, reference, tracking
from lacertus.services.review import rejudge as rejudging
from lacertus.services.review import review as reviewing
from lacertus.services.review.review import Spot
from lacertus.services.review.view import view_of, work_on
from lacertus.services.sheets import finish as finishing
from lacertus.services.techniques import catalogue, starts
from lacertus.web import schemas as s
from lacertus.web.clips import schemas as clp
from lacertus.web.review import presenters
from lacertus.web.review import schemas as ben
from lacertus.web.review.noted import Window, noted, points_held
from lacertus.web.session import Db, SignedIn
from lacertus.web.techniques import schemas as tec
from lacertus.web.techniques.presenters import technique_out

router = APIRouter(tags=["review"], dependencies=[Depends(noted)])


def answer_review(db: Db, coach: Coach, review_id: uuid.UUID) -> ben.ReviewOut:
    work = work_on(db, review_id)
    view = view_of(loading.at_hand(db, coach.academy_id, review_id))
    return presenters.review_out(view, work, points_held(db))


def answer_rep(db: Db, coach: Coach, rep_id: uuid.UUID) -> ben.ReviewOut:
    review, _ = loading.review_of_rep(db, coach.academy_id, rep_id)
    return answer_review(db, coach, review.id)


def answer_of_rep(db: Db, coach: Coach, rep_id: uuid.UUID) -> ben.ReviewOut:
    """The review of a rep, finished or not."""
    return answer_review(db, coach, loading.review_id_of(db, coach.academy_id, rep_id))


@router.get("/techniques")
def read_techniques(coach: SignedIn, db: Db) -> list[tec.TechniqueOut]:
    return [technique_out(catalogue.definition(version), version.version) for version in catalogue.offered(db, coach.academy_id)]


@router.get("/reviews/{review_id}")
def read_review(review_id: uuid.UUID, coach: SignedIn, db: Db) -> ben.ReviewOut:
    return answer_review(db, coach, review_id)


@router.get("/reviews/{review_id}/revision")
def read_revision(review_id: uuid.UUID, coach: SignedIn, db: Db, window: Window = "") -> ben.RevisionOut:
    """Whether another window changed something of a review since."""
    return ben.RevisionOut.model_validate(changed.newest(db, coach.academy_id, review_id, window))


@router.post("/reviews/{review_id}/finish")
def finish_review(review_id: uuid.UUID, coach: SignedIn, db: Db) -> ben.ReviewOut:
    """Finish a review: its verdicts go into the ledger and it is kept as it is."""
    finishing.finish(db, coach.academy_id, review_id, coach.id)
    return answer_review(db, coach, review_id)


@router.get("/reviews/{review_id}/newer")
def read_newer(review_id: uuid.UUID, coach: SignedIn, db: Db) -> tec.NewerOut:
    """Whether newer versions of the review's techniques are there, and which verdicts they would change."""
    newer, differences = rejudging.newer(db, coach.academy_id, review_id)
    return tec.NewerOut(
        newer=[tec.NewerTechniqueOut.model_validate(entry) for entry in newer],
        differences=[tec.DifferenceOut.model_validate(entry) for entry in differences],
    )


@router.post("/reviews/{review_id}/rejudge")
def rejudge(review_id: uuid.UUID, coach: SignedIn, db: Db) -> ben.ReviewOut:
    """Judge the review by the newest versions; a finished one's part of the ledger is written anew."""
    rejudging.rejudge(db, coach.academy_id, review_id)
    finishing.note(db, coach.academy_id, review_id, coach.id, "judged by newer versions of its techniques")
    return answer_review(db, coach, review_id)


@router.post("/reviews/{review_id}/reopen")
def reopen_review(review_id: uuid.UUID, form: ben.WhyIn, coach: SignedIn, db: Db) -> ben.ReviewOut:
    """Open a finished review again, to revise it; ledger and sheet stay as they are until it is finished anew."""
    finishing.reopen(db, coach.academy_id, review_id, form.why)
    return answer_review(db, coach, review_id)


@router.put("/reviews/{review_id}/heights/{body}")
def set_height(review_id: uuid.UUID, body: s.Name, form: ben.HeightIn, coach: SignedIn, db: Db) -> ben.ReviewOut:
    """A body's standing height in the picture, in pixels."""
    reference.set_height(db, coach.academy_id, review_id, body, form.px)
    return answer_review(db, coach, review_id)


@router.put("/reviews/{review_id}/proposals")
def set_proposals(review_id: uuid.UUID, form: clp.ProposalsIn, coach: SignedIn, db: Db) -> ben.ReviewOut:
    """Keep the cuts that are still proposed, after some were dragged, dropped or accepted."""
    reviewing.set_proposals(db, coach.academy_id, review_id, [(cut.first, cut.last) for cut in form.cuts])
    return answer_review(db, coach, review_id)


@router.put("/reviews/{review_id}/fix-first")
def choose_fixes(review_id: uuid.UUID, form: ben.FixesIn, coach: SignedIn, db: Db) -> ben.ReviewOut:
    """Choose what is fixed first in place of what is recommended, and say why."""
    reviewing.choose_fixes(db, coach.academy_id, review_id, form.choices, form.why)
    return answer_review(db, coach, review_id)


@router.put("/reviews/{review_id}/reps/{rep_id}")
def cut_rep(review_id: uuid.UUID, rep_id: uuid.UUID, form: ben.RepIn, coach: SignedIn, db: Db) -> ben.ReviewOut:
    """Cut a rep under an id of the sender's making, so that sending it again cuts it once."""
    reviewing.cut_rep(db, coach.academy_id, review_id, form.technique, form.cut, rep_id)
    return answer_review(db, coach, review_id)


@router.patch("/reps/{rep_id}")
def change_rep(rep_id: uuid.UUID, form: ben.RepChange, coach: SignedIn, db: Db) -> ben.ReviewOut:
    reviewing.change_rep(db, coach.academy_id, rep_id, form.changes)
    return answer_rep(db, coach, rep_id)


@router.delete("/reps/{rep_id}")
def delete_rep(rep_id: uuid.UUID, coach: SignedIn, db: Db) -> ben.ReviewOut:
    review, _ = loading.review_of_rep(db, coach.academy_id, rep_id)
    reviewing.delete_rep(db, coach.academy_id, rep_id)
    return answer_review(db, coach, review.id)


@router.put("/reps/{rep_id}/starts/{frame}")
def make_start(rep_id: uuid.UUID, frame: s.Frame, coach: SignedIn, db: Db) -> ben.ReviewOut:
    """Make a frame a start: a position that the academy drills the technique from. Of a finished review too."""
    reviewing.make_start(db, coach.academy_id, rep_id, frame)
    return answer_of_rep(db, coach, rep_id)


@router.delete("/reps/{rep_id}/starts/{frame}")
def unmake_start(rep_id: uuid.UUID, frame: s.Frame, coach: SignedIn, db: Db) -> ben.ReviewOut:
    """Offer a start that was made from a frame no longer."""
    starts.unmake(db, coach.academy_id, rep_id, frame)
    return answer_of_rep(db, coach, rep_id)


@router.put("/reps/{rep_id}/events/{event}")
def mark_event(rep_id: uuid.UUID, event: s.Name, form: ben.EventIn, coach: SignedIn, db: Db) -> ben.ReviewOut:
    reviewing.mark_event(db, coach.academy_id, rep_id, event, form.frames)
    return answer_rep(db, coach, rep_id)


@router.delete("/reps/{rep_id}/events/{event}")
def unmark_event(rep_id: uuid.UUID, event: s.Name, coach: SignedIn, db: Db) -> ben.ReviewOut:
    reviewing.mark_event(db, coach.academy_id, rep_id, event, None)
    return answer_rep(db, coach, rep_id)


@router.put("/reps/{rep_id}/points/{body}/{landmark}/{frame}")
def place_point(
    rep_id: uuid.UUID, body: s.Name, landmark: s.Name, frame: s.Frame, form: ben.PointIn, coach: SignedIn, db: Db
) -> ben.ReviewOut:
    """Place a landmark on a frame, or move it."""
    spot = Spot(body=body, landmark=landmark, frame=frame)
    reviewing.place_point(db, coach.academy_id, rep_id, spot, form.x, form.y, form.hidden, form.sigma, form.grain)
    tracking.update_path(db, coach.academy_id, rep_id, body, landmark)
    return answer_rep(db, coach, rep_id)


@router.delete("/reps/{rep_id}/points/{body}/{landmark}/{frame}")
def remove_point(rep_id: uuid.UUID, body: s.Name, landmark: s.Name, frame: s.Frame, coach: SignedIn, db: Db) -> ben.ReviewOut:
    reviewing.remove_point(db, coach.academy_id, rep_id, Spot(body=body, landmark=landmark, frame=frame))
    tracking.update_path(db, coach.academy_id, rep_id, body, landmark)
    return answer_rep(db, coach, rep_id)


@router.put("/reps/{rep_id}/answers/{checkpoint}")
def answer(rep_id: uuid.UUID, checkpoint: s.Name, form: ben.AnswerIn, coach: SignedIn, db: Db) -> ben.ReviewOut:
    """Answer a by-eye checkpoint."""
    reviewing.answer(db, coach.academy_id, rep_id, checkpoint, form.yes)
    return answer_rep(db, coach, rep_id)


@router.delete("/reps/{rep_id}/answers/{checkpoint}")
def take_answer_back(rep_id: uuid.UUID, checkpoint: s.Name, coach: SignedIn, db: Db) -> ben.ReviewOut:
    reviewing.answer(db, coach.academy_id, rep_id, checkpoint, None)
    return answer_rep(db, coach, rep_id)


@router.put("/reps/{rep_id}/overrules/{checkpoint}")
def overrule(rep_id: uuid.UUID, checkpoint: s.Name, form: ben.OverruleIn, coach: SignedIn, db: Db) -> ben.ReviewOut:
    """Give a verdict in place of the measured one, with the reason; both are kept."""
    reviewing.overrule(db, coach.academy_id, rep_id, checkpoint, form.verdict, form.reason)
    return answer_rep(db, coach, rep_id)


@router.delete("/reps/{rep_id}/overrules/{checkpoint}")
def take_overrule_back(rep_id: uuid.UUID, checkpoint: s.Name, coach: SignedIn, db: Db) -> ben.ReviewOut:
    reviewing.overrule(db, coach.academy_id, rep_id, checkpoint, None)
    return answer_rep(db, coach, rep_id)


@router.post("/reps/{rep_id}/track")
def track_points(rep_id: uuid.UUID, form: ben.StretchIn, coach: SignedIn, db: Db) -> ben.ReviewOut:
    """Have the bodies tracked through a stretch from their placed points; the review’s jobs tell how far the worker is."""
    tracking.ask(db, coach.academy_id, rep_id, form.first, form.last)
    return answer_rep(db, coach, rep_id)


@router.delete("/reps/{rep_id}/tracked")
def drop_tracked(rep_id: uuid.UUID, coach: SignedIn, db: Db) -> ben.ReviewOut:
    """Delete every point that was tracked; placed ones stay."""
    tracking.drop(db, coach.academy_id, rep_id)
    return answer_rep(db, coach, rep_id)


@router.get("/reps/{rep_id}/ground")
def read_ground(rep_id: uuid.UUID, coach: SignedIn, db: Db) -> list[Ground]:
    """The rep over the mat: feet seen from above, where four mat points are marked, and where the bodies' mass is."""
    return list(reference.ground(db, coach.academy_id, rep_id))


@router.get("/reps/{rep_id}/space")
def read_in_space(rep_id: uuid.UUID, coach: SignedIn, db: Db) -> list[BelievedBody]:
    """Both bodies as they are believed to be in space, frame by frame, and how sure each lean towards the camera is.

    A body is there only where its height or a length of it is known.
    """
    return list(reference.in_space(db, coach.academy_id, rep_id))


@router.post("/reps/{rep_id}/again")
def mark_again(rep_id: uuid.UUID, coach: SignedIn, db: Db) -> ben.ReviewOut:
    """Begin to mark a rep a second time, blind: the review has a rep more, `blind_of` this one."""
    blind_remarking.mark_again(db, coach.academy_id, rep_id)
    return answer_rep(db, coach, rep_id)


@router.post("/reps/{rep_id}/compare")
def compare(rep_id: uuid.UUID, coach: SignedIn, db: Db) -> ben.BlindRemarkingOut:
    """Compare a rep that was marked blind with its first marking, and keep the coach's own scatter."""
    here, all_told = blind_remarking.compare(db, coach.academy_id, coach.id, rep_id)
    return ben.BlindRemarkingOut(here=ben.ScatterOut.model_validate(here), all=ben.ScatterOut.model_validate(all_told))


@router.patch("/reviews/{review_id}/reference")
def set_reference(review_id: uuid.UUID, form: ben.ReferenceIn, coach: SignedIn, db: Db) -> ben.ReviewOut:
    """Change parts of the frame of reference: where up is, the scale, the mat."""
    reference.set_reference(db, coach.academy_id, review_id, FrameOfReference.model_validate(form.model_dump(exclude_unset=True)))
    return answer_review(db, coach, review_id)


@router.put("/reps/{rep_id}/lengths")
def read_lengths(rep_id: uuid.UUID, form: ben.LengthsIn, coach: SignedIn, db: Db) -> ben.ReviewOut:
    """Name a still frame: the limbs' lengths in it are the body's reference lengths."""
    reference.read_lengths(db, coach.academy_id, rep_id, form.body, form.frame)
    return answer_rep(db, coach, rep_id)
