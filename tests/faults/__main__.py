"""python -m tests.faults FOLDER: the short form, in a process of its own; prints what came of it as JSON."""

from __future__ import annotations

import json
import sys
from pathlib import Path

from tests.faults.hitting import Site
from tests.faults.running import run, small_clip


def _disk(place: Site) -> None:
    if place.has_small_disk:
        place.full_disk(2.0)


HITS = (
    lambda place: place.kill_worker(("read_clip", "in the middle")),
    Site.kill_server,
    Site.kill_database,
    _disk,
    Site.kill_server,
    lambda place: place.outage(3.0),
    Site.kill_worker,
    Site.kill_database,
)

if __name__ == "__main__":
    folder = Path(sys.argv[1])
    told = run(folder, *small_clip(folder), HITS, uploads=6)
    found = {"wrong": told.wrong, "acts": told.acts, "uploads": told.uploads, "cut": told.cut}
    print(json.dumps(found | {"hits": told.hits.counts, "steps": {" ".join(step): n for step, n in told.hits.steps.items()}}))
