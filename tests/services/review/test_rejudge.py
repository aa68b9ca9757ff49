"""An edited technique gets a new version; old reviews keep theirs until they are judged again on request."""

from __future__ import annotations

import uuid
from typing import Any

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.services.errors import Conflict
from lacertus.services.review import loading, rejudge
from lacertus.services.review import review as reviewing
from lacertus.services.review.view import view_of
from lacertus.services.sheets import finish as finishing
from lacertus.services.techniques import catalogue, lessons
from lacertus.store.tables import JudgementRow
from tests.halls import Hall, cut


@pytest.fixture
def review(db: Session, where: Hall, clip: uuid.UUID, truths: dict[str, Any]) -> uuid.UUID:
    found = reviewing.open_review(db, where.academy, clip).id
    cut(db, where, found, truths["constant"]["reps"][0])
    return found


def stricter(db: Session, where: Hall) -> None:
    """The academy allows half the time for the return of a front kick, and no longer asks for the hands."""
    technique = catalogue.definition(catalogue.newest(db, where.academy, "front-kick"))
    kept = [
        c.model_copy(update={"within": (None, 2000)}) if c.id == "quick_return" else c
        for c in technique.checkpoints
        if c.id != "hands_up"
    ]
    # What names the hands goes with them.
    drills = [drill for drill in technique.drills if isinstance(drill, str) or "hands-drop" not in drill.answers]
    changed = technique.model_copy(update={"checkpoints": tuple(kept), "layers": (), "drills": tuple(drills)})
    lessons.keep(db, where.academy, lessons.as_yaml(changed))
    db.commit()


def test_an_old_review_keeps_its_version_and_says_what_a_newer_one_would_change(
    db: Session, where: Hall, review: uuid.UUID
) -> None:
    assert rejudge.newer(db, where.academy, review) == ([], [])
    stricter(db, where)
    newer, differences = rejudge.newer(db, where.academy, review)
    assert [(entry.technique, entry.newest) for entry in newer] == [("front-kick", 1)]
    changes = {d.checkpoint: (d.before, d.after) for d in differences}
    assert changes["quick_return"] == ("missed", "met")
    assert changes["hands_up"][1] is None
    judged = {j.id: j.verdict for j in view_of(loading.load(db, where.academy, review)).reps[0].judgements}
    assert judged["quick_return"] == "missed" and "hands_up" in judged


def test_judged_again_the_ledger_follows(db: Session, where: Hall, review: uuid.UUID) -> None:
    finishing.finish(db, where.academy, review)
    db.commit()
    stricter(db, where)
    assert rejudge.rejudge(db, where.academy, review) >= 2
    db.commit()
    rows = {row.checkpoint: row.verdict for row in db.scalars(select(JudgementRow).where(JudgementRow.review_id == review))}
    assert rows["quick_return"] == "met" and "hands_up" not in rows
    assert rejudge.newer(db, where.academy, review) == ([], [])
    with pytest.raises(Conflict, match="newest"):
        rejudge.rejudge(db, where.academy, review)
