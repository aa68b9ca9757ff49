"""Layers, starts, facts that decide what is asked, other measures, drills and doses."""

from __future__ import annotations

from typing import Any

import pytest

from lacertus.core.errors import BadInput, BadRep, BadTechnique
from lacertus.core.measuring.scene import Scene
from lacertus.core.review.judge import judge_rep
from lacertus.core.techniques.definition import Technique
from lacertus.core.techniques.practice import Dose
from tests.core.build import by_eye, checkpoint, drawing, judge_one, points, rep, return_time, technique

HIGH = {
    "id": "knee_high",
    "phase": "chamber",
    "kind": "relation",
    "measure": {"point": "working_knee", "above": "working_hip", "at": "knee_top", "unit": "shank"},
    "within": [-0.05, None],
    "fault": {"code": "low-chamber", "family": "half range"},
}
SAFE = by_eye(id="safe", phase="rechamber", safety=True, measure={"at": "folded"}, fault={"code": "x", "family": "unsafe knee"})
LAYERS = [
    {"id": "chamber_only", "name": "Chamber only", "checkpoints": ["knee_high"], "until": "full_reach"},
    {"id": "whole", "name": "The whole kick", "checkpoints": "all"},
]
STARTS = [
    {"id": "from_reach", "phase": "extension", "says": "Leg out", "resists_from": "full_reach", "resistance": "fifth"},
]


def kick(**changes: Any) -> Technique:
    return technique(checkpoint(**HIGH), checkpoint(), return_time(), SAFE, layers=LAYERS, starts=STARTS, **changes)


def verdicts(tech: Technique, **facts: Any) -> dict[str, str]:
    return {j.id: j.verdict.value for j in judge_rep(tech, rep(**facts), drawing(tech, rep(**facts)))}


class TestLayers:
    def test_only_what_is_listed_is_asked_and_nothing_after_its_end(self) -> None:
        found = verdicts(kick(), layer="chamber_only")
        assert found == {"knee_high": "not_seen", "knee_angle": "not_asked", "quick_return": "not_asked", "safe": "not_asked"}

    def test_safety_is_asked_in_every_layer(self) -> None:
        some = [{"id": "some", "name": "Some", "checkpoints": ["quick_return"]}]
        found = verdicts(technique(checkpoint(), return_time(), SAFE, layers=some), layer="some")
        assert found == {"knee_angle": "not_asked", "quick_return": "met", "safe": "not_seen"}

    def test_all_asks_everything(self) -> None:
        assert verdicts(kick(), layer="whole") == verdicts(kick())

    def test_a_layer_that_is_not_there_is_refused(self) -> None:
        with pytest.raises(BadRep, match="no layer “finish”; it has chamber_only, whole"):
            judge_rep(kick(), rep(layer="finish"))

    @pytest.mark.parametrize("change", [{"checkpoints": ["nothing"]}, {"until": "never"}])
    def test_what_it_does_not_have_is_told(self, change: dict[str, Any]) -> None:
        with pytest.raises(BadTechnique, match=r"no checkpoint or reaction|not defined"):
            technique(layers=[{"id": "one", "name": "One", "checkpoints": "all"} | change])


class TestStarts:
    def test_earlier_phases_and_their_events_are_not_asked(self) -> None:
        assert verdicts(kick(), start="from_reach")["knee_high"] == "not_asked"
        reads_early = checkpoint(id="early", measure=checkpoint()["measure"] | {"at": "knee_top"})
        tech = technique(reads_early, starts=STARTS)
        assert verdicts(tech, start="from_reach") == {"early": "not_asked"}
        marked = {"knee_top": [44], "full_reach": [44], "folded": [56]}
        assert verdicts(tech, start="from_reach", events=marked) == {"early": "met"}

    @pytest.mark.parametrize(
        "facts",
        [{"start": "nowhere"}, {"start": "from_reach", "start_at": "chamber"}, {"start": "from_reach", "resists_from": "folded"}],
    )
    def test_a_rep_that_says_otherwise_is_refused(self, facts: dict[str, Any]) -> None:
        with pytest.raises(BadRep, match=r"no start|sets it to"):
            judge_rep(kick(), rep(**facts))

    def test_saying_the_same_is_no_contradiction(self) -> None:
        said = verdicts(kick(), start="from_reach", start_at="extension", resists_from="full_reach")
        assert said == verdicts(kick(), start="from_reach")


