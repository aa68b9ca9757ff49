"""What to fix first over a history, hand-worked, and which fault leads to which with its number."""

from __future__ import annotations

from typing import Any

import pytest

from lacertus.core.progress.fix_first import (
    FORGOTTEN_DAYS,
    FaultChoice,
    LastingFix,
    LastingFixChoice,
    Linked,
    Made,
    as_chosen_lasting,
    lasting_fixes,
)
from lacertus.core.progress.history import Count, histories
from lacertus.core.techniques.definition import Technique
from tests.core.build import checkpoint, technique

# By checkpoint, what was missed of three reps in each weekly session.
Story = dict[str, list[int]]


def kick(*checks: dict[str, Any]) -> Technique:
    """Each checkpoint's fault is called as the checkpoint."""
    return technique(*(c | {"fault": {"code": c["id"], "family": "half range"}} for c in checks))


def counts(asked: Technique, story: Story) -> list[Count]:
    return [
        Count(
            day=7 * week, technique=asked.id, checkpoint=name, fault=name, family="half range", exposures=3, misses=misses,
            safety=(c := asked.checkpoint(name)) is not None and c.safety,
        )
        for name, weeks in story.items()
        for week, misses in enumerate(weeks)
    ]  # fmt: skip


def made(asked: Technique, story: Story, first: int = 0) -> list[Made]:
    """The first reps of a session are the missed ones, so that two faults are made together wherever they can be."""
    return [
        Made(rep=(week, rep), day=7 * week, technique=asked.id, fault=name)
        for name, weeks in story.items()
        for week, misses in enumerate(weeks)
        for rep in range(misses)
    ]


def chosen(asked: Technique, story: Story) -> tuple[tuple[LastingFix, ...], tuple[Linked, ...]]:
    on = 7 * max(len(weeks) - 1 for weeks in story.values())
    found = histories(counts(asked, story), {asked.id: asked.ladder}, on=on)
    return lasting_fixes(found, {asked.id: asked}, made(asked, story), on)


def named(asked: Technique, story: Story) -> list[str]:
    return [one.fault for one in chosen(asked, story)[0]]


A, B, C = (checkpoint(id=key) for key in "abc")


@pytest.mark.parametrize(
    ("story", "expected"),
    [
        pytest.param({"a": [0, 0, 0]}, [], id="nothing missed"),
        pytest.param({"a": [2, 2], "b": [1, 0], "c": [3, 3]}, ["c", "a"], id="two at the most, what comes oftener first"),
        pytest.param({"a": [3, 3, 0, 0, 0, 0, 0], "b": [0, 0, 0, 0, 0, 0, 1]}, ["b"], id="what has cleared is not fixed"),
        pytest.param({"a": [1, 0, 0, 0, 0, 0], "b": [1, 1, 1, 1, 1, 1]}, ["b"], id="what became clean is not fixed"),
        pytest.param({"a": [0, 0, 0, 1]}, ["a"], id="what is new is fixed"),
    ],
)
def test_what_is_missed_since_it_was_clean_or_cleared_is_fixed(story: Story, expected: list[str]) -> None:
    assert named(kick(A, B, C), story) == expected


def test_a_relapse_weighs_more_than_the_same_rate_of_what_only_keeps_coming() -> None:
    story = {"a": [3, 3, 0, 0, 0, 0, 3], "b": [0, 0, 0, 3, 0, 0, 3]}
    first = chosen(kick(A, B), story)[0]
    assert [one.fault for one in first] == ["a", "b"]
    assert first[0].reason.startswith("came back after it had cleared: missed in 9 of 21 reps over 7 sessions · expected in")


def test_weight_and_then_phase_order_decide() -> None:
    assert named(kick(A, checkpoint(id="b", weight=3)), {"a": [2, 2], "b": [2, 2]}) == ["b", "a"]
    assert named(kick(A, checkpoint(id="b", phase="chamber")), {"a": [2, 2], "b": [2, 2]}) == ["b", "a"]


