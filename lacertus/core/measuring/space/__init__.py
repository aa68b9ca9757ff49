"""Where the bodies of a rep are in space, as many ways as what is not known leaves open."""

from __future__ import annotations

from lacertus.core.measuring.space.solution import Space

__all__ = ["Space"]
