"""Key poses with times → channels at any time, smooth between them and never overshooting."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.interpolate import PchipInterpolator

from lacertus.studio.figure import Channels, rest_channels

Keys = Sequence[tuple[float, float]]
"""(seconds, value) pairs in order."""


@dataclass(frozen=True)
class Motion:
    """Keyed channels of one figure; a channel without keys rests."""

    keys: Mapping[str, Keys]

    @cached_property
    def _curves(self) -> dict[str, tuple[PchipInterpolator | None, float, float, float]]:
        unknown = set(self.keys) - set(rest_channels())
        if unknown:
            raise KeyError(f"unknown channels: {', '.join(sorted(unknown))}")
        curves = {}
        for name, keys in self.keys.items():
            times, values = zip(*keys, strict=True)
            curve = PchipInterpolator(times, values) if len(keys) > 1 else None
            curves[name] = (curve, times[0], times[-1], values[0])
        return curves

    def at(self, time_s: float) -> Channels:
        """Channels at a time; before the first key and after the last they hold still."""
        channels = rest_channels()
        for name, (curve, start, end, only) in self._curves.items():
            channels[name] = only if curve is None else float(curve(np.clip(time_s, start, end)))
        return channels


def shifted(keys: Keys, seconds: float) -> list[tuple[float, float]]:
    return [(time + seconds, value) for time, value in keys]


def joined(parts: Sequence[Mapping[str, Keys]]) -> Motion:
    """Several stretches of motion one after another; a channel that one does not key keeps its value."""
    names = {name for part in parts for name in part}
    keys: dict[str, list[tuple[float, float]]] = {name: [] for name in sorted(names)}
    for part in parts:
        for name, stretch in part.items():
            last = keys[name][-1][0] if keys[name] else -np.inf
            keys[name] += [(time, value) for time, value in stretch if time > last + 1e-6]
    return Motion(keys)
