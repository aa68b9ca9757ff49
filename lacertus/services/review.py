"""A review of a clip: cutting reps, marking events, placing points, answering by eye, finishing."""

from __future__ import annotations

import json
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import lru_cache
from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, joinedload, object_session, selectinload

from lacertus.core.body import BODIES, LANDMARKS
from lacertus.core.errors import BadInput, BadRep
from lacertus.core.fixfirst import Fix, fix_first
from lacertus.core.judge import Judgement, Need, check_fits, judge_rep, needed_points
from lacertus.core.measures import KINDS
from lacertus.core.overrule import Overrule, overruled
from lacertus.core.proposals import MarkedRep, Proposed, proposed_events
from lacertus.core.repfile import RepFile, read_rep
from lacertus.core.steady import Matrix
from lacertus.core.technique import Technique
from lacertus.core.uncertainty import Verdict
from lacertus.services import adaptations, intake, people, techniques
from lacertus.services.errors import Conflict, NotFound
from lacertus.store.media import made_key, media
from lacertus.store.tables import Answer, Clip, EventMark, JudgementRow, OverruleRow, PointRow, RepRow, Review, TechniqueVersion
from lacertus.video.reading import CAMERA

MOST_REPS = 60
REP_FACTS = ("outcome", "start_at", "end_at", "resists_from", "reaction", "finish", "stance", "grade")
_REP_PARTS = (
    selectinload(RepRow.events),
    selectinload(RepRow.points),
    selectinload(RepRow.answers),
    selectinload(RepRow.overrules),
    joinedload(RepRow.technique_version),
)


@dataclass(frozen=True, kw_only=True)
class JudgedRep:
    """A rep of a review with what the core says of it."""

    rep: RepRow
    judgements: tuple[Judgement, ...]
    needs: tuple[Need, ...]
    proposed: tuple[Proposed, ...] = ()


def open_review(db: Session, academy: uuid.UUID, clip_id: uuid.UUID) -> Review:
    """The review of a clip, started if there is none.

    Raises:
        Conflict: the clip has not been read, or nobody has said whose it is.
    """
    clip, student = intake.named_clip(db, academy, clip_id)
    start = insert(Review).values(
        id=uuid.uuid4(), academy_id=academy, clip_id=clip.id, student_id=student, heights_px={}, proposals=clip.proposals
    )
    db.execute(start.on_conflict_do_nothing(index_elements=["clip_id"]))
    review_id = db.scalar(select(Review.id).where(Review.clip_id == clip.id))
    assert review_id is not None
    return load(db, academy, review_id)


def load(db: Session, academy: uuid.UUID, review_id: uuid.UUID) -> Review:
    """A review with its clip, reps and corrections.

    Raises:
        NotFound: not in this academy.
    """
    found = (
        select(Review)
        .where(Review.academy_id == academy, Review.id == review_id)
        .options(
            joinedload(Review.clip).joinedload(Clip.student),
            selectinload(Review.reps).options(*_REP_PARTS),
            selectinload(Review.corrections),
        )
        .execution_options(populate_existing=True)
    )
    review = db.scalar(found)
    if review is None:
        raise NotFound("There is no such review in your academy.")
    return review


def checked(review: Review) -> Review:
    """The review itself, with every rep checked against its clip and its technique.

    Raises:
        BadInput: one does not fit.
    """
    for rep in review.reps:
        check_rep(review, rep)
    return review


def open_for_change(review: Review) -> Review:
    """The review itself; raises Conflict where it is finished and so kept as it was."""
    if review.finished_at is not None:
        raise Conflict("This review is finished and kept as it was. Nothing was changed.")
    return review


def review_of_rep(db: Session, academy: uuid.UUID, rep_id: uuid.UUID) -> tuple[Review, RepRow]:
    """A rep that may be changed, and its review, locked until the end of the transaction.

    Raises:
        NotFound: not in this academy.
        Conflict: its review is finished.
    """
    review_id = review_id_of(db, academy, rep_id, lock=True)
    review = open_for_change(load(db, academy, review_id))
    return review, next(rep for rep in review.reps if rep.id == rep_id)


def review_id_of(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, *, lock: bool = False) -> uuid.UUID:
    """Which review a rep belongs to; `lock` keeps others from changing it until the end of the transaction.

    Raises:
        NotFound: not in this academy.
    """
    owner = select(Review.id).join(RepRow, RepRow.review_id == Review.id)
    owner = owner.where(RepRow.id == rep_id, Review.academy_id == academy)
    review_id = db.scalar(owner.with_for_update(of=Review) if lock else owner)
    if review_id is None:
        raise NotFound("There is no such rep in your academy.")
    return review_id