class TestWhen:
    @pytest.mark.parametrize(
        ("when", "facts", "asked"),
        [
            ({"stance": "opposite_lead"}, {"stance": "opposite_lead"}, True),
            ({"stance": "opposite_lead"}, {"stance": "square"}, False),
            ({"stance": ["same_lead", "square"]}, {}, False),
            ({"partner": ["dummy", "bag"]}, {"partner": "bag"}, True),
            ({"pace": "full"}, {"pace": "slow"}, False),
            ({"rung": ["moving"]}, {"rung": "moving"}, True),
            ({"start": "from_reach"}, {"start": "from_reach"}, True),
            ({"start": "from_reach"}, {}, False),
        ],
    )
    def test_facts_of_the_rep_decide(self, when: dict[str, Any], facts: dict[str, Any], asked: bool) -> None:
        found = judge_one(checkpoint(when=when), rep(**facts), starts=STARTS)
        assert (found.verdict != "not_asked") is asked

    @pytest.mark.parametrize("when", [{"stance": "sideways"}, {"rung": "never"}, {"start": "x"}, {"grade": "blue"}])
    def test_what_they_can_never_be_is_told(self, when: dict[str, str]) -> None:
        with pytest.raises(BadTechnique, match=r"is never|no option"):
            technique(checkpoint(when=when))


class TestOrElse:
    ELSE = {"or_else": [{"kind": "interval", "from": "full_reach", "to": "folded", "within": [None, 250]}, {"kind": "seen"}]}

    def test_it_is_read_only_where_the_own_measure_is_not_seen(self) -> None:
        slow = {"full_reach": [44], "folded": [90]}
        assert judge_one(checkpoint(**self.ELSE), rep(events=slow)).verdict == "met"
        unseen = judge_one(checkpoint(**self.ELSE), rep({}, events=slow))
        assert (unseen.verdict, unseen.kind) == ("missed", "interval")

    def test_the_last_one_may_be_the_eye(self) -> None:
        unmarked = {"full_reach": [44]}
        seen = judge_one(checkpoint(**self.ELSE), rep({}, events=unmarked, seen={"knee_angle": {"coach": True}}))
        assert (seen.verdict, seen.kind) == ("met", "seen")
        assert judge_one(checkpoint(**self.ELSE), rep({}, events=unmarked)).verdict == "not_seen"

    def test_it_needs_its_own_range(self) -> None:
        with pytest.raises(BadTechnique, match="or_else"):
            technique(checkpoint(or_else={"kind": "interval", "from": "full_reach", "to": "folded"}))


class TestDoses:
    @pytest.mark.parametrize(
        ("dose", "seconds", "words"),
        [
            ({"sets": 3, "reps": 6, "sides": "both"}, 3 * 6 * 4 * 2 + 60, "3 × 6 on both sides"),
            ({"reps": 6, "turns": 2}, 6 * 4 * 2 + 60, "6 times each in turn"),
            ({"rounds": 3, "seconds": 20, "rest_s": 20}, 3 * 40 + 60, "3 rounds of 20 s, 20 s rest"),
            ({"seconds": 120}, 180, "2 min"),
        ],
    )
    def test_time_and_words_follow_from_the_dose(self, dose: dict[str, Any], seconds: float, words: str) -> None:
        found = Dose.model_validate(dose)
        assert (found.seconds_taken(), found.words) == (seconds, words)
        assert found.minutes * 60 >= seconds > (found.minutes - 0.5) * 60

    @pytest.mark.parametrize("dose", [{}, {"sets": 3}, {"reps": 3, "seconds": 20}, {"reps": 0}, {"rounds": 2, "rest_s": 3}])
    def test_what_is_no_dose_is_refused(self, dose: dict[str, Any]) -> None:
        drill = {"id": "holds", "name": "Holds", "for": [], "how": "Hold", "dose": dose}
        with pytest.raises(BadInput, match=r"dose|greater than or equal"):
            technique(drills=[drill])

    @pytest.mark.parametrize(
        "change", [{"start": "nowhere"}, {"for": ["no-such"]}, {"resists_from": "never"}, {"solo": {"sea": "x"}}]
    )
    def test_a_drill_names_what_is_there(self, change: dict[str, Any]) -> None:
        drill = {"id": "holds", "name": "Holds", "for": [], "how": "Hold", "dose": {"reps": 3}} | change
        with pytest.raises(BadTechnique, match=r"no start|no checkpoint has|not defined|solo"):
            technique(drills=[drill])


def test_a_point_that_is_not_placed_keeps_the_reason_of_the_own_measure() -> None:
    found = judge_one(checkpoint(or_else={"kind": "seen"}), rep(points(frame=20)))
    assert found.verdict == "not_seen" and found.kind == "angle"


@pytest.mark.parametrize(
    ("stance", "side"), [(None, "right"), ("same_lead", "right"), ("square", "right"), ("opposite_lead", "left")]
)
def test_the_partners_lead_follows_the_stance(stance: str | None, side: str) -> None:
    scene = Scene(rep(stance=stance), {})
    assert scene.resolve("partner.lead_toe") == ("partner", f"{side}_toe")
    assert scene.resolve("lead_toe") == ("performer", "right_toe")
    assert scene.resolve("partner.working_toe") == ("partner", "right_toe")
