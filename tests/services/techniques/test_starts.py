"""Starts that an academy makes from frames of its own reps, and reps that are done from them."""

from __future__ import annotations

import uuid
from typing import Any

import pytest
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput, BadRep
from lacertus.services.errors import NotFound
from lacertus.services.review import loading
from lacertus.services.review import review as reviewing
from lacertus.services.review.cuts import RepChanges
from lacertus.services.review.view import view_of
from lacertus.services.techniques import catalogue, starts
from lacertus.store.tables import MadeStart, RepRow
from tests.halls import Hall, cut


@pytest.fixture
def rep(db: Session, where: Hall, clip: uuid.UUID, truths: dict[str, Any]) -> RepRow:
    review = reviewing.open_review(db, where.academy, clip).id
    cut(db, where, review, truths["constant"]["reps"][0])
    return loading.load(db, where.academy, review).reps[0]


def chambered(db: Session, where: Hall, rep: RepRow) -> MadeStart:
    """A start from the frame after the knee is at its top."""
    top = next(mark.frames[0] for mark in rep.events if mark.event == "knee_top")
    reviewing.make_start(db, where.academy, rep.id, top + 1)
    (found,) = starts.made(db, where.academy, ["front-kick"])["front-kick"]
    return found


def test_a_frame_becomes_a_start_at_the_phase_of_the_last_event(db: Session, where: Hall, rep: RepRow) -> None:
    made = chambered(db, where, rep)
    assert (made.phase, made.says) == ("chamber", "After “knee top”")
    again = chambered(db, where, rep)
    assert again.id == made.id, "the same frame twice is one start"


def test_a_rep_from_it_leaves_out_what_lies_before(db: Session, where: Hall, rep: RepRow) -> None:
    made = chambered(db, where, rep)
    starts.change(db, where.academy, catalogue.definition(rep.technique_version), made.name, "Knee up", "fifth", "full_reach")
    reviewing.change_rep(db, where.academy, rep.id, RepChanges.model_validate({"start": made.name}))
    view = view_of(loading.load(db, where.academy, rep.review_id))
    asked = view.reps[0].technique
    early = {c.id for c in asked.checkpoints if asked.phases.index(c.phase) < asked.phases.index("chamber")}
    assert early and all(view.reps[0].judgement(name).verdict == "not_asked" for name in early)  # type: ignore[union-attr]
    assert [(start.says, start.resistance) for start in view.techniques[0][0].starts][-1] == ("Knee up", "fifth")


def test_one_that_is_deleted_is_not_offered_and_still_known_to_its_reps(db: Session, where: Hall, rep: RepRow) -> None:
    made = chambered(db, where, rep)
    reviewing.change_rep(db, where.academy, rep.id, RepChanges.model_validate({"start": made.name}))
    starts.delete(db, where.academy, "front-kick", made.name)
    view = view_of(loading.load(db, where.academy, rep.review_id))
    assert view.reps[0].technique.start(made.name) is not None
    with pytest.raises(NotFound, match="no such start"):
        starts.delete(db, where.academy, "front-kick", made.name)


def test_what_does_not_fit_is_refused(db: Session, where: Hall, rep: RepRow) -> None:
    with pytest.raises(BadInput, match="outside the rep"):
        reviewing.make_start(db, where.academy, rep.id, rep.last_frame + 1)
    with pytest.raises(BadRep, match="no start"):
        reviewing.change_rep(db, where.academy, rep.id, RepChanges.model_validate({"start": "own-of-nobody"}))
    made = chambered(db, where, rep)
    with pytest.raises(BadInput, match="no event"):
        starts.change(db, where.academy, catalogue.definition(rep.technique_version), made.name, "Knee up", "half", "never")


def test_another_academy_has_nothing_of_it(db: Session, where: Hall, rep: RepRow) -> None:
    made = chambered(db, where, rep)
    assert starts.made(db, uuid.uuid4(), ["front-kick"]) == {}
    with pytest.raises(NotFound, match="no such start"):
        starts.delete(db, uuid.uuid4(), "front-kick", made.name)
