"""Plain shapes that marks are drawn as, and how they look: the browser, the sheet and the marked clip draw the same."""

from __future__ import annotations

import math
from typing import Annotated, Literal

from pydantic import Field, WithJsonSchema

from lacertus.core.model import Record

Role = Literal["seen", "wanted", "push", "look"]
Place = Annotated[tuple[float, float], WithJsonSchema({"type": "array", "items": {"type": "number"}, "minItems": 2, "maxItems": 2})]
"""x to the right and y down, pixels of the displayed picture."""

INK = "#14181a"
COLOURS: dict[Role, str] = {"seen": "#ffffff", "wanted": "#9fe08a", "push": "#ff8a66", "look": "#ffc861"}
"""One colour a role; what is wanted is dashed besides, and pushes have arrowheads, so that colour is never alone."""
UNIT = 1 / 300
"""What widths and letters are measured in, as a share of the picture's height; the next are in units."""
LINE, OUTLINE, HEAD, DASH, DASH_GAP, LETTERS = 1.8, 3.2, 5.2, 4.0, 3.4, 13.0


class Stroke(Record):
    """A line through places; `head` says where it has arrowheads. What is wanted is dashed, what is seen is not."""

    shape: Literal["stroke"] = "stroke"
    role: Role
    points: tuple[Place, ...]
    head: Literal["none", "end", "both"] = "none"


class Ring(Record):
    """A circle, radius in pixels."""

    shape: Literal["ring"] = "ring"
    role: Role
    at: Place
    radius: float


class Label(Record):
    """Words beside a place."""

    shape: Literal["label"] = "label"
    role: Role
    at: Place
    words: str


Shape = Annotated[Stroke | Ring | Label, Field(discriminator="shape")]


def heads(stroke: Stroke, size: float) -> list[tuple[Place, ...]]:
    """The arrowheads of a stroke as open polylines, `size` pixels long."""
    ends: list[tuple[Place, Place]] = []
    if stroke.head in ("end", "both") and len(stroke.points) > 1:
        ends.append((stroke.points[-2], stroke.points[-1]))
    if stroke.head == "both" and len(stroke.points) > 1:
        ends.append((stroke.points[1], stroke.points[0]))
    found: list[tuple[Place, ...]] = []
    for start, tip in ends:
        turn = math.atan2(tip[1] - start[1], tip[0] - start[0])
        wings = [(tip[0] - size * math.cos(turn + side), tip[1] - size * math.sin(turn + side)) for side in (0.6, -0.6)]
        found.append((wings[0], tip, wings[1]))
    return found


def inwards(label: Label, width: int) -> bool:
    """Whether words are set to the left of their place, as they would run out of the picture to the right."""
    return label.at[0] > 0.62 * width
