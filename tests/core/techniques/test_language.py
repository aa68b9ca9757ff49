"""The definition language: conditions, alternatives, branches, repeats, grades, blocks and positions."""

from __future__ import annotations

from typing import Any

import pytest

from lacertus.core.errors import BadInput, BadTechnique
from lacertus.core.review.judge import judge_rep
from lacertus.core.review.judgement import Judgement
from lacertus.core.techniques.adaptation import adapted, read_adaptation
from lacertus.core.techniques.reading import Shared, read_technique
from tests.core.build import by_eye, checkpoint, judge_one, leg_known, points, rep, return_time, technique, technique_data


def knee_bent() -> dict[str, Any]:
    """A knee at a right angle at full reach."""
    return points(ankle=(400.0, 400.0))


class TestOnlyIf:
    def test_a_measured_condition_that_does_not_hold_leaves_it_out(self) -> None:
        bent = {"angle": {"points": ["working_hip", "working_knee", "working_ankle"], "at": "full_reach"}, "within": [None, 120]}
        assert judge_one(return_time(only_if=bent), rep(knee_bent())).verdict == "met"
        assert judge_one(return_time(only_if=bent), rep()).verdict == "not_asked"

    def test_a_condition_that_cannot_be_told_is_not_seen(self) -> None:
        bent = {"angle": {"points": ["other_hip", "other_knee", "other_ankle"], "at": "full_reach"}, "within": [None, 120]}
        found = judge_one(return_time(only_if=bent), rep())
        assert found.verdict == "not_seen" and "condition" in str(found.reason)

    def test_a_question_as_condition(self) -> None:
        asks = return_time(only_if={"seen": "partner_posts"})
        assert judge_one(asks, rep()).verdict == "not_seen"
        assert judge_one(asks, rep(seen={"partner_posts": {"coach": True}})).verdict == "met"
        assert judge_one(asks, rep(seen={"partner_posts": {"coach": False}})).verdict == "not_asked"


class TestAnyOf:
    ANY = {"any_of": [{"kind": "interval", "from": "full_reach", "to": "folded", "within": [None, 250]}]}

    def test_the_best_of_the_alternatives_counts(self) -> None:
        assert judge_one(checkpoint(**self.ANY), rep(knee_bent())).verdict == "met"
        slow = rep(knee_bent(), events={"full_reach": [44], "folded": [90]})
        assert judge_one(checkpoint(**self.ANY), slow).verdict == "missed"

    def test_an_alternative_needs_its_range(self) -> None:
        with pytest.raises(BadTechnique, match="within"):
            technique(checkpoint(any_of=[{"kind": "interval", "from": "full_reach", "to": "folded"}]))


DECISION = {
    "id": "reply",
    "when": "knee_top",
    "says": "It comes or not",
    "answers": [{"event": "full_reach", "name": "Go"}, {"event": "folded", "name": "Stay"}],
}


class TestBranches:
    def found(self, answer: str, **events: list[int]) -> Judgement:
        tech = technique(by_eye(id="asked", branch={"reply": answer}, measure={}), decisions=[DECISION])
        return judge_rep(tech, rep(events=events, seen={"asked": {"coach": True}}))[0]

    def test_what_the_taken_branch_asks_is_asked(self) -> None:
        assert self.found("full_reach", full_reach=[44]).verdict == "met"
        assert self.found("folded", full_reach=[44]).verdict == "not_asked"

    def test_the_first_answer_that_came_was_taken(self) -> None:
        assert self.found("folded", full_reach=[60], folded=[50]).verdict == "met"

    @pytest.mark.parametrize("branch", [{"nothing": "full_reach"}, {"reply": "knee_top"}])
    def test_an_unknown_branch_is_told(self, branch: dict[str, str]) -> None:
        with pytest.raises(BadTechnique, match=r"no reaction|no answer"):
            technique(by_eye(branch=branch, measure={}), decisions=[DECISION])


class TestRepeats:
    def test_each_time_is_judged_and_the_worst_counts(self) -> None:
        tech = technique(return_time(), repeats=["extension", "rechamber"])
        one = {"full_reach": [44], "folded": [50]}
        assert judge_rep(tech, rep(events=one))[0].verdict == "met"
        extended = technique(return_time(phase="extension"), repeats=["extension"])
        slow = judge_rep(extended, rep(events={"full_reach": [20, 44], "folded": [50]}))
        assert slow[0].verdict == "missed" and "worst of 2" in " ".join(slow[0].notes)


class TestGradesAndRungs:
    def test_asked_from_a_grade_on(self) -> None:
        late = return_time(from_grade="blue")
        assert judge_one(late, rep(grade="yellow")).verdict == "not_asked"
        assert judge_one(late, rep(grade="blue")).verdict == "met"
        assert judge_one(late, rep(grade=None)).verdict == "met"

    def test_an_academys_own_grades(self) -> None:
        late = return_time(from_grade="second")
        assert judge_one(late, rep(grade="first"), grades=["first", "second"]).verdict == "not_asked"
        with pytest.raises(BadTechnique, match="grade"):
            technique(return_time(from_grade="tenth"), grades=["first", "second"])


