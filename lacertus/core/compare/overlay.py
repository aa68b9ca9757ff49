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
STANDS_SHARE = 0.08
"""A foot stands where its lowest point lies no higher above the lowest foot than this share of the height. A convention."""


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
    head different ways. It is worked out once, at the frames given, and holds for all: a body that jumps is seen to jump.

    Raises:
        NotSeen: no foot has points in both pictures, or a height is known in neither way.
    """
    mirror = None not in (lead.rep.heading, other.rep.heading) and lead.rep.heading != other.rep.heading
    one, two = _feet(lead, lead_frame, body), _feet(other, other_frame, body)
    shared = [name for name in one if name in two]
    if not shared:
        raise NotSeen(f"the {body}’s feet have no points in both pictures; place an ankle, heel or toe in each at this event")
    tall, tall_too = _tall(lead, lead_frame, body), _tall(other, other_frame, body)
    standing = [name for name in shared if _stands(one, name, tall) and _stands(two, name, tall_too)] or shared
    spot, spot_too = (np.mean([feet[name] for name in standing], axis=0) for feet in (one, two))
    scale = tall / tall_too
    across = other.rep.size[0] - spot_too[0] if mirror else spot_too[0]
    return Laid(
        scale=scale, dx=float(spot[0] - scale * across), dy=float(spot[1] - scale * spot_too[1]), mirrored=mirror
    )  # fmt: skip


def _feet(scene: Scene, frame: int, body: BodyName) -> dict[str, Array]:
    """Points of the feet in relative words that are known in a frame, pixels."""
    found = {}
    for side in SIDES:
        for part in FOOT:
            name = f"{side}_{part}"
            try:
                at = scene.point(PointRef(name=f"{body}.{name}"), frame)
            except NotSeen:
                continue
            found[name] = np.array([at.x, at.y])
    return found


def _stands(feet: dict[str, Array], name: str, tall: float) -> bool:
    side = name.split("_", 1)[0]
    lowest = max(place[1] for place in feet.values())
    own = max(place[1] for other, place in feet.items() if other.startswith(f"{side}_"))
    return bool(lowest - own <= STANDS_SHARE * tall)


def _tall(scene: Scene, frame: int, body: BodyName) -> float:
    """Standing height in pixels: as it was marked, else what the trunk in this frame makes of it by the table's proportions."""
    try:
        return scene.height_px(body)
    except NotSeen:
        top, low = scene.points([PointRef(name=f"{body}.{name}") for name in ("mid_shoulder", "mid_hip")], frame)
        return float(np.hypot(top.x - low.x, top.y - low.y)) / PROPORTIONS["trunk"]
