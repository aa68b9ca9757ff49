"""Comparisons from stored reps: what can be compared, the common clock, the table, curves, models, and what is refused."""

from __future__ import annotations

import uuid
from datetime import date
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from sqlalchemy import select, update
from sqlalchemy.orm import Session

from lacertus.core.compare.align import frame_shown
from lacertus.core.errors import BadInput
from lacertus.services.compare import beside, choices, comparison, models, set_curves
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.people import accounts, people
from lacertus.services.review import review as reviewing
from lacertus.services.sheets import finish as finishing
from lacertus.store.tables import Clip, RepRow, Review, Student
from tests import watch
from tests.drawn import default_of_rep
from tests.halls import Hall, cut, read_in


@pytest.fixture
def fast(db: Session, where: Hall, clips: dict[str, Path], truths: dict[str, Any], tmp_path: Path) -> uuid.UUID:
    """A kick at 60 frames a second."""
    return stored(db, where, clips["constant"], truths["constant"], tmp_path)


@pytest.fixture
def slow(db: Session, where: Hall, clips: dict[str, Path], truths: dict[str, Any], tmp_path: Path) -> uuid.UUID:
    """The same kick at 30 frames a second."""
    return stored(db, where, clips["long_gop"], truths["long_gop"], tmp_path)


def stored(db: Session, where: Hall, clip: Path, truth: dict[str, Any], folder: Path) -> uuid.UUID:
    review = reviewing.open_review(db, where.academy, read_in(db, where, clip, folder)).id
    rep = cut(db, where, review, truth["reps"][0])
    db.commit()
    return rep


def review_of(db: Session, rep: uuid.UUID) -> uuid.UUID:
    return db.get_one(RepRow, rep).review_id


def test_whatever_their_frame_rates_both_show_the_event_at_nought_and_run_together(
    db: Session, where: Hall, fast: uuid.UUID, slow: uuid.UUID
) -> None:
    found = comparison.compare(db, where.academy, [f"rep.{fast}", f"rep.{slow}"], "full_reach")
    one, two = found.sides
    for side in (one, two):
        assert side.clock_s[side.events["full_reach"] - side.first] == 0.0
        assert (np.diff(side.clock_s) > 0).all()
    # Half a second before the event the other side shows the frame of that instant, to within a frame.
    real = {side.loaded.key: side.loaded.real_s for side in (one, two)}
    for now in (-0.5, -0.21, 0.0, 0.33):
        for side in (one, two):
            frame = side.first + frame_shown(side.clock_s, now)
            at = real[side.loaded.key][frame] - real[side.loaded.key][side.events["full_reach"]]
            assert now - 1 / 29 <= at <= now + 1e-6
    assert one.stretched_s == one.clock_s, "the leading rep is the measure of time"
    assert two.stretched_s is not None
    lead = {name: one.clock_s[frame - one.first] for name, frame in one.events.items()}
    for name in found.anchors:
        assert two.stretched_s[two.events[name] - two.first] == pytest.approx(lead[name], abs=1e-4)


def test_the_same_movement_filmed_twice_differs_in_nothing_that_is_real(
    db: Session, where: Hall, fast: uuid.UUID, slow: uuid.UUID
) -> None:
    found = comparison.compare(db, where.academy, [f"rep.{fast}", f"rep.{slow}"], checkpoint="thigh_lifted")
    told = [row.differences[1] for row in found.rows if row.differences[1] is not None]
    assert len(told) >= 6
    assert sum(one.is_real for one in told) <= 1
    assert all(row.differences[1] is None or abs(row.differences[1].value) < 0.05 for row in found.timing)
    (curve,), (other,) = (side.curves for side in found.sides)
    assert curve.quantity.name == "angle at the mid hip" or curve.quantity.unit == "deg"
    assert np.nanmin(curve.values) == pytest.approx(np.nanmin(other.values), abs=6)
    laid = found.sides[1].laid
    assert laid is not None
    assert (laid.scale, laid.mirrored) == (pytest.approx(1.0, abs=0.02), False)
    assert found.sides[0].skeletons[0].body == "performer"
    assert len(found.sides[0].skeletons[0].frames) == found.sides[0].last - found.sides[0].first + 1


