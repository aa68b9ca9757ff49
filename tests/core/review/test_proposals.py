"""Events proposed from tracked points and from another rep; a coach's verdict in place of a measured one."""

from __future__ import annotations

from typing import Any

import pytest

from lacertus.core.clips.onsets import Onset
from lacertus.core.errors import BadTechnique
from lacertus.core.measuring.repfile import RepFile, mirror_rep, read_rep
from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.review.judge import judge_rep
from lacertus.core.review.overrule import Overrule, overruled
from lacertus.core.review.proposals import MarkedRep, proposed_events
from lacertus.core.techniques.events import Found
from lacertus.core.techniques.reading import read_technique
from lacertus.library import shipped_technique
from lacertus.library.sample import faultless
from lacertus.studio.scene import truth
from lacertus.studio.script import read_script, shots_of
from tests.core.build import drawing, rep_data, technique_data

KICK = shipped_technique("front-kick")


@pytest.fixture(scope="module")
def tracked(truths: dict[str, Any]) -> dict[str, Any]:
    return dict(truths["constant"]["reps"][0])


def without_events(rep: dict[str, Any], *keep: str) -> RepFile:
    return read_rep(rep | {"events": {key: frames for key, frames in rep["events"].items() if key in keep}})


@pytest.mark.parametrize("mirrored", [False, True])
def test_tracked_points_tell_the_events_of_a_kick_within_a_frame_or_two(tracked: dict[str, Any], mirrored: bool) -> None:
    rep = without_events(tracked)
    found = {p.event: p for p in proposed_events(KICK, mirror_rep(rep) if mirrored else rep)}
    assert set(found) == set(tracked["events"])
    for event, (frame,) in tracked["events"].items():
        assert abs(found[event].frame - frame) <= 2, event
    assert found["knee_top"].why == "working knee highest by the tracked points"


@pytest.mark.parametrize("side", ["right", "left"])
def test_the_partners_step_and_the_meeting_of_two_feet_are_found(side: str) -> None:
    sweep = shipped_technique("advancing-foot-sweep")
    script = {"lacertus_script": 1, "id": "sweep", "technique": sweep.id, "side": side, "reps": [{}], "recording": {"fps": 60}}
    rep = truth(shots_of(read_script(script))[0])["reps"][0]
    found = {p.event: p.frame for p in proposed_events(sweep, without_events(rep))}
    for event in ("partner_steps", "foot_lands", "sole_meets"):
        assert abs(found[event] - rep["events"][event][0]) <= 3, event


def test_the_loudest_slap_is_proposed_and_a_call_only_where_a_call_is_asked_for() -> None:
    fall = shipped_technique("back-fall")
    rep = read_rep(rep_data({}, technique="back-fall", events={"seat_down": [40]}, rung=None))
    sounds = [
        Onset(time_s=0.3, strength=1.0), Onset(time_s=0.8, strength=0.9), Onset(time_s=0.9, strength=0.4),
        Onset(time_s=1.0, strength=1.0, voiced=True),
    ]  # fmt: skip
    (found,) = proposed_events(fall, rep, sounds=sounds)
    # The one before the seat is down is out of the stretch.
    assert (found.event, found.frame, found.why) == ("arms_strike", 48, "a slap or thud is heard")
    called = fall.model_copy(update={"events": fall.events | {"arms_strike": fall.events["arms_strike"].model_copy(
        update={"found": Found(rule="called")})}})  # fmt: skip
    assert [p.frame for p in proposed_events(called, rep, sounds=sounds)] == [60]
    assert proposed_events(fall, rep) == ()


def test_a_marked_event_is_not_proposed_and_bounds_those_around_it(tracked: dict[str, Any]) -> None:
    found = {p.event: p.frame for p in proposed_events(KICK, without_events(tracked, "knee_top", "full_reach"))}
    assert "knee_top" not in found and "full_reach" not in found
    assert found["foot_off"] <= tracked["events"]["knee_top"][0]
    assert found["folded"] >= tracked["events"]["full_reach"][0]


def test_points_that_are_not_tracked_tell_nothing(tracked: dict[str, Any]) -> None:
    few = {name: points[::40] for name, points in tracked["bodies"]["performer"]["landmarks"].items() if name != "right_ankle"}
    rep = without_events(tracked | {"bodies": {"performer": {"landmarks": few}}})
    assert {p.event for p in proposed_events(KICK, rep)} <= {"knee_top"}


def test_without_tracks_another_rep_is_followed_in_proportion(tracked: dict[str, Any]) -> None:
    bare = without_events(tracked | {"bodies": {}, "range": [10, 90]})
    other = MarkedRep(name="rep 1", range=(0, 40), events={"foot_off": 10, "knee_top": 20})
    found = {p.event: (p.frame, p.why) for p in proposed_events(KICK, bare, [other])}
    assert found == {"foot_off": (30, "as in rep 1"), "knee_top": (50, "as in rep 1")}


def test_a_rule_takes_the_points_that_it_needs() -> None:
    data = technique_data()
    event = next(iter(data["events"]))
    data["events"][event]["found"] = {"rule": "straightest", "of": ["working_hip", "working_knee"]}
    with pytest.raises(BadTechnique, match="straightest takes 3 points"):
        read_technique(data)


def test_an_overruled_verdict_keeps_the_measured_one_and_leaves_the_rest() -> None:
    judged = judge_rep(KICK, faultless(KICK), drawing(KICK, faultless(KICK)))
    given = {"leg_straight": Overrule(verdict=Verdict.MISSED, reason="bent in the second view")}
    found = {j.id: j for j in overruled(judged, given)}
    mine = found["leg_straight"]
    assert (mine.verdict, mine.measured, mine.because) == ("missed", "met", "bent in the second view")
    assert mine.counts_as_missed and mine.is_exposure
    assert [found[j.id] for j in judged if j.id != "leg_straight"] == [j for j in judged if j.id != "leg_straight"]


def test_what_is_not_asked_cannot_be_overruled() -> None:
    slow = faultless(KICK).model_copy(update={"pace": "slow"})
    judged = judge_rep(KICK, slow)
    left_out = next(j for j in judged if j.verdict is Verdict.NOT_ASKED)
    (found,) = [j for j in overruled(judged, {left_out.id: Overrule(verdict=Verdict.MISSED, reason="x")}) if j.id == left_out.id]
    assert found == left_out
