"""Two tabs, two coaches: what each was told is stored is stored, and nothing slips into a review that is being finished."""

from __future__ import annotations

import threading
import uuid
from collections.abc import Callable
from functools import partial

import pytest
import sqlalchemy as sa
from sqlalchemy.orm import Session

from lacertus.core.errors import LacertusError
from lacertus.core.measuring.repfile import Upright
from lacertus.core.review.reference import FrameOfReference
from lacertus.core.sheets.revision import RevisionRecord
from lacertus.services.corrections import correct
from lacertus.services.errors import Conflict
from lacertus.services.review import loading, reference
from lacertus.services.review import review as reviewing
from lacertus.services.review.cuts import RepCut
from lacertus.services.sheets import finish as finishing
from lacertus.store import database
from lacertus.store.tables import RepRow, Revision
from tests import watch
from tests.halls import Hall

Act = Callable[[Session], object]


def at_once(*acts: Act) -> list[BaseException | None]:
    """Do several things in transactions of their own, begun at the same moment; returns how each ended."""
    ready = threading.Barrier(len(acts))
    ended: list[BaseException | None] = [None] * len(acts)

    def run(number: int, act: Act) -> None:
        try:
            with database.session() as db:
                db.execute(sa.text("select 1"))
                ready.wait(10)
                act(db)
        except LacertusError as error:
            ended[number] = error

    threads = [threading.Thread(target=run, args=pair) for pair in enumerate(acts)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(30)
    assert not any(thread.is_alive() for thread in threads)
    return ended


def test_heights_and_reference_put_at_the_same_moment_are_all_kept(db: Session, where: Hall, review: uuid.UUID) -> None:
    for turn in range(25):
        px = 300.0 + turn
        up = FrameOfReference(upright=Upright(deg=px / 100, u=1.0))
        scale = FrameOfReference(centimetres_per_pixel=px / 1000)
        ended = at_once(
            partial(reference.set_height, academy=where.academy, review_id=review, body="performer", px=px),
            partial(reference.set_height, academy=where.academy, review_id=review, body="partner", px=px + 0.5),
            partial(reference.set_reference, academy=where.academy, review_id=review, change=up),
            partial(reference.set_reference, academy=where.academy, review_id=review, change=scale),
        )
        assert ended == [None] * 4
        found = loading.load(db, where.academy, review)
        assert found.heights_px == {"performer": px, "partner": px + 0.5}
        assert found.reference == FrameOfReference(upright=Upright(deg=px / 100, u=1.0), centimetres_per_pixel=px / 1000)
        db.rollback()


def test_a_rep_cut_while_the_review_is_finished_is_in_its_revision_or_refused(
    db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID
) -> None:
    facts = {"first_frame": 0, "last_frame": 20, "side": "right", "options": {}}
    refused = 0
    for _ in range(10):
        finished, cut = at_once(
            lambda s: finishing.finish(s, where.academy, review),
            lambda s: reviewing.cut_rep(s, where.academy, review, "front-kick", RepCut.model_validate(facts)),
        )
        assert finished is None
        assert cut is None or isinstance(cut, Conflict)
        refused += cut is not None
        kept = {rep.id for rep in db.scalars(sa.select(RepRow).where(RepRow.review_id == review))}
        newest = db.scalars(sa.select(Revision).where(Revision.review_id == review).order_by(Revision.number.desc())).first()
        assert newest is not None
        assert {one.id for one in RevisionRecord.model_validate(newest.record).reps} == kept
        finishing.reopen(db, where.academy, review, "once more")
        db.commit()
    assert len(kept) == 11 - refused


@pytest.mark.parametrize(
    "change",
    [
        lambda s, academy, review, rep: reference.set_height(s, academy, review, "performer", 400.0),
        lambda s, academy, review, rep: reference.set_reference(s, academy, review, FrameOfReference(upright=None)),
        lambda s, academy, review, rep: reviewing.set_proposals(s, academy, review, [(0, 3)]),
        lambda s, academy, review, rep: reviewing.choose_fixes(s, academy, review, [], ""),
        lambda s, academy, review, rep: reviewing.delete_rep(s, academy, rep),
        lambda s, academy, review, rep: reviewing.mark_event(s, academy, rep, "knee_top", None),
        lambda s, academy, review, rep: correct.draw_default(s, academy, rep, "knee_high", uuid.uuid4()),
    ],
    ids=["height", "reference", "proposals", "fixes", "delete", "event", "correction"],
)
def test_a_finished_review_is_not_changed(
    db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID, change: Callable[..., object]
) -> None:
    finishing.finish(db, where.academy, review)
    db.commit()
    with pytest.raises(Conflict, match="finished"):
        change(db, where.academy, review, rep)


def test_the_watch_sees_a_change_without_a_lock(
    db: Session, where: Hall, review: uuid.UUID, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(loading, "lock", lambda *_: None)
    reference.set_height(db, where.academy, review, "performer", 400.0)
    db.flush()
    (seen,) = watch.unlocked
    assert seen.startswith("UPDATE review SET heights_px")
    watch.unlocked.clear()
    db.rollback()
