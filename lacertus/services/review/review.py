"""A review of a clip: cutting reps, marking events, placing points, answering by eye, finishing."""

from __future__ import annotations

import threading
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from cachetools import LRUCache
from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, object_session

from lacertus.core.errors import BadInput
from lacertus.core.measuring.body import BODIES, LANDMARKS
from lacertus.core.measuring.measures import KINDS
from lacertus.core.measuring.repfile import RepFile
from lacertus.core.progress.fixfirst import MOST, Choice, Fix, Group, as_chosen, fix_first_of
from lacertus.core.review.judge import Judgement, Need, check_fits, needed_points
from lacertus.core.review.overrule import overruled
from lacertus.core.review.proposals import MarkedRep, Proposed, proposed_events
from lacertus.core.review.tied import View, judge_views
from lacertus.core.techniques.definition import Technique
from lacertus.services.clips import intake
from lacertus.services.errors import Conflict
from lacertus.services.people import people
from lacertus.services.progress import ledger
from lacertus.services.review import blind_remarking, tied
from lacertus.services.review.fingerprint import fingerprint_of
from lacertus.services.review.held import put_back
from lacertus.services.review.loading import (
    fitted_to,
    for_change,
    given_verdicts,
    load,
    lock_of_clip,
    onsets_of,
    rep_file,
    review_of_rep,
)
from lacertus.services.techniques import adaptations, catalogue
from lacertus.store.tables import Answer, Clip, EventMark, JudgementRow, OverruleRow, PointRow, RepRow, Review, TechniqueVersion

MOST_REPS = 60
MOST_KNOWN = 600
"""So many reps are kept as they were judged: ten coaches with a review of many reps each."""


@dataclass(frozen=True, kw_only=True)
class JudgedRep:
    """A rep of a review with what the core says of it."""

    rep: RepRow
    judgements: tuple[Judgement, ...]
    needs: tuple[Need, ...]
    proposed: tuple[Proposed, ...] = ()

    @property
    def counts(self) -> bool:
        """Demonstrations never count, nor does a rep that is marked a second time."""
        return self.rep.purpose != "demonstration" and self.rep.blind_of is None


