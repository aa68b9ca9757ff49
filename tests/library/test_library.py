"""The shipped techniques and the reader of technique files."""

from __future__ import annotations

from pathlib import Path

import pytest

from lacertus.core.errors import BadInput, BadTechnique
from lacertus.core.measuring.measures import KINDS
from lacertus.core.measuring.repfile import mirror_rep
from lacertus.core.progress.fix_first import fix_first
from lacertus.core.review.judge import judge_rep
from lacertus.core.techniques.checkpoint import Checkpoint
from lacertus.core.techniques.definition import Technique
from lacertus.library import check_file, load_technique, parse_technique, shipped, shipped_technique
from lacertus.library.cautions import CAUTIONS
from lacertus.library.loader import TECHNIQUES
from lacertus.library.sample import NoSample, faultless, faulty
from tests.core.build import drawing

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
    with pytest.raises(BadInput, match=r"is not valid YAML|a technique is a mapping|aliases"):
        parse_technique(text)


def test_files_that_cannot_be_read_are_refused(tmp_path: Path) -> None:
    binary = tmp_path / "x.yaml"
    binary.write_bytes(b"\xff\xfe\x00")
    for path in (tmp_path / "none.yaml", binary, tmp_path):
        with pytest.raises(BadInput, match=r"cannot be read|not UTF-8"):
            load_technique(path)


def test_an_unknown_technique_names_the_known_ones() -> None:
    with pytest.raises(BadInput, match="front-kick"):
        shipped_technique("flying-carpet")


def test_a_retired_technique_is_read_and_not_offered() -> None:
    """Its name belongs to reviews of before; nobody is to be judged by it anew."""
    assert "snap-down-counter" not in {technique.id for technique in shipped()}
    assert shipped_technique("snap-down-counter").id == "snap-down-counter"


@pytest.mark.parametrize("technique", shipped(), ids=lambda technique: technique.id)
class TestShipped:
    def test_the_file_is_accepted(self, technique: Technique) -> None:
        assert check_file(TECHNIQUES / f"{technique.id}.yaml") == technique

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


COVERED = {
    "throw": ["outer-reap", "inner-reap", "hip-throw", "advancing-foot-sweep", "small-inner-reap"],
    "takedown entry": ["arm-drag", "duck-under", "lead-leg-fake"],
    "sweep": ["pendulum-sweep", "scissor-sweep", "seated-counter", "two-bump-escape"],
    "back take": ["inverted-back-take"],
    "guard work": ["half-guard-underhook", "knee-shield-pass"],
    "submission": ["cross-armlock-from-back", "arm-in-head-choke", "north-south-choke", "knee-pit-choke", "triangle"],
    "fall": ["front-fall", "side-fall", "back-fall", "moving-backward-fall", "rolling-fall"],
    "kick": [
        "front-kick", "crescent-kick", "reverse-crescent-kick", "side-kick", "flying-side-kick", "jump-turning-round-kick",
        "spinning-hook-kick",
    ],
}  # fmt: skip


def test_the_library_covers_what_an_academy_teaches() -> None:
    found = {family: {t.id for t in shipped() if t.family == family} for family in COVERED}
    assert found == {family: set(names) for family, names in COVERED.items()}


@pytest.mark.parametrize("technique", shipped(), ids=lambda t: t.id)
def test_a_lesson_card_is_whole(technique: Technique) -> None:
    assert 8 <= len(technique.checkpoints) <= 26
    assert len({c.kind for c in technique.checkpoints}) >= 4
    assert sum(c.kind != "seen" for c in technique.checkpoints) >= len(technique.checkpoints) / 2
    assert technique.summary and technique.works_when and technique.names.aliases
    assert set(technique.teaching_order) <= set(technique.phases) and technique.teaching_order
    assert technique.drills and all(not isinstance(drill, str) and drill.dose for drill in technique.drills)
    assert any(drill.solo for drill in technique.drills if not isinstance(drill, str))
    assert all(c.reason_for_range for c in technique.checkpoints if c.within is not None)
    assert set(technique.cautions) <= set(CAUTIONS) and "supervised" in technique.cautions
    assert all(len(group.choices) >= 2 for group in technique.options.values())


@pytest.mark.parametrize("technique", [t for t in shipped() if t.family in ("throw", "fall")], ids=lambda t: t.id)
def test_where_somebody_falls_the_caution_says_so(technique: Technique) -> None:
    assert {"falls_first", "head_blow"} & set(technique.cautions)


@pytest.mark.parametrize("technique", [t for t in shipped() if t.family == "submission"], ids=lambda t: t.id)
def test_a_submission_asks_for_the_tap_and_the_release(technique: Technique) -> None:
    assert "tap_early" in technique.cautions
    assert any(c.safety and c.fault.family == "held too long" for c in technique.checkpoints)