def test_beside_the_studios_move_each_checkpoint_has_both_values(db: Session, where: Hall, fast: uuid.UUID) -> None:
    found = comparison.compare(db, where.academy, [f"rep.{fast}", "studio.right"], checkpoint="thigh_lifted")
    row = next(row for row in found.rows if row.id == "thigh_lifted")
    told = row.differences[1]
    assert told is not None
    assert told.is_real
    assert told.value < -10, "the studio's knee comes higher"
    studio = found.sides[1]
    # Its limbs can be laid over the film: both are seen from the side, and are as tall.
    assert studio.laid is not None
    lead, own = found.sides[0].loaded.side, studio.loaded.side
    assert lead is not None and own is not None
    heights = [lead.scene.height_px("performer"), studio.laid.scale * own.scene.height_px("performer")]
    assert heights[0] == pytest.approx(heights[1], rel=0.01)
    assert {one.body for one in studio.skeletons} >= {"performer"}
    with watch.paused():
        db.execute(update(RepRow).where(RepRow.id == fast).values(view="front"))
    db.expire_all()
    turned = comparison.compare(db, where.academy, [f"rep.{fast}", "studio.right"]).sides[1]
    assert (turned.laid, turned.why_not_laid) == (
        None,
        "They are seen from the front and from the side; show them side by side.",
    )
    assert studio.loaded.clip is None


@pytest.mark.parametrize(
    ("keys", "says"),
    [
        (["rep.{fast}"], "compare 2 to 4"),
        (["rep.{fast}"] * 5, "compare 2 to 4"),
        (["studio.right", "rep.{fast}"], "the first of a comparison is a rep"),
        (["rep.{fast}", "studio.up"], "nothing that can be compared"),
        (["rep.{fast}", "rep.nothing"], "no rep and no clip"),
        (["rep.{fast}", "rep.{sweep}"], "compare reps of one technique"),
    ],
)
def test_what_cannot_be_compared_is_told(
    db: Session,
    where: Hall,
    fast: uuid.UUID,
    clips: dict[str, Path],
    truths: dict[str, Any],
    tmp_path: Path,
    keys: list[str],
    says: str,
) -> None:
    sweep = stored(db, where, clips["variable"], truths["variable"], tmp_path)
    with pytest.raises(BadInput, match=says):
        comparison.compare(db, where.academy, [key.format(fast=fast, sweep=sweep) for key in keys])


def test_reps_elsewhere_and_events_that_one_lacks_are_refused(db: Session, where: Hall, fast: uuid.UUID, slow: uuid.UUID) -> None:
    with pytest.raises(BadInput, match="not marked in all"):
        comparison.compare(db, where.academy, [f"rep.{fast}", f"rep.{slow}"], "no_such_event")
    other = accounts.create_academy(db, "Elsewhere").id
    with pytest.raises(NotFound, match="no such rep"):
        comparison.compare(db, other, [f"rep.{fast}", f"rep.{slow}"])
    with pytest.raises(NotFound, match="no such second view"):
        comparison.compare(db, where.academy, [f"rep.{fast}", f"view.{uuid.uuid4()}"])
    with pytest.raises(NotFound, match="no such rep"):
        choices.of_rep(db, other, fast)


