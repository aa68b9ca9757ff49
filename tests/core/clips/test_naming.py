"""Naming in one line: what is understood, what is told, and that a written line is read again as the same."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lacertus.core.clips.naming import Known, Naming, Vocabulary, complete, read_line, suggest, write_line

KICK = Known(
    id="front-kick",
    names=("Front kick", "mae geri"),
    options={"extension": {"snap": "Snap", "push": "Push"}, "stance": {"open": "Open stance"}},
    ladder=("solo", "static_partner", "moving"),
    drills={"wall-chambers": "Chambers at a wall, slowly", "Heel first?": "Heel first?"},
)
SWEEP = Known(id="advancing-foot-sweep", names=("Advancing foot sweep", "de ashi barai"), ladder=("static_partner", "moving"))
SCISSOR = Known(id="scissor-sweep", names=("Scissor sweep",), ladder=("solo",))
WORDS = Vocabulary(
    students={"1": "Marit Solbakke", "2": "Tomas Verhaal", "3": "Marius Ø. Lund", "4": "Tom O’Rell"},
    techniques=(KICK, SWEEP, SCISSOR),
)


def test_every_part_is_known_by_what_it_says_in_any_order() -> None:
    line = read_line('slow, foot sweep, "Why, oh why?", Tomas Verhaal, left, static partner, from the back, 2026-05-03', WORDS)
    assert line.problems == ()
    assert line.student == "2"
    assert line.day == "2026-05-03"
    assert line.naming == Naming(
        technique="advancing-foot-sweep", side="left", pace="slow", rung="static_partner", view="behind", question="Why, oh why?"
    )


@pytest.mark.parametrize(
    ("text", "kind", "means"),
    [
        ("solb", "student", "Marit Solbakke"),
        ("MARIUS ø", "student", "Marius Ø. Lund"),
        ("mae geri", "technique", "Front kick"),
        ("front-kick", "technique", "Front kick"),
        ("scis", "technique", "Scissor sweep"),
        ("r", "side", "right"),
        ("on the bag", "partner", "bag"),
        ("am I too late?", "question", "am I too late?"),
        ("+Wen Odair", "new student", "Wen Odair"),
    ],
)
def test_shortened_other_and_foreign_words_are_understood(text: str, kind: str, means: str) -> None:
    (part,) = read_line(text, WORDS).parts
    assert (part.kind, part.means, part.problem) == (kind, means, None)


@pytest.mark.parametrize(
    ("text", "problem"),
    [
        ("sweep", "“sweep” could be Advancing foot sweep, Scissor sweep: say more of it"),
        ("mari", "could be Marit Solbakke, Marius Ø. Lund"),
        ("s", "“s” could be Scissor sweep, "),
        ("snap", "is no student, technique"),
        ("tom", "could be Tomas Verhaal, Tom O’Rell"),
        ("left, r", "“r”: the side is said twice"),
        ("Tomas, +Wen Odair", "the student is said twice"),
        ("+", "after + comes the new student’s name"),
        ("2026-02-30", "no day of the calendar"),
        (f'"{"a" * 501}"', "at most 500 characters"),
    ],
)
def test_what_is_not_understood_is_told_and_nothing_is_guessed(text: str, problem: str) -> None:
    assert any(problem in told for told in read_line(text, WORDS).problems)


def test_options_and_rungs_are_those_of_the_technique_said_or_known() -> None:
    assert read_line("push, front kick, solo", WORDS).naming == Naming(
        technique="front-kick", options={"extension": "push"}, rung="solo"
    )
    assert read_line("push", WORDS, Naming(technique="front-kick", side="left")).naming.side == "left"
    assert read_line("push, snap", WORDS, Naming(technique="front-kick")).problems


def test_a_drill_is_named_by_its_words_and_belongs_to_its_technique() -> None:
    assert read_line("front kick, chambers at a wall", WORDS).naming.drill == "wall-chambers"
    assert read_line("chambers at a wall", WORDS).problems
    before = Naming(technique="front-kick", drill="wall-chambers")
    assert write_line(None, before, WORDS) == "Front kick, Chambers at a wall slowly"
    assert read_line("left", WORDS, before).naming.drill == "wall-chambers"
    assert read_line("de ashi barai", WORDS, before).naming.drill is None


def test_another_technique_lets_go_of_the_first_ones_options_and_rung() -> None:
    before = Naming(technique="front-kick", options={"extension": "push"}, rung="solo", side="left", question="Why?")
    after = read_line("de ashi barai", WORDS, before).naming
    assert after == Naming(technique="advancing-foot-sweep", side="left", question="Why?")


@given(
    student=st.sampled_from([None, *WORDS.students.values()]),
    technique=st.sampled_from([None, KICK, SWEEP, SCISSOR]),
    side=st.sampled_from([None, "left", "right"]),
    pace=st.sampled_from([None, "slow", "full"]),
    view=st.sampled_from([None, "side", "front", "behind", "angle", "above", "two"]),
    partner=st.sampled_from([None, "person", "dummy", "bag", "none"]),
    question=st.text(st.characters(blacklist_characters='"“”\n\r', blacklist_categories=("Cs", "Cc", "Zl", "Zp")), max_size=60),
    data=st.data(),
)
def test_a_written_line_is_read_again_as_the_same(
    student: str | None, technique: Known | None, side: str, pace: str, view: str, partner: str, question: str, data: st.DataObject
) -> None:
    rung, drill, options = None, None, {}
    if technique:
        drill = data.draw(st.sampled_from([None, *technique.drills]))
        rung = data.draw(st.sampled_from([None, *technique.ladder]))
        choices = {group: st.sampled_from(sorted(found)) for group, found in technique.options.items()}
        options = data.draw(st.fixed_dictionaries({}, optional=choices))
    naming = Naming(
        technique=technique.id if technique else None, side=side, pace=pace, view=view, partner=partner, rung=rung, drill=drill,
        options=options, question=question.strip(),
    )  # fmt: skip
    line = read_line(write_line(student, naming, WORDS), WORDS)
    assert line.problems == ()
    assert line.naming == naming
    assert WORDS.students.get(line.student or "") == student


@given(st.text(max_size=200))
def test_any_text_is_answered(text: str) -> None:
    line = read_line(text, WORDS)
    assert all((part.kind is None) != (part.problem is None) for part in line.parts)
    complete(text, WORDS)


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("", ("Marit Solbakke", "Tomas Verhaal", "Marius Ø. Lund", "Tom O’Rell")),
        ("mari", ("Marit Solbakke", "Marius Ø. Lund")),
        ("Tomas, ", ("Front kick", "Advancing foot sweep", "Scissor sweep")),
        ("Tomas, front kick, ", ("left", "right")),
        ("Tomas, front kick, left, ", ("solo", "static partner", "moving")),
        ("Tomas, front kick, pu", ("Push",)),
        ("sweep", ("Advancing foot sweep", "Scissor sweep")),
        ("front kick, cha", ("Chambers at a wall slowly",)),
        ("front", ("Front kick", "front view")),
    ],
)
def test_the_last_part_is_completed_with_what_it_may_become(text: str, wanted: tuple[str, ...]) -> None:
    assert complete(text, WORDS) == wanted


LAST = {"2": Naming(technique="front-kick", side="left", rung="solo", pace="full", view="side", options={"extension": "push"})}


@pytest.mark.parametrize(
    ("name", "student", "naming"),
    [
        ("Tomas Verhaal/IMG_0012.mp4", "2", LAST["2"]),
        ("verhaal_deAshiBarai_right.mov", "2", Naming(technique="advancing-foot-sweep", side="right", pace="full", view="side")),
        ("scissor-sweep-slow-left.mp4", None, Naming(technique="scissor-sweep", side="left", pace="slow")),
        ("IMG_0012.mp4", None, Naming()),
        ("Marit and Tomas.mp4", None, Naming()),
    ],
)
def test_name_folder_and_the_students_last_clip_suggest(name: str, student: str | None, naming: Naming) -> None:
    assert suggest(name, WORDS, LAST) == (student, naming)
