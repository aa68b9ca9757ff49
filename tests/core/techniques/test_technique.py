"""Technique definitions: what is refused, where, and what survives being written and read."""

from __future__ import annotations

from typing import Any

import pytest

from lacertus.core.errors import BadTechnique
from lacertus.core.measuring.measures import KINDS
from lacertus.core.techniques.reading import read_technique
from tests.core.build import by_eye, checkpoint, return_time, technique, technique_data


def problems(data: Any) -> dict[str, str]:
    with pytest.raises(BadTechnique) as caught:
        read_technique(data)
    return {".".join(map(str, problem.path)): problem.message for problem in caught.value.problems}


@pytest.mark.parametrize(
    ("data", "path", "words"),
    [
        (technique_data(checkpoint(kind="magic")), "checkpoints.0.kind", "“magic” is not known"),
        (technique_data(checkpoint(phase="lunch")), "checkpoints.0.phase", "not in phases"),
        (technique_data(checkpoint(leads_to=["nothing"])), "checkpoints.0.leads_to.0", "no checkpoint"),
        (technique_data(checkpoint(), checkpoint()), "checkpoints.1.id", "used twice"),
        (technique_data(checkpoint(when={"mood": "good"})), "checkpoints.0.when.mood", "no option"),
        (technique_data(checkpoint(when={"extension": "slap"})), "checkpoints.0.when.extension", "no choice"),
        (technique_data(checkpoint(from_rung="x")), "checkpoints.0.from_rung", "not in the ladder"),
        (technique_data(checkpoint(cues=[])), "checkpoints.0.cues", "at least 1"),
        (technique_data(checkpoint(within=[200, None])), "checkpoints.0", "cannot be reached"),
        (technique_data(checkpoint(within=[170, 150])), "checkpoints.0", "is empty"),
        (technique_data(checkpoint(within=[None, None])), "checkpoints.0", "limits nothing"),
        (technique_data(checkpoint(within=None)), "checkpoints.0", "needs “within”"),
        (technique_data(by_eye() | {"within": [0, 1]}), "checkpoints.0", "takes no “within”"),
        (technique_data(checkpoint(fault={"code": "x", "family": "bad luck"})), "checkpoints.0.fault.family", "not a fault family"),
        (technique_data(family="dance"), "family", "not a family"),
        (technique_data(surprise=1), "surprise", "not known here"),
        (
            technique_data(return_time(measure={"from": "full_reach", "to": "never"})),
            "checkpoints.0.measure",
            "“never” is not defined",
        ),
        (
            technique_data(checkpoint(measure={"points": ["working_hip", "working_tail", "left_knee"], "at": "full_reach"})),
            "checkpoints.0.measure.points.1",
            "not a landmark",
        ),
        (
            technique_data(checkpoint(measure={"points": ["nose", "neck"], "at": "full_reach"})),
            "checkpoints.0.measure.points.2",
            "",
        ),
        (technique_data(events={"x": {"phase": "lunch", "mark": "y"}}), "events.x.phase", "not in phases"),
        ("not a mapping", "", "mapping"),
    ],
)
def test_problem_is_found_at_its_path(data: Any, path: str, words: str) -> None:
    assert words in problems(data)[path]


def test_all_problems_are_found_at_once() -> None:
    found = problems(
        technique_data(checkpoint(kind="magic"), checkpoint(id="b", fault={"code": "x", "family": "y"}), family="dance")
    )
    assert {"checkpoints.0.kind", "checkpoints.1.fault.family", "family"} <= set(found)


def test_a_circle_of_causes_is_refused() -> None:
    found = problems(technique_data(checkpoint(id="a", leads_to=["b"]), checkpoint(id="b", leads_to=["a"])))
    assert "leads back to itself" in found["checkpoints.0.leads_to"]


def test_written_and_read_again_it_is_the_same() -> None:
    half = {"on": ["working_knee", "working_ankle"], "share": 0.5}
    original = technique(
        checkpoint(measure={"points": ["nose", "neck", half], "at": {"event": "full_reach", "nth": -1}}),
        return_time(within_by={"pace": {"slow": None}}),
        by_eye(),
    )
    assert read_technique(original.model_dump(mode="json", by_alias=True, exclude_unset=True)) == original


def test_checkpoints_come_in_phase_order() -> None:
    ids = [c.id for c in technique(return_time(), checkpoint(), by_eye()).in_phase_order]
    assert ids == ["knee_angle", "toes_back", "quick_return"]


def test_every_kind_is_named_as_it_is_registered() -> None:
    assert all(name == kind.name for name, kind in KINDS.items())
