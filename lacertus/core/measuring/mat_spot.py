"""Where the mat lies in the picture under a body: at the lowest of its landmarks."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from lacertus.core.errors import NotSeen
from lacertus.core.measuring.body import FLESH_SHARE, BodyName, joint_of
from lacertus.core.measuring.tracks import Position

if TYPE_CHECKING:
    from lacertus.core.measuring.scene import Scene

LOW_SHARE = 0.25


@dataclass(frozen=True, kw_only=True)
class MatSpot:
    """A place of the mat in the picture: under which landmark of which body it lies, and by how many pixels."""

    position: Position
    owner: tuple[BodyName, str]
    under_px: float


def mat_spot(scene: Scene, body: BodyName) -> MatSpot:
    """What lies on the mat: the lowest tenth of the body's lowest landmarks of each frame; the other body's where it has none.

    Standing that is a sole, lying a hip or a shoulder, whose joint is half the body's depth over it.

    Raises:
        NotSeen: neither body has a point in the rep.
    """
    if body not in scene.mats:
        scene.mats[body] = _find(scene, body)
    return scene.mats[body]


def _find(scene: Scene, body: BodyName) -> MatSpot:
    first, last = scene.rep.range
    tilt = math.radians(scene.rep.upright.deg)
    for owner in (body, other_body(body)):
        data = scene.rep.bodies.get(owner)
        if data is None or not any(data.landmarks.values()):
            continue
        frames, joints, tracks = scene.keyed_heights(owner, tilt)
        tall = data.height_px or 0.0
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
        position = replace(found, x=found.x - math.sin(tilt) * down, y=found.y + math.cos(tilt) * down)
        return MatSpot(position=position, owner=(owner, name), under_px=down)
    raise NotSeen(f"where the mat lies under the {body} is not known; place a heel or toe that stands on it")


def other_body(body: BodyName) -> BodyName:
    """The partner for the performer, and the performer for the partner."""
    return "partner" if body == "performer" else "performer"