def open_review(db: Session, academy: uuid.UUID, clip_id: uuid.UUID, account: uuid.UUID | None = None) -> Review:
    """The review of a clip, started if there is none; whoever starts it (`account`) marks as closely as was measured.

    Raises:
        Conflict: the clip has not been read, or nobody has said whose it is.
    """
    clip, student = intake.named_clip(db, academy, clip_id)
    start = insert(Review).values(
        id=uuid.uuid4(),
        academy_id=academy,
        clip_id=clip.id,
        student_id=student,
        account_id=account,
        marking=blind_remarking.marking_of(db, account) if account else {},
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


def cut_rep(
    db: Session, academy: uuid.UUID, review_id: uuid.UUID, technique: str, facts: Mapping[str, Any], rep_id: uuid.UUID | None = None
) -> RepRow:
    """Cut a rep: a range of frames with technique, side and how it was done.

    With the id of a rep that is there already, that one is changed: sending a cut twice cuts once.

    Raises:
        BadInput: the range does not fit the clip, or the technique has no such option or rung.
        NotFound: no such technique.
    """
    review = for_change(db, academy, review_id)
    if rep_id is not None and any(rep.id == rep_id for rep in review.reps):
        return change_rep(db, academy, rep_id, facts)
    if len(review.reps) >= MOST_REPS:
        raise Conflict(f"A review holds at most {MOST_REPS} reps.")
    if rep_id is not None and db.get(RepRow, rep_id) is not None:
        raise Conflict("This rep belongs to another review.")
    version = catalogue.newest(db, academy, technique)
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
    check_fits(catalogue.definition(rep.technique_version), rep_file(review, rep))


def delete_rep(db: Session, academy: uuid.UUID, rep_id: uuid.UUID) -> None:
    _, rep = review_of_rep(db, academy, rep_id)
    db.delete(rep)
    db.flush()


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
    review.proposals = [list(cut) for cut in cuts]
    db.flush()


# --- events, points, answers ------------------------------------------------------------------------


def mark_event(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, event: str, frames: list[int] | None) -> None:
    """Mark an event's frames; an empty list says that it did not happen, None takes the mark away.

    Raises:
        BadInput: the technique has no such event, or a frame lies outside the rep.
    """
    review, rep = review_of_rep(db, academy, rep_id)
    if event not in catalogue.definition(rep.technique_version).events:
        raise BadInput(f"the technique has no event “{event}”")
    db.execute(delete(EventMark).where(EventMark.rep_id == rep.id, EventMark.event == event))
    if frames is not None:
        db.add(EventMark(rep_id=rep.id, event=event, frames=frames))
    put_back(db, review, rep, "events", EventMark)
    # What does not fit is rolled back by the error.
    check_rep(review, rep)


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
    review, rep = review_of_rep(db, academy, rep_id)
    asked = catalogue.definition(rep.technique_version).checkpoint(checkpoint)
    if asked is None or not KINDS[asked.kind].by_eye:
        raise BadInput(f"the technique has no by-eye checkpoint “{checkpoint}”")
    db.execute(delete(Answer).where(Answer.rep_id == rep.id, Answer.checkpoint == checkpoint))
    if yes is not None:
        db.add(Answer(rep_id=rep.id, checkpoint=checkpoint, yes=yes))
    put_back(db, review, rep, "answers", Answer)


def overrule(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, checkpoint: str, verdict: str | None, reason: str = "") -> None:
    """Give a verdict in place of the measured one, with the reason; None goes back to what was measured.

    Raises:
        BadInput: the technique has no such checkpoint.
    """
    review, rep = review_of_rep(db, academy, rep_id)
    if catalogue.definition(rep.technique_version).checkpoint(checkpoint) is None:
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
    rep.options, rep.rung = fits.options, fits.rung
    db.flush()


def judged(review: Review) -> list[JudgedRep]:
    """Every rep of a review with its judgements, in clip order, each as it is asked of its student."""
    other = tied.others(review)
    return [_judged(review, rep, technique, tied.views_of(other, review, rep)) for rep, technique in asked_of(review)]


def asked_of(review: Review) -> list[tuple[RepRow, Technique]]:
    """The reps of a review, each with its technique as it was asked of the performer when the review was finished, or is now."""
    db = object_session(review)
    assert db is not None
    performers = {rep.id: rep.student_id or review.student_id for rep in review.reps}
    rows = adaptations.of_students(db, tuple(set(performers.values())))
    return [
        (rep, adaptations.for_student(catalogue.definition(rep.technique_version), rows[performers[rep.id]], review.finished_at))
        for rep in review.reps
    ]


@dataclass(frozen=True, kw_only=True)
class _Known:
    """A rep as the core reads it, with what the core says of it."""

    file: RepFile
    judgements: tuple[Judgement, ...]
    needs: tuple[Need, ...]


_known: LRUCache[bytes, _Known] = LRUCache(MOST_KNOWN)
_known_lock = threading.Lock()


def _judged(review: Review, rep: RepRow, technique: Technique, views: Sequence[View]) -> JudgedRep:
    found = _read(review, rep, technique, views) if views else _read_once(review, rep, technique)
    if rep.blind_of is not None:
        return JudgedRep(rep=rep, judgements=found.judgements, needs=_placed_before(review, rep))
    proposed: tuple[Proposed, ...] = ()
    if review.finished_at is None:
        marked = [*tied.marked(views, found.file), *_marked_like(review, rep)]
        proposed = proposed_events(technique, found.file, marked, onsets_of(review.clip))
    return JudgedRep(rep=rep, judgements=found.judgements, needs=found.needs, proposed=proposed)


def _read_once(review: Review, rep: RepRow, technique: Technique) -> _Known:
    """As `_read`, and not again what was read just so before: a mark changes one rep of many."""
    fingerprint = fingerprint_of(review, rep, technique)
    with _known_lock:
        known = _known.get(fingerprint)
    if known is None:
        known = _read(review, rep, technique, ())
        with _known_lock:
            _known[fingerprint] = known
    return known


def _read(review: Review, rep: RepRow, technique: Technique, views: Sequence[View]) -> _Known:
    file = rep_file(review, rep)
    judgements = overruled(judge_views(technique, file, views), given_verdicts(rep))
    return _Known(file=file, judgements=judgements, needs=needed_points(technique, file))


def _placed_before(review: Review, rep: RepRow) -> tuple[Need, ...]:
    """What is placed again where a rep is marked blind: every point that was placed by hand the first time."""
    first = next(other for other in review.reps if other.id == rep.blind_of)
    placed = [point for point in first.points if point.by == "placed"]
    return tuple(Need(checkpoint="", body=p.body, landmark=p.landmark, frame=p.frame) for p in placed)


def _marked_like(review: Review, rep: RepRow) -> list[MarkedRep]:
    """Other reps of the review of the same technique, the nearest first: where they have an event, this one may have it too."""
    alike = [
        (abs(other.first_frame - rep.first_frame), number, other)
        for number, other in enumerate(review.reps, 1)
        if other.id != rep.id and other.blind_of is None and other.technique_version_id == rep.technique_version_id and other.events
    ]
    return [
        MarkedRep(
            name=f"rep {number}",
            range=(other.first_frame, other.last_frame),
            events={mark.event: mark.frames[0] for mark in other.events if mark.frames},
        )
        for _, number, other in sorted(alike, key=lambda entry: entry[:2])
    ]


@dataclass(frozen=True, kw_only=True)
class Fixes:
    """What is to be fixed first, and what the rules recommend where the coach chose otherwise."""

    first: tuple[Fix, ...]
    recommended: tuple[Fix, ...]


def fixes(review: Review, reps: list[JudgedRep]) -> Fixes:
    """At most two things to fix first, over the student's history, or as the coach chose; demonstrations never count."""
    groups = _groups(review, reps)
    recommended = fix_first_of(groups)
    if not review.fix_choice:
        return Fixes(first=recommended, recommended=recommended)
    choices = [Choice(**choice) for choice in review.fix_choice["choices"]]
    return Fixes(first=as_chosen(groups, choices, review.fix_choice["why"]), recommended=recommended)


def _groups(review: Review, reps: list[JudgedRep]) -> list[Group]:
    db = object_session(review)
    assert db is not None
    groups = []
    for version in dict.fromkeys(entry.rep.technique_version for entry in reps):
        own = [e for e in reps if e.rep.technique_version is version and e.counts]
        # What the clip's own student keeps doing weighs; reps of others in the same clip are judged by themselves.
        mine = [entry.judgements for entry in own if entry.rep.student_id in (None, review.student_id)]
        earlier = ledger.sessions_of(db, review.student_id, version.technique, review.clip.filmed_on, review.id)
        past = ledger.with_reps(earlier, mine, review.clip.filmed_on)
        groups.append(Group(technique=catalogue.definition(version), reps=[entry.judgements for entry in own], past=past))
    return groups


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
    chosen = as_chosen(_groups(review, judged(review)), choices, why)
    if len(chosen) < len(choices):
        raise BadInput("only what these reps were judged met or missed by can be fixed first")
    told = [{"technique": choice.technique, "checkpoint": choice.checkpoint} for choice in choices]
    review.fix_choice = {"choices": told, "why": why.strip()} if choices else None
    db.flush()


def judge_again(db: Session, academy: uuid.UUID, clip_id: uuid.UUID) -> int:
    """Write a finished review's verdicts anew after a fact of its clip has changed; returns how many verdicts differ."""
    found = lock_of_clip(db, clip_id)
    if found is None or found.finished_at is None:
        return 0
    review = load(db, academy, found.id)
    rows = ledger_rows(review, judged(review))
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


def ledger_rows(review: Review, reps: Sequence[JudgedRep]) -> list[JudgementRow]:
    """What goes into the ledger: each rep once, however often it was marked and in however many views it was filmed."""
    told = tied.told_elsewhere(review)
    counted = [entry for entry in reps if entry.rep.blind_of is None and entry.rep.id not in told]
    return [_row(review, entry.rep, judgement) for entry in counted for judgement in entry.judgements]


def _row(review: Review, rep: RepRow, judgement: Judgement) -> JudgementRow:
    asked = catalogue.definition(rep.technique_version).checkpoint(judgement.id)
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
        view=judgement.view,
        reason=judgement.reason,
        fault=judgement.fault,
        family=asked.fault.family,
        safety=judgement.safety,
        **{name: getattr(rep, name) for name in ledger.OF_REP},
    )
