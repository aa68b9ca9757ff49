"""Four marked places of the mat: where the camera stands over it, and how deep in the picture a foot on the mat stands."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from lacertus.core.measuring.space.cameras.two_views import Camera
from lacertus.core.measuring.space.draws import normal

Array = NDArray[np.float64]

CORNER_PX = 1.5
"""Standard deviation of a marked mat point in x and in y, pixels. A convention."""
FOCAL_U, PITCH_U_RAD = 0.3, math.radians(10.0)
"""How well the lens and the way down to the pair are known beforehand. Conventions."""
WORST_FIT = 4.0
"""Marked places fit where they miss by at most so many σ in the root of the mean square; else they are not used. A convention."""
TRIED = 4
"""So many ways of standing that fit best roughly are fitted closely."""
NAMES = ("focal", "pitch", "roll", "away", "aim x", "aim y", "mat turn")


@dataclass(frozen=True, kw_only=True)
class MatView:
    """The camera over the mat, drawn many times over, with lengths in metres; the picture is that of a right-sided rep."""

    camera: Camera

    def depth_m(self, places: Array) -> Array:
        """How far in front of the camera a place of the picture lies that is on the mat (2 × … → …, metres)."""
        down = -self.camera.sight(places)[1]
        return np.asarray(self.high_m / np.maximum(down, 1e-3))

    @property
    def high_m(self) -> Array:
        """How high the camera is over the mat."""
        return np.asarray(self.camera.at[1])


def mat_view(marked: Array, known_m: Array, before: tuple[float, float], roll: tuple[float, float]) -> MatView | None:
    """Where the camera stands to the mat; kept, as it stays the same while points are placed.

    Args:
        marked: places of the picture (2 × n, pixels from its middle, x right, y up), n ≥ 4.
        known_m: the same on the mat (2 × n, metres).
        before: what the logarithm of the focal length and the pitch (radians) are likely.
        roll: turn of the vertical clockwise, and its u, radians.

    Returns:
        None where no way of standing fits.
    """
    # Rounded, as a point that is placed changes what is likely by next to nothing, and four corners tell far more.
    likely = round(before[0], 1), round(before[1], 2)
    return _kept(marked.tobytes(), known_m.tobytes(), likely, roll)


@lru_cache(maxsize=64)
def _kept(places: bytes, known: bytes, before: tuple[float, float], roll: tuple[float, float]) -> MatView | None:
    marked, known_m = np.frombuffer(places).reshape(2, -1), np.frombuffer(known).reshape(2, -1)
    ways = []
    for hand in (1.0, -1.0):
        flat = (known_m - known_m.mean(axis=1, keepdims=True)) * np.array([[1.0], [hand]])
        for turn in np.arange(-3, 4) * math.pi / 3.5:
            start, residuals = _asked(marked, flat, before, roll, float(turn))
            ways.append((float((residuals(start) ** 2).sum()), start, residuals))
    ways.sort(key=lambda way: way[0])
    fits = [least_squares(residuals, start, method="lm", max_nfev=150) for _, start, residuals in ways[:TRIED]]
    best = min(fits, key=lambda found: float(found.cost))
    count = 2 * marked.shape[1]
    if math.sqrt(2 * best.cost / count) > WORST_FIT:
        return None
    spread = np.linalg.inv(best.jac.T @ best.jac)
    drawn = best.x[:, None] + np.linalg.cholesky(spread) @ np.stack([normal(f"mat {name}") for name in NAMES])
    return MatView(camera=_camera(drawn))


def _camera(at: Array) -> Camera:
    focal, pitch, roll, away, x, y, _ = at
    return Camera(focal=np.exp(focal), pitch=pitch, roll=roll, turn=np.zeros_like(pitch), away=np.exp(away), aim=(x, y))


def _asked(
    marked: Array, flat: Array, before: tuple[float, float], roll: tuple[float, float], turn: float
) -> tuple[Array, Callable[[Array], Array]]:
    """Where to begin with the mat turned so far, and what does not fit, in u."""
    focal, pitch = before
    apart = float(np.hypot(*(marked - marked.mean(axis=1, keepdims=True))).mean())
    away = math.log(math.exp(focal) * float(np.hypot(*flat).mean()) / max(apart, 1.0))
    start = np.array([focal, pitch, roll[0], away, *marked.mean(axis=1), turn])

    def residuals(at: Array) -> Array:
        off = (_seen(at, flat) - marked).ravel() / CORNER_PX
        usual = [(at[0] - focal) / FOCAL_U, (at[1] - pitch) / PITCH_U_RAD, (at[2] - roll[0]) / max(roll[1], 1e-3)]
        return np.append(off, usual)

    return start, residuals


def _seen(at: Array, flat: Array) -> Array:
    """Where places of the mat (2 × n, metres) are seen: pixels from the picture's middle."""
    camera, turn = _camera(at), at[6]
    c, s = math.cos(turn), math.sin(turn)
    x, z = c * flat[0] - s * flat[1], -(s * flat[0] + c * flat[1])
    away = np.stack((x, np.zeros_like(x), z)) - camera.at[:, None]
    own = camera.turned_back(away)
    return np.asarray(own[:2] * camera.focal / np.maximum(-own[2], 1e-6))


def corners(floor: Sequence[tuple[float, float, float, float]], size: tuple[int, int], mirrored: bool) -> tuple[Array, Array]:
    """Marked places (x, y in pixels; X, Y in metres) from the picture's middle as in a right-sided rep, and on the mat."""
    told = np.array(floor).T
    sign = -1.0 if mirrored else 1.0
    return np.stack((sign * (told[0] - size[0] / 2), size[1] / 2 - told[1])), told[2:]
