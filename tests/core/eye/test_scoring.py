"""Questions on a film whose truth is known, and answers held against it."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from lacertus.core.errors import BadInput
from lacertus.core.eye.facts import Come, Facts, Spot, facts_of
from lacertus.core.eye.levels import EASIEST, HARDEST, next_level, shown_at
from lacertus.core.eye.phrases import as_written
from lacertus.core.eye.questions import NONE, Asked, Question, Truth, questions_of, which_was_right
from lacertus.core.eye.scoring import Given, Grade, score
from lacertus.core.measuring.repfile import read_rep
from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.techniques.definition import Technique
from lacertus.library import shipped
from lacertus.studio.moves import MOVES
from lacertus.studio.scene import truth
from lacertus.studio.script import read_script, shots_of

TECHNIQUES = {technique.id: technique for technique in shipped()}


def filmed(technique: str, **rep: Any) -> tuple[Technique, Facts]:
    """A rep of the studio's as its facts, without the film."""
    script = read_script(
        {"lacertus_script": 1, "id": "eye", "technique": technique, "scatter": 0, "reps": [rep], "recording": {"fps": 60}}
    )
    known = TECHNIQUES[technique]
    rep_file = read_rep(truth(shots_of(script)[0])["reps"][0])
    return known, facts_of(known, rep_file, reaction=rep.get("reaction", ""), fault=next(iter(rep.get("faults", {})), ""))


def asked_of(technique: str, kind: str, **rep: Any) -> tuple[Facts, list[Asked]]:
    known, facts = filmed(technique, **rep)
    return facts, [(question, true) for question, true in questions_of(known, facts, 7) if question.kind == kind]


def given_to(question: Question, facts: Facts, true: Any, **given: Any) -> Any:
    return score(question, true, facts, Given(**given))


class TestFrame:
    def test_the_event_is_asked_at_its_own_frame_and_errors_are_given_minus_true(self) -> None:
        facts, asked = asked_of("front-kick", "frame")
        assert {question.subject for question, _ in asked} == set(facts.events)
        question, true = asked[0]
        assert true.frame == facts.events[question.subject]
        late = given_to(question, facts, true, frame=true.frame + 3)
        assert (late.frames, late.ms, late.hit, late.grade) == (3, pytest.approx(50, abs=0.1), True, Grade.GOOD)
        early = given_to(question, facts, true, frame=true.frame - 6)
        assert (early.frames, early.hit, early.grade) == (-6, False, Grade.HARD)
        assert given_to(question, facts, true, frame=true.frame).grade is Grade.EASY
        far = question.first if true.frame - question.first > 8 else question.last
        assert given_to(question, facts, true, frame=far).grade is Grade.AGAIN

    def test_one_frame_off_is_a_hit_in_a_slow_film(self) -> None:
        facts = Facts(
            size=(10, 10), times_s=tuple(i / 10 for i in range(10)), first=0, last=9, side="left", events={"x": 4}, came=()
        )
        question = Question(kind="frame", technique="t", subject="x", says=as_written("First frame in which x"), first=0, last=9)
        true = Truth(frame=4, says=as_written(""))
        assert given_to(question, facts, true, frame=5).hit
        assert not given_to(question, facts, true, frame=6).hit

    @pytest.mark.parametrize("given", [{}, {"frame": 5000}, {"choice": "x"}])
    def test_what_is_no_frame_is_refused(self, given: dict[str, Any]) -> None:
        facts, asked = asked_of("front-kick", "frame")
        with pytest.raises(BadInput, match="no frame of the film"):
            given_to(asked[0][0], facts, asked[0][1], **given)


