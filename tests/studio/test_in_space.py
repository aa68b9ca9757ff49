"""Each move of the studio, held to its technique in space, by a reading that shares nothing with the judge's."""

from __future__ import annotations

import pytest

from lacertus.core.measuring.measures import KINDS
from lacertus.core.measuring.measures.nested import Nested
from lacertus.core.measuring.repfile import read_rep
from lacertus.core.review.asking import chosen_options, why_not_asked
from lacertus.library import shipped_technique
from lacertus.studio.moves import MOVES
from lacertus.studio.scene import truth
from lacertus.studio.script import read_script, scene_of, shots_of
from tests.studio.in_space import InSpace, NoTruth

ROOM = 0.02
"""A value so little outside its range is the rounding of an event to a frame, as a share of the limit."""


@pytest.mark.parametrize("technique", MOVES)
def test_a_clean_move_is_what_its_technique_asks_for_in_space(technique: str) -> None:
    script = read_script({"lacertus_script": 1, "id": "space", "technique": technique, "scatter": 0.0})
    scene, known = scene_of(script), shipped_technique(technique)
    rep = read_rep(truth(shots_of(script)[0], only_events=True)["reps"][0])
    read = InSpace(scene=scene, events=scene.reps[0].events_s)
    seen = 0
    for checkpoint in known.checkpoints:
        kind = KINDS[checkpoint.kind]
        if kind.by_eye or kind.over_reps or why_not_asked(checkpoint, known, rep) is not None:
            continue
        wanted = checkpoint.within or kind.own_range
        try:
            value = read.value(Nested(kind=checkpoint.kind, measure=checkpoint.measure, within=wanted))
        except (NoTruth, KeyError):
            continue
        seen += 1
        lo, hi = wanted or (None, None)
        assert lo is None or value >= lo - ROOM * abs(lo) - 1e-6, (checkpoint.id, value, wanted)
        assert hi is None or value <= hi + ROOM * abs(hi) + 1e-6, (checkpoint.id, value, wanted)
    asked = [c for c in known.checkpoints if not KINDS[c.kind].by_eye and why_not_asked(c, known, rep) is None]
    print(f"{technique}: {seen} of {len(asked)} measured checkpoints read in space, {chosen_options(known, rep)}")
    assert seen >= 0.7 * len(asked)