class TestOthers:
    @pytest.fixture
    def lent(self, db: Session, where: Hall, slow: uuid.UUID) -> uuid.UUID:
        """The slow kick is another student's, finished."""
        other = people.create_student(db, where.academy, "Somebody Else").id
        review = review_of(db, slow)
        db.execute(
            update(Clip).where(Clip.id == db.get_one(Review, review).clip_id).values(student_id=other, filmed_on=date(2026, 5, 1))
        )
        with watch.paused():
            db.execute(update(Review).where(Review.id == review).values(student_id=other))
        db.expire_all()
        finishing.finish(db, where.academy, review)
        db.commit()
        return other

    def test_only_who_agreed_is_shown_beside_others(
        self, db: Session, where: Hall, fast: uuid.UUID, slow: uuid.UUID, lent: uuid.UUID
    ) -> None:
        assert not [one for one in choices.of_rep(db, where.academy, fast) if one.why == "other student"]
        with pytest.raises(NotFound, match="Somebody Else has not agreed"):
            comparison.compare(db, where.academy, [f"rep.{fast}", f"rep.{slow}"])
        db.get_one(Student, lent).lends_pictures = True
        db.flush()
        (offered,) = [one for one in choices.of_rep(db, where.academy, fast) if one.why == "other student"]
        assert (offered.key, offered.student) == (f"rep.{slow}", "Somebody Else")
        assert len(comparison.compare(db, where.academy, [f"rep.{fast}", offered.key]).sides) == 2

    def test_a_finished_rep_is_named_a_model_for_its_technique_or_for_one_checkpoint(
        self, db: Session, where: Hall, fast: uuid.UUID, slow: uuid.UUID, lent: uuid.UUID
    ) -> None:
        db.get_one(Student, lent).lends_pictures = True
        for _ in range(2):
            models.name_model(db, where.academy, slow, "thigh_lifted", None)
        models.name_model(db, where.academy, slow, "", None)
        assert models.of_rep(db, where.academy, slow) == ["", "thigh_lifted"]
        offered = [one for one in choices.of_rep(db, where.academy, fast) if one.why == "model"]
        assert [one.words for one in offered] == ["for the technique"], "a rep is offered once, by its first reason"
        models.take_back(db, where.academy, slow, "")
        (left,) = [one for one in choices.of_rep(db, where.academy, fast) if one.why == "model"]
        assert left.words.startswith("for “Thigh lifted")
        with pytest.raises(Conflict, match="finish this one first"):
            models.name_model(db, where.academy, fast, "", None)
        with pytest.raises(BadInput, match="no such checkpoint"):
            models.name_model(db, where.academy, slow, "nothing", None)


def test_a_students_own_reps_are_offered_with_why(db: Session, where: Hall, fast: uuid.UUID, slow: uuid.UUID) -> None:
    db.execute(update(Clip).where(Clip.id == db.get_one(Review, review_of(db, slow)).clip_id).values(filmed_on=date(2026, 5, 1)))
    finishing.finish(db, where.academy, review_of(db, slow))
    offered = choices.of_rep(db, where.academy, fast)
    assert [(one.key, one.why) for one in offered] == [(f"rep.{slow}", "last"), ("studio.right", "studio")]
    assert offered[0].missed


def test_what_was_compared_is_put_beside_the_correction(db: Session, where: Hall, fast: uuid.UUID, slow: uuid.UUID) -> None:
    with pytest.raises(BadInput, match="no correction of this checkpoint yet"):
        beside.put_beside(db, where.academy, fast, "thigh_lifted", slow)
    made = default_of_rep(db, where, fast)
    done = beside.put_beside(db, where.academy, fast, "thigh_lifted", slow)
    assert done.id == made.id
    assert done.example is not None
    assert (done.example.source, done.example.rep, done.example.words) == ("own", slow, "Your rep of 4 May")
    finishing.finish(db, where.academy, review_of(db, fast))
    with pytest.raises(Conflict, match="finished"):
        beside.put_beside(db, where.academy, fast, "thigh_lifted", slow)


def test_the_curves_of_a_set_are_locked_on_what_is_read(db: Session, where: Hall, fast: uuid.UUID) -> None:
    found = set_curves.of_review(db, where.academy, fast, "thigh_lifted")
    (own,) = found.reps
    assert found.why_none == ""
    assert own.read_at
    (curve,) = own.curves
    assert len(curve.values) == len(own.clock_s)
    assert own.clock_s[own.read_at[0] - own.first] == 0.0
    assert set_curves.of_review(db, where.academy, fast, "quick_return").why_none.startswith("a time between two events")
    with pytest.raises(BadInput, match="no such checkpoint"):
        set_curves.of_review(db, where.academy, fast, "nothing")
    assert db.scalars(select(RepRow.id)).one() == fast
