"""script/bench NAME…: the benches by name, or all of them."""

from __future__ import annotations

import os
import sys

# One thread, so that what is measured is the work of one core and not threads that wait for each other.
os.environ["NUMBA_NUM_THREADS"] = "1"

from tests.bench import (
    accuracy,
    attack,
    faults,
    hostile,
    intake,
    judging,
    latency,
    library,
    marks,
    scale,
    studio,
    together,
    tracking,
    walks,
)
from tests.bench.crowd import load, many

BENCHES = {
    "accuracy": accuracy.main,
    "studio": studio.main,
    "intake": intake.main,
    "memory": intake.memory_main,
    "judging": judging.main,
    "tracking": tracking.main,
    "latency": latency.main,
    "scale": scale.main,
    "hostile": hostile.main,
    "load": load.main,
    "many": many.main,
    "marks": marks.main,
    "together": together.main,
    "library": library.main,
    "attack": attack.main,
    "faults": faults.main,
    "walks": walks.main,
}

if __name__ == "__main__":
    names = sys.argv[1:] or list(BENCHES)
    unknown = [name for name in names if name not in BENCHES]
    if unknown:
        sys.exit(f"there is no bench {', '.join(unknown)}; there are {', '.join(BENCHES)}")
    for name in names:
        BENCHES[name]()