# --- reps -----------------------------------------------------------------------------------------


def cut_rep(
    db: Session, academy: uuid.UUID, review_id: uuid.UUID, technique: str, facts: Mapping[str, Any], rep_id: uuid.UUID | None = None
) -> RepRow:
    """Cut a rep: a range of frames with technique, side and how it was done.

    With the id of a rep that is there already, that one is changed: sending a cut twice cuts once.

    Raises:
        BadInput: the range does not fit the clip, or the technique has no such option or rung.
        NotFound: no such technique.
    """
    review = open_for_change(load(db, academy, review_id))
    if rep_id is not None and any(rep.id == rep_id for rep in review.reps):
        return change_rep(db, academy, rep_id, facts)
    if len(review.reps) >= MOST_REPS:
        raise Conflict(f"A review holds at most {MOST_REPS} reps.")
    if rep_id is not None and db.get(RepRow, rep_id) is not None:
        raise Conflict("This rep belongs to another review.")
    version = techniques.newest(db, academy, technique)
    rep = RepRow(id=rep_id or uuid.uuid4(), review_id=review.id, technique_version_id=version.id, technique_version=version)
    rep.events, rep.points, rep.answers, rep.overrules = [], [], [], []
    _check_performer(db, academy, facts)
    _check_link(review, rep, facts)
    _apply(rep, facts)
    check_rep(review, rep)
    db.add(rep)
    db.flush()
    return rep


def change_rep(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, facts: Mapping[str, Any]) -> RepRow:
    """Change a rep's range or how it was done; events that fall outside are refused, not dropped.

    Raises:
        BadInput: as `cut_rep`, or an event would lie outside the new range.
    """
    review, rep = review_of_rep(db, academy, rep_id)
    _check_performer(db, academy, facts)
    _check_link(review, rep, facts)
    _apply(rep, facts)
    check_rep(review, rep)
    db.flush()
    return rep


def _check_link(review: Review, rep: RepRow, facts: Mapping[str, Any]) -> None:
    """Raise BadInput where a rep is linked to one that is not another rep of its review."""
    linked = facts.get("linked_to")
    if linked is not None and not any(other.id == linked and other.id != rep.id for other in review.reps):
        raise BadInput("a rep is linked to another rep of the same review: the partner’s fall to the throw")


def _check_performer(db: Session, academy: uuid.UUID, facts: Mapping[str, Any]) -> None:
    """Raise NotFound where a rep is said to be done by someone who is no student here."""
    if facts.get("student_id") is not None:
        people.student(db, academy, facts["student_id"])


def _apply(rep: RepRow, facts: Mapping[str, Any]) -> None:
    for key, value in facts.items():
        setattr(rep, key, value)


def check_rep(review: Review, rep: RepRow) -> None:
    check_fits(techniques.definition(rep.technique_version), rep_file(review, rep))


def delete_rep(db: Session, academy: uuid.UUID, rep_id: uuid.UUID) -> None:
    _, rep = review_of_rep(db, academy, rep_id)
    db.delete(rep)
    db.flush()


def set_proposals(db: Session, academy: uuid.UUID, review_id: uuid.UUID, cuts: Sequence[tuple[int, int]]) -> None:
    """Keep the cuts that are still proposed, after the coach has dragged, dropped or accepted some.

    Raises:
        BadInput: one lies outside the clip.
    """
    review = open_for_change(load(db, academy, review_id))
    frames = len(review.clip.pts_s or ())
    for first, last in cuts:
        if not 0 <= first <= last < frames:
            raise BadInput(f"the proposed cut {first}–{last} does not fit the clip’s frames 0–{frames - 1}")
    review.proposals = [list(cut) for cut in cuts]
    db.flush()


# --- events, points, answers ------------------------------------------------------------------------


def mark_event(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, event: str, frames: list[int] | None) -> None:
    """Mark an event's frames; an empty list says that it did not happen, None takes the mark away.

    Raises:
        BadInput: the technique has no such event, or a frame lies outside the rep.
    """
    review, rep = review_of_rep(db, academy, rep_id)
    if event not in techniques.definition(rep.technique_version).events:
        raise BadInput(f"the technique has no event “{event}”")
    db.execute(delete(EventMark).where(EventMark.rep_id == rep.id, EventMark.event == event))
    if frames is not None:
        db.add(EventMark(rep_id=rep.id, event=event, frames=frames))
    db.flush()
    _check_again(db, academy, review.id, rep.id)


