"""The figures of `script/bench library`, held: what the library asks for, where it is rewritten, and what the moves show of it."""

from __future__ import annotations

import pytest

from lacertus.core.measuring.measures import KINDS
from lacertus.core.measuring.uncertainty import Verdict
from lacertus.library import shipped_technique
from lacertus.studio.moves import MOVES
from tests.bench.library import NAMED, asked_by, shown_by, swept

FALLS = {"front-fall", "side-fall", "back-fall", "rolling-fall", "moving-backward-fall"}
KICKS = {"crescent-kick", "reverse-crescent-kick", "side-kick", "flying-side-kick"}
"""Kicks to which teachers name no reaction: what they do to the partner is what they are for."""
ONE_REACTION = {"knee-pit-choke", "seated-counter"}
"""The whole technique is the answer to one reaction."""
DEEP = (
    *NAMED,
    "advancing-foot-sweep",
    "rolling-fall",
    "side-kick",
    "pendulum-sweep",
    "north-south-choke",
    "knee-shield-pass",
    "cross-armlock-from-back",
    "two-bump-escape",
    "half-guard-underhook",
    "arm-in-head-choke",
    "knee-pit-choke",
    "seated-counter",
    "inverted-back-take",
    "jump-turning-round-kick",
)

UNFOUND = {"arm-drag": {"stays-at-arms-length"}, "rolling-fall": {"arm-at-shoulder-height"}}
"""Faults that the move cannot show by so much that the rule finds them: a partner in reach is soon near, an arm is never level."""


@pytest.mark.parametrize("name", DEEP)
def test_a_technique_is_deep_enough(name: str) -> None:
    technique = shipped_technique(name)
    asked = asked_by(technique)
    assert asked.checkpoints >= 10
    assert asked.kinds >= 6
    assert asked.options_that_change == asked.options >= 1
    assert asked.drills >= 3
    assert all(not isinstance(drill, str) and drill.dose for drill in technique.drills)
    assert technique.layers
    assert technique.starts
    if name not in FALLS | KICKS:
        assert asked.reactions >= (1 if name in ONE_REACTION else 2)
    assert set(MOVES[name].reactions) == {reaction.id for reaction in technique.reactions}


@pytest.mark.parametrize("name", NAMED)
def test_no_smaller_share_is_measured_than_teachers_name_a_measure_for(name: str) -> None:
    measurable, all_of_them = NAMED[name]
    assert asked_by(shipped_technique(name)).share >= measurable / all_of_them - 1e-9


def test_every_kind_of_measure_is_used() -> None:
    used = {checkpoint.kind for name in DEEP for checkpoint in shipped_technique(name).checkpoints}
    assert used >= {"floor", "balance", "line", "dwell", "set", "compare"}


LED_TO = {"ends-sideways", "fits-in-late", "clears-for-nothing"}
"""Put in with another: hips that turn half as far end sideways. And what is only asked of a partner who moves."""


@pytest.mark.parametrize("name", DEEP)
def test_every_measure_of_a_move_has_a_fault_that_can_be_put_in(name: str) -> None:
    """But for orders, which a smooth motion keeps by itself, and for what is read over several reps."""
    technique, move = shipped_technique(name), MOVES[name]
    chosen = {group: set(move.options.get(group, (option.default,))) for group, option in technique.options.items()}
    for checkpoint in technique.checkpoints:
        shown = all(
            group not in chosen or chosen[group] & ({choice} if isinstance(choice, str) else set(choice))
            for group, choice in checkpoint.when.items()
        )
        if shown and not KINDS[checkpoint.kind].by_eye and checkpoint.kind not in ("order", "set"):
            assert move.fault(checkpoint.fault.code) or checkpoint.fault.code in LED_TO, checkpoint.id


@pytest.mark.parametrize("name", MOVES)
def test_faults_put_into_a_move_are_found_and_spill_no_further_at_any_degree(name: str) -> None:
    shown = shown_by(shipped_technique(name))
    assert set(shown.put_in) - set(shown.found) <= UNFOUND.get(name, set())
    assert set(shown.spilled) == set()
    assert not [line for line in shown.not_met if line.endswith("missed")]
    if name in DEEP:
        misses_rise_with_the_degree(name)


def misses_rise_with_the_degree(name: str) -> None:
    """At a third, two thirds and the most: what is missed stays missed, and only what the file says is led to comes along.

    Called where the faults by their most are read already, which costs most of the time.
    """
    technique = shipped_technique(name)
    measured = {c.fault.code for c in technique.checkpoints if not KINDS[c.kind].by_eye}
    sweeps = [swept(technique, fault, (0.33, 0.67, 1.0)) for fault in MOVES[name].faults if fault.code in measured]
    assert not {sweep.code: sweep.spilled for sweep in sweeps if sweep.spilled}
    for sweep in sweeps:
        first = next((i for i, verdict in enumerate(sweep.own) if verdict is Verdict.MISSED), len(sweep.own))
        assert all(verdict is Verdict.MISSED for verdict in sweep.own[first:]), sweep
