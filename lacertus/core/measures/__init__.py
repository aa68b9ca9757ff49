"""Checkpoint kinds: one module each, found here.

To add one: write a module beside these with a `Measure` model and a `KIND`, name it in `KINDS`, give
it an entry in docs/measurement.md and a test file in tests/core/.
"""

from __future__ import annotations

from lacertus.core.measures import angle, interval, seen
from lacertus.core.measures.base import Kind, Measure, Reading

KINDS: dict[str, Kind] = {kind.name: kind for kind in (angle.KIND, interval.KIND, seen.KIND)}

__all__ = ["KINDS", "Kind", "Measure", "Reading"]
