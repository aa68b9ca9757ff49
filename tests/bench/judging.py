"""How far the stated u of every kind holds when points scatter, and how long judging takes."""

from __future__ import annotations

import time

import numpy as np
from rich.console import Console
from rich.table import Table

from lacertus.core.measuring.repfile import read_rep
from lacertus.core.review.judge import judge_rep
from lacertus.library import shipped
from lacertus.library.sample import faultless
from tests.core.measuring.every_kind import ASKED, FREE, scattered, truth_of

ROUNDS = 300
CHECKPOINTS = 40


def main() -> None:
    console = Console(width=120)
    console.print(kinds())
    console.print(f"judging {CHECKPOINTS} checkpoints of shipped techniques: {milliseconds():.1f} ms (to reach: 3)")


def kinds() -> Table:
    """Error ÷ stated u of every measure, and firm verdicts that were wrong."""
    chance, truth = np.random.default_rng(11), truth_of()
    true = {j.id: j.value for j in judge_rep(FREE, read_rep(truth))}
    errors: dict[str, list[float]] = {}
    firm: dict[str, list[bool]] = {}
    for _ in range(ROUNDS):
        for found in judge_rep(FREE, read_rep(scattered(truth, chance))):
            value = true[found.id]
            if found.value is None or value is None or not found.uncertainty:
                continue
            errors.setdefault(found.id, []).append((found.value - value) / found.uncertainty)
            lo, hi = ASKED[int(found.id[1:])][2]
            inside = (lo is None or value >= lo) and (hi is None or value <= hi)
            if found.verdict in ("met", "missed"):
                firm.setdefault(found.id, []).append((found.verdict == "met") != inside)
    table = Table("kind", "of", "rms ÷ u", "bias ÷ u", "within 2u", "firm and wrong", title=f"2 px, half shared, {ROUNDS} rounds")
    for name, zs in errors.items():
        kind, measure, _ = ASKED[int(name[1:])]
        of = " ".join(str(measure[key]) for key in ("pick", "than", "towards", "unit") if key in measure)
        wrong = firm.get(name)
        share = f"{np.mean(wrong):.1%} of {len(wrong)}" if wrong else "–"
        z = np.array(zs)
        table.add_row(kind, of, f"{np.sqrt((z**2).mean()):.2f}", f"{z.mean():+.2f}", f"{np.mean(abs(z) <= 2):.1%}", share)
    return table


def milliseconds() -> float:
    """Time for CHECKPOINTS checkpoints, the best of several runs over every shipped technique's sample rep."""
    total, count = 0.0, 0
    for technique in shipped():
        rep = faultless(technique)
        total += min(_once(lambda t=technique, r=rep: judge_rep(t, r)) for _ in range(12))
        count += len(technique.checkpoints)
    return total / count * CHECKPOINTS * 1000


def _once(work: object) -> float:
    assert callable(work)
    started = time.perf_counter()
    work()
    return time.perf_counter() - started
