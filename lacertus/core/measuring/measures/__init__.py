"""Checkpoint kinds: one module each, found here.

To add one: write a module beside these with a `Measure` model and a `KIND`, name it in `KINDS`, give
it an entry in docs/measurement.md and a test file in tests/core/.
"""

from __future__ import annotations

from lacertus.core.measuring.measures import (
    angle,
    balance,
    change,
    compare,
    count,
    dwell,
    facing,
    floor,
    gap,
    inclination,
    interval,
    line,
    order,
    over_set,
    path,
    peak,
    relation,
    seen,
    speed,
    together,
    window,
)
from lacertus.core.measuring.measures.base import KINDS, Kind, Measure, Reading

_MODULES = (
    angle, inclination, line, relation, gap, interval, together, order, count, dwell, change, compare, peak, path,
    speed, balance, window, facing, floor, over_set, seen,
)  # fmt: skip

KINDS.update({module.KIND.name: module.KIND for module in _MODULES})

__all__ = ["KINDS", "Kind", "Measure", "Reading"]
