"""How quick the machine is at the moment: plain Python work of a known size, timed beside what a bench measures.

A machine that is shared with others is twice as quick in one hour as in the next. What is measured beside the yardstick can be
told as for a machine of a known pace.
"""

from __future__ import annotations

import time

import numpy as np

ADDITIONS = 1_000_000
DESK_MS = 45.0
"""What a common desk computer of 2022 takes for it with Python 3.11 (0.4–0.5 s for ten million)."""


class Yardstick:
    """Times the same work again and again, between what is measured."""

    def __init__(self) -> None:
        self._taken: list[float] = []

    def measure(self) -> float:
        """Time the work once more; tells how many times as long as a desk computer the machine took just now."""
        started, total = time.perf_counter(), 0
        for number in range(ADDITIONS):
            total += number
        self._taken.append(1000 * (time.perf_counter() - started))
        return self._taken[-1] / DESK_MS

    @property
    def factor(self) -> float:
        """How many times as long as a desk computer this machine took, in the median."""
        return float(np.median(self._taken)) / DESK_MS

    def __str__(self) -> str:
        low, middle, high = np.percentile(self._taken, [5, 50, 95])
        told = f"{ADDITIONS:,} additions took {middle:.0f} ms ({low:.0f}–{high:.0f})"
        return f"this machine: {told}, {self.factor:.1f} times as long as a desk computer's {DESK_MS:.0f}"
