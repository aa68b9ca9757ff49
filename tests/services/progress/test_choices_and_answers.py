"""Wrong choices, reactions, layers and starts in the ledger of finished reviews, and through a student's file."""

from __future__ import annotations

from datetime import timedelta
from pathlib import Path
from typing import Any

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from lacertus.core.measuring.repfile import read_rep
from lacertus.services.progress import answers, follow_up, rungs
from lacertus.services.progress.follow_up import Filters
from lacertus.services.sheets import finish as finishing
from lacertus.services.sheets import sheet as sheets
from lacertus.services.techniques import catalogue
from lacertus.services.transfer import rep_files, student_in, student_out
from lacertus.store.tables import JudgementRow, ReactedRow, Review, Tally
from tests.core.build import DROP, HELD, HOP, by_eye, catches, entry, rep_data
from tests.core.build import technique as made
from tests.halls import Hall
from tests.services.progress.sessions import START

STARTS = [{"id": "leg_out", "phase": "extension", "says": "Leg out"}]


@pytest.fixture
def kick(db: Session, where: Hall) -> str:
    """An academy's own kick that asks whether it was open, and what is done when the leg is caught."""
    toes = by_eye(core=True)
    events = made().model_dump(mode="json")["events"] | {"held": HELD, "hop": HOP, "dropped": DROP}
    own = made(entry(), toes, events=events, reactions=[catches()], starts=STARTS)
    catalogue.store_version(db, own, where.academy)
    db.commit()
    return own.id


def review(db: Session, where: Hall, week: int, reps: list[dict[str, Any]]) -> Review:
    files = [read_rep(rep_data(bodies={}) | rep) for rep in reps]
    on = START + timedelta(weeks=week)
    found = rep_files.bring_in(db, where.academy, where.student, f"week {week}", on, files)
    finishing.finish(db, where.academy, found.id)
    db.commit()
    return found


def rep(open_: bool = True, toes: bool = False, outcome: str = "completed", **changes: Any) -> dict[str, Any]:
    seen = {"open": {"coach": open_}, "toes_back": {"coach": toes}}
    return {"seen": seen, "outcome": outcome, "events": {"full_reach": [44], "held": []}} | changes


CAUGHT = {"full_reach": [44], "held": [50], "folded": [62], "dropped": [], "hop": []}
HOPPED = {"full_reach": [44], "held": [50], "folded": [], "dropped": [], "hop": [56]}


def faults(db: Session, where: Hall) -> dict[str, tuple[int, int, bool]]:
    page = follow_up.ledger_page(db, where.academy, where.student)
    return {one.history.fault: (one.history.ledger.misses, one.history.ledger.exposures, one.history.entry) for one in page.faults}


def test_of_wrong_choices_only_the_choice_is_counted(db: Session, where: Hall, kick: str) -> None:
    found = review(db, where, 0, [rep(open_=False), rep(open_=False), rep(), rep(toes=True)])
    assert faults(db, where) == {"not-open": (2, 4, True), "toes-forward": (1, 2, False)}
    tally = {row.fault: (row.misses, row.exposures) for row in db.scalars(select(Tally))}
    assert tally["toes-forward"] == (1, 2) and tally["not-open"] == (2, 4)
    behind = follow_up.reps_behind(db, where.student, START, kick, "toes-forward")
    assert len(behind) == 2, "the reps that it was not open in are not behind the cell"
    assert sheets.latest(db, where.academy, found.id)[1].sheet.choice.startswith("Tried where it was not open in 2 of 4 reps")


def test_a_reaction_is_an_exposure_and_a_row_of_the_table(db: Session, where: Hall, kick: str) -> None:
    review(db, where, 0, [rep(events=CAUGHT), rep(events=HOPPED, outcome="countered"), rep()])
    assert faults(db, where)["leg-left"] == (1, 2, False)
    page = answers.page(db, where.academy, where.student)
    (table,) = page.reactions
    assert {row.answer: (row.times.count, row.completed and row.completed.count) for row in table.answers} == {
        "folded": (1, 1),
        "hop": (1, 0),
    }
    assert answers.page(db, where.academy, where.student, Filters(side="left")).reactions == ()


def test_success_by_start_and_choice(db: Session, where: Hall, kick: str) -> None:
    review(db, where, 0, [rep(), rep(open_=False, outcome="blocked"), rep(start="leg_out", outcome="blocked")])
    found = {one.group: dict(one.choices) for one in answers.page(db, where.academy, where.student).success}
    assert found["start"]["leg_out"].count == 0 and found["start"]["the beginning"].of == 2
    assert found["choice"]["wrong"].count == 0


def test_rungs_go_by_whole_reps_alone(db: Session, where: Hall, kick: str) -> None:
    review(db, where, 0, [rep(toes=True, rung="solo"), rep(toes=True, rung="solo", start="leg_out")])
    assert rungs.standing(db, where.academy, where.student, kick, START + timedelta(days=1)).reps == 1


def test_a_revision_writes_reactions_anew(db: Session, where: Hall, kick: str) -> None:
    found = review(db, where, 0, [rep(events=CAUGHT)])
    finishing.reopen(db, where.academy, found.id, "looked again")
    finishing.finish(db, where.academy, found.id)
    db.commit()
    assert len(db.scalars(select(ReactedRow)).all()) == 1


def test_they_go_out_and_come_in_with_the_student(db: Session, where: Hall, kick: str, tmp_path: Path) -> None:
    review(db, where, 0, [rep(events=CAUGHT), rep(open_=False)])
    student_out.write(db, where.academy, where.student, tmp_path / "all.zip")
    again, _ = student_in.read(db, where.academy, tmp_path / "all.zip")
    db.commit()
    kept = db.scalars(select(ReactedRow).where(ReactedRow.student_id == again.id)).all()
    assert [(row.reaction, row.answer, row.side) for row in kept] == [("partner_catches", "folded", "right")]
    judged = db.scalars(select(JudgementRow).where(JudgementRow.student_id == again.id)).all()
    assert {row.choice for row in judged} == {"open", "wrong"} and any(not row.counts for row in judged)
