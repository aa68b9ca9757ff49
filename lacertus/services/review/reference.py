"""The frame of reference of a clip: where up is, how large things are, the mat, and how long a body's limbs are."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from typing import Any

import numpy as np
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.measuring.body import BODIES
from lacertus.core.measuring.mat_plan import plan_of
from lacertus.core.measuring.references import lengths_in
from lacertus.core.measuring.repfile import RepFile
from lacertus.core.review.ground import Ground, ground_of
from lacertus.services.review import loading
from lacertus.services.review import review as reviewing
from lacertus.services.techniques import catalogue
from lacertus.store.tables import Review


def set_reference(db: Session, academy: uuid.UUID, review_id: uuid.UUID, change: Mapping[str, Any]) -> None:
    """Change parts of the clip's frame of reference: `upright`, `centimetres_per_pixel`, `floor`; None takes one back.

    Raises:
        BadInput: mat points that give no plan, or places outside the picture.
    """
    review = loading.for_change(db, academy, review_id)
    if change.get("floor") is not None:
        corners = change["floor"]
        for corner in corners:
            reviewing.check_inside(review.clip, corner["x"], corner["y"])
        plan_of(*(np.array([(c[x], c[y]) for c in corners]) for x, y in (("x", "y"), ("X", "Y"))))
    kept = {key: value for key, value in (review.reference or {}).items() if key not in change}
    review.reference = kept | {key: value for key, value in change.items() if value is not None}
    db.flush()
    for rep in loading.load(db, academy, review_id).reps:
        reviewing.check_rep(review, rep)


def read_lengths(db: Session, academy: uuid.UUID, rep_id: uuid.UUID, body: str, frame: int | None) -> None:
    """Name a still frame whose limbs lie square to the camera: their lengths there are the body's; None forgets them.

    Raises:
        BadInput: no limb has both ends placed in it.
    """
    review, rep = loading.review_of_rep(db, academy, rep_id)
    if body not in BODIES:
        raise BadInput(f"there is no body “{body}”")
    lengths = {name: kept for name, kept in (review.reference or {}).get("lengths_px", {}).items() if name != body}
    if frame is not None:
        found = lengths_in(loading.rep_file(review, rep), body, frame)
        if not found:
            raise BadInput(f"in frame {frame} no limb of the {body} has both its ends placed; place them there first")
        lengths[body] = {segment: length.model_dump() for segment, length in found.items()}
    review.reference = (review.reference or {}) | {"lengths_px": lengths}
    db.flush()


def adopt(review: Review, rep: RepFile) -> None:
    """Take over the frame of reference that a rep file tells of: where up is, the scale, the mat, heights and lengths."""
    told = rep.model_dump(mode="json", include={"upright", "centimetres_per_pixel", "floor"}, exclude_unset=True)
    lengths = {
        body: {name: length.model_dump() for name, length in data.reference_lengths_px.items()}
        for body, data in rep.bodies.items()
        if data.reference_lengths_px
    }
    found = {key: value for key, value in told.items() if value} | ({"lengths_px": lengths} if lengths else {})
    review.reference = found
    heights = {body: data.height_px for body, data in rep.bodies.items() if data.height_px is not None}
    review.heights_px = heights | review.heights_px


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
