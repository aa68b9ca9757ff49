"""Numbers drawn once and for all, so that a rep is read the same way each time that it is judged.

What is not known of a rep (how a point scatters, how long a limb is, where the camera stands) is drawn many times over. Every
unknown has a name, and its name finds its row of draws: to add a point or an event changes no other row.
"""

from __future__ import annotations

from functools import cache
from zlib import crc32

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtri

Array = NDArray[np.float64]

DRAWS = 192
"""How many ways a rep may be are kept. The mean of so many is off by 7 % of u, u itself by 5 %."""
_ROWS = 4093
"""Rows of draws; a prime, so that steps through them meet every row."""
_STEP = 1009
"""From one frame's row to the next one's."""


@cache
def _uniform() -> Array:
    """Rows × DRAWS: each row holds the middles of DRAWS even parts of 0–1, in an order of its own (Latin hypercube)."""
    chance = np.random.default_rng(18)
    ranks = np.argsort(chance.random((_ROWS, DRAWS)), axis=1)
    return np.asarray((ranks + 0.5) / DRAWS)


@cache
def _normal() -> Array:
    return np.asarray(ndtri(_uniform()))


def _rows(name: str, frames: NDArray[np.int64] | None) -> NDArray[np.int64] | int:
    first = crc32(name.encode()) % _ROWS
    return first if frames is None else (first + _STEP * frames) % _ROWS


def uniform(name: str, frames: NDArray[np.int64] | None = None) -> Array:
    """Draws between 0 and 1 of one unknown (DRAWS), or of one for each frame (frames × DRAWS)."""
    return np.asarray(_uniform()[_rows(name, frames)])


def normal(name: str, frames: NDArray[np.int64] | None = None) -> Array:
    """Standard normal draws of one unknown (DRAWS), or of one for each frame (frames × DRAWS)."""
    return np.asarray(_normal()[_rows(name, frames)])
