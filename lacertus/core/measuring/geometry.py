"""Plane geometry on positions in the picture, with gradients for propagation.

Pictures have x to the right and y down, in pixels. Angles come back in degrees.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from lacertus.core.errors import Coincident
from lacertus.core.measuring.tracks import Position

LEAST_LENGTH_PX = 1e-6
"""Two points closer than this are the same spot."""

Gradient = tuple[Position, float, float]
"""A position and the derivatives of a value by its x and its y."""

Parts = dict[tuple[str, ...], float]
"""What independent ingredients add to a value, each one standard deviation's worth, by name."""


@dataclass(frozen=True, kw_only=True)
class Measured:
    """A value and its gradient by each position that it was read from."""

    value: float
    gradients: tuple[Gradient, ...]


def distance(a: Position, b: Position) -> Measured:
    """Distance in pixels.

    Raises:
        Coincident: the points lie on the same spot.
    """
    dx, dy = b.x - a.x, b.y - a.y
    length = math.hypot(dx, dy)
    if length < LEAST_LENGTH_PX:
        raise Coincident(f"{a.name} and {b.name} lie on the same spot at frame {a.frame}; move one of them")
    ux, uy = dx / length, dy / length
    return Measured(value=length, gradients=((a, -ux, -uy), (b, ux, uy)))


def bearing(a: Position, b: Position) -> Measured:
    """Direction from a to b in degrees, from x to the right, turning towards y (down).

    Raises:
        Coincident: the points lie on the same spot.
    """
    length = distance(a, b).value
    dx, dy = b.x - a.x, b.y - a.y
    gx, gy = (math.degrees(g) / length**2 for g in (-dy, dx))
    return Measured(value=math.degrees(math.atan2(dy, dx)), gradients=((a, -gx, -gy), (b, gx, gy)))


def angle(a: Position, vertex: Position, b: Position) -> Measured:
    """Angle at `vertex` between the directions to a and to b, 0 to 180 degrees.

    Raises:
        Coincident: an arm of the angle has no length.
    """
    first, second = bearing(vertex, a), bearing(vertex, b)
    turn = (second.value - first.value + 180.0) % 360.0 - 180.0
    sign = 1.0 if turn >= 0 else -1.0
    gradients = [(p, sign * gx, sign * gy) for p, gx, gy in second.gradients]
    gradients += [(p, -sign * gx, -sign * gy) for p, gx, gy in first.gradients]
    return Measured(value=abs(turn), gradients=tuple(gradients))


def bends_towards(a: Position, vertex: Position, b: Position, direction_x: float) -> bool:
    """True when b lies off the line from a through the vertex towards `direction_x` (+1 right, −1 left); places in pixels."""
    dx, dy = vertex.x - a.x, vertex.y - a.y
    ex, ey = b.x - vertex.x, b.y - vertex.y
    along = (ex * dx + ey * dy) / (dx * dx + dy * dy)
    return (ex - along * dx) * direction_x >= 0


def standard_uncertainty(gradients: Sequence[Gradient]) -> float:
    """First-order propagation: u of a value from the gradients by its positions.

    Ingredients of the same name (a keyed point used twice, or the shared part of a landmark's σ in
    two frames) are added before squaring, so what is common cancels where it should.
    """
    return uncertainty_of(parts_of(gradients))


def parts_of(gradients: Sequence[Gradient]) -> Parts:
    """What each independent ingredient, in x and in y, adds to a value: its σ times the derivative by it."""
    parts: Parts = {}
    for position, gx, gy in gradients:
        for source in position.sources:
            reach = source.sigma * source.weight
            x, y = ("x", *source.name), ("y", *source.name)
            parts[x] = parts.get(x, 0.0) + gx * reach
            parts[y] = parts.get(y, 0.0) + gy * reach
    return parts


def uncertainty_of(parts: Mapping[tuple[str, ...], float]) -> float:
    """Standard uncertainty of a value, in its unit, from the parts: the root of the sum of squares (docs/measurement.md)."""
    return math.sqrt(sum(part * part for part in parts.values()))


def combined(*terms: tuple[float, Mapping[tuple[str, ...], float]]) -> Parts:
    """Parts of a weighted sum of values, in their common unit; what they have in common cancels or adds up."""
    total: Parts = {}
    for weight, parts in terms:
        for name, part in parts.items():
            total[name] = total.get(name, 0.0) + weight * part
    return total