def _check_again(db: Session, academy: uuid.UUID, review_id: uuid.UUID, rep_id: uuid.UUID) -> None:
    """Read the rep back and check it whole; what does not fit is rolled back by the error."""
    review = load(db, academy, review_id)
    check_rep(review, next(rep for rep in review.reps if rep.id == rep_id))


@dataclass(frozen=True, kw_only=True)
class Spot:
    """A landmark of a body on a frame."""

    body: str
    landmark: str
    frame: int


def place_point(
    db: Session,
    academy: uuid.UUID,
    rep_id: uuid.UUID,
    spot: Spot,
    x: float,
    y: float,
    hidden: bool = False,
    sigma: float | None = None,
) -> None:
    """Place a landmark, in pixels of the displayed picture; a second time moves it. Without σ the joint's own counts.

    Raises:
        BadInput: no such landmark or frame, or a place far outside the picture.
    """
    review, rep = review_of_rep(db, academy, rep_id)
    _check_spot(review.clip, spot, x, y)
    values = {"x": x, "y": y, "by": "placed", "hidden": hidden, "sigma": sigma}
    place = insert(PointRow).values(rep_id=rep.id, body=spot.body, landmark=spot.landmark, frame=spot.frame, **values)
    keys = ["rep_id", "body", "landmark", "frame"]
    db.execute(place.on_conflict_do_update(index_elements=keys, set_=values))


def remove_point(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, spot: Spot) -> None:
    _, rep = review_of_rep(db, academy, rep_id)
    db.execute(
        delete(PointRow).where(
            PointRow.rep_id == rep.id,
            PointRow.body == spot.body,
            PointRow.landmark == spot.landmark,
            PointRow.frame == spot.frame,
        )
    )


def _check_spot(clip: Clip, spot: Spot, x: float, y: float) -> None:
    check_names(spot, len(clip.pts_s or ()))
    check_inside(clip, x, y)


def check_names(spot: Spot, frames: int) -> None:
    """Raise BadInput where there is no such body, landmark or frame."""
    if spot.body not in BODIES:
        raise BadInput(f"there is no body “{spot.body}”")
    if spot.landmark not in LANDMARKS:
        raise BadInput(f"“{spot.landmark}” is no landmark")
    if not 0 <= spot.frame < frames:
        raise BadInput(f"frame {spot.frame} is not in the clip")


def check_inside(clip: Clip, x: float, y: float) -> None:
    """Raise BadInput for a place outside the picture."""
    if not (0 <= x <= (clip.width or 0) and 0 <= y <= (clip.height or 0)):
        raise BadInput(f"the place {x:g}, {y:g} lies outside the picture ({clip.width}×{clip.height}); nothing was stored")


def answer(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, checkpoint: str, yes: bool | None) -> None:
    """Answer a by-eye checkpoint; None takes the answer back.

    Raises:
        BadInput: the technique has no such by-eye checkpoint.
    """
    _, rep = review_of_rep(db, academy, rep_id)
    asked = techniques.definition(rep.technique_version).checkpoint(checkpoint)
    if asked is None or not KINDS[asked.kind].by_eye:
        raise BadInput(f"the technique has no by-eye checkpoint “{checkpoint}”")
    db.execute(delete(Answer).where(Answer.rep_id == rep.id, Answer.checkpoint == checkpoint))
    if yes is not None:
        db.add(Answer(rep_id=rep.id, checkpoint=checkpoint, yes=yes))


def overrule(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, checkpoint: str, verdict: str | None, reason: str = "") -> None:
    """Give a verdict in place of the measured one, with the reason; None goes back to what was measured.

    Raises:
        BadInput: the technique has no such checkpoint.
    """
    _, rep = review_of_rep(db, academy, rep_id)
    if techniques.definition(rep.technique_version).checkpoint(checkpoint) is None:
        raise BadInput(f"the technique has no checkpoint “{checkpoint}”")
    db.execute(delete(OverruleRow).where(OverruleRow.rep_id == rep.id, OverruleRow.checkpoint == checkpoint))
    if verdict is not None:
        db.add(OverruleRow(rep_id=rep.id, checkpoint=checkpoint, verdict=verdict, reason=reason))


