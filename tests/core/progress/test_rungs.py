"""Rungs by hand-worked cases, at the edges of every number, and by property."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.progress.rungs import (
    Advice,
    Asked,
    Decided,
    Passed,
    RungRep,
    may_fall,
    passed_on,
    passed_to,
    recommend,
    rung_asked,
)

V = Verdict
CORE, SAFE = Asked(id="core", ask="Knee up", core=True), Asked(id="safe", ask="Chin tucked", safety=True)
SURE = {"performer": True, "partner": True}
LADDERS = {
    "back-fall": ("seated", "low_squat", "standing", "over_a_shoulder", "moving"),
    "side-fall": ("standing_slowly", "ordinary_pace", "thrown"),
    "front-fall": ("knees", "small_jump"),
}


def passed(fall: str, rung: str) -> Passed:
    ladder = LADDERS[fall]
    return Passed(fall=fall, rung=rung, share=(ladder.index(rung) + 1) / len(ladder))


def reps(verdicts: list[Verdict], *, days: int = 2, safe: Verdict = V.MET, pace: str = "full", first: int = 100) -> list[RungRep]:
    """Reps over so many weekly sessions, the core checkpoint's verdicts in order."""
    each = -(-len(verdicts) // days)
    return [
        RungRep(day=first + 7 * (i // each), order=i, pace=pace, verdicts={"core": verdict, "safe": safe})
        for i, verdict in enumerate(verdicts)
    ]


def held(met: int, of: int) -> list[Verdict]:
    """So many met of all, the misses first."""
    return [V.MISSED] * (of - met) + [V.MET] * met


def advice(found: list[RungRep], **more: Any) -> tuple[Advice, str]:
    given_facts: dict[str, Any] = {"asked": [CORE, SAFE], "on": 110, "sure": SURE} | more
    told = recommend(found, given_facts["asked"], given_facts["on"], given_facts["sure"])
    return told.advice, told.because


@pytest.mark.parametrize(
    ("met", "of", "expected"),
    [(9, 10, "advance"), (13, 16, "advance"), (8, 10, "hold"), (12, 16, "hold"), (9, 9, "hold"), (16, 20, "advance")],
)
def test_nine_of_ten_and_thirteen_of_sixteen_are_enough(met: int, of: int, expected: str) -> None:
    assert advice(reps(held(met, of)))[0] == expected


def test_one_session_is_not_enough_however_many_reps() -> None:
    told, because = advice(reps(held(20, 20), days=1))
    assert told is Advice.HOLD
    assert because == "“Knee up” held in 20 of 20 reps over 1 session; 10 reps over 2 sessions are asked for"


def test_what_is_older_than_sixty_days_does_not_count() -> None:
    found = reps(held(10, 10))
    assert advice(found, on=107 + 60 - 7)[0] is Advice.ADVANCE
    assert advice(found, on=107 + 60)[0] is Advice.HOLD


def test_what_came_later_is_not_known_yet() -> None:
    assert advice(reps(held(10, 10)), on=101)[0] is Advice.HOLD


@pytest.mark.parametrize(
    ("safe", "words"),
    [(V.NOT_SEEN, "was seen in 0 of the last 10 reps"), (V.NOT_ASKED, "was seen in")],
)
def test_a_safety_point_not_seen_is_not_passed(safe: Verdict, words: str) -> None:
    found = reps(held(10, 10), safe=safe)
    if safe is V.NOT_ASKED:
        found = [RungRep(day=r.day, order=r.order, pace=r.pace, verdicts={"core": r.verdicts["core"]}) for r in found]
    told, because = advice(found)
    assert told is Advice.HOLD
    assert words in because


def test_one_safety_miss_among_the_last_ten_holds_and_an_older_one_does_not() -> None:
    def with_miss(at: int) -> list[RungRep]:
        found = reps(held(14, 14))
        found[at] = RungRep(day=found[at].day, order=at, pace="full", verdicts={"core": V.MET, "safe": V.BORDERLINE})
        return found

    told, because = advice(with_miss(4))
    assert (told, because) == (Advice.HOLD, "safety: “Chin tucked” was missed in 1 of the last 10 reps")
    assert advice(with_miss(3))[0] is Advice.ADVANCE


def test_two_safety_misses_in_the_last_session_step_back() -> None:
    found = reps(held(12, 12))
    for at in (10, 11):
        found[at] = RungRep(day=found[at].day, order=at, pace="full", verdicts={"core": V.MET, "safe": V.MISSED})
    assert advice(found) == (Advice.STEP_BACK, "2 safety misses in the last session")
    # In the session before, they keep from advancing, and no more.
    assert advice([*found, *reps(held(4, 4), days=1, first=110)])[0] is Advice.HOLD


@pytest.mark.parametrize(("met", "of", "expected"), [(2, 6, "step_back"), (3, 6, "hold"), (2, 5, "hold")])
def test_a_core_checkpoint_below_half_over_two_sessions_steps_back(met: int, of: int, expected: str) -> None:
    assert advice(reps(held(met, of)))[0] == expected


def test_old_sessions_do_not_save_from_stepping_back() -> None:
    found = [*reps(held(12, 12), first=80), *reps(held(2, 8), first=100)]
    assert advice(found) == (Advice.STEP_BACK, "“Knee up” held in 2 of 8 reps of the last 2 sessions")


def test_slow_holds_before_full_is_asked() -> None:
    found = [*reps(held(20, 20)), *reps(held(3, 5), pace="slow")]
    told, because = advice(found)
    assert told is Advice.HOLD
    assert because == "at slow pace “Knee up” held in 3 of 5 reps; slow holds before full is asked"
    assert "no slow rep" in recommend(reps(held(10, 10)), [CORE, SAFE], 110, SURE).criteria[2].words


@pytest.mark.parametrize(
    ("sure", "words"),
    [
        ({"performer": True, "partner": False}, "the partner does not feel sure"),
        ({"performer": None}, "the performer has not said yet whether they feel sure"),
    ],
)
def test_both_have_to_feel_sure(sure: dict[str, bool | None], words: str) -> None:
    assert advice(reps(held(10, 10)), sure=sure) == (Advice.HOLD, words)


def test_nothing_filmed_holds() -> None:
    assert advice([])[0] is Advice.HOLD


VERDICTS = st.sampled_from([V.MET, V.MISSED, V.BORDERLINE, V.NOT_SEEN])
REPS = st.lists(
    st.builds(
        lambda day, order, pace, core, safe: RungRep(day=day, order=order, pace=pace, verdicts={"core": core, "safe": safe}),
        st.integers(40, 110),
        st.integers(0, 9),
        st.sampled_from(["slow", "full"]),
        VERDICTS,
        VERDICTS,
    ),
    max_size=40,
)


@given(REPS, st.randoms())
def test_advancing_needs_every_criterion_and_the_deciding_one_is_among_them(found: list[RungRep], chance: Any) -> None:
    told = recommend(found, [CORE, SAFE], 110, SURE)
    if told.advice is Advice.ADVANCE:
        assert all(one.holds for one in told.criteria)
        assert sum(r.verdicts["core"] is V.MET for r in found) >= 9
    elif told.advice is Advice.HOLD:
        assert told.because == next(one.words for one in told.criteria if not one.holds)
    # Reps of one day and place cannot be told apart; all others may come in any order.
    unlike = list({(r.day, r.order): r for r in found}.values())
    shuffled = list(unlike)
    chance.shuffle(shuffled)
    assert recommend(shuffled, [CORE, SAFE], 110, SURE) == recommend(unlike, [CORE, SAFE], 110, SURE)


@given(REPS)
def test_one_more_good_session_never_takes_an_advance_away(found: list[RungRep]) -> None:
    before = recommend(found, [CORE, SAFE], 110, SURE).advice
    good = [RungRep(day=110, order=100 + i, pace="full", verdicts={"core": V.MET, "safe": V.MET}) for i in range(5)]
    if before is Advice.ADVANCE:
        assert recommend([*found, *good], [CORE, SAFE], 110, SURE).advice is Advice.ADVANCE


@pytest.mark.parametrize(
    ("rung", "fallen", "may"),
    [
        ("solo", [], True),
        ("static_partner", [], False),
        ("static_partner", [passed("back-fall", "standing")], True),
        ("static_partner", [passed("back-fall", "low_squat")], False),
        ("static_partner", [passed("front-fall", "small_jump")], False),
        ("live", [passed("side-fall", "ordinary_pace"), passed("back-fall", "moving")], True),
        ("live", [passed("side-fall", "ordinary_pace")], False),
        ("a rung of their own", [passed("side-fall", "ordinary_pace")], False),
    ],
)
def test_a_throw_asks_for_one_fall_that_fits_passed_far_enough(rung: str, fallen: list[Passed], may: bool) -> None:
    assert may_fall(rung, fallen, ("back-fall", "side-fall")) is may


STEPS = {
    "passed": ("advance", "solo", "moving"),
    "further": ("advance", "moving", "firm"),
    "sent back": ("step_back", "moving", "solo"),
    "held": ("hold", "moving", "moving"),
    "gone": ("advance", "no-such", "moving"),
    "last": ("advance", "firm", "firm"),
}


@pytest.mark.parametrize(
    ("steps", "expected"),
    [
        ([], -1),
        (["passed"], 0),
        (["passed", "held"], 0),
        (["passed", "further"], 1),
        (["passed", "sent back"], -1),
        (["passed", "further", "sent back"], -1),
        (["passed", "sent back", "passed"], 0),
        (["gone"], -1),
        (["last"], 2),
    ],
)
def test_what_was_passed_is_lost_where_a_coach_sends_back(steps: list[str], expected: int) -> None:
    made = [Decided(advice=Advice(a), from_rung=b, to_rung=c) for a, b, c in (STEPS[name] for name in steps)]
    assert passed_to(("solo", "moving", "firm"), made) == expected


def test_what_was_passed_on_a_ladder_that_a_fall_had_before_stays_passed() -> None:
    former = ("kneeling", "standing", "thrown")
    went = [Decided(advice=Advice.ADVANCE, from_rung="standing", to_rung="thrown")]
    found = passed_on("side-fall", (LADDERS["side-fall"], former), went)
    assert found == Passed(fall="side-fall", rung="standing", share=2 / 3)
    assert passed_on("side-fall", (LADDERS["side-fall"],), went) is None


@pytest.mark.parametrize(("share", "rung"), [(0.6, "standing"), (0.8, "over_a_shoulder"), (1.0, "moving"), (0.0, "seated")])
def test_a_share_names_a_rung_of_each_ladder(share: float, rung: str) -> None:
    assert rung_asked(LADDERS["back-fall"], share) == rung
