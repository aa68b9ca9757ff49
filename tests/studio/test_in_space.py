"""Each move of the studio, held to its technique in space, by a reading that shares nothing with the judge's."""

from __future__ import annotations

from itertools import permutations

import pytest

from lacertus.core.measuring.measures import KINDS
from lacertus.core.measuring.repfile import read_rep
from lacertus.core.review.asking import chosen_options
from lacertus.core.review.judge import judge_rep
from lacertus.core.techniques.choices import asked_under
from lacertus.library import shipped_technique
from lacertus.studio.moves import MOVES
from lacertus.studio.scene import Shot, truth
from lacertus.studio.script import read_script, shots_of
from tests.bench.known_space import known_scene
from tests.bench.library import best_view
from tests.studio.choices import WAYS
from tests.studio.in_space import read_in_space


def clean(technique: str, options: dict[str, str]) -> Shot:
    script = {
        "lacertus_script": 1, "id": "space", "technique": technique, "scatter": 0.0, "recording": {"fps": 60},
        "camera": {"view": best_view(technique)}, "reps": [{"options": options}],
    }  # fmt: skip
    return shots_of(read_script(script))[0]


@pytest.mark.parametrize(("technique", "options"), WAYS)
def test_a_clean_move_is_what_its_technique_asks_for_in_space(technique: str, options: dict[str, str]) -> None:
    made, known = clean(technique, options), shipped_technique(technique)
    rep = read_rep(truth(made, only_events=True)["reps"][0])
    read = read_in_space(known, rep, made.scene)
    asked = len(read.inside) + len(read.outside) + len(read.unread)
    print(f"{technique}: {asked - len(read.unread)} of {asked} checkpoints read in space, {chosen_options(known, rep)}")
    assert not read.outside
    assert len(read.inside) >= 0.7 * asked


def shown_choices(technique: str, group: str) -> tuple[str, ...]:
    """The choices of an option that the move can show; the usual one where it knows nothing of the option."""
    return MOVES[technique].options.get(group, (shipped_technique(technique).options[group].default,))


def pairs() -> list[tuple[str, str, str, str]]:
    """Technique, option, the choice that is done, the one it is judged as, where that one asks for anything else.

    What more is asked by eye alone a coach tells apart. A choice that only asks less (a free stance, no knock
    before the underhook) cannot be failed by who does more.
    """
    found = []
    for name in MOVES:
        known = shipped_technique(name)
        by_eye = {checkpoint.id for checkpoint in known.checkpoints if KINDS[checkpoint.kind].by_eye}
        for group, option in known.options.items():
            for made, said in permutations(option.choices, 2):
                before = asked_under(known, group, made)
                more = {id_ for id_, asked in asked_under(known, group, said).items() if before.get(id_) != asked} - by_eye
                if made in shown_choices(name, group) and more:
                    found.append((name, group, made, said))
    return found


NOT_TOLD_APART = {("front-kick", "extension", "snap", "push")}
"""Nothing that is measured differs enough yet."""


@pytest.mark.parametrize(("technique", "group", "made", "said"), [pair for pair in pairs() if pair not in NOT_TOLD_APART])
def test_a_clean_rep_of_one_choice_judged_as_another_misses_something(technique: str, group: str, made: str, said: str) -> None:
    """In the picture, after a coach has looked for every event; else in space, where one view leaves it to the coach's eye."""
    known = shipped_technique(technique)
    shot = clean(technique, {group: made} if group in MOVES[technique].options else {})
    rep = truth(shot)["reps"][0]
    looked_for = {event: [] for event in known.events} | rep["events"]
    told = read_rep({**rep, "events": looked_for, "options": {**rep["options"], group: said}})
    missed = [judged.id for judged in judge_rep(known, told) if judged.verdict.value == "missed"]
    assert missed or read_in_space(known, told, shot.scene).outside


@pytest.mark.parametrize(
    ("done", "judged_as"),
    [("crescent-kick", "reverse-crescent-kick"), ("reverse-crescent-kick", "crescent-kick")],
)
@pytest.mark.parametrize("side", ["right", "left"])
def test_each_crescent_fails_as_the_other(done: str, judged_as: str, side: str) -> None:
    script = {
        "lacertus_script": 1, "id": "space", "technique": done, "side": side, "scatter": 0.0, "recording": {"fps": 60},
        "camera": {"view": "front"}, "reps": [{}],
    }  # fmt: skip
    shot, known = shots_of(read_script(script))[0], shipped_technique(judged_as)
    rep = read_rep(truth(shot)["reps"][0] | {"technique": judged_as})
    found = {judged.id: judged.verdict.value for judged in judge_rep(known, rep, known_scene(known, rep, shot))}
    starts = "starts_inside" if judged_as == "reverse-crescent-kick" else "starts_outside"
    assert (found[starts], found["goes_across"]) == ("missed", "missed")
