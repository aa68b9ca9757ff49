"""Where the mat lies in the picture, for what is measured against it."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from lacertus.core.measuring.body import BodyName
from lacertus.core.measuring.mat_spot import mat_spot
from lacertus.core.measuring.scene import Scene
from lacertus.core.measuring.tracks import Position


def mat_point(scene: Scene, body: BodyName) -> Position:
    """What lies on the mat under a body; raises as `mat_spot`."""
    return mat_spot(scene, body).position


def mat_places(scene: Scene, mat: Position, frames: NDArray[np.int64]) -> NDArray[np.float64]:
    """The same spot of the mat as it lies in other frames (2 × n, pixels), where the camera's motion is known."""
    if scene.rep.camera_motion is None:
        return np.tile(np.array([[mat.x], [mat.y]]), (1, len(frames)))
    still = scene.steady.place(mat.frame, mat.x, mat.y)
    return np.array([scene.steady.seen(int(frame), *still) for frame in frames]).T


def mat_level(scene: Scene, body: BodyName, frame: int) -> float:
    """Level of the mat under a body in a frame, pixels, y up."""
    tilt = math.radians(scene.rep.upright.deg)
    x, y = mat_places(scene, mat_point(scene, body), np.array([frame]))[:, 0]
    return float(math.sin(tilt) * x - math.cos(tilt) * y)
