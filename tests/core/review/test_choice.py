"""Was it open? A wrong choice is told apart from how the technique was done."""

from __future__ import annotations

import pytest

from lacertus.core.errors import BadTechnique
from lacertus.core.progress.fix_first import fix_first
from lacertus.core.review.choice import choice_of
from lacertus.core.review.judge import judge_rep
from lacertus.core.sheets.sheet import choice_words
from tests.core.build import by_eye, checkpoint, entry, leg_known, points, rep, technique

BENT = points(ankle=(400.0, 400.0))


SAFE = by_eye(id="safe", safety=True, measure={}, fault={"code": "unsafe", "family": "unsafe knee"})


@pytest.mark.parametrize(
    ("answers", "choice"),
    [
        ({"open": True, "room": True}, "open"),
        ({"open": True, "room": False}, "wrong"),
        ({"open": True}, "unknown"),
        ({"room": False}, "wrong"),
    ],
)
def test_the_choice_is_that_of_the_entry_checks(answers: dict[str, bool], choice: str) -> None:
    tech = technique(entry(), entry(id="room"), checkpoint())
    found = judge_rep(tech, rep(seen={key: {"coach": yes} for key, yes in answers.items()}))
    assert choice_of(tech, found) == choice


def test_where_nothing_asks_there_is_no_choice() -> None:
    assert choice_of(technique(), judge_rep(technique(), rep())) is None
    left_out = technique(entry(when={"extension": "push"}), checkpoint())
    assert choice_of(left_out, judge_rep(left_out, rep())) is None


def test_of_a_wrong_choice_only_entry_and_safety_count_and_the_rest_is_shown() -> None:
    tech = technique(entry(), checkpoint(), SAFE)
    found = {
        j.id: j for j in judge_rep(tech, rep(bodies=leg_known(BENT), seen={"open": {"coach": False}, "safe": {"coach": False}}))
    }
    assert found["knee_angle"].is_missed and not found["knee_angle"].counts_as_missed and not found["knee_angle"].is_exposure
    assert found["open"].counts_as_missed and found["safe"].counts_as_missed
    opened = {
        j.id: j for j in judge_rep(tech, rep(bodies=leg_known(BENT), seen={"open": {"coach": True}, "safe": {"coach": True}}))
    }
    assert opened["knee_angle"].counts_as_missed


def test_a_wrong_choice_comes_first_in_what_to_fix() -> None:
    tech = technique(entry(), checkpoint(weight=3))
    wrong = judge_rep(tech, rep(BENT, seen={"open": {"coach": False}}))
    assert [fix.checkpoint for fix in fix_first(tech, [wrong, wrong])] == ["open"]


def test_an_entry_check_is_of_the_family_wrong_choice() -> None:
    with pytest.raises(BadTechnique, match="wrong choice"):
        technique(entry(fault={"code": "late", "family": "late"}))


def test_the_sheet_says_how_often_it_was_not_open() -> None:
    tech = technique(entry(), checkpoint())
    choices = [choice_of(tech, judge_rep(tech, rep(seen={"open": {"coach": yes}}))) for yes in (True, False, False)]
    assert choice_words(choices).startswith("Tried where it was not open in 2 of 3 reps")
    assert choice_words([choices[0], None]) == ""
