"""Reactions of the partner: only answers after them count, each time that they come."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import event as noted
from hypothesis import given, settings
from hypothesis import strategies as st

from lacertus.core.errors import BadTechnique
from lacertus.core.measuring.scene import Scene
from lacertus.core.review.asking import asked_events
from lacertus.core.review.judge import judge_rep
from lacertus.core.review.judgement import Judgement
from lacertus.core.review.reactions import Reacted, reacted
from lacertus.core.techniques.definition import Technique
from tests.core.build import DROP, HELD, HOP, by_eye, catches, rep, technique


def kick(*checkpoints: dict[str, Any], reaction: dict[str, Any] | None = None, **changes: Any) -> Technique:
    events = technique().model_dump(mode="json")["events"] | {"held": HELD, "hop": HOP, "dropped": DROP}
    return technique(*checkpoints, events=events, reactions=[reaction or catches()], **changes)


def rows(events: dict[str, list[int]], tech: Technique | None = None, **facts: Any) -> tuple[Reacted, ...]:
    tech, found = tech or kick(), rep(events=events, **facts)
    return reacted(tech, found, Scene(found, tech.edges))


NONE: dict[str, list[int]] = {"folded": [], "dropped": [], "hop": []}


class TestRows:
    @pytest.mark.parametrize(
        ("events", "verdict", "answer", "latency"),
        [
            ({}, "not_seen", None, None),
            ({"held": []}, "not_asked", None, None),
            ({"held": [40], "folded": [52]}, "met", "folded", 200.0),
            ({"held": [40], "folded": [90]}, "missed", "folded", 833.3),
            ({"held": [40], "folded": [64]}, "borderline", "folded", 400.0),
            ({"held": [40], **NONE}, "missed", None, None),
            ({"held": [40], "hop": [44], "folded": [52]}, "missed", "hop", 66.7),
            ({"held": [40], "hop": [60], "folded": [52]}, "met", "folded", 200.0),
        ],
        ids=["unmarked", "did not come", "in time", "late", "too near", "none", "wrong first", "wrong after"],
    )
    def test_a_marking_is_a_row(self, events: Any, verdict: str, answer: str | None, latency: float | None) -> None:
        (row,) = rows(events)
        assert (row.verdict, row.answer) == (verdict, answer)
        assert row.latency_ms == (None if latency is None else pytest.approx(latency, abs=0.1))

    def test_an_answer_given_before_or_with_the_reaction_does_not_count(self) -> None:
        early = {"held": [40], **NONE, "folded": [30, 40]}
        assert rows(early)[0].verdict == "missed" and rows(early)[0].answer is None

    def test_without_an_answer_every_one_has_to_have_been_looked_for(self) -> None:
        (row,) = rows({"held": [40], "folded": []})
        assert row.verdict == "not_seen" and "dropped" in str(row.reason)

    def test_each_marking_has_its_own_answer(self) -> None:
        found = rows({"held": [30, 60], **NONE, "folded": [70], "dropped": [36]})
        assert [(row.frame, row.answer, row.verdict) for row in found] == [(30, "dropped", "met"), (60, "folded", "met")]
        late = rows({"held": [30, 60], **NONE, "folded": [70]})
        assert [row.verdict for row in late] == ["missed", "met"]

    def test_with_no_window_any_later_answer_will_do(self) -> None:
        unhurried = kick(reaction=catches(within_ms=None))
        assert rows({"held": [20], "folded": [95]}, unhurried)[0].verdict == "met"

    def test_the_clock_is_real_time(self) -> None:
        slowed = rows({"held": [40], "folded": [80]}, capture_rate=[[0, 4.0]])
        assert slowed[0].latency_ms == pytest.approx(166.7, abs=0.1) and slowed[0].verdict == "met"

    def test_nobody_is_there_to_react(self) -> None:
        assert rows({"held": [40], "folded": [52]}, partner="none")[0].verdict == "not_asked"


class TestInTheRep:
    def judged(self, events: dict[str, list[int]], *checkpoints: dict[str, Any]) -> dict[str, Judgement]:
        return {j.id: j for j in judge_rep(kick(*checkpoints), rep(events=events, seen={"after": {"coach": True}}))}

    def test_it_is_one_exposure_missed_if_any_time_was(self) -> None:
        found = self.judged({"held": [30, 60], **NONE, "folded": [70]})["partner_catches"]
        assert found.counts_as_missed and found.is_exposure and "worst of 2" in " ".join(found.notes)
        assert found.phase == "extension" and found.kind == "reaction"

    def test_the_answer_opens_what_is_asked_after_it(self) -> None:
        after = by_eye(id="after", measure={}, branch={"partner_catches": ["folded"]})
        assert self.judged({"held": [30], **NONE, "folded": [40]}, after)["after"].verdict == "met"
        assert self.judged({"held": [30], **NONE, "dropped": [40]}, after)["after"].verdict == "not_asked"
        assert self.judged({"held": [], **NONE, "folded": [40]}, after)["after"].verdict == "not_asked"


class TestDefinition:
    @pytest.mark.parametrize(
        ("change", "words"),
        [
            ({"event": "folded"}, "body: partner"),
            ({"answers": [{"event": "held", "name": "Held"}]}, "performer’s"),
            ({"answers": [{"event": "never", "name": "Never"}]}, "not defined"),
            ({"id": "knee_angle"}, "used twice"),
            ({"when": {"weather": "rain"}}, "no option"),
            ({"answers": []}, "at least 1"),
        ],
    )
    def test_what_is_wrong_is_told(self, change: dict[str, Any], words: str) -> None:
        with pytest.raises(BadTechnique, match=words):
            kick(reaction=catches(**change))


FRAMES = st.lists(st.integers(13, 95), max_size=4, unique=True).map(sorted)


def slow_reading(events: dict[str, list[int]]) -> list[tuple[int, str | None]]:
    """Each marking with the first answer after it, frame by frame."""
    found: list[tuple[int, str | None]] = []
    for i, frame in enumerate(events["held"]):
        answer = None
        for at in range(frame + 1, 97):
            if i + 1 < len(events["held"]) and at >= events["held"][i + 1]:
                break
            named = [name for name in ("folded", "dropped", "hop") if at in events[name]]
            if named:
                answer = named[0]
                break
        found.append((frame, answer))
    return found


@settings(max_examples=300, deadline=None)
@given(held=FRAMES, folded=FRAMES, dropped=FRAMES, hop=FRAMES)
def test_the_answers_are_those_that_a_frame_by_frame_reading_finds(
    held: list[int], folded: list[int], dropped: list[int], hop: list[int]
) -> None:
    events = {"held": held, "folded": folded, "dropped": dropped, "hop": hop}
    found = [row for row in rows(events) if row.frame is not None]
    assert [(row.frame, row.answer) for row in found] == slow_reading(events)
    for row in found:
        noted(f"answered: {row.answer}")
        assert (row.verdict == "missed") or row.answer in ("folded", "dropped")
        assert (row.answer == "hop" or row.answer is None) <= (row.verdict == "missed")


def test_events_of_a_reaction_are_asked_for_once_it_came() -> None:
    tech = kick()
    assert asked_events(tech, rep(events={})) == ("full_reach",)
    assert asked_events(tech, rep(events={"held": []})) == ("full_reach",)
    assert asked_events(tech, rep(events={"held": [40]})) == ("full_reach", "held", "folded", "hop", "dropped")
