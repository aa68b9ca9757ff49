"""Reps that the academy names as its models, for a technique or for one checkpoint of it."""

from __future__ import annotations

import uuid

from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.people.rights import Right, needs
from lacertus.services.review import loading
from lacertus.services.techniques import catalogue
from lacertus.store.tables import ModelRep, RepRow, Review

MOST = 40
"""So many model reps a technique has at most."""


@needs(Right.TEACH)
def name_model(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, checkpoint: str, account: uuid.UUID | None) -> None:
    """Name a rep of a finished review as a model: for its technique, or for one checkpoint (empty: none). Twice is once.

    Raises:
        BadInput: its technique has no such checkpoint, or too many models.
        Conflict: its review is not finished.
        NotFound: no such rep.
    """
    review = loading.load(db, academy, loading.review_id_of(db, academy, rep_id))
    rep = next(rep for rep in review.reps if rep.id == rep_id)
    if review.finished_at is None:
        raise Conflict("A model is a rep of a finished review: finish this one first. Nothing was stored.")
    technique = catalogue.definition(rep.technique_version)
    if checkpoint and technique.asked(checkpoint) is None:
        raise BadInput("this technique has no such checkpoint; nothing was stored")
    if len(of_technique(db, academy, technique.id)) >= MOST:
        raise BadInput(f"a technique has at most {MOST} model reps; take one of them back first. Nothing was stored")
    row = insert(ModelRep).values(rep_id=rep_id, checkpoint=checkpoint, technique=technique.id, account_id=account)
    db.execute(row.on_conflict_do_nothing())
    db.flush()


@needs(Right.TEACH)
def take_back(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, checkpoint: str) -> None:
    """A rep is no model any more; raises NotFound where it is not in this academy."""
    loading.review_id_of(db, academy, rep_id)
    db.execute(delete(ModelRep).where(ModelRep.rep_id == rep_id, ModelRep.checkpoint == checkpoint))
    db.flush()


def of_technique(db: Session, academy: uuid.UUID, technique: str) -> list[tuple[ModelRep, RepRow, Review]]:
    """The model reps of a technique whose reviews are finished, those for the whole technique first, then the newest first."""
    own = (
        select(ModelRep, RepRow, Review)
        .join(RepRow, RepRow.id == ModelRep.rep_id)
        .join(Review, Review.id == RepRow.review_id)
        .where(Review.academy_id == academy, ModelRep.technique == technique, Review.finished_at.is_not(None))
        .order_by(ModelRep.checkpoint != "", ModelRep.named_at.desc())
    )
    return list(db.execute(own).tuples())


def of_rep(db: Session, academy: uuid.UUID, rep_id: uuid.UUID) -> list[str]:
    """For which checkpoints a rep is a model; an empty name stands for the whole technique.

    Raises:
        NotFound: no such rep.
    """
    if not db.scalar(
        select(RepRow.id).join(Review, Review.id == RepRow.review_id).where(RepRow.id == rep_id, Review.academy_id == academy)
    ):
        raise NotFound("There is no such rep in your academy.")
    return list(db.scalars(select(ModelRep.checkpoint).where(ModelRep.rep_id == rep_id).order_by(ModelRep.checkpoint)))
