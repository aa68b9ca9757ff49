"""Faults on purpose: what is hit while coaches work, in which step, and whether anything that was acknowledged is lost."""

from __future__ import annotations

import os
import tempfile
from collections import Counter
from pathlib import Path

from rich.console import Console
from rich.table import Table

from tests.faults.hitting import STEPS, Site
from tests.faults.running import Hit, Told, run, small_clip

KILLS = int(os.environ.get("LACERTUS_BENCH_KILLS", "100"))
OUTAGES, DISKS, UPLOADS = 10, 10, 400
TASKS = ("read_clip", "draw_still", "track_points", "make_marked_clip", "make_compared_film")
AT_ONCE = ("draw_still",)
"""Work that takes half a second and does not tell how far it is: it has no middle to be killed in."""


def main() -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        clip, truth = small_clip(folder)
        told = run(folder, clip, truth, _hits(), uploads=UPLOADS)
    Console(width=110).print(_counted(told), _stepped(told))
    for line in told.wrong:
        print("WRONG:", line)
    print(
        "nothing that was acknowledged is lost, and nothing stands half"
        if not told.wrong
        else f"{len(told.wrong)} things are wrong"
    )


def _hits() -> list[Hit]:
    """Kills of each kind in turn, with outages and full disks among them."""
    tried: Counter[tuple[str, str]] = Counter(
        {(task, step): 0 for task in TASKS for step in STEPS[: 1 if task in AT_ONCE else None]}
    )

    def worker(place: Site) -> None:
        """In the step that was tried least; one that nobody came by is tried again."""
        wanted = min(tried, key=lambda step: (place.hits.steps[step], tried[step]))
        tried[wanted] += 1
        place.kill_worker(wanted)

    hits: list[Hit] = []
    for number in range(KILLS):
        hits += [worker, Site.kill_server, Site.kill_database]
        if number % max(1, KILLS // OUTAGES) == 0:
            hits.append(lambda place: place.outage(5.0))
        if number % max(1, KILLS // DISKS) == 0:
            hits.append(lambda place: place.full_disk(3.0) if place.has_small_disk else None)
    return [*hits, lambda place: place.outage(60.0)]


def _counted(told: Told) -> Table:
    table = Table("what", "how often", title="hit while coaches work")
    for what, count in sorted(told.hits.counts.items()):
        table.add_row(what, str(count))
    table.add_row("uploads cut off in a piece", str(told.cut))
    table.add_row("clips taken in whole", str(told.uploads))
    for who, (done, failed) in told.acts.items():
        table.add_row(f"{who}: done / broke off", f"{done} / {failed}")
    return table


def _stepped(told: Told) -> Table:
    table = Table("work", *STEPS, title="kills of the worker by step")
    for task in sorted({task for task, _ in told.hits.steps}):
        steps = STEPS if task in TASKS else ("waiting", "", "")
        table.add_row(task, *(str(told.hits.steps[task, step]) if step else "" for step in steps))
    return table


if __name__ == "__main__":
    main()
