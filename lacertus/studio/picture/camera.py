"""A pinhole camera: world metres → picture pixels; held still or by hand."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from lacertus.studio.body.vectors import UP, Vector, cross, turn, unit

SHAKE_HZ = ((0.7, 1.0), (1.9, 0.45), (5.3, 0.14))
"""Frequencies and relative sizes of a hand's sway and tremor."""


@dataclass(frozen=True, kw_only=True)
class Camera:
    """Where it stands (metres), what it looks at, picture size in pixels, field of view in degrees
    (of the longer side), and how far it is rolled clockwise."""

    position: tuple[float, float, float] = (0.0, -4.6, 1.15)
    target: tuple[float, float, float] = (0.0, 0.0, 0.88)
    width: int = 960
    height: int = 540
    view_deg: float = 48.0
    roll_deg: float = 0.0

    @cached_property
    def focal_px(self) -> float:
        return max(self.width, self.height) / 2 / math.tan(math.radians(self.view_deg) / 2)

    @cached_property
    def axes(self) -> tuple[Vector, Vector, Vector]:
        """Right, down and ahead of the camera."""
        ahead = unit(np.array(self.target) - np.array(self.position))
        right = turn(unit(cross(ahead, UP)), ahead, self.roll_deg)
        return right, cross(ahead, right), ahead

    def project(self, point: Vector) -> tuple[float, float, float]:
        """Picture x, y in pixels, and the depth in metres."""
        right, down, ahead = self.axes
        away = point - np.array(self.position)
        depth = float(np.dot(away, ahead))
        scale = self.focal_px / max(depth, 1e-6)
        x = self.width / 2 + float(np.dot(away, right)) * scale
        return x, self.height / 2 + float(np.dot(away, down)) * scale, depth

    def pixels(self, points: Vector) -> Vector:
        """Picture x and y of many points at once: (points, 3) → (points, 2)."""
        away = points - np.array(self.position)
        right, down, ahead = (away @ axis for axis in self.axes)
        scale = self.focal_px / np.maximum(ahead, 1e-6)
        return np.stack([self.width / 2 + right * scale, self.height / 2 + down * scale], axis=-1)

    def height_px(self, metres: float, at: Vector) -> float:
        """How many pixels a length shows that stands square to the camera at a place."""
        return metres * self.focal_px / self.project(at)[2]

    def shaken(self, time_s: float, amount: float, seed: int) -> Camera:
        """The camera as a hand holds it at a time; `amount` 1 is an ordinary hand, about half a degree."""
        if amount == 0:
            return self
        phases = np.random.default_rng(seed).uniform(0, 2 * math.pi, (5, len(SHAKE_HZ)))
        sway = [
            sum(size * math.sin(2 * math.pi * hz * time_s + phase) for (hz, size), phase in zip(SHAKE_HZ, row, strict=True))
            for row in phases
        ]
        x, y, z = self.position
        a, b, c = self.target
        reach = 0.012 * amount
        return replace(
            self,
            position=(x + reach * sway[0], y + reach * 0.5 * sway[1], z + reach * sway[1]),
            target=(a + 2.2 * reach * sway[2], b, c + 2.2 * reach * sway[3]),
            roll_deg=self.roll_deg + 0.25 * amount * sway[4],
        )


def background_motion(camera: Camera, first: Camera) -> NDArray[np.float64]:
    """The 2×3 matrix that maps a frame's pixels to the first frame's, as the back wall and far mat move.

    A least-squares affine fit over places on the wall: what a perfect registration would find.
    """
    places = [np.array([x, 2.6, z]) for x in (-1.6, -0.6, 0.6, 1.6) for z in (0.2, 1.0, 1.8)]
    here = np.array([camera.project(place)[:2] for place in places])
    there = np.array([first.project(place)[:2] for place in places])
    system = np.column_stack([here, np.ones(len(here))])
    found, *_ = np.linalg.lstsq(system, there, rcond=None)
    return np.asarray(found.T)
