"""The example beside a correction: the same checkpoint done right."""

from __future__ import annotations

import uuid
from typing import Annotated, Literal

from pydantic import Field

from lacertus.core import bounds
from lacertus.core.corrections.shapes import Shape
from lacertus.core.measuring.body import Side
from lacertus.core.model import Record

Source = Literal["own", "other", "reference"]
"""The student's own best rep, another student's who lends pictures, the studio's figure."""
_Frame = Annotated[int, Field(ge=0, le=bounds.MOST_FRAMES)]


class Example(Record):
    """Where the picture comes from, what is said under it, and what is drawn on it.

    From a rep: `rep`, `clip` and `frame`. The studio's figure: the technique's `version`, `options`, `side`, and its `name` once
    it is drawn; `film` says that it was filmed besides, slowed down around that instant.
    """

    source: Source
    words: Annotated[str, Field(max_length=4000)]
    ready: bool = False
    rep: uuid.UUID | None = None
    clip: uuid.UUID | None = None
    frame: _Frame | None = None
    width: bounds.Side | None = None
    height: bounds.Side | None = None
    shapes: Annotated[tuple[Shape, ...], Field(max_length=5000)] = ()
    version: uuid.UUID | None = None
    options: Annotated[dict[bounds.Word, bounds.Word], Field(max_length=50)] = {}
    side: Side | None = None
    film: bool = False
    name: Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,150}$")] | None = None
