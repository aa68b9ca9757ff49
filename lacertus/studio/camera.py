"""A pinhole camera: world metres → picture pixels."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from lacertus.studio.vectors import UP, Vector, cross, unit


@dataclass(frozen=True, kw_only=True)
class Camera:
    """Where it stands (metres), what it looks at, picture size in pixels and field of view in degrees
    (of the longer side)."""

    position: tuple[float, float, float] = (0.0, -4.6, 1.15)
    target: tuple[float, float, float] = (0.0, 0.0, 0.88)
    width: int = 960
    height: int = 540
    view_deg: float = 48.0

    @cached_property
    def focal_px(self) -> float:
        return max(self.width, self.height) / 2 / math.tan(math.radians(self.view_deg) / 2)

    @cached_property
    def axes(self) -> tuple[Vector, Vector, Vector]:
        """Right, down and ahead of the camera."""
        ahead = unit(np.array(self.target) - np.array(self.position))
        right = unit(cross(ahead, UP))
        return right, cross(ahead, right), ahead

    def project(self, point: Vector) -> tuple[float, float, float]:
        """Picture x, y in pixels, and the depth in metres."""
        right, down, ahead = self.axes
        away = point - np.array(self.position)
        depth = float(np.dot(away, ahead))
        scale = self.focal_px / max(depth, 1e-6)
        x = self.width / 2 + float(np.dot(away, right)) * scale
        return x, self.height / 2 + float(np.dot(away, down)) * scale, depth

    def height_px(self, metres: float, at: Vector) -> float:
        """How many pixels a length shows that stands square to the camera at a place."""
        return metres * self.focal_px / self.project(at)[2]
