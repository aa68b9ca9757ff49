"""What the picture tells a body in space: where its landmarks are in the first frame’s picture, and where the mat is."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from lacertus.core.errors import NotSeen
from lacertus.core.measuring.body import BODIES, BodyName
from lacertus.core.measuring.mat_spot import MatSpot, mat_spot

if TYPE_CHECKING:
    from lacertus.core.measuring.scene import Scene

Array = NDArray[np.float64]


def placed(scene: Scene, body: BodyName) -> tuple[str, ...]:
    """The landmarks of a body that have a point in the rep."""
    data = scene.rep.bodies.get(body)
    return () if data is None else tuple(name for name, points in data.landmarks.items() if points)


def in_first_picture(scene: Scene, body: BodyName, landmark: str, frames: NDArray[np.int64]) -> Array:
    """Places of a landmark (2 × frames, pixels), as they lie in the first frame’s picture where the camera’s motion is known."""
    seen = scene.curve(body, landmark)[:, frames]
    if scene.rep.camera_motion is None or not scene.steady.known:
        return seen
    return scene.steady.path(frames.tolist(), seen.T).T


def first_x(scene: Scene, body: BodyName = "performer", frame: int | None = None) -> float:
    """Where a body’s hips are in a frame, or as soon as they have a point, pixels right of the picture’s middle; 0 without one."""
    for joint in ("hip", "shoulder"):
        seen = [scene.curve(body, name)[0] for name in sorted(placed(scene, body)) if name.endswith(f"_{joint}")]
        if frame is not None:
            seen = [x[frame : frame + 1] for x in seen]
        known = [float(x[~np.isnan(x)][0]) for x in seen if not np.isnan(x).all()]
        if known:
            return sum(known) / len(known) - scene.rep.size[0] / 2
    return 0.0


def spots(scene: Scene) -> list[MatSpot]:
    """Where the mat lies under each body that has points: a body without any is said to lie where the other one does."""
    found = []
    for body in BODIES:
        try:
            spot = mat_spot(scene, body)
        except NotSeen:
            continue
        if spot.owner[0] == body:
            found.append(spot)
    return found


def mat_below_middle(scene: Scene, body: BodyName) -> float | None:
    """How far above the picture’s middle the mat lies under a body, pixels (mostly negative); None where it is not known."""
    try:
        spot = mat_spot(scene, body).position
    except NotSeen:
        return None
    _, y = scene.steady.place(spot.frame, spot.x, spot.y)
    return scene.rep.size[1] / 2 - y
