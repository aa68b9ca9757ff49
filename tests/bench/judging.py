"""How far the stated u of every kind holds when points scatter, and how long judging takes."""

from __future__ import annotations

import time

import numpy as np
from rich.console import Console
from rich.table import Table

from lacertus.core.measuring.repfile import read_rep
from lacertus.core.measuring.scene import Scene
from lacertus.core.review.judge import judge_rep
from lacertus.library import shipped
from lacertus.library.sample import faultless
from lacertus.services.review.live import LiveRep
from lacertus.services.review.review import Spot
from lacertus.studio.scene import truth
from lacertus.studio.script import read_script, shots_of
from tests.core.measuring.every_kind import ASKED, FREE, scattered, truth_of

ROUNDS = 300
CHECKPOINTS = 40
TRACKED = (
    "front-kick",
    "spinning-hook-kick",
    "crescent-kick",
    "hip-throw",
    "advancing-foot-sweep",
    "side-fall",
    "half-guard-underhook",
)
DRAGGED = ("right_wrist", "right_knee", "right_hip")


def main() -> None:
    console = Console(width=120)
    console.print(kinds())
    console.print(f"judging {CHECKPOINTS} checkpoints of shipped techniques from nothing: {milliseconds():.1f} ms")
    console.print(tracked())


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


def tracked() -> Table:
    """Reps of which every frame has every landmark: put in space, judged with that at hand, and while a point is dragged."""
    table = Table("rep", "frames", "checkpoints", "first", f"{CHECKPOINTS} at hand", *DRAGGED, title="tracked reps, milliseconds")
    techniques = {technique.id: technique for technique in shipped()}
    for name in TRACKED:
        technique = techniques[name]
        script = {"lacertus_script": 1, "id": "judged", "technique": name, "reps": [{}], "recording": {"fps": 60}}
        rep = read_rep(truth(shots_of(read_script(script))[0])["reps"][0])
        count = len(technique.asked_in_order)
        first = min(_once(lambda t=technique, r=rep: judge_rep(t, r)) for _ in range(3)) * 1000
        scene = Scene(rep, technique.edges)
        again = min(_once(lambda t=technique, r=rep, s=scene: judge_rep(t, r, s)) for _ in range(12)) * 1000
        held = LiveRep(technique=technique, file=rep, given={})
        drags = [f"{_dragged(held, landmark):.0f}" for landmark in DRAGGED]
        frames = rep.range[1] - rep.range[0] + 1
        table.add_row(name, str(frames), str(count), f"{first:.0f}", f"{again / count * CHECKPOINTS:.1f}", *drags)
    return table


def _dragged(held: LiveRep, landmark: str) -> float:
    """Median of twelve places that a landmark is dragged to, in the frame of the middle event."""
    marked = sorted(frame for frames in held.file.events.values() for frame in frames)
    frame = marked[len(marked) // 2]
    point = next(one for one in held.file.bodies["performer"].landmarks[landmark] if one.frame == frame)
    spot = Spot(body="performer", landmark=landmark, frame=frame)
    held.with_point(spot, point.x, point.y)
    return float(np.median([_once(lambda i=i: held.with_point(spot, point.x + 2 * i, point.y - i)) for i in range(1, 13)])) * 1000


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
