"""Steps with times → channels of both figures at any time: smooth, and never beyond what was keyed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator
from scipy.ndimage import gaussian_filter1d

from lacertus.studio.body.figure import Channels, rest_channels
from lacertus.studio.body.vectors import Number

RATE = 240.0
"""Curves are kept at this many values a second."""
SMOOTH_S = {"trunk": 0.028, "limb": 0.012}
"""Muscles have no corners: angles are smoothed by this much, the heavy trunk's more than a limb's."""
GRAVITY = 9.81
_EXACT = (
    "plant",
    "hook",
    "grip",
    "grip_x",
    "grip_y",
    "grip_z",
    "switch",
    "foot_x",
    "foot_y",
    "foot_z",
    "foot_yaw",
    "toe_up",
    "heel_up",
)
"""Channels of contact: what stands on the mat or holds must not drift, so they are not smoothed."""


@dataclass(frozen=True, kw_only=True)
class Step:
    """A moment of a rep: seconds from its start, channels of both bodies, and a name for what happens.

    A channel that is not given is not keyed here. `fixed` keeps its time and pose out of the scatter.
    """

    at: float
    name: str = ""
    performer: Mapping[str, float] = field(default_factory=dict)
    partner: Mapping[str, float] = field(default_factory=dict)
    fixed: bool = False


@dataclass(frozen=True, kw_only=True)
class Flight:
    """A stretch in which a body is in the air: its pelvis follows gravity."""

    body: str
    start_s: float
    end_s: float


def scattered(steps: Sequence[Step], chance: np.random.Generator, amount: float) -> list[Step]:
    """The steps as a person repeats them: each gap some 4 % longer or shorter, each angle some 1.4° off."""
    found: list[Step] = []
    clock = steps[0].at
    for i, step in enumerate(steps):
        if i:
            gap = step.at - steps[i - 1].at
            clock += gap * (1.0 if step.fixed else float(np.clip(1 + 0.04 * amount * chance.normal(), 0.8, 1.25)))
        if step.fixed:
            found.append(replace(step, at=clock))
            continue
        bodies = [_shifted(channels, chance, amount) for channels in (step.performer, step.partner)]
        found.append(replace(step, at=clock, performer=bodies[0], partner=bodies[1]))
    return found


def _shifted(channels: Mapping[str, float], chance: np.random.Generator, amount: float) -> dict[str, float]:
    moved = {}
    for name, value in channels.items():
        exact = name in ("x", "y", "z") or name.endswith(_EXACT)
        moved[name] = value if exact else value + 1.4 * amount * float(chance.normal())
    return moved


class Motion:
    """One figure's channels over time."""

    def __init__(
        self, keys: Mapping[str, Sequence[tuple[float, float]]], flights: Sequence[Flight] = (), stature_m: float = 1.7
    ) -> None:
        unknown = set(keys) - set(rest_channels())
        if unknown:
            raise KeyError(f"unknown channels: {', '.join(sorted(unknown))}")
        self.keys = keys
        self.flights = tuple(flights)
        self.stature_m = stature_m

    @cached_property
    def _end(self) -> float:
        return max((pairs[-1][0] for pairs in self.keys.values()), default=0.0)

    @cached_property
    def _curves(self) -> dict[str, NDArray[np.float64]]:
        times = np.arange(0.0, self._end + 2 / RATE, 1 / RATE)
        # Channels that are keyed at the same times are curved together: one costs nearly as much as all of them.
        together: dict[tuple[float, ...], list[str]] = {}
        for name, pairs in self.keys.items():
            together.setdefault(tuple(at for at, _ in pairs), []).append(name)
        found: dict[str, NDArray[np.float64]] = {}
        for key_times, names in together.items():
            values = np.array([[value for _, value in self.keys[name]] for name in names])
            if len(key_times) == 1:
                found.update(zip(names, np.repeat(values, len(times), axis=1), strict=True))
                continue
            within = np.clip(times, key_times[0], key_times[-1])
            curves = PchipInterpolator(key_times, values, axis=1)(within)
            found.update((name, self._smoothed(name, curve, times)) for name, curve in zip(names, curves, strict=True))
        return found

    def _smoothed(self, name: str, curve: NDArray[np.float64], times: NDArray[np.float64]) -> NDArray[np.float64]:
        if not name.endswith(_EXACT):
            part = "limb" if name.startswith(("left_", "right_")) else "trunk"
            curve = gaussian_filter1d(curve, SMOOTH_S[part] * RATE, mode="nearest")
        if name == "z":
            for flight in self.flights:
                curve = _in_the_air(curve, times, flight, self.stature_m)
        return curve

    def at(self, times_s: Number) -> Channels:
        """Channels at a time, or at many; before the first key and after the last they hold still."""
        place = np.clip(times_s, 0.0, self._end) * RATE
        low = place.astype(int)
        share = place - low
        channels: Channels = {name: np.full(place.shape, value) for name, value in rest_channels().items()}
        for name, curve in self._curves.items():
            channels[name] = curve[low] * (1 - share) + curve[np.minimum(low + 1, len(curve) - 1)] * share
        return channels


def _in_the_air(curve: NDArray[np.float64], times: NDArray[np.float64], flight: Flight, stature_m: float) -> NDArray[np.float64]:
    """The stretch of a flight replaced by a throw's parabola between its ends (shares of stature)."""
    inside = (times >= flight.start_s) & (times <= flight.end_s)
    start, end = np.interp([flight.start_s, flight.end_s], times, curve)
    span = flight.end_s - flight.start_s
    t = times[inside] - flight.start_s
    fall = GRAVITY / 2 / stature_m
    curve = curve.copy()
    curve[inside] = start + (end - start) * t / span + fall * t * (span - t)
    return curve


def keyed(steps: Sequence[Step], body: str) -> dict[str, list[tuple[float, float]]]:
    """Steps → (seconds, value) pairs of one body's channels."""
    keys: dict[str, list[tuple[float, float]]] = {}
    for step in steps:
        for name, value in getattr(step, body).items():
            pairs = keys.setdefault(name, [])
            if not pairs or step.at > pairs[-1][0] + 1e-4:
                pairs.append((step.at, float(value)))
    return keys
