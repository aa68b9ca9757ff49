"""One picture laid over another, so that the performers stand on the same spot and are as tall as one another."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lacertus.core.errors import NotSeen
from lacertus.core.measuring.body import PROPORTIONS, BodyName
from lacertus.core.measuring.measures.base import PointRef
from lacertus.core.measuring.scene import Scene

Array = NDArray[np.float64]
SIDES = ("working", "other")
FOOT = ("ankle", "heel", "toe")
STANDS_SHARE = 0.42
"""A foot stands where it lies this share of the height below the hips: a straight leg is 0.53. A convention."""


@dataclass(frozen=True, kw_only=True)
class Laid:
    """How a picture is laid over the leading one: x′ = scale·x + dx, y′ = scale·y + dy, pixels of the leading picture.

    Where it is mirrored, x is first turned to width − x.
    """

    scale: float
    dx: float
    dy: float
    mirrored: bool = False

    def place(self, x: float, y: float, width: float) -> tuple[float, float]:
        """Where a spot of the picture comes to lie in the leading one."""
        across = width - x if self.mirrored else x
        return self.scale * across + self.dx, self.scale * y + self.dy


def lay_over(lead: Scene, lead_frame: int, other: Scene, other_frame: int, body: BodyName = "performer") -> Laid:
    """Lay one picture over another by the standing feet and the standing height of a body.

    Working and other side are those of each rep, so that a left rep lies over a right one; the picture is mirrored where the reps
    head different ways. It is worked out once and holds for all frames: a body that jumps is seen to jump. A foot is taken where it
    stands, in the frame nearest to the one given; where no foot is known to stand in both, the middle of the hips is taken.

    Raises:
        NotSeen: neither feet nor hips have points in both pictures, or a height is known in neither way.
    """
    mirror = None not in (lead.rep.heading, other.rep.heading) and lead.rep.heading != other.rep.heading
    tall, tall_too = _tall(lead, lead_frame, body), _tall(other, other_frame, body)
    one, two = (_standing(*asked, body) for asked in ((lead, lead_frame, tall), (other, other_frame, tall_too)))
    shared = [name for name in one if name in two]
    if shared:
        spot, spot_too = (np.mean([feet[name] for name in shared], axis=0) for feet in (one, two))
    else:
        spot, spot_too = _hips(lead, lead_frame, body), _hips(other, other_frame, body)
    scale = tall / tall_too
    across = other.rep.size[0] - spot_too[0] if mirror else spot_too[0]
    return Laid(scale=scale, dx=float(spot[0] - scale * across), dy=float(spot[1] - scale * spot_too[1]), mirrored=mirror)


def _standing(scene: Scene, frame: int, tall: float, body: BodyName) -> dict[str, Array]:
    """Points of the feet in relative words where each stands, in the frame nearest to the one given, pixels."""
    frames = np.arange(scene.rep.range[0], scene.rep.range[1] + 1)
    hips = scene.places([PointRef(name=f"{body}.mid_hip")], frames)[0]
    nearest = np.argsort(np.abs(frames - frame), kind="stable")
    found = {}
    for name in (f"{side}_{part}" for side in SIDES for part in FOOT):
        places = scene.places([PointRef(name=f"{body}.{name}")], frames)[0]
        stands = places[1] - hips[1] >= STANDS_SHARE * tall
        at = next((i for i in nearest if stands[i]), None)
        if at is not None:
            found[name] = places[:, at]
    return found


def _hips(scene: Scene, frame: int, body: BodyName) -> Array:
    try:
        at = scene.point(PointRef(name=f"{body}.mid_hip"), frame)
    except NotSeen:
        raise NotSeen(
            f"the {body}’s feet have no points in both pictures; place an ankle, heel or toe, or the hips, in each at this event"
        ) from None
    return np.array([at.x, at.y])


def _tall(scene: Scene, frame: int, body: BodyName) -> float:
    """Standing height in pixels: as it was marked, else what the trunk in this frame makes of it by the table's proportions."""
    try:
        return scene.height_px(body)
    except NotSeen:
        top, low = scene.points([PointRef(name=f"{body}.{name}") for name in ("mid_shoulder", "mid_hip")], frame)
        return float(np.hypot(top.x - low.x, top.y - low.y)) / PROPORTIONS["trunk"]
