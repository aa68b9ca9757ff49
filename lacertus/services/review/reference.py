"""The frame of reference of a clip: where up is, how large things are, the mat, and how long a body's limbs are."""

from __future__ import annotations

import uuid

import numpy as np
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.measuring.body import BODIES
from lacertus.core.measuring.mat_plan import plan_of
from lacertus.core.measuring.references import lengths_in
from lacertus.core.measuring.repfile import RepFile
from lacertus.core.measuring.scene import Scene
from lacertus.core.review.ground import Ground, ground_of
from lacertus.core.review.reference import FrameOfReference
from lacertus.core.review.views.believed import BelievedBody, believed
from lacertus.services.people.rights import Right, needs
from lacertus.services.review import loading, tied
from lacertus.services.review import review as reviewing
from lacertus.services.review.kept.at_hand import at_hand
from lacertus.services.techniques import catalogue
from lacertus.store.tables import Review


@needs(Right.REVIEW)
def set_reference(db: Session, academy: uuid.UUID, review_id: uuid.UUID, change: FrameOfReference) -> None:
    """Change those parts of the clip's frame of reference that `change` was given; one that is empty is taken back.

    Raises:
        BadInput: mat points that give no plan, or places outside the picture.
    """
    review = loading.for_change(db, academy, review_id)
    if change.floor is not None:
        for corner in change.floor:
            reviewing.check_inside(review.clip, corner.x, corner.y)
        plan_of(np.array([(c.x, c.y) for c in change.floor]), np.array([(c.X, c.Y) for c in change.floor]))
    review.reference = review.reference.model_copy(update={name: getattr(change, name) for name in change.model_fields_set})
    db.flush()
    for rep in loading.load(db, academy, review_id).reps:
        reviewing.check_rep(review, rep)


@needs(Right.REVIEW)
def read_lengths(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, body: str, frame: int | None) -> None:
    """Name a still frame whose limbs lie square to the camera: their lengths there are the body's; None forgets them.

    Raises:
        BadInput: no limb has both ends placed in it.
    """
    review, rep = loading.review_of_rep(db, academy, rep_id)
    if body not in BODIES:
        raise BadInput(f"there is no body “{body}”")
    lengths = {name: kept for name, kept in review.reference.lengths_px.items() if name != body}
    if frame is not None:
        found = lengths_in(loading.rep_file(review, rep), body, frame)
        if not found:
            raise BadInput(f"in frame {frame} no limb of the {body} has both its ends placed; place them there first")
        lengths[body] = dict(found)
    review.reference = review.reference.model_copy(update={"lengths_px": lengths})
    db.flush()


def adopt(review: Review, rep: RepFile) -> None:
    """Take over the frame of reference that a rep file tells of: where up is, the scale, the mat, heights and lengths."""
    told = {name: getattr(rep, name) for name in ("upright", "centimetres_per_pixel", "floor") if name in rep.model_fields_set}
    lengths = {body: data.reference_lengths_px for body, data in rep.bodies.items() if data.reference_lengths_px}
    review.reference = FrameOfReference.model_validate(told | {"lengths_px": lengths})
    heights = {body: data.height_px for body, data in rep.bodies.items() if data.height_px is not None}
    review.heights_px = heights | review.heights_px


@needs(Right.REVIEW)
def set_height(db: Session, academy: uuid.UUID, review_id: uuid.UUID, body: str, px: float | None) -> None:
    """A body's standing height in the picture, from which points take their uncertainty.

    Raises:
        BadInput: not a height that fits the picture.
    """
    review = loading.for_change(db, academy, review_id)
    if body not in BODIES:
        raise BadInput(f"there is no body “{body}”")
    if px is not None and not 20 <= px <= 2 * (review.clip.height or 0):
        raise BadInput(f"a standing height of {px:.0f} pixels does not fit the picture; mark crown and sole again")
    heights = {key: value for key, value in review.heights_px.items() if key != body}
    review.heights_px = heights if px is None else heights | {body: px}


def ground(db: Session, academy: uuid.UUID, rep_id: uuid.UUID) -> tuple[Ground, ...]:
    """What a rep does over the mat, frame by frame; raises NotFound where it is not in this academy."""
    review = loading.load(db, academy, loading.review_id_of(db, academy, rep_id))
    rep = next(rep for rep in review.reps if rep.id == rep_id)
    return ground_of(catalogue.definition(rep.technique_version), loading.rep_file(review, rep))


def in_space(db: Session, academy: uuid.UUID, rep_id: uuid.UUID) -> tuple[BelievedBody, ...]:
    """Both bodies as they are believed to be in space, frame by frame; raises NotFound where the rep is not in this academy."""
    review = loading.load(db, academy, loading.review_id_of(db, academy, rep_id))
    rep = next(rep for rep in review.reps if rep.id == rep_id)
    views = tied.views_of(tied.others(review), review, rep)
    technique, file = catalogue.definition(rep.technique_version), loading.rep_file(review, rep)
    with at_hand(Scene(file, technique.edges)) as scene:
        return believed(technique, file, views, scene)