def test_safety_comes_before_all_else_and_never_gives_way() -> None:
    safe = checkpoint(id="safe", weight=0.1, safety=True)
    first = chosen(kick(checkpoint(id="a", weight=9, leads_to=["safe"]), safe), {"a": [3, 3], "safe": [0, 1]})[0]
    assert [one.fault for one in first] == ["safe", "a"]
    assert first[0].reason.startswith("a safety point · missed before: missed in 1 of 6 reps over 2 sessions")


CAUSE = checkpoint(id="a", phase="chamber", leads_to=["b"])


def test_a_fault_gives_way_to_its_cause_and_the_number_is_told() -> None:
    first, links = chosen(kick(CAUSE, checkpoint(id="b", weight=9)), {"a": [1, 1], "b": [2, 2]})
    assert [one.fault for one in first] == ["a"]
    assert first[0].reason.endswith("leads to “Leg nearly straight”: missed together in 2 of its 4")
    assert [(link.cause, link.effect, link.together, link.of, link.decides) for link in links] == [("a", "b", 2, 4, True)]


def test_a_cause_made_in_fewer_than_half_of_them_does_not_decide_but_is_told() -> None:
    first, links = chosen(kick(CAUSE, checkpoint(id="b", weight=9)), {"a": [1, 0], "b": [2, 1]})
    assert [one.fault for one in first] == ["b", "a"]
    assert [(link.together, link.of, link.decides) for link in links] == [(1, 3, False)]
    assert all("leads to" not in one.reason for one in first)


def test_only_reps_since_it_was_last_clean_count_for_the_cause() -> None:
    """Once both were missed together; it cleared; now the effect comes without its cause."""
    first, links = chosen(kick(CAUSE, B), {"a": [3, 3, 0, 0, 0, 0, 0, 2], "b": [3, 3, 0, 0, 0, 0, 3, 3]})
    assert [(link.together, link.of) for link in links] == [(2, 6)]
    assert {one.fault for one in first} == {"a", "b"}


def test_a_cause_that_has_cleared_is_no_cause_any_more() -> None:
    first, links = chosen(kick(CAUSE, B), {"a": [3, 3, 0, 0, 0, 0], "b": [3, 3, 1, 1, 1, 2]})
    assert ([one.fault for one in first], links) == (["b"], ())


def test_what_was_not_judged_for_long_is_left_out() -> None:
    asked = kick(A, B)
    story = {"a": [3, 3]}
    for on, expected in ((7 + FORGOTTEN_DAYS, ["a"]), (8 + FORGOTTEN_DAYS, [])):
        own = [*counts(asked, story), Count(day=on, technique=asked.id, checkpoint="b", fault="b", family="x", exposures=3)]
        found = histories(own, {}, on=on)
        assert [one.fault for one in lasting_fixes(found, {asked.id: asked}, made(asked, story), on)[0]] == expected


def test_what_is_switched_off_for_the_student_is_not_fixed() -> None:
    asked = kick(A, B)
    first, *others = asked.checkpoints
    off = asked.model_copy(update={"checkpoints": (first.model_copy(update={"switched_off": "knee"}), *others)})
    assert named(off, {"a": [3, 3], "b": [1, 1]}) == ["b"]


def test_the_coachs_choice_is_kept_in_his_order_with_his_reason_and_without_what_is_not_known() -> None:
    asked = kick(A, B, C)
    found = histories(counts(asked, {"a": [3, 3], "b": [1, 1]}), {})
    choice = LastingFixChoice(
        choices=tuple(FaultChoice(technique="front-kick", fault=fault) for fault in "bza"), why="grading", on="2026-05-04"
    )
    first = as_chosen_lasting(choice, found, {asked.id: asked})
    assert [(one.fault, one.why) for one in first] == [("b", "grading"), ("a", "grading")]
