"""A measure read on the studio's figure while a checkpoint is written, and techniques that move like another one."""

from __future__ import annotations

from typing import Any

import pytest

from lacertus.core.errors import BadInput
from lacertus.core.techniques.definition import Technique
from lacertus.library import check_text, shipped_technique
from lacertus.services.techniques import moving
from lacertus.services.techniques.lessons import as_yaml
from lacertus.services.techniques.sampled import sampled, shown_by_the_studio
from tests.services.techniques.ours import OURS

KNEE = {"points": ["working_hip", "working_knee", "working_ankle"], "at": "here"}


def ours(seconds: float, within: int = 120) -> Technique:
    return check_text(OURS.replace("SECONDS", str(seconds)).replace("WITHIN", str(within)))


@pytest.fixture(scope="module")
def kick() -> moving.MovingFigure:
    return moving.figure_of(shipped_technique("front-kick"), "right", {})


class TestSampled:
    def test_it_is_what_the_figures_own_checkpoint_reads_there(self, kick: moving.MovingFigure) -> None:
        own = next(one.judgement for one in kick.checkpoints if one.judgement.id == "leg_straight")
        found = sampled("front-kick", {"here": kick.events_s["full_reach"]}, "angle", KNEE)
        assert found.value == pytest.approx(own.value, abs=2)
        assert own.uncertainty is not None and found.u == pytest.approx(own.uncertainty, rel=0.3)
        assert found.shown.startswith(f"{found.value:.0f}°")

    def test_it_follows_the_instant(self, kick: moving.MovingFigure) -> None:
        bent = sampled("front-kick", {"here": kick.events_s["knee_top"]}, "angle", KNEE).value
        long = sampled("front-kick", {"here": kick.events_s["full_reach"]}, "angle", KNEE).value
        assert bent is not None and long is not None and long - bent > 60

    def test_a_time_between_two_instants(self) -> None:
        found = sampled("front-kick", {"a": 0.3, "b": 0.8}, "interval", {"from": "a", "to": "b"})
        assert found.value == pytest.approx(500, abs=17)

    @pytest.mark.parametrize(
        ("kind", "measure", "why"),
        [
            ("angle", KNEE | {"points": ["working_hip"]}, "missing"),
            ("angle", KNEE | {"points": ["working_hip", "tail", "neck"]}, "not a landmark"),
            ("angle", KNEE | {"at": "later"}, "later"),
            ("gap", {"between": ["neck", "partner.neck"], "at": "here"}, "partner"),
            ("seen", {"at": "here"}, "not answered"),
        ],
    )
    def test_what_cannot_be_told_is_told_why(self, kind: str, measure: dict[str, Any], why: str) -> None:
        found = sampled("front-kick", {"here": 0.8}, kind, measure)
        assert found.value is None and why in found.why

    @pytest.mark.parametrize(
        ("technique", "kind", "measure", "why"),
        [
            ("moon-dance", "angle", KNEE, "there is no technique “moon-dance”"),
            ("front-kick", "wobble", KNEE, "kind “wobble” is not known"),
            ("front-kick", "set", {"of": {"kind": "angle", "measure": KNEE}, "pick": "spread"}, "over the reps of a set"),
            ("front-kick", "gap", {"between": ["neck", "chin"], "at": {"nth": 1e300}}, "beyond"),
        ],
    )
    def test_what_there_is_not_is_refused(self, technique: str, kind: str, measure: dict[str, Any], why: str) -> None:
        with pytest.raises(BadInput, match=why):
            sampled(technique, {"here": 0.8}, kind, measure)


class TestMovesLike:
    def test_the_studio_shows_it_by_the_others_move_with_its_own_events(self, kick: moving.MovingFigure) -> None:
        at = kick.events_s["full_reach"]
        found = moving.figure_of(ours(at), "right", {})
        assert found.technique == "our-kick"
        assert found.events_s == {
            "reached": pytest.approx(at, abs=0.01),
            "knee_top": pytest.approx(kick.events_s["knee_top"], abs=0.01),
        }
        (read,) = found.checkpoints
        assert read.judgement.verdict.value == "met"
        assert read.time_s == pytest.approx(at, abs=0.01)
        assert [place.name for place in read.places] == KNEE["points"]

    def test_it_is_judged_by_its_own_range_at_its_own_instant(self, kick: moving.MovingFigure) -> None:
        (bent,) = moving.figure_of(ours(kick.events_s["knee_top"]), "right", {}).checkpoints
        assert bent.judgement.counts_as_missed

    def test_its_own_fault_is_not_put_into_the_others_move(self) -> None:
        with pytest.raises(BadInput, match="does not show the fault"):
            moving.figure_of(ours(0.8), "right", {}, "bent-leg")

    def test_one_that_moves_like_nothing_the_studio_shows_is_told(self) -> None:
        technique = check_text(OURS.replace("front-kick", "moon-dance").replace("SECONDS", "1").replace("WITHIN", "90"))
        assert not moving.moves(technique)
        with pytest.raises(BadInput, match="does not show Our kick yet"):
            moving.figure_of(technique, "right", {})

    def test_it_goes_out_as_text_and_comes_in_the_same(self) -> None:
        assert check_text(as_yaml(ours(0.8))) == ours(0.8)


def test_every_figure_that_may_be_chosen_is_there() -> None:
    names = sorted(shown_by_the_studio())
    assert len(names) > 20
    for name in names:
        assert sampled(name, {"a": 0.2, "b": 0.4}, "interval", {"from": "a", "to": "b"}).value == pytest.approx(200, abs=17)
