"""A rep that was compared is put beside the correction of the leading one, at the frame at which the checkpoint was read."""

from __future__ import annotations

import uuid
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.services.compare.choices import may_be_shown
from lacertus.services.corrections import examples
from lacertus.services.corrections.examples import Choice
from lacertus.services.people.rights import Right, needs
from lacertus.services.review import loading
from lacertus.store.tables import Correction, Student


@needs(Right.REVIEW)
def put_beside(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, checkpoint: str, other_id: uuid.UUID) -> Correction:
    """Put the picture of another rep beside the correction of a checkpoint in a rep.

    Raises:
        BadInput: there is no correction of it, the other rep is of another technique, does not tell the checkpoint, has no film,
            or is of somebody who did not agree to be shown.
        Conflict: the review is finished.
        NotFound: no such rep.
    """
    review = loading.load(db, academy, loading.review_id_of(db, academy, rep_id))
    wanted = select(Correction).where(Correction.rep_id == rep_id, Correction.checkpoint == checkpoint)
    correction = db.scalars(wanted.order_by(Correction.created_at)).first()
    if correction is None:
        raise BadInput("there is no correction of this checkpoint yet: make one on the bench first (key C). Nothing was changed")
    rep = next(one for one in review.reps if one.id == rep_id)
    theirs = loading.load(db, academy, loading.review_id_of(db, academy, other_id))
    other = next(one for one in theirs.reps if one.id == other_id)
    if other.technique_version.technique != rep.technique_version.technique:
        raise BadInput("the other rep is of another technique; nothing was changed")
    if not theirs.clip.has_film:
        raise BadInput("the film of that rep is not kept, so there is no picture of it; choose another one. Nothing was changed")
    performer = other.student_id or theirs.student_id
    own = performer == (rep.student_id or review.student_id)
    student = db.get_one(Student, performer)
    if not own and not may_be_shown(db, student):
        raise BadInput(f"{student.name} has not agreed to be shown beside others; nothing was changed")
    source: Literal["own", "other"] = "own" if own else "other"
    on = theirs.clip.filmed_on
    words = f"{'Your rep' if own else f'{student.name}’s rep'} of {on.day} {on:%B}"
    return examples.put_rep(db, academy, correction.id, Choice(source=source, words=words, rep=other_id))