class TestShared:
    RESTS = {"rests": {"phase": "rechamber", "mark": "First frame in which it rests"}}
    BLOCK = {"id": "fold", "events": RESTS, "checkpoints": [return_time(id="shared")]}

    def test_a_block_brings_its_events_and_checkpoints(self) -> None:
        found = read_technique(technique_data(blocks=["fold"]), shared=Shared(blocks={"fold": self.BLOCK}))
        assert [c.id for c in found.checkpoints] == ["knee_angle", "shared"] and "rests" in found.events

    def test_ones_own_checkpoint_of_the_same_id_rules(self) -> None:
        data = technique_data(return_time(id="shared", within=[None, 99]), blocks=["fold"])
        assert read_technique(data, shared=Shared(blocks={"fold": self.BLOCK})).checkpoints[0].within == (None, 99)

    def test_unknown_blocks_and_positions_are_told(self) -> None:
        data = technique_data(blocks=["nothing"], starts_from="nowhere")
        with pytest.raises(BadTechnique, match=r"block “nothing”|position “nowhere”") as caught:
            read_technique(data, shared=Shared(blocks={"fold": self.BLOCK}, positions=frozenset({"mount"})))
        assert {problem.path[0] for problem in caught.value.problems} == {"blocks", "starts_from"}


class TestValidation:
    @pytest.mark.parametrize(
        ("change", "words"),
        [
            ({"kind": "gap", "measure": {"between": ["nose", "chin"], "point": "nose", "at": "full_reach"}}, "either"),
            ({"kind": "relation", "measure": {"point": "nose", "at": "full_reach"}}, "one of above"),
            ({"kind": "peak", "measure": {"from": "knee_top", "to": "folded"}}, "either"),
            ({"kind": "change", "measure": {"of": {"kind": "magic"}, "from": "knee_top", "to": "folded"}}, "no kind fits"),
            (
                {"kind": "dwell", "measure": {"while": {"points": ["nose", "chin", "neck"]}, "from": "knee_top", "to": "folded"}},
                "within",
            ),
            ({"kind": "inclination", "measure": {"from_point": "nose", "to_point": "chin"}}, "missing"),
            ({"kind": "inclination", "measure": {"from_point": "nose", "to_point": "tail", "at": "full_reach"}}, "not a landmark"),
            ({"kind": "order", "measure": {"events": ["knee_top", "never"]}}, "not defined"),
            (
                {"kind": "line", "measure": {"points": ["nose", "chin", "neck", "left_toe"], "unit": "deg", "at": "full_reach"}},
                "three",
            ),
            (
                {"kind": "gap", "measure": {"between": ["nose", "chin"], "at": "full_reach"}, "within": [None, -1]},
                "cannot be reached",
            ),
            ({"cues": []}, "at least 1"),
        ],
    )
    def test_what_is_wrong_is_told(self, change: dict[str, Any], words: str) -> None:
        with pytest.raises(BadTechnique, match=words):
            technique(checkpoint(**change))

    def test_a_definition_written_out_and_read_again_is_the_same(self) -> None:
        nested = {"of": {"angle": {"points": ["working_hip", "working_knee", "working_ankle"]}}, "from": "knee_top", "to": "folded"}
        tech = technique(checkpoint(kind="change", measure=nested, only_if={"seen": "x"}, confirm=True), decisions=[DECISION])
        again = read_technique(tech.model_dump(mode="json", by_alias=True))
        assert again == tech


class TestAdaptations:
    """For one student: switched off, relaxed, or replaced by something else."""

    def found(self, **changes: Any) -> Judgement:
        data = {"checkpoint": "knee_angle", "reason": "Old injury"} | changes
        tech = technique()
        return judge_rep(adapted(tech, [read_adaptation(tech, data)]), rep(bodies=leg_known(points(ankle=(480.0, 360.0)))))[0]

    def test_switched_off_it_is_not_asked_and_says_why(self) -> None:
        off = self.found(action="off")
        assert off.verdict == "not_asked" and "Old injury" in str(off.reason)

    def test_relaxed_it_takes_the_other_range(self) -> None:
        assert judge_one(checkpoint(), rep(points(ankle=(480.0, 370.0)))).verdict == "missed"
        assert self.found(action="relaxed", within=[120, None]).verdict == "met"

    def test_replaced_something_else_is_asked_under_its_id(self) -> None:
        instead = {
            "kind": "interval",
            "measure": {"from": "full_reach", "to": "folded"},
            "within": [None, 250],
            "ask": "Quick instead",
        }
        found = self.found(action="replaced", instead=instead)
        assert (found.id, found.kind, found.verdict) == ("knee_angle", "interval", "met")

    @pytest.mark.parametrize(
        "changes",
        [
            {"action": "relaxed"},
            {"action": "off", "within": [1, None]},
            {"action": "off", "checkpoint": "nothing"},
            {"action": "off", "reason": ""},
            {
                "action": "replaced",
                "instead": {"kind": "angle", "measure": {"points": ["nose", "tail", "chin"], "at": "full_reach"}},
            },
        ],
    )
    def test_what_does_not_fit_is_told(self, changes: dict[str, Any]) -> None:
        with pytest.raises(BadInput, match=r"is empty|only relaxed does|has no checkpoint|is not a landmark"):
            self.found(**changes)
