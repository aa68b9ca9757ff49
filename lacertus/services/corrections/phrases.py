"""The coach's own words for a fault, learned from the corrections that were drawn before."""

from __future__ import annotations

import uuid

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lacertus.services.corrections import correct
from lacertus.services.techniques import catalogue
from lacertus.store.tables import Correction, RepRow, Review, TechniqueVersion

MOST = 8


def known(db: Session, academy: uuid.UUID, account: uuid.UUID, correction_id: uuid.UUID) -> list[str]:
    """Words for a correction: those that this coach used for the same checkpoint, the most used first, then the technique's cues.

    Raises:
        NotFound: no such correction.
    """
    correction = correct.one(db, academy, correction_id)
    rep = db.get_one(RepRow, correction.rep_id)
    version = db.get_one(TechniqueVersion, rep.technique_version_id)
    used = (
        select(Correction.cue)
        .join(Review, Review.id == Correction.review_id)
        .join(RepRow, RepRow.id == Correction.rep_id)
        .join(TechniqueVersion, TechniqueVersion.id == RepRow.technique_version_id)
        .where(Review.academy_id == academy, Review.account_id == account, Correction.id != correction.id)
        .where(Correction.checkpoint == correction.checkpoint, TechniqueVersion.technique == version.technique)
        .group_by(Correction.cue)
        .order_by(func.count().desc(), func.max(Correction.created_at).desc(), Correction.cue)
        .limit(MOST)
    )
    asked = catalogue.definition(version).asked(correction.checkpoint)
    cues = asked.cues if asked is not None else ()
    return list(dict.fromkeys((*db.scalars(used), *cues)))[:MOST]
