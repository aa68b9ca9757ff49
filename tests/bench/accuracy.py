"""Holds the judge against the truth: errors, bias, and how often the stated uncertainty holds."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
from rich.console import Console
from rich.progress import track
from rich.table import Table

from lacertus.core.measuring.repfile import read_rep
from lacertus.core.measuring.uncertainty import Verdict
from lacertus.core.review.judge import judge_rep
from lacertus.core.techniques.definition import Technique
from lacertus.library import shipped_technique
from lacertus.studio.moves import MOVES
from lacertus.studio.scene import Rep, Scene, Shot, frame_at, truth
from lacertus.studio.script import read_script, shots_of
from tests.bench import in_depth
from tests.bench.in_depth import Tally

SCATTER_S = 0.006


def marked_instants(made: Rep, shot: Shot, chance: np.random.Generator) -> dict[str, list[int]]:
    """The frames that a coach marks: the instant misjudged by the larger of half a frame and 6 ms."""
    gap = shot.times_s[1] - shot.times_s[0]
    scatter = max(gap / 2, SCATTER_S)
    return {name: [frame_at(shot.times_s, instant + chance.normal(0, scatter))] for name, instant in made.events_s.items()}


def cases(seeds: int) -> Iterator[tuple[Technique, Scene, Shot]]:
    """Every move of the studio, clean and with a fault."""
    for name, move in MOVES.items():
        for seed in range(seeds):
            fault = move.faults[seed // 2 % len(move.faults)]
            faults = {} if seed % 2 == 0 else {fault.code: fault.most * 0.5}
            script: dict[str, Any] = {"lacertus_script": 1, "id": "accuracy", "technique": name, "seed": seed}
            script |= {"reps": [{"faults": faults}], "recording": {"fps": 60}, "camera": {"size": [1280, 720]}}
            shot = shots_of(read_script(script))[0]
            yield shipped_technique(name), shot.scene, shot


def tallied(seeds: int, draws: int) -> dict[str, Tally]:
    """Every time that is measured, with events marked as a coach does, set against the truth, milliseconds."""
    found: dict[str, Tally] = {}
    chance = np.random.default_rng(2026)
    for technique, scene, shot in track(list(cases(seeds)), "timing"):
        made = scene.reps[0]
        told = truth(shot, only_events=True)["reps"][0] | {"bodies": {}}
        first, last = told["range"]
        for _ in range(draws):
            marked = marked_instants(made, shot, chance)
            rep = read_rep(told | {"events": {k: [min(max(f[0], first), last)] for k, f in marked.items()}})
            for judgement in judge_rep(technique, rep):
                checkpoint = technique.checkpoint(judgement.id)
                if checkpoint is None or judgement.kind not in IN_TIME or judgement.verdict is Verdict.NOT_ASKED:
                    continue
                instants = [made.events_s[event] for event in checkpoint.measure.events_used]
                true = max(instants) - min(instants) if judgement.kind == "together" else instants[1] - instants[0]
                found.setdefault(judgement.kind, Tally()).add(judgement, 1000 * true)
    return found


IN_TIME = ("interval", "together")


def report(seeds: int = 4, draws: int = 8) -> Table:
    """The times' table: RMS error within 1.05 of the stated u, ±2u holding 93–97 %, firm verdicts wrong in at most 5 %."""
    table = Table("kind", "read", "RMS error", "stated u", "ratio", "bias", "±2u holds", "firm wrong")
    for kind, tally in sorted(tallied(seeds, draws).items()):
        table.add_row(
            kind, str(len(tally.errors)), f"{tally.rms:.2f} ms", f"{tally.u:.2f} ms", f"{tally.rms / tally.u:.2f}",
            f"{tally.bias:+.2f} ms", f"{100 * tally.held:.1f} %", f"{100 * tally.wrong_share:.1f} %",
        )  # fmt: skip
    return table


def main() -> None:
    console = Console(width=150)
    console.print(report())
    console.print("To reach: ratio ≤ 1.05; ±2u holds in 93–97 %; firm wrong ≤ 5 %.")
    in_depth.main(console)
