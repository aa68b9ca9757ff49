"""The pictures of a comparison's film: sides beside one another or one over the other, with their bodies drawn."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Protocol

import cv2
import numpy as np
from numpy.typing import NDArray

from lacertus.core.compare.overlay import Laid
from lacertus.core.compare.skeletons import Skeleton
from lacertus.core.measuring.body import BodyName
from lacertus.video.corrections.drawing import FINE, dashes

Picture = NDArray[np.uint8]
Colour = tuple[int, int, int]
COLOURS: Mapping[BodyName, Colour] = {"performer": (143, 178, 255), "partner": (226, 166, 63)}
OVER_COLOURS: Mapping[BodyName, Colour] = {"performer": (255, 176, 59), "partner": (255, 125, 92)}
"""As the page draws them (`ui/src/app.css`, `Pane.svelte`)."""
LINE_SHARE = 190
"""A limb is as wide as the height of the picture divided by this."""
ON_SHARE, OFF_SHARE = 60, 80
"""Dash and gap of limbs that are laid over another picture, likewise."""


class Source(Protocol):
    """What a side's pictures come from, asked for in rising order."""

    @property
    def size(self) -> tuple[int, int]:
        """Width and height, pixels."""

    def frame(self, number: int) -> Picture:
        """A frame, height × width × 3, RGB."""


@dataclass(frozen=True, kw_only=True)
class Layer:
    """A side as it is put into the film: its pictures, and the bodies that are drawn over them, whose frames begin with `first`.

    `laid` says how it lies over the first side, where it does; `mirrored` turns it where it stands beside the first.
    """

    source: Source
    bodies: tuple[Skeleton, ...] = ()
    first: int = 0
    laid: Laid | None = None
    mirrored: bool = False
    limbs_alone: bool = False
    """Laid over another picture its limbs are drawn without a picture of its own."""


def beside(layer: Layer, frame: int, size: tuple[int, int]) -> Picture:
    """A side's frame at the size of its pane (width, height)."""
    found = _picture(cv2.resize(layer.source.frame(frame), size, interpolation=cv2.INTER_AREA))
    _draw(found, layer, frame, _scaled(layer.source.size, size), COLOURS)
    return _picture(cv2.flip(found, 1)) if layer.mirrored else found


def over(lead: Layer, other: Layer, frames: Sequence[int], size: tuple[int, int]) -> Picture:
    """The second side's frame over the first one's, half of each where both have a picture; its limbs are dashed."""
    found = beside(lead, frames[0], size)
    laid = other.laid or Laid(scale=1.0, dx=0.0, dy=0.0)
    wide = other.source.size[0]
    turn = -1.0 if laid.mirrored else 1.0
    there = np.array(
        [[laid.scale * turn, 0.0, laid.dx + (laid.scale * wide if laid.mirrored else 0.0)], [0.0, laid.scale, laid.dy]]
    )
    place = _scaled(lead.source.size, size)[:, :2] @ there
    if not other.limbs_alone:
        above = _picture(cv2.warpAffine(other.source.frame(frames[1]), place, size, flags=cv2.INTER_LINEAR))
        covered = cv2.warpAffine(np.ones(other.source.size[::-1], np.uint8), place, size, flags=cv2.INTER_NEAREST) > 0
        found[covered] = _picture(cv2.addWeighted(found, 0.5, above, 0.5, 0.0))[covered]
    _draw(found, other, frames[1], place, OVER_COLOURS, dashed=True)
    return found


def _picture(found: object) -> Picture:
    return np.ascontiguousarray(np.asarray(found, dtype=np.uint8))


def _scaled(of: tuple[int, int], to: tuple[int, int]) -> NDArray[np.float64]:
    """The affine map (2 × 3) from pixels of a picture to those of one of another size."""
    return np.array([[to[0] / of[0], 0.0, 0.0], [0.0, to[1] / of[1], 0.0]])


def _draw(
    picture: Picture,
    layer: Layer,
    frame: int,
    place: NDArray[np.float64],
    colours: Mapping[BodyName, Colour],
    *,
    dashed: bool = False,
) -> None:
    high = picture.shape[0]
    wide = max(2, round(high / LINE_SHARE))
    for body in layer.bodies:
        number = frame - layer.first
        if not 0 <= number < len(body.frames):
            continue
        flat = np.array([np.nan if value is None else value for value in body.frames[number]], dtype=np.float64).reshape(-1, 2)
        spots = flat @ place[:, :2].T + place[:, 2]
        for a, b in body.limbs:
            if np.isnan(spots[[a, b]]).any():
                continue
            ends = [(float(x), float(y)) for x, y in spots[[a, b]]]
            for piece in dashes(ends, high / ON_SHARE, high / OFF_SHARE) if dashed else [tuple(ends)]:
                line = np.round(np.array(piece) * (1 << FINE)).astype(np.int32)
                cv2.polylines(picture, [line.reshape(-1, 1, 2)], False, colours[body.body], wide, cv2.LINE_AA, FINE)