NO_DIAGRAM = {
    # Its hips rise and its shoulders do not, which makes its trunk short.
    ("jump-turning-round-kick", "trunk_near_upright"),
    # It is seen from the side, where square feet stand one behind the other.
    ("lead-leg-fake", "toe_between"),
    # It has no mat.
    ("arm-drag", "steps_to_the_partner"), ("outer-reap", "corner_step"),
    ("inner-reap", "long_step"), ("inner-reap", "feet_under"), ("moving-backward-fall", "knees_walk_on"),
    # It is posed at events, and so cannot tell what lies between them, or turn about itself.
    ("arm-drag", "hips_stay_on"), ("arm-drag", "tight_circle"), ("arm-drag", "eyes_on"),
    ("duck-under", "keeps_the_hold"), ("knee-pit-choke", "hip_frame_kept"),
    ("pendulum-sweep", "arm_held_to_the_end"), ("half-guard-underhook", "knee_follows_the_shoulder"),
    ("half-guard-underhook", "stays_in_front"), ("inverted-back-take", "kept_up"),
    ("arm-in-head-choke", "weight_stays_on"), ("arm-in-head-choke", "base_wide"), ("lead-leg-fake", "chases_the_foot"),
    ("lead-leg-fake", "stays_close"), ("lead-leg-fake", "closing_step"), ("outer-reap", "hands_at_the_face"),
    ("inner-reap", "arc_not_a_kick"), ("inner-reap", "hips_turn"), ("front-fall", "arms_hang"),
    ("moving-backward-fall", "head_keeps_its_place"), ("moving-backward-fall", "head_faces_the_cue"),
    ("moving-backward-fall", "back_arches"), ("moving-backward-fall", "hips_turn_through"), ("moving-backward-fall", "soft_hand"),
    ("crescent-kick", "height_reached"), ("crescent-kick", "goes_across"),
    ("reverse-crescent-kick", "height_reached"), ("reverse-crescent-kick", "goes_across"),
}  # fmt: skip
"""Checkpoints that the sample, a diagram, cannot show done right or wrong; the studio's moves can."""


@pytest.mark.parametrize("technique", shipped(), ids=lambda t: t.id)
def test_a_rep_without_a_fault_meets_every_measured_checkpoint_on_both_sides(technique: Technique) -> None:
    """And so one rep can keep all its times and places at once: no checkpoint contradicts another."""
    rep = faultless(technique)
    for told in (rep, mirror_rep(rep)):
        found = judge_rep(technique, told, drawing(technique, told))
        asked = [j for j in found if j.verdict != "not_asked" and (technique.id, j.id) not in NO_DIAGRAM]
        assert [j for j in asked if j.verdict != "met"] == []
        assert len(asked) >= 6


@pytest.mark.parametrize("technique", shipped(), ids=lambda t: t.id)
def test_each_fault_misses_its_checkpoint_on_both_sides(technique: Technique) -> None:
    """So no range is so wide, and no question so put, that it could never be missed."""
    for checkpoint in technique.checkpoints:
        if (technique.id, checkpoint.id) in NO_DIAGRAM or KINDS[checkpoint.kind].over_reps:
            continue
        rep = faulty(technique, checkpoint.id)
        for told in (rep, mirror_rep(rep)):
            found = {j.id: j for j in judge_rep(technique, told, drawing(technique, told))}
            assert found[checkpoint.id].verdict == "missed", (checkpoint.id, found[checkpoint.id])
            assert sum(j.verdict in ("missed", "borderline") for j in found.values()) <= 5


LINKS = [
    (t, cause, effect)
    for t in shipped()
    for cause in t.checkpoints
    for effect in cause.leads_to
    if not {(t.id, cause.id), (t.id, effect)} & NO_DIAGRAM
]


@pytest.mark.parametrize(("technique", "cause", "effect"), LINKS, ids=lambda x: x if isinstance(x, str) else x.id)
def test_of_two_linked_faults_the_upstream_one_is_named(technique: Technique, cause: Checkpoint, effect: str) -> None:
    rep = faulty(technique, cause.id, effect)
    found = judge_rep(technique, rep, drawing(technique, rep))
    assert {j.id for j in found if j.verdict == "missed"} >= {cause.id, effect}
    fixes = {fix.checkpoint: fix for fix in fix_first(technique, [found])}
    downstream = next(c for c in technique.checkpoints if c.id == effect)
    assert downstream.ask in fixes[cause.id].reason
    assert downstream.safety or effect not in fixes


def test_times_that_contradict_each_other_are_told() -> None:
    contrary = (
        TEXT
        + """\
  - {id: quick, phase: reach, kind: interval, ask: A, measure: {from: full, to: home, unit: ms}, within: [null, 100],
     fault: {code: slow, family: late}, cues: [A], why: A}
  - {id: late, phase: reach, kind: interval, ask: A, measure: {from: full, to: home, unit: ms}, within: [400, null],
     fault: {code: fast, family: rushed}, cues: [A], why: A}
"""
    )
    with pytest.raises(NoSample, match="times"):
        faultless(parse_technique(contrary.replace("checkpoints:", "  home: {phase: reach, mark: First frame home}\ncheckpoints:")))