# --- judging and finishing --------------------------------------------------------------------------


def rep_file(review: Review, rep: RepRow) -> RepFile:
    """A stored rep as the core reads it.

    Raises:
        BadRep: what is stored does not fit the clip.
    """
    clip = review.clip
    known = review.reference or {}
    bodies: dict[str, Any] = {
        body: {
            "landmarks": {},
            "height_px": review.heights_px.get(body),
            "reference_lengths_px": known.get("lengths_px", {}).get(body, {}),
        }
        for body in BODIES
    }
    for point in rep.points:
        entry = {"frame": point.frame, "x": point.x, "y": point.y, "by": point.by, "hidden": point.hidden, "sigma": point.sigma}
        bodies[point.body]["landmarks"].setdefault(point.landmark, []).append(entry)
    seen: dict[str, dict[str, bool]] = {}
    for given in rep.answers:
        seen.setdefault(given.checkpoint, {})[given.asked_of] = given.yes
    file = read_rep(
        {
            "lacertus_rep": 1,
            "technique": rep.technique_version.technique,
            "options": rep.options or {},
            "side": rep.side,
            "partner": rep.partner or "person",
            "rung": rep.rung,
            "pace": rep.pace or "full",
            "purpose": rep.purpose or "attempt",
            **{name: getattr(rep, name) for name in REP_FACTS},
            "upright": known.get("upright", {}),
            "centimetres_per_pixel": known.get("centimetres_per_pixel"),
            "floor": known.get("floor"),
            "view": rep.view or "side",
            "heading": rep.heading or "right",
            "size": [clip.width, clip.height],
            "pts_s": clip.pts_s,
            "capture_rate": [(int(frame), rate) for frame, rate in clip.capture_rate],
            "range": [rep.first_frame, rep.last_frame],
            "events": {mark.event: mark.frames for mark in rep.events},
            "seen": seen,
            "bodies": bodies,
        }
    )
    if not knows_camera(clip, rep.first_frame, rep.last_frame):
        return file
    # Checked once when it was read off the clip; for each change of the rep anew it would take longer than the judging.
    still = (clip.camera or {})["still"]
    return file.model_copy(update={"camera_motion": None if still else _matrices(made_key(clip.id, CAMERA))})


def fitted_to(technique: Technique, file: RepFile) -> RepFile:
    """A rep without the options, rung and phases that another version of its technique does not have."""
    options = {key: choice for key, choice in file.options.items() if choice in getattr(technique.options.get(key), "choices", {})}
    keep = {
        "options": options,
        "rung": file.rung if file.rung in technique.ladder else None,
        "start_at": file.start_at if file.start_at in technique.phases else None,
        "end_at": file.end_at if file.end_at in technique.phases else None,
    }
    return file.model_copy(update=keep)


def move_to(db: Session, review: Review, rep: RepRow, version: TechniqueVersion) -> None:
    """Have a rep judged by another version of its technique; what that one does not have falls away."""
    fits = fitted_to(techniques.definition(version), rep_file(review, rep))
    rep.technique_version_id = version.id
    rep.options, rep.rung = fits.options, fits.rung
    db.flush()


def knows_camera(clip: Clip, first: int, last: int) -> bool:
    """Whether the camera's own motion was registered all through a stretch of frames."""
    if clip.camera is None:
        return False
    return not any(begin <= last and end >= first for begin, end in clip.camera["lost"])


@lru_cache(maxsize=16)
def _matrices(key: str) -> tuple[Matrix, ...] | None:
    found = json.loads(b"".join(media().read(key, 0, media().size(key))))["camera_motion"]
    return None if found is None else tuple((tuple(row[0]), tuple(row[1])) for row in found)


def judged(review: Review) -> list[JudgedRep]:
    """Every rep of a review with its judgements, in clip order, each as it is asked of its student."""
    return [_judged(review, rep, technique) for rep, technique in asked_of(review)]


def asked_of(review: Review) -> list[tuple[RepRow, Technique]]:
    """The reps of a review, each with its technique as it was asked of the performer when the review was finished, or is now."""
    db = object_session(review)
    assert db is not None
    performers = {rep.id: rep.student_id or review.student_id for rep in review.reps}
    rows = adaptations.of_students(db, tuple(set(performers.values())))
    return [
        (rep, adaptations.for_student(techniques.definition(rep.technique_version), rows[performers[rep.id]], review.finished_at))
        for rep in review.reps
    ]


