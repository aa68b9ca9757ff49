"""Checkpoints as sentences: what a form writes is read by its kind, and its places all stand in its sentence."""

from __future__ import annotations

import re
from typing import Any

import pytest

from lacertus.core.errors import BadTechnique
from lacertus.core.measuring.measures import KINDS
from lacertus.core.techniques.checkpoint import check_wanted
from lacertus.core.techniques.definition import Technique
from lacertus.core.techniques.forms import FORMS, Form
from lacertus.core.techniques.reading import read_technique
from lacertus.core.techniques.vocabulary import FAULT_FAMILIES


def written(form: Form) -> dict[str, object]:
    """The form's measure, each place of an event filled with one."""
    measure: dict[str, Any] = form.blank
    for place in form.places:
        node: Any = measure
        for key in place.path[:-1]:
            node = node[key]
        if place.of == "event":
            node[place.path[-1]] = "begins" if float(place.usual) < 0.5 else "reached"
        if place.of == "events":
            node[place.path[-1]] = ["begins", "reached"]
    return measure


def technique_with(form: Form) -> dict[str, object]:
    checkpoint: dict[str, Any] = {
        "id": "asked", "phase": "all", "kind": form.kind, "ask": "Is it so?", "measure": written(form),
        "fault": {"code": "not-so", "family": "late"}, "cues": ["So"], "why": "Why",
    }  # fmt: skip
    if form.wanted is not None:
        checkpoint["within"] = list(form.wanted.usual)
    event = {"phase": "all", "mark": "First frame in which it is there"}
    return {
        "lacertus_technique": 1, "id": "ours", "names": {"main": "Ours"}, "family": "kick", "phases": ["all"],
        "events": {"begins": event, "reached": event}, "checkpoints": [checkpoint],
    }  # fmt: skip


@pytest.mark.parametrize("form", FORMS, ids=lambda form: form.id)
class TestEachForm:
    def test_what_it_writes_is_read_by_its_kind(self, form: Form) -> None:
        checkpoint = read_technique(technique_with(form)).checkpoints[0]
        assert checkpoint.kind == form.kind
        assert set(checkpoint.events_used) <= {"begins", "reached"}
        assert {str(point) for point in checkpoint.measure.points_used} == {p.usual for p in form.places if p.of == "point"}

    def test_its_fault_is_of_a_family_that_there_is(self, form: Form) -> None:
        assert form.fault in FAULT_FAMILIES

    def test_each_place_stands_once_in_its_sentence(self, form: Form) -> None:
        assert sorted(re.findall(r"\{(\w+)\}", form.says)) == sorted(place.key for place in form.places)

    def test_its_ruler_lies_within_what_the_value_can_be(self, form: Form) -> None:
        kind = KINDS[form.kind]
        assert (form.wanted is None) == (kind.by_eye or kind.own_range is not None)
        if form.wanted is None:
            return
        measure = kind.measure_model.model_validate(written(form))
        least, most = measure.natural_bounds
        for ruler in (form.wanted, form.in_lengths):
            if ruler is not None:
                assert least <= ruler.least < ruler.most <= most
                assert 20 <= (ruler.most - ruler.least) / ruler.step <= 400
                check_wanted("within", ruler.usual, least, most)

    def test_each_choice_is_one_that_its_kind_takes(self, form: Form) -> None:
        for place in form.places:
            assert (place.of == "choice") == bool(place.choices)
            for value, _ in place.choices:
                measure = KINDS[form.kind].measure_model.model_validate(written(form) | {str(place.path[0]): value})
                assert measure.model_dump(mode="json")[str(place.path[0])] == value


def test_no_two_forms_are_named_alike() -> None:
    assert len({form.id for form in FORMS}) == len({form.name for form in FORMS}) == len(FORMS)


class TestMovesLike:
    def with_events(self, events: dict[str, float]) -> Technique:
        data = technique_with(FORMS[0]) | {"moves_like": {"technique": "front-kick", "events": events}}
        return read_technique(data)

    def test_it_is_read_with_its_seconds(self) -> None:
        found = self.with_events({"reached": 0.8}).moves_like
        assert found is not None and (found.technique, found.events) == ("front-kick", {"reached": 0.8})

    def test_an_event_that_is_not_defined_is_told(self) -> None:
        with pytest.raises(BadTechnique, match="event “landed” is not defined") as error:
            self.with_events({"landed": 0.8})
        assert error.value.problems[0].path == ("moves_like", "events", "landed")

    def test_a_second_before_the_start_is_told(self) -> None:
        with pytest.raises(BadTechnique, match="greater than or equal to 0"):
            self.with_events({"reached": -1})


def test_what_is_empty_is_said_in_plain_words() -> None:
    data = technique_with(FORMS[0])
    checkpoint = data["checkpoints"][0] | {"why": "", "cues": [], "fault": {"code": "", "family": "late"}}  # type: ignore[index]
    with pytest.raises(BadTechnique, match="empty") as error:
        read_technique(data | {"checkpoints": [checkpoint]})
    assert {problem.path[2:]: problem.message for problem in error.value.problems} == {
        ("fault", "code"): "takes small letters and digits, words joined by - or _, and begins with a letter",
        ("cues",): "is empty or too short: give at least 1",
        ("why",): "is empty: write something here",
    }
