"""A review → what the API gives."""

from __future__ import annotations

import hashlib
from collections.abc import Collection

from lacertus.core.measuring.rep_facts import FACT_NAMES
from lacertus.core.review.judgement import Judgement
from lacertus.services.review.kept.newest import Newest
from lacertus.services.review.view import JudgedRep, ReviewView, Work
from lacertus.web.clips.presenters import stretches
from lacertus.web.corrections.presenters import correction_out
from lacertus.web.jobs.schemas import JobOut
from lacertus.web.review import schemas as ben
from lacertus.web.techniques.presenters import technique_out


def review_out(view: ReviewView, work: Work, held: Collection[str] = ()) -> ben.ReviewOut:
    """A review as pages read it; without the points of the versions in `held`, which the page has."""
    review, fixes = view.review, view.fixes
    faults = {(entry.rep.id, judgement.id): judgement.fault for entry in view.reps for judgement in entry.judgements}
    return ben.ReviewOut(
        id=review.id,
        clip_id=review.clip_id,
        student_id=review.student_id,
        revision=review.changes,
        finished_at=review.finished_at,
        heights_px=review.heights_px,
        heights_offered=view.heights_offered,
        own_events_ms=None if review.marking.events_s is None else round(1000 * review.marking.events_s, 1),
        reference=review.reference,
        proposals=stretches(review.proposals),
        reps=[rep_out(entry, held) for entry in view.reps],
        corrections=[correction_out(one, faults.get((one.rep_id, one.checkpoint), "")) for one in review.corrections],
        fix_first=list(fixes.first),
        recommended=list(fixes.recommended),
        techniques=[technique_out(technique, version) for technique, version in view.techniques],
        revisions=view.revisions,
        reopened_why=review.reopened_why,
        said=[ben.SaidOut.model_validate(said) for said in view.said],
        jobs=[JobOut.model_validate(job) for job in work],
    )


_OF_THE_ROW = (*FACT_NAMES, "id", "first_frame", "last_frame", "linked_to", "blind_of", "student_id", "partner_student_id")


_OF_A_POINT = tuple(name for name in ben.PointOut.model_fields if name not in ("body", "landmark"))
MOST_POINTS = 200_000
told_points: Newest[int, list[ben.PointOut]] = Newest(MOST_POINTS, len)
"""By rep, with the version of its points."""


def _points(entry: JudgedRep) -> list[ben.PointOut]:
    """The points of a rep; of most reps they are as they were told before, and are not read again."""
    known = told_points.get(entry.rep.id, entry.rep.points_version)
    if known is None:
        known = [
            ben.PointOut(body=body, landmark=name, **{field: getattr(point, field) for field in _OF_A_POINT})
            for body, marked in entry.file.bodies.items()
            for name, points in marked.landmarks.items()
            for point in points
        ]
        told_points.keep(entry.rep.id, entry.rep.points_version, known)
    return known


MOST_JUDGED = 600
told_judgements: Newest[tuple[Judgement, ...], list[ben.JudgementOut]] = Newest(MOST_JUDGED)
"""By rep, with the judgements that are told."""


def _judgements(entry: JudgedRep) -> list[ben.JudgementOut]:
    """The judgements of a rep as they were told before, where they are the same ones: most reps are not judged anew."""
    known = told_judgements.get(entry.rep.id, entry.judgements)
    if known is None:
        known = [ben.JudgementOut.model_validate(judgement) for judgement in entry.judgements]
        told_judgements.keep(entry.rep.id, entry.judgements, known)
    return known


def points_version(entry: JudgedRep) -> str:
    """What tells the points of a rep from those that it had before any of them changed."""
    return hashlib.blake2b(f"{entry.rep.id} {entry.rep.points_version}".encode(), digest_size=8).hexdigest()


def rep_out(entry: JudgedRep, held: Collection[str] = ()) -> ben.RepOut:
    rep, version = entry.rep, points_version(entry)
    return ben.RepOut(
        **{name: getattr(rep, name) for name in _OF_THE_ROW},
        technique=rep.technique_version.technique,
        technique_version=rep.technique_version.version,
        tracked=rep.tracking,
        proposed=list(entry.proposed),
        events={mark.event: mark.frames for mark in rep.events},
        points_version=version,
        points_held=version in held,
        points=[] if version in held else _points(entry),
        answers={given.checkpoint: given.yes for given in rep.answers},
        judgements=_judgements(entry),
        reacted=list(entry.reacted),
        asks=list(entry.asks),
        choice=entry.choice,
        needs=list(entry.needs),
        left=list(entry.left),
    )