def _judged(review: Review, rep: RepRow, technique: Technique) -> JudgedRep:
    file = rep_file(review, rep)
    judgements = overruled(judge_rep(technique, file), given_verdicts(rep))
    proposed = () if review.finished_at is not None else proposed_events(technique, file, _marked_like(review, rep))
    return JudgedRep(rep=rep, judgements=judgements, needs=needed_points(technique, file), proposed=proposed)


def _marked_like(review: Review, rep: RepRow) -> list[MarkedRep]:
    """Other reps of the review of the same technique, the nearest first: where they have an event, this one may have it too."""
    alike = [
        (abs(other.first_frame - rep.first_frame), number, other)
        for number, other in enumerate(review.reps, 1)
        if other.id != rep.id and other.technique_version_id == rep.technique_version_id and other.events
    ]
    return [
        MarkedRep(
            name=f"rep {number}",
            range=(other.first_frame, other.last_frame),
            events={mark.event: mark.frames[0] for mark in other.events if mark.frames},
        )
        for _, number, other in sorted(alike, key=lambda entry: entry[:2])
    ]


def given_verdicts(rep: RepRow) -> dict[str, Overrule]:
    """The coach's own verdicts on a rep, by checkpoint."""
    return {row.checkpoint: Overrule(verdict=Verdict(row.verdict), reason=row.reason) for row in rep.overrules}


def fixes(review: Review, reps: list[JudgedRep]) -> tuple[Fix, ...]:
    """At most two things to fix first; demonstrations never count."""
    found: list[Fix] = []
    for technique in dict.fromkeys(entry.rep.technique_version for entry in reps):
        own = [e.judgements for e in reps if e.rep.technique_version is technique and e.rep.purpose != "demonstration"]
        found += fix_first(techniques.definition(technique), own)
    return tuple(found[:2])


def finish(db: Session, academy: uuid.UUID, review_id: uuid.UUID) -> Review:
    """Finish a review: its verdicts go into the ledger and it is kept as it is.

    Raises:
        BadInput: it has no rep, or no checkpoint of it was judged.
        Conflict: it is finished already.
    """
    db.execute(select(Review.id).where(Review.id == review_id).with_for_update())
    review = open_for_change(load(db, academy, review_id))
    reps = judged(review)
    if not any(j.is_exposure for entry in reps for j in entry.judgements):
        raise BadRep("Nothing has been judged yet: cut a rep, mark its events and answer or measure a checkpoint first.")
    db.add_all(_row(review, entry.rep, judgement) for entry in reps for judgement in entry.judgements)
    review.finished_at = datetime.now(UTC)
    return review


def judge_again(db: Session, academy: uuid.UUID, clip_id: uuid.UUID) -> int:
    """Write a finished review's verdicts anew after a fact of its clip has changed; returns how many verdicts differ."""
    review_id = db.scalar(select(Review.id).where(Review.clip_id == clip_id, Review.finished_at.is_not(None)))
    if review_id is None:
        return 0
    review = load(db, academy, review_id)
    rows = [_row(review, entry.rep, judgement) for entry in judged(review) for judgement in entry.judgements]
    mine = JudgementRow.review_id == review.id
    before = {
        (rep, checkpoint): verdict
        for rep, checkpoint, verdict in db.execute(
            select(JudgementRow.rep_id, JudgementRow.checkpoint, JudgementRow.verdict).where(mine)
        )
    }
    db.execute(delete(JudgementRow).where(mine))
    db.add_all(rows)
    db.flush()
    return sum(before.get((row.rep_id, row.checkpoint)) != row.verdict for row in rows)


def _row(review: Review, rep: RepRow, judgement: Judgement) -> JudgementRow:
    asked = techniques.definition(rep.technique_version).checkpoint(judgement.id)
    assert asked is not None
    return JudgementRow(
        review_id=review.id,
        rep_id=rep.id,
        student_id=rep.student_id or review.student_id,
        filmed_on=review.clip.filmed_on,
        technique=rep.technique_version.technique,
        checkpoint=judgement.id,
        kind=judgement.kind,
        verdict=judgement.verdict.value,
        measured=None if judgement.measured is None else judgement.measured.value,
        because=judgement.because,
        value=judgement.value,
        unit=judgement.unit,
        uncertainty=judgement.uncertainty,
        frames=list(judgement.frames),
        reason=judgement.reason,
        fault=judgement.fault,
        family=asked.fault.family,
        safety=judgement.safety,
    )
