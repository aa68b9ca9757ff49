"""The frame of reference of a review: where up is, the scale, the mat, and the lengths of limbs."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from lacertus.core import bounds
from lacertus.core.measuring.body import BodyName
from lacertus.core.measuring.repfile import FloorPoint, Upright
from lacertus.core.measuring.repfile import Length as KnownLength
from lacertus.core.model import Record

Heights = dict[BodyName, bounds.Length]
"""Standing height of each body in the picture, pixels."""


class FrameOfReference(Record):
    """What a coach told of the picture; what was not told is empty."""

    upright: Upright | None = None
    centimetres_per_pixel: Annotated[float, Field(gt=0, le=1000)] | None = None
    floor: Annotated[tuple[FloorPoint, ...], Field(min_length=4, max_length=12)] | None = None
    lengths_px: dict[BodyName, dict[bounds.Word, KnownLength]] = {}
