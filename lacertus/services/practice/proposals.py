"""What a finished review proposes to practise: for each of the things to fix first its drills."""

from __future__ import annotations

import uuid
from dataclasses import dataclass

from sqlalchemy.orm import Session

from lacertus.services.practice import drills, prescriptions
from lacertus.services.practice.drills import DrillChoice
from lacertus.services.review import loading
from lacertus.services.review.view import view_of
from lacertus.services.techniques import catalogue


@dataclass(frozen=True, kw_only=True)
class Proposal:
    """A thing to fix first with the drills that answer it. `prescribed` are the names of those that are prescribed already."""

    technique: str
    technique_name: str
    fault: str
    ask: str
    reason: str
    drills: tuple[DrillChoice, ...]
    prescribed: tuple[str, ...]


def of_review(db: Session, academy: uuid.UUID, review_id: uuid.UUID) -> list[Proposal]:
    """What to practise after a review, at most two things, as the review says what to fix first.

    Raises:
        NotFound: no such review.
    """
    review = loading.load(db, academy, review_id)
    here = prescriptions.open_of(db, review.student_id)
    found = []
    for fix in view_of(review).fixes.first:
        technique = catalogue.definition(catalogue.newest(db, academy, fix.technique))
        asked = technique.asked(fix.checkpoint)
        own = [row.name for row in here if row.technique == fix.technique and fix.fault in row.faults]
        found.append(
            Proposal(
                technique=fix.technique,
                technique_name=technique.names.main,
                fault=fix.fault,
                ask=asked.ask if asked else fix.fault.replace("-", " "),
                reason=fix.reason,
                drills=tuple(drills.choices(db, academy, technique, fix.fault)),
                prescribed=tuple(own),
            )
        )
    return found
