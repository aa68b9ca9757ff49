"""Where the mat lies in the picture, for what is measured against it."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from lacertus.core.errors import NotSeen
from lacertus.core.measuring.body import FLESH_SHARE, BodyName, joint_of
from lacertus.core.measuring.scene import NOBODY, Scene
from lacertus.core.measuring.tracks import Position

LOW_SHARE = 0.25


def mat_point(scene: Scene, body: BodyName) -> Position:
    """What lies on the mat: the lowest tenth of the body's lowest landmarks of each frame; the other body's where it has none.

    Standing that is a sole, lying a hip or a shoulder, whose joint is half the body's depth over it.

    Raises:
        NotSeen: neither body has a point in the rep.
    """
    if body not in scene.mats:
        scene.mats[body] = _find(scene, body)
    return scene.mats[body]


def _find(scene: Scene, body: BodyName) -> Position:
    first, last = scene.rep.range
    tilt = math.radians(scene.rep.upright.deg)
    for owner in (body, "partner" if body == "performer" else "performer"):
        marks = scene.rep.bodies.get(owner, NOBODY).landmarks
        if not any(marks.values()):
            continue
        frames, joints, tracks = scene.keyed_heights(owner, tilt)
        tall = scene.rep.bodies[owner].height_px or 0.0
        counts = [len(track.numbers) for track in tracks]
        under = np.repeat([FLESH_SHARE.get(joint_of(track.landmark), 0.0) * tall for track in tracks], counts)
        heights = joints - under
        inside = (frames >= first) & (frames <= last)
        if not inside.any():
            continue
        # The lowest of each frame, and of those not the very lowest: of many that is what scatter took furthest down.
        order = np.lexsort((heights[inside], frames[inside]))
        by_frame, starts = np.unique(frames[inside][order], return_index=True)
        lowest = heights[inside][order][starts]
        at = int(np.argsort(lowest, kind="stable")[int(LOW_SHARE * len(lowest))])
        lies = int(np.flatnonzero(inside)[order[starts[at]]])
        name = tracks[int(np.searchsorted(np.cumsum(counts), lies, side="right"))].landmark
        found = scene.landmark(owner, name, int(by_frame[at]))
        down = float(under[lies])
        return replace(found, x=found.x - math.sin(tilt) * down, y=found.y + math.cos(tilt) * down)
    raise NotSeen(f"where the mat lies under the {body} is not known; place a heel or toe that stands on it")


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