class TestAngle:
    def test_it_is_read_where_it_is_judged_and_asked_at_its_own_frame(self) -> None:
        facts, asked = asked_of("front-kick", "angle")
        assert asked
        for question, true in asked:
            came = facts.of(question.subject)
            assert came is not None
            assert (true.value, question.frame, question.low, question.high) == (came.value, came.frame, came.low, came.high)
            assert len(true.drawn) == 3
            assert "How many degrees" in question.says.said()

    def test_its_truth_tells_value_and_range_once_and_why_it_matters(self) -> None:
        technique, asked = TECHNIQUES["front-kick"], asked_of("front-kick", "angle")[1]
        assert asked
        for question, true in asked:
            checkpoint = technique.checkpoint(question.subject)
            assert checkpoint is not None and true.value is not None
            said = [true.says.said(), *(one.said() for one in true.why)]
            assert sum(f"{true.value:.0f}°" in one for one in said) == 1
            assert "wanted is" in said[0]
            assert said[1:] == [f"{checkpoint.why}."] or said[1:] == [checkpoint.why]

    def test_what_was_said_first_counts_and_what_was_said_after_is_kept(self) -> None:
        facts, asked = asked_of("front-kick", "angle")
        question, true = asked[0]
        assert true.value is not None
        found = given_to(question, facts, true, before=true.value - 7, after=true.value + 1)
        assert (found.degrees, found.after, found.hit, found.grade) == (pytest.approx(-7), pytest.approx(1), False, Grade.HARD)
        assert given_to(question, facts, true, before=true.value + 2).grade is Grade.EASY
        with pytest.raises(BadInput, match="no angle"):
            given_to(question, facts, true, after=30)


class TestMissed:
    def test_the_fault_that_was_put_in_is_among_the_choices_and_the_right_one(self) -> None:
        facts, ((question, true),) = asked_of("front-kick", "missed", faults={"low-chamber": 57.0})
        came = facts.of(true.choice or "")
        assert came is not None and came.verdict is Verdict.MISSED
        assert question.choices[-1].id == NONE
        others = [facts.of(choice.id) for choice in question.choices[:-1] if choice.id != true.choice]
        assert all(one is not None and one.verdict is Verdict.MET for one in others)
        assert given_to(question, facts, true, choice=true.choice).hit
        wrong = given_to(question, facts, true, choice=NONE)
        assert (wrong.hit, wrong.grade) == (False, Grade.AGAIN)
        assert "wanted is" in true.why[0].said()

    def test_of_a_clean_rep_none_was_missed_and_the_same_seed_gives_the_same_choices(self) -> None:
        facts, ((question, true),) = asked_of("front-kick", "missed")
        assert true.choice == NONE
        again = asked_of("front-kick", "missed")[1][0][0]
        assert again == question
        with pytest.raises(BadInput, match="none of the choices"):
            given_to(question, facts, true, choice="made_up")


def test_the_right_one_of_two_is_the_one_without_the_fault() -> None:
    technique, clean = filmed("front-kick")
    _, faulty = filmed("front-kick", faults={"low-chamber": 57.0})
    first, second = which_was_right(technique, clean, faulty), which_was_right(technique, faulty, clean)
    assert first is not None and second is not None
    assert (first[1].choice, second[1].choice) == ("first", "second")
    assert which_was_right(technique, clean, clean) is None
    assert which_was_right(technique, faulty, faulty) is None


def test_the_way_was_open_unless_an_entry_check_was_missed() -> None:
    _, ((question, true),) = asked_of("duck-under", "open")
    assert (true.choice, [choice.id for choice in question.choices]) == ("yes", ["yes", "no"])
    technique, facts = filmed("duck-under")
    entry = next(one.id for one in technique.checkpoints if one.entry and facts.of(one.id))
    came = tuple(one if one.checkpoint != entry else one.model_copy(update={"verdict": Verdict.MISSED}) for one in facts.came)
    ((_, told),) = [one for one in questions_of(technique, facts.model_copy(update={"came": came}), 1) if one[0].kind == "open"]
    assert told.choice == "no"
    asked = technique.asked(entry)
    assert asked is not None and asked.ask in told.says.said()
    # By eye alone it is not known of a film.
    assert not asked_of("front-kick", "open")[1]


