"""What a file is not accepted with, and what is brought up to date from older ones."""

from __future__ import annotations

from typing import Any

import pytest

from lacertus.core.errors import BadTechnique
from lacertus.core.techniques.practice import Dose, Drill
from lacertus.core.techniques.reading import check_technique, read_technique
from tests.core.build import by_eye, checkpoint, return_time, technique_data

SNAP_ONLY = return_time(when={"extension": "snap"})
PARTNER = {"phase": "extension", "mark": "First frame in which the partner’s hand closes on the leg", "body": "partner"}


def told(*checkpoints: dict[str, Any], **changes: Any) -> list[tuple[str, str]]:
    """Path and message of every problem of a file with these checkpoints, and one that the option decides."""
    try:
        check_technique(technique_data(*checkpoints, SNAP_ONLY, **changes))
    except BadTechnique as error:
        return [(".".join(map(str, problem.path)), problem.message) for problem in error.problems]
    return []


def test_a_sound_file_is_accepted() -> None:
    assert told(checkpoint()) == []


class TestOptions:
    CHOICES = {key: {"name": key, "for": "Something"} for key in ("snap", "push", "stamp")}

    def test_one_that_changes_nothing_is_told(self) -> None:
        dead = technique_data()["options"] | {"mood": {"default": "good", "choices": {"good": {"name": "Good", "for": "Fun"}}}}
        assert [path for path, _ in told(checkpoint(), options=dead)] == ["options.mood"]

    def test_a_choice_that_asks_the_same_as_another_is_told(self) -> None:
        three = {"extension": {"default": "snap", "choices": self.CHOICES}}
        found = told(checkpoint(), options=three)
        assert [path for path, _ in found] == ["options.extension.choices.stamp"] and "“push”" in found[0][1]
        by_range = checkpoint(within_by={"extension": {"stamp": [120, None]}})
        assert told(by_range, options=three) == []

    def test_one_may_not_be_named_like_a_fact_of_a_rep(self) -> None:
        named = {"pace": technique_data()["options"]["extension"]}
        found = told(checkpoint(), options=named | technique_data()["options"])
        assert ("options.pace", "“pace” is a fact of a rep: name the option differently") in found


class TestLimits:
    @pytest.mark.parametrize(
        ("within", "words"),
        [([0, 160], "no value is ever below 0"), ([20, 180], "no value is ever above 180"), ([20, 160], None)],
    )
    def test_one_that_no_value_can_cross_is_told(self, within: list[float], words: str | None) -> None:
        found = told(checkpoint(within=within))
        assert [message.startswith(words) for _, message in found] == [True] if words else found == []

    def test_in_ranges_by_pace_and_in_alternatives_too(self) -> None:
        gap = {"kind": "gap", "between": ["working_knee", "mid_hip"], "unit": "shank", "within": [0, 1]}
        found = told(checkpoint(within_by={"pace": {"slow": [None, 190]}}, or_else=gap))
        assert [path for path, _ in found] == ["checkpoints.0.within_by.pace.slow", "checkpoints.0.or_else.0.within"]


class TestAnswers:
    def told(self, answer: str, **changes: Any) -> list[tuple[str, str]]:
        reaction = {
            "id": "caught", "event": "held", "says": "The leg is caught", "answers": [{"event": answer, "name": "Fold"}],
            "fault": {"code": "leg-left", "family": "no return"}, "cues": ["Home"], "why": "It is swept",
        }  # fmt: skip
        events = technique_data()["events"] | {"held": PARTNER}
        return told(checkpoint(), events=events, reactions=[reaction], **changes)

    def test_one_that_precedes_its_reaction_is_told(self) -> None:
        assert self.told("folded") == []
        assert [path for path, _ in self.told("knee_top")] == ["reactions.0.answers.0"]
        assert self.told("knee_top", repeats=["chamber"]) == []


class TestWords:
    @pytest.mark.parametrize(
        ("ask", "named"),
        [
            ("The head stays still", "head"),
            ("Elbow in as the leg goes", "elbow"),
            ("Hands up", "hand"),
            ("The partner’s knee is open", "partner’s knee"),
            ("The knee and the hip in one line", None),
            ("Ankle straight", None),
        ],
    )
    def test_a_part_that_is_named_and_not_read_is_told(self, ask: str, named: str | None) -> None:
        found = told(checkpoint(ask=ask))
        assert [f"the {named}," in message for _, message in found] == ([True] if named else [])

    def test_by_eye_nothing_is_read(self) -> None:
        assert told(by_eye(ask="The elbow hides the chin")) == []

    def test_the_marks_of_the_events_count_for_times(self) -> None:
        assert told(return_time(id="two", ask="The knee folds again in time", when={})) == []
        assert [path for path, _ in told(return_time(id="two", ask="The hand is home in time", when={}))] == ["checkpoints.0.ask"]

    def test_the_file_may_say_why(self) -> None:
        why = "Nothing else of the foot is seen from the side"
        assert told(checkpoint(ask="The foot goes out straight", why_these_points=why)) == []


