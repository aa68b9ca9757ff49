"""How far a part reaches in depth, of which the length is known to ± u and the picture shows how long it looks, to ± σ.

A part of length L that points anywhere in space, each direction as likely as another, reaches ζ = s·L in depth with s even between
nought and one, and looks l = √(L² − ζ²) long. With v² = (L − l) ÷ σ, what is seen, m ± σ, leaves v the density
exp(−½ (v² − a)²), with a = (L − m) ÷ σ. Where a is large, l is m ± σ, as where nothing is known of L; where a part looks as long
as it is, or longer, it lies nearly across the line of sight, and no further from that than its σ says. Derived in
docs/measurement.md, “How far a part leans”.
"""

from __future__ import annotations

from functools import cache

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

_LOW, _HIGH, _STEP = -8.0, 16.0, 0.125
_Z_MOST, _Z_STEP = 3.25, 0.125
"""Between what a and z the tables are made, and in what steps."""
_GRID = 41
_WIDEST = 0.2
"""Into how many steps a length's range is cut, and how far that reaches at the least to either side, as a share of it."""


@cache
def _tables() -> tuple[Array, Array]:
    """By a: the log of the density's mass; and by a and z: v² − a at the share of it that a normal variable has below −z."""
    a = np.arange(_LOW, _HIGH + _STEP / 2, _STEP)
    z = np.arange(-_Z_MOST, _Z_MOST + _Z_STEP / 2, _Z_STEP)
    v = np.linspace(0.0, np.sqrt(_HIGH + 6.0), 4000)
    log_density = -0.5 * (v**2 - a[:, None]) ** 2
    most = log_density.max(axis=1, keepdims=True)
    density = np.exp(log_density - most)
    below = np.cumsum(density, axis=1)
    mass = np.log(below[:, -1] * (v[1] - v[0])) + most[:, 0]
    chance = _normal_below(z)
    square = np.stack([np.interp(chance, row / row[-1], v) ** 2 for row in below])
    return mass, square - a[:, None]


def _normal_below(z: Array) -> Array:
    fine = np.linspace(-8.0, 8.0, 4001)
    below = np.cumsum(np.exp(-0.5 * fine**2))
    return np.asarray(np.interp(z, fine, below / below[-1]))


def log_odds(a: Array) -> Array:
    """Log of the integral over v ≥ 0 of exp(−½ (v² − a)²)."""
    mass, _ = _tables()
    near = np.interp(a, np.arange(_LOW, _HIGH + _STEP / 2, _STEP), mass)
    far = 0.5 * np.log(np.pi / 2 / np.maximum(a, 1.0))
    lower = -0.5 * np.square(np.minimum(a, _LOW)) + 0.5 * _LOW**2
    return np.where(a > _HIGH, far, near + np.where(a < _LOW, lower, 0.0))


def beyond(a: Array, z: Array) -> Array:
    """v² − a, as far out in its distribution as z is in a normal one; more z is more v."""
    _, table = _tables()
    rows = (np.clip(a, _LOW, _HIGH) - _LOW) / _STEP
    columns = (np.clip(z, -_Z_MOST, _Z_MOST) + _Z_MOST) / _Z_STEP
    i, j = np.minimum(rows.astype(np.int64), table.shape[0] - 2), np.minimum(columns.astype(np.int64), table.shape[1] - 2)
    p, q = rows - i, columns - j
    mixed = (1 - p) * ((1 - q) * table[i, j] + q * table[i, j + 1]) + p * ((1 - q) * table[i + 1, j] + q * table[i + 1, j + 1])
    return np.asarray(mixed)


def usual_pull(sigma: Array, length: Array, usual: float) -> Array:
    """By how much less a is where a part usually reaches in depth no more than `usual` of its length, one σ."""
    return np.asarray(sigma / (length * usual**2))


def drawn_length(seen: Array, sigma: Array, px: Array, u: float, drawn: Array, usual: float, power: float) -> Array:
    """Draws of a part's length, by what is known of it and how long it looks.

    Args:
        seen: how long it looks (frames, pixels).
        sigma: σ of that (frames).
        px: the length as it is known, for each draw.
        u: its standard uncertainty.
        drawn: for each draw a number that is even between nought and one.
        usual: how far it usually reaches in depth, one σ, as a share of its length.
        power: how much the frames tell by themselves, at most one each: frames that follow one another are alike.
    """
    middle = float(px.mean())
    half = max(_WIDEST * middle, 4 * u, 1.3 * float((seen - middle).max(initial=0.0)))
    grid = np.linspace(max(middle - half, 0.2 * middle), middle + half, _GRID)
    pull = usual_pull(sigma, grid[:, None], usual)
    a = (grid[:, None] - seen) / sigma
    told = log_odds(a - pull) - pull * a + pull**2 / 2 + 0.5 * np.log(grid[:, None] + seen) - np.log(grid[:, None])
    log_density = power * told.sum(axis=1)[:, None] - 0.5 * ((grid[:, None] - px) / u) ** 2
    density = np.exp(log_density - log_density.max(axis=0))
    below = np.concatenate((np.zeros((1, density.shape[1])), np.cumsum((density[1:] + density[:-1]) / 2, axis=0)))
    wanted = drawn * below[-1]
    at = np.clip((below < wanted).sum(axis=0), 1, _GRID - 1)
    every = np.arange(density.shape[1])
    before, after = below[at - 1, every], below[at, every]
    share = (wanted - before) / np.maximum(after - before, 1e-300)
    return np.asarray(grid[at - 1] + share * (grid[1] - grid[0]))


def drawn_looks(draws: Array, own: float, rest: Array, length: Array, usual: float) -> Array:
    """How long a part truly looks (frames × draws), none longer than it is.

    Args:
        draws: how long it looks, with the scatter that is drawn.
        own: σ of what is seen, at the least: also of scatter that is not drawn.
        rest: normal draws for that, the same in all frames.
        length: draws of its length.
        usual: as of `drawn_length`.
    """
    seen = draws.mean(axis=-1, keepdims=True)
    spread = draws.std(axis=-1, keepdims=True)
    sigma = np.maximum(np.maximum(spread, own), 1e-6 * length)
    a = (length - seen) / sigma - usual_pull(sigma, length, usual)
    z = (seen - draws) / sigma + np.sqrt(np.maximum(1 - (spread / sigma) ** 2, 0.0)) * rest
    square = np.maximum(a + beyond(a, z), 0.0)
    return np.asarray(np.clip(length - sigma * square, 0.0, length))
