"""The shipped techniques and the reader of technique files."""

from __future__ import annotations

from pathlib import Path

import pytest

from lacertus.core.errors import BadInput, BadTechnique
from lacertus.core.technique import Technique
from lacertus.library import load_technique, parse_technique, shipped, shipped_technique
from lacertus.library.cautions import CAUTIONS

TEXT = """\
lacertus_technique: 1
id: test-kick
names: {main: Test kick}
family: kick
phases: [reach]
events:
  full: {phase: reach, mark: First frame in which it is full}
checkpoints:
  - id: straight
    phase: reach
    kind: angle
    ask: Straight
    measure:
      points: [working_hip, working_knee, working_ankle]
      at: full
    within: [155, null]
    fault: {code: bent, family: half range}
    cues: [Reach]
    why: It falls short
"""


def test_a_whole_file_is_read() -> None:
    assert parse_technique(TEXT).checkpoints[0].within == (155, None)


@pytest.mark.parametrize(
    ("old", "new", "line"),
    [
        ("family: kick", "family: dance", 4),
        ("working_knee", "working_tail", 14),
        ("at: full", "at: nowhere", 13),
        ("kind: angle", "kind: magic", 11),
        ("half range", "bad luck", 17),
        ("why: It", "wry: It", 19),
        ("[155, null]", "[155, null", 17),
    ],
)
def test_every_problem_comes_with_its_line(old: str, new: str, line: int) -> None:
    with pytest.raises(BadTechnique) as caught:
        parse_technique(TEXT.replace(old, new))
    assert line in {problem.line for problem in caught.value.problems}
    assert str(caught.value).startswith("technique: line ")


@pytest.mark.parametrize("text", ["", "- a list", "a: b: c", "\t", "&a [*a]"], ids=["empty", "list", "broken", "tab", "alias"])
def test_what_is_no_technique_is_refused(text: str) -> None:
    with pytest.raises(BadInput):
        parse_technique(text)


def test_files_that_cannot_be_read_are_refused(tmp_path: Path) -> None:
    binary = tmp_path / "x.yaml"
    binary.write_bytes(b"\xff\xfe\x00")
    for path in (tmp_path / "none.yaml", binary, tmp_path):
        with pytest.raises(BadInput):
            load_technique(path)


def test_an_unknown_technique_names_the_known_ones() -> None:
    with pytest.raises(BadInput, match="front-kick"):
        shipped_technique("flying-carpet")


@pytest.mark.parametrize("technique", shipped(), ids=lambda technique: technique.id)
class TestShipped:
    def test_cautions_are_known_and_there(self, technique: Technique) -> None:
        assert technique.cautions
        assert set(technique.cautions) <= set(CAUTIONS)

    def test_a_throw_says_falls_first(self, technique: Technique) -> None:
        assert technique.family != "throw" or "falls_first" in technique.cautions

    def test_events_say_first_or_last_frame(self, technique: Technique) -> None:
        assert all(event.mark.startswith(("First frame in which", "Last frame in which")) for event in technique.events.values())

    def test_ranges_give_their_reason(self, technique: Technique) -> None:
        assert all(c.reason_for_range for c in technique.checkpoints if c.within)

    def test_questions_by_eye_say_what_to_look_for(self, technique: Technique) -> None:
        assert all(c.look_for for c in technique.checkpoints if c.kind == "seen")

    def test_at_least_eight_checkpoints_with_fault_codes_of_their_own(self, technique: Technique) -> None:
        codes = [c.fault.code for c in technique.checkpoints]
        assert len(codes) >= 8
        assert len(codes) == len(set(codes))