def test_the_film_of_a_reaction_stops_where_it_shows_and_one_answer_is_right() -> None:
    shown = [(name, code) for name, move in MOVES.items() for code in move.reactions if name in TECHNIQUES]
    read = 0
    for name, code in shown[:4]:
        facts, asked = asked_of(name, "answer", reaction=code)
        reaction = TECHNIQUES[name].reaction(code)
        for question, true in asked:
            assert reaction is not None
            right = {answer.name for answer in reaction.answers}
            assert question.last == facts.events[reaction.event]
            assert len([choice for choice in question.choices if choice.id in right]) == 1
            assert true.choice in right
            read += 1
    assert read >= 2


def test_of_real_film_one_thing_that_was_missed_is_among_the_choices_and_it_was_measured() -> None:
    technique, facts = filmed("front-kick", faults={"low-chamber": 57.0})
    assert sum(one.verdict is Verdict.MISSED for one in facts.came) == 2
    real = facts.model_copy(update={"fault": None})

    def asked(facts: Facts) -> list[tuple[str | None, set[str]]]:
        found = (one for one in questions_of(technique, facts, 3) if one[0].kind == "missed")
        return [(true.choice, {choice.id for choice in question.choices}) for question, true in found]

    ((choice, choices),) = asked(real)
    assert choice == "thigh_lifted", "the one that is farther from its range"
    assert "foot_rises" not in choices, "what was missed too would be right as well"
    seen = [one.model_copy(update={"is_measured": one.checkpoint != "thigh_lifted"}) for one in facts.came]
    ((choice, choices),) = asked(real.model_copy(update={"came": tuple(seen)}))
    assert choice == "foot_rises" and "thigh_lifted" not in choices
    by_eye = [one.model_copy(update={"is_measured": False}) for one in facts.came]
    assert asked(real.model_copy(update={"came": tuple(by_eye)})) == []


def test_in_real_film_no_event_is_asked_and_a_part_of_it_keeps_what_is_true() -> None:
    technique, facts = filmed("front-kick", faults={"low-chamber": 57.0})
    part = facts.cut(7, facts.last - 3)
    assert len(part.times_s) == facts.last - 3 - 7 + 1 and part.times_s[0] == 0
    assert part.times_s[-1] == pytest.approx(facts.times_s[facts.last - 3] - facts.times_s[7], abs=1e-4)
    assert (part.first, part.last) == (facts.first - 7, facts.last - 3 - 7)
    assert part.events == {event: frame - 7 for event, frame in facts.events.items() if frame <= facts.last - 3}
    thigh, before = part.of("thigh_lifted"), facts.of("thigh_lifted")
    assert thigh is not None and before is not None and before.frame is not None
    assert (thigh.frame, thigh.value) == (before.frame - 7, before.value)
    kinds = {question.kind for question, _ in questions_of(technique, facts.model_copy(update={"fault": None}), 3)}
    assert "frame" not in kinds and "missed" in kinds


def test_films_get_harder_as_one_hits_and_easier_as_one_misses() -> None:
    assert next_level(2, Grade.GOOD) == 3
    assert next_level(2, Grade.HARD) == 2
    assert next_level(2, Grade.AGAIN) == 1
    assert next_level(HARDEST, Grade.EASY) == HARDEST
    assert next_level(EASIEST, Grade.AGAIN) == EASIEST
    easy, hard = (shown_at(level, np.random.default_rng(4)) for level in (EASIEST, HARDEST))
    assert easy.degree > hard.degree and easy.turn_deg == 0 != hard.turn_deg and easy.pace == "slow" != hard.pace
    assert shown_at(3, np.random.default_rng(9)) == shown_at(3, np.random.default_rng(9))
    assert Come(checkpoint="x", verdict=Verdict.MET, spots=(Spot(x=1, y=2),)).spots[0].y == 2
