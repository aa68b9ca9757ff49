"""The student's page by the ledger: SQL and core agree, filters choose reps, every cell has its reps, edits follow through."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.core.measuring.repfile import read_rep
from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.progress.history import histories
from lacertus.core.progress.ledger import Session as Day
from lacertus.core.progress.ledger import State, ledger_of
from lacertus.services.clips import intake
from lacertus.services.corrections import correct
from lacertus.services.errors import NotFound
from lacertus.services.people import people
from lacertus.services.progress import follow_up
from lacertus.services.progress.follow_up import Filters
from lacertus.services.review import loading
from lacertus.services.review import review as reviewing
from lacertus.services.review.view import view_of
from lacertus.services.sheets import finish as finishing
from lacertus.services.transfer import rep_files
from lacertus.store.tables import JudgementRow, RepRow, Review
from tests.core.build import points, rep_data
from tests.drawn import drawing
from tests.halls import Hall
from tests.services.progress.sessions import START, session


@pytest.fixture
def story(db: Session, where: Hall) -> list[Review]:
    """The toes: wrong on the left for two weeks, then cleared."""
    bad, good = {"toes": False, "side": "left"}, {"toes": True, "side": "right"}
    weeks: list[list[dict[str, Any]]] = [
        [bad | {"outcome": "blocked"}] * 3 + [good | {"outcome": "completed"}],
        [bad | {"pace": "slow"}] * 3 + [good | {"options": {"extension": "push"}}],
        *[[good | {"rung": "solo", "outcome": "completed"}] * 6] * 3,
    ]
    return [session(db, where, number, [dict(rep) for rep in reps]) for number, reps in enumerate(weeks)]


def toes(db: Session, where: Hall, filters: Filters = Filters()) -> follow_up.ShownFault | None:
    page = follow_up.ledger_page(db, where.academy, where.student, filters)
    return next((one for one in page.faults if one.history.fault == "toes-forward"), None)


def cleared_by(db: Session, where: Hall) -> str | None:
    return follow_up.fault_detail(db, where.academy, where.student, "front-kick", "toes-forward").cleared_by


def test_sql_and_core_agree(db: Session, where: Hall, story: list[Review]) -> None:
    """Against every verdict read one by one."""
    found = {one.history.fault: one.history for one in follow_up.ledger_page(db, where.academy, where.student).faults}
    rows = db.execute(select(JudgementRow, RepRow).join(RepRow, RepRow.id == JudgementRow.rep_id)).all()
    days: dict[str, list[Day]] = {}
    for judged, _ in rows:
        verdict = Verdict(judged.verdict)
        missed = verdict is Verdict.MISSED or (judged.safety and verdict is Verdict.BORDERLINE)
        told = missed or verdict is Verdict.MET
        days.setdefault(judged.fault, []).append(Day(day=judged.filmed_on.toordinal(), exposures=told, misses=missed))
    safe = {judged.fault: judged.safety for judged, _ in rows}
    expected = {fault: ledger_of(own, safety=safe[fault]) for fault, own in days.items()}
    assert {fault: one.ledger for fault, one in found.items()} == {f: told for f, told in expected.items() if told and told.misses}


def test_the_story_is_told_with_sides_paces_success_and_cue(db: Session, where: Hall, story: list[Review]) -> None:
    one = toes(db, where)
    assert one is not None
    detail = follow_up.fault_detail(db, where.academy, where.student, "front-kick", "toes-forward")
    history = detail.history
    assert history == one.history
    assert history.ledger.state is State.CLEARED
    assert [(cell.misses, cell.exposures, cell.state.value) for cell in history.cells][:2] == [(3, 4, "once"), (3, 4, "recurring")]
    assert [(part.name, part.misses, part.exposures) for part in history.sides] == [("left", 6, 6), ("right", 0, 20)]
    assert {part.name: part.exposures for part in history.paces} == {"full": 23, "slow": 3}
    assert {part.name: part.exposures for part in history.options["extension"]} == {"snap": 25, "push": 1}
    (success,) = detail.success
    assert (success.with_fault, success.without) == ((0, 3), (19, 19))
    assert one.ask.startswith("Toes drawn back")


def test_a_family_is_told_in_detail(db: Session, where: Hall, story: list[Review]) -> None:
    page = follow_up.ledger_page(db, where.academy, where.student)
    for family in page.families:
        detail = follow_up.family_detail(db, where.academy, where.student, family.family)
        assert detail.history == family
    for look in (
        lambda: follow_up.family_detail(db, where.academy, where.student, "gaze wrong"),
        lambda: follow_up.fault_detail(db, where.academy, where.student, "front-kick", "no-such"),
    ):
        with pytest.raises(NotFound, match="Nothing of this was missed in these"):
            look()


@pytest.mark.parametrize(
    ("filters", "told"),
    [
        (Filters(side="left"), (6, 6)),
        (Filters(pace="slow"), (3, 3)),
        (Filters(side="right"), None),
        (Filters(rung="solo"), None),
        (Filters(technique="hip-throw"), None),
    ],
)
def test_filters_choose_which_reps_count(
    db: Session, where: Hall, story: list[Review], filters: Filters, told: tuple[int, int] | None
) -> None:
    one = toes(db, where, filters)
    assert (None if one is None else (one.history.ledger.misses, one.history.ledger.exposures)) == told


def test_every_cell_opens_the_reps_behind_it(db: Session, where: Hall, story: list[Review]) -> None:
    one = toes(db, where)
    assert one is not None
    for cell in one.history.cells:
        on = date.fromordinal(cell.day)
        reps = follow_up.reps_behind(db, where.student, on, "front-kick", "toes-forward")
        assert sum(rep.verdict == "missed" for rep in reps) == cell.misses
        assert sum(rep.verdict in ("met", "missed") for rep in reps) == cell.exposures
    left = follow_up.reps_behind(db, where.student, START, "front-kick", "toes-forward", Filters(side="left"))
    assert {rep.side for rep in left} == {"left"}


def test_deleting_and_revising_follow_through(db: Session, where: Hall, story: list[Review]) -> None:
    finishing.reopen(db, where.academy, story[1].id, "the toes were back")
    for rep in view_of(loading.load(db, where.academy, story[1].id)).reps:
        reviewing.answer(db, where.academy, rep.rep.id, "toes_back", True)
    db.commit()
    before = toes(db, where)
    assert before is not None and before.history.ledger.misses == 6, "the ledger waits for the review to be finished anew"
    finishing.finish(db, where.academy, story[1].id)
    db.commit()
    after = toes(db, where)
    assert after is not None and after.history.ledger.misses == 3
    intake.delete_clip(db, where.academy, story[0].clip_id)
    db.commit()
    assert toes(db, where) is None


def test_the_cue_before_it_cleared_is_told(db: Session, where: Hall) -> None:
    body = {"performer": {"height_px": 500, "landmarks": points(sigma=None, ankle=(400.0, 400.0))}}
    for week in range(2):
        files = [read_rep(rep_data(bodies=body, seen={"toes_back": {"coach": False}})) for _ in range(3)]
        review = rep_files.bring_in(db, where.academy, where.student, "kicks", START + timedelta(weeks=week), files)
        first = review.reps[0]
        shown = {"frame": first.first_frame, "first": first.first_frame, "last": first.first_frame}
        correct.draw(
            db, where.academy, first.id, drawing(checkpoint="toes_back", cue=f"Ball of the foot {week}", marks=(), **shown)
        )
        finishing.finish(db, where.academy, review.id)
        db.commit()
    assert cleared_by(db, where) is None
    for week in range(2, 5):
        session(db, where, week, [{"toes": True} for _ in range(6)])
    assert cleared_by(db, where) == "Ball of the foot 1"


def test_of_nothing_there_is_an_empty_page(db: Session, where: Hall) -> None:
    page = follow_up.ledger_page(db, where.academy, where.student)
    assert (page.days, page.faults, page.families) == ((), (), ())
    assert histories([], {}) == ()


def test_another_students_reps_are_not_counted(db: Session, where: Hall, story: list[Review]) -> None:
    other = people.create_student(db, where.academy, "B Student").id
    assert follow_up.ledger_page(db, where.academy, other).faults == ()
    assert follow_up.reps_behind(db, other, START, "front-kick", "toes-forward") == []
