"""Zero-lag low-pass smoothing, with the cut-off found by residual analysis.

The filter is a second-order Butterworth run forwards and backwards, so that nothing is delayed; its gain
is applied to the waves that make up the curve, which goes on point-reflected beyond both ends. The cut-off is
found as in Winter, Biomechanics and Motor Control of Human Movement (residual analysis): what a filter
takes away, drawn over its cut-off, runs in a straight line where it is noise alone; that line at 0 Hz
tells the noise, and the cut-off is where as much is taken away.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.fft import dst, idst

Array = NDArray[np.float64]

LEAST_FRAMES = 10
"""Fewer frames than this are not smoothed, and give no speed (docs/measurement.md)."""
LEAST_CUTOFF_HZ = 2.0
_DUAL_PASS = (2**0.5 - 1) ** 0.25
"""Running the filter twice lowers its cut-off by this factor (Winter): it is raised by as much beforehand."""
_TRIED = 32


@dataclass(frozen=True, kw_only=True)
class LowPass:
    """A zero-lag low-pass for curves sampled at even steps: cut-off in Hz, samples a second."""

    cutoff_hz: float
    rate_hz: float

    def __call__(self, curves: Array) -> Array:
        """Smooth along the last axis."""
        line = _chord(curves)
        waves = _waves(curves - line)
        smooth = np.zeros_like(curves)
        smooth[..., 1:-1] = idst(waves * _gain(_frequencies(curves.shape[-1], self.rate_hz), self.cutoff_hz), type=1, axis=-1)
        return np.asarray(smooth + line)


def _chord(curves: Array) -> Array:
    """The straight lines from first to last samples."""
    return curves[..., :1] + (curves[..., -1:] - curves[..., :1]) * np.linspace(0.0, 1.0, curves.shape[-1])


def _waves(curves: Array) -> Array:
    """Sine waves that make up curves which are nothing at both ends: they go on point-reflected beyond them."""
    return np.asarray(dst(curves[..., 1:-1], type=1, axis=-1))


def _frequencies(n: int, rate_hz: float) -> Array:
    """Frequency of each wave, Hz: half a wave over the stretch, two halves, and so on."""
    return np.arange(1, n - 1) * rate_hz / (2 * (n - 1))


def _gain(frequencies: Array, cutoff: float | Array) -> Array:
    return np.asarray(1 / (1 + (frequencies * _DUAL_PASS / cutoff) ** 4))


def residual_cutoff(curves: Array, rate_hz: float) -> LowPass:
    """The low-pass that residual analysis chooses for all curves (rows) together.

    Args:
        curves: curves × samples at even steps, at least LEAST_FRAMES samples.
        rate_hz: samples a second.
    """
    n = curves.shape[-1]
    tried = np.linspace(1.0, rate_hz / 2, _TRIED)
    power = (_waves(curves - _chord(curves)) ** 2).sum(axis=0)
    taken = 1 - _gain(_frequencies(n, rate_hz)[None, :], tried[:, None])
    return LowPass(cutoff_hz=_chosen(tried, np.sqrt(taken**2 @ power) / (n - 1)), rate_hz=rate_hz)


def _chosen(tried: Array, residual: Array) -> float:
    """Where the residual falls to the noise: the straight upper half of its curve, drawn back to 0 Hz."""
    upper = tried >= tried[-1] / 2
    x, y = tried[upper], residual[upper]
    slope = float(((x - x.mean()) * (y - y.mean())).sum() / ((x - x.mean()) ** 2).sum())
    noise = float(y.mean() - slope * x.mean())
    below = np.nonzero(residual <= max(noise, 0.0))[0]
    found = float(tried[below[0]]) if below.size and slope < 0 else float(tried[-1])
    return min(max(found, LEAST_CUTOFF_HZ), float(tried[-1]))


def at_even_steps(times_s: Array, curves: Array) -> tuple[Array, Array]:
    """Curves (last axis over times) at as many even steps of time; taken as they are where they are even to 2 %."""
    even = np.linspace(times_s[0], times_s[-1], len(times_s))
    gaps = np.diff(times_s)
    if np.ptp(gaps) <= 0.02 * gaps.mean():
        return even, curves
    return even, _through(times_s, curves, even)


def _through(times_s: Array, values: Array, at: Array) -> Array:
    """A cubic through the values, with tangents from the parabola through each point and its neighbours."""
    tangents = np.gradient(values, times_s, axis=-1)
    left = np.clip(np.searchsorted(times_s, at, side="right") - 1, 0, len(times_s) - 2)
    step = times_s[left + 1] - times_s[left]
    s = (at - times_s[left]) / step
    start = (1 + 2 * s) * (1 - s) ** 2 * values[..., left] + s * (1 - s) ** 2 * step * tangents[..., left]
    return np.asarray(start + s * s * (3 - 2 * s) * values[..., left + 1] + s * s * (s - 1) * step * tangents[..., left + 1])
