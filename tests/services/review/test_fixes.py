"""What is fixed first over a student's history, and the coach's own choice in its place."""

from __future__ import annotations

import uuid
from datetime import date
from pathlib import Path
from typing import Any

import pytest
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.progress.fix_first import Choice
from lacertus.services.errors import Conflict
from lacertus.services.review import loading
from lacertus.services.review import review as reviewing
from lacertus.services.review.cuts import RepCut
from lacertus.services.review.view import Fixes, view_of
from lacertus.services.sheets import finish as finishing
from tests.halls import Hall, read_in

EYE = ("hands_up", "lands_by_choice")


def reviewed(
    db: Session, where: Hall, clip: Path, folder: Path, on: date, answers: dict[str, list[bool]], *, finish: bool = True
) -> uuid.UUID:
    """A review whose reps are answered by eye alone: for each checkpoint an answer a rep."""
    clip_id = read_in(db, where, clip, folder, on)
    review = reviewing.open_review(db, where.academy, clip_id).id
    for i in range(len(next(iter(answers.values())))):
        facts: dict[str, Any] = {"first_frame": 10 * i, "last_frame": 10 * i + 9, "side": "right", "options": {}}
        rep = reviewing.cut_rep(db, where.academy, review, "front-kick", RepCut.model_validate(facts))
        for checkpoint, given in answers.items():
            reviewing.answer(db, where.academy, rep.id, checkpoint, given[i])
    if finish:
        finishing.finish(db, where.academy, review)
    db.commit()
    db.expire_all()
    return review


def fixes(db: Session, where: Hall, review: uuid.UUID) -> Fixes:
    loaded = loading.load(db, where.academy, review)
    return view_of(loaded).fixes


YES, NO = [True] * 4, [False] * 4


@pytest.fixture
def third(db: Session, where: Hall, clips: dict[str, Path], tmp_path: Path) -> uuid.UUID:
    """Hands dropped in the two sessions before; in this one they do once, and every landing is bad for the first time."""
    for week in (1, 8):
        reviewed(db, where, clips["constant"], tmp_path, date(2026, 5, week), {EYE[0]: NO, EYE[1]: YES})
    once = [False, True, True, True]
    return reviewed(db, where, clips["constant"], tmp_path, date(2026, 5, 15), {EYE[0]: once, EYE[1]: NO}, finish=False)


def test_a_fault_that_keeps_coming_back_says_so_and_weighs_by_its_history(db: Session, where: Hall, third: uuid.UUID) -> None:
    found = {fix.checkpoint: fix for fix in fixes(db, where, third).first}
    assert set(found) == set(EYE)
    assert "keeps coming back: 9 of 12 in 3 sessions" in found[EYE[0]].reason
    assert found[EYE[1]].reason.startswith("missed in 4 of 4 · missed before: 4 of 12")


def test_the_coach_chooses_otherwise_with_a_reason_and_goes_back(db: Session, where: Hall, third: uuid.UUID) -> None:
    before = fixes(db, where, third)
    choice = [Choice(technique="front-kick", checkpoint=EYE[1])]
    reviewing.choose_fixes(db, where.academy, third, choice, "a grading is near")
    after = fixes(db, where, third)
    assert [(fix.checkpoint, fix.why) for fix in after.first] == [(EYE[1], "a grading is near")]
    assert after.first[0].reason.startswith("missed in 4 of 4") and all(fix.why is None for fix in before.first)
    assert after.recommended == before.first
    reviewing.choose_fixes(db, where.academy, third, [], "")
    assert fixes(db, where, third) == before


@pytest.mark.parametrize(
    ("choices", "why", "words"),
    [
        ([EYE[0]], " ", "say why"),
        ([EYE[0], EYE[0]], "x", "each once"),
        ([EYE[0], EYE[1], "leg_straight"], "x", "at most 2"),
        (["leg_straight"], "x", "judged met or missed"),
        (["tail_up"], "x", "judged met or missed"),
    ],
)
def test_a_choice_that_cannot_be_is_refused(
    db: Session, where: Hall, third: uuid.UUID, choices: list[str], why: str, words: str
) -> None:
    with pytest.raises(BadInput, match=words):
        reviewing.choose_fixes(db, where.academy, third, [Choice(technique="front-kick", checkpoint=c) for c in choices], why)


def test_a_finished_review_keeps_its_choice(db: Session, where: Hall, third: uuid.UUID) -> None:
    finishing.finish(db, where.academy, third)
    with pytest.raises(Conflict, match="This review is finished and kept as"):
        reviewing.choose_fixes(db, where.academy, third, [], "")