class TestViews:
    @pytest.mark.parametrize(
        ("view", "measure", "words"),
        [
            ("side", {"point": "working_knee", "outside": "mid_hip", "at": "full_reach"}, "lie in depth"),
            ("front", {"point": "working_knee", "towards": "mid_hip", "at": "full_reach"}, "lie in depth"),
            ("above", {"point": "working_knee", "above": "mid_hip", "at": "full_reach"}, "heights"),
            ("front", {"point": "working_knee", "outside": "mid_hip", "at": "full_reach"}, None),
            ("two", {"point": "working_knee", "outside": "mid_hip", "at": "full_reach"}, None),
        ],
    )
    def test_what_the_declared_view_does_not_show_is_told(self, view: str, measure: dict[str, Any], words: str | None) -> None:
        knee = checkpoint(kind="relation", ask="Knee out", measure=measure | {"unit": "shank"}, within=[0.1, None])
        found = told(knee, best_view=view)
        assert [words in message for _, message in found] == [True] if words else found == []
        assert told(knee | {"best_view": "angle"}, best_view=view) == []

    def test_inside_another_measure_too(self) -> None:
        nested = {
            "of": {"relation": {"point": "working_knee", "towards": "mid_hip", "unit": "shank"}},
            "from": "knee_top",
            "to": "folded",
        }
        found = told(checkpoint(kind="change", ask="Knee in", measure=nested, within=[0.1, None]), best_view="front")
        assert [path for path, _ in found] == ["checkpoints.0.measure"]


class TestChildren:
    def test_chokes_and_joint_locks_carry_no_cues_for_them(self) -> None:
        child = checkpoint(cues_for_children=["Like a rocket"])
        assert told(child) == []
        assert [path for path, _ in told(child, cautions=["choke_care"])] == ["checkpoints.0.cues_for_children"]

    def test_nor_do_the_choices_that_are_one(self) -> None:
        options = technique_data()["options"]
        options["extension"]["choices"]["push"]["cautions"] = ["neck_care"]
        child = checkpoint(cues_for_children=["Like a rocket"], when={"extension": "push"})
        assert [path for path, _ in told(child, options=options)] == ["checkpoints.0.cues_for_children"]


class TestOlderFiles:
    """`decisions` and doses in words."""

    EVENTS = technique_data()["events"] | {"held": {key: value for key, value in PARTNER.items() if key != "body"}}
    DECISION = {
        "id": "caught", "when": "held", "says": "The leg is caught", "answers": [{"event": "folded", "name": "Fold"}],
        "within_ms": 400, "why": "A held leg is swept",
    }  # fmt: skip

    def data(self, **changes: Any) -> dict[str, Any]:
        return technique_data(checkpoint(), SNAP_ONLY, events=self.EVENTS, decisions=[self.DECISION | changes])

    def test_a_decision_on_what_the_partner_does_becomes_a_reaction(self) -> None:
        found = check_technique(self.data())
        assert found.decisions == () and found.events["held"].body == "partner"
        assert found.reactions[0].answers[0].event == "folded" and found.reactions[0].within_ms == 400

    @pytest.mark.parametrize(
        ("change", "words"),
        [
            ({"when": "knee_top"}, "no event of the partner"),
            ({"answers": [{"event": "held", "name": "Held"}]}, "what the partner does"),
            ({"answers": [{"event": "knee_top", "name": "Knee"}]}, "comes before"),
            ({"why": None}, "why"),
        ],
    )
    def test_what_cannot_be_one_is_refused_with_what_to_write(self, change: dict[str, Any], words: str) -> None:
        data = self.data(**change)
        data["decisions"] = [{key: value for key, value in data["decisions"][0].items() if value is not None}]
        with pytest.raises(BadTechnique, match=f"{words}.*reactions"):
            check_technique(data)

    def test_where_it_is_stored_it_is_read_as_it_was(self) -> None:
        assert read_technique(self.data()).decisions[0].when == "held"

    @pytest.mark.parametrize(
        ("words", "dose"),
        [
            ("3 × 10 a side", Dose(sets=3, reps=10, sides="both")),
            ("12 times", Dose(sets=1, reps=12, sides="one")),
            ("2 minutes", Dose(rounds=1, seconds=120)),
            ("3 rounds of 20 s", Dose(rounds=3, seconds=20)),
            ("until tired", None),
        ],
    )
    def test_a_dose_in_words_is_counted_or_refused(self, words: str, dose: Dose | None) -> None:
        drill = {"id": "holds", "name": "Holds", "for": [], "how": "Hold", "dose": words, "solo": "Yes", "minutes": 4}
        data = technique_data(checkpoint(), SNAP_ONLY, drills=[drill | {"resistance_from": "light"}])
        if dose is None:
            with pytest.raises(BadTechnique, match="cannot be counted"):
                check_technique(data)
            return
        (found,) = check_technique(data).drills
        assert isinstance(found, Drill) and found.dose == dose and found.minutes is None
        assert (found.alone, found.resistance) == ({"none": "The same, alone"}, "fifth")
        (kept,) = read_technique(data).drills
        assert isinstance(kept, Drill) and (kept.dose_words, kept.takes_minutes) == (words, 4)
