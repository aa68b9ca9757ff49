"""Rep files brought in without their film, against the real database."""

from __future__ import annotations

from datetime import date
from typing import Any

import pytest
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.measuring.repfile import read_rep
from lacertus.core.review.judge import judge_rep
from lacertus.library import shipped_technique
from lacertus.services.clips import intake
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.progress import follow_up
from lacertus.services.review.view import view_of
from lacertus.services.sheets import finish as finishing
from lacertus.services.transfer import rep_files
from lacertus.store.tables import Clip
from tests.core.build import points, rep, rep_data
from tests.halls import Hall

DAY = date(2026, 5, 4)


def full_rep(**changes: Any) -> dict[str, Any]:
    body = {"performer": {"height_px": 500, "landmarks": points(sigma=None, ankle=(400.0, 400.0))}}
    return rep_data(bodies=body, seen={"toes_back": {"coach": False}}, **changes)


def test_a_rep_brought_in_is_judged_as_the_file_is(db: Session, where: Hall) -> None:
    given = read_rep(full_rep())
    review = rep_files.bring_in(db, where.academy, where.student, "kicks", DAY, [given])
    assert (review.clip.has_film, review.clip.state, review.clip.pts_s) == (False, "ready", list(given.pts_s))
    judged = view_of(review).reps[0].judgements
    assert judged == judge_rep(shipped_technique("front-kick"), given)
    assert {j.id: j.verdict.value for j in judged}["leg_straight"] == "missed"


def test_what_is_brought_in_counts_once_it_is_finished(db: Session, where: Hall) -> None:
    review = rep_files.bring_in(db, where.academy, where.student, "kicks", DAY, [read_rep(full_rep())])
    assert follow_up.ledger_page(db, where.academy, where.student).faults == ()
    finishing.finish(db, where.academy, review.id)
    rows = [one.history for one in follow_up.ledger_page(db, where.academy, where.student).faults]
    assert {(row.fault, row.ledger.misses) for row in rows} == {("toes-forward", 1), ("bent-reach", 1)}
    with pytest.raises(Conflict, match="This review is finished and kept as"):
        rep_files.add_reps(db, where.academy, review.id, [rep()])


@pytest.mark.parametrize(
    ("reps", "words"),
    [
        ([], "no rep"),
        ([rep_data(), rep_data(fps=30.0)], "different clips"),
        ([rep_data(options={"extension": "slap"})], "no choice “slap”"),
        ([rep_data(rung="champion")], "not in the ladder"),
    ],
    ids=["none", "two clips", "unknown option", "unknown rung"],
)
def test_what_does_not_fit_is_refused_and_leaves_nothing(
    db: Session, where: Hall, reps: list[dict[str, object]], words: str
) -> None:
    with pytest.raises(BadInput, match=words):
        rep_files.bring_in(db, where.academy, where.student, "kicks", DAY, [read_rep(data) for data in reps])
    db.rollback()
    assert db.scalar(select(func.count()).select_from(Clip)) == 0


def test_an_unknown_technique_or_student_is_told(db: Session, where: Hall) -> None:
    with pytest.raises(NotFound, match="moon-kick"):
        rep_files.bring_in(db, where.academy, where.student, "kicks", DAY, [rep(technique="moon-kick")])
    db.rollback()
    with pytest.raises(NotFound, match="no such student"):
        rep_files.bring_in(db, where.academy, where.academy, "kicks", DAY, [rep()])


def test_a_clip_without_film_is_not_read_again_and_can_be_deleted(db: Session, where: Hall) -> None:
    clip = rep_files.bring_in(db, where.academy, where.student, "kicks", DAY, [rep()]).clip
    with pytest.raises(Conflict, match="need not be read again"):
        intake.read_again(db, where.academy, clip.id)
    intake.delete_clip(db, where.academy, clip.id)
    assert db.get(Clip, clip.id) is None
